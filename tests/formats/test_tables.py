"""Tables out, read by libraries of other makes, and CSV back; broken sheets are refused in a line."""

import datetime as dt
import io
import uuid

import numpy as np
import orjson
import polars
from hypothesis import given, settings
from hypothesis import strategies as st

from mudlamp.core.errors import DomainError
from mudlamp.formats.tables import Column, Table, csv_bytes, json_bytes, parquet_bytes, read_csv

NOON = dt.datetime(2026, 10, 24, 12, 0, tzinfo=dt.UTC)
COLUMNS = [
    Column(name="id", type=uuid.UUID), Column(name="at", type=dt.datetime), Column(name="length_m", type=float), Column(name="kept", type=bool),
    Column(name="most", type=int), Column(name="note", type=str), Column(name="people", type=list),
]  # fmt: skip
ROWS = [
    {"id": uuid.UUID(int=1), "at": NOON, "length_m": 0.305, "kept": True, "most": 3, "note": 'a, "b"\nc', "people": ["Jo", "R."]},
    {"id": uuid.UUID(int=2), "at": None, "length_m": None, "kept": False, "most": None, "note": "=1+1", "people": []},
]
TABLE = Table(kind="catches", columns=COLUMNS, rows=ROWS)
LIMITS = {"most_rows": 1000, "most_bytes": 100_000}


def test_parquet_is_read_by_another_library_with_types_and_all():
    # Source: Polars, which reads Parquet by code of its own (Rust).
    found = polars.read_parquet(io.BytesIO(parquet_bytes(TABLE)))
    assert found.schema["at"] == polars.Datetime("us", "UTC")
    assert found["length_m"].to_list() == [0.305, None]
    assert found["kept"].to_list() == [True, False]
    assert found["note"].to_list() == ['a, "b"\nc', "=1+1"]
    assert orjson.loads(found["people"][0]) == ["Jo", "R."]
    assert found["at"][0] == NOON


def test_csv_is_read_by_another_library_and_a_formula_is_no_formula():
    found = polars.read_csv(io.BytesIO(csv_bytes(TABLE)))
    assert found["note"].to_list() == ['a, "b"\nc', "'=1+1"]
    assert found["length_m"].to_list() == [0.305, None]
    assert dt.datetime.fromisoformat(found["at"][0]) == NOON
    sheet = read_csv(csv_bytes(TABLE), **LIMITS)
    assert [row[5] for row in sheet.rows] == ['a, "b"\nc', "=1+1"]
    assert orjson.loads(json_bytes(TABLE))["rows"][1]["note"] == "=1+1"


@settings(max_examples=200, deadline=None, database=None)
@given(
    st.lists(
        st.text(alphabet=st.characters(exclude_categories=("Cs",), exclude_characters="\x00"), min_size=1, max_size=30),
        min_size=1,
        max_size=6,
    )
)
def test_any_text_comes_back_as_it_was(texts):
    table = Table(
        kind="notes",
        columns=[Column(name="key", type=int), Column(name="note", type=str)],
        rows=[{"key": i, "note": one} for i, one in enumerate(texts)],
    )
    assert [row[1] for row in read_csv(csv_bytes(table), **LIMITS).rows] == texts


def malformed():
    """Two hundred broken sheets, from a seed: cut, spoiled, too long, with other counts of cells, with names twice."""
    whole, rng = csv_bytes(TABLE), np.random.default_rng(930)
    yield from (
        b"",
        b"\n\n",
        b"\x00",
        b"\xff\xfe",
        b"a,a\n1,2\n",
        b"a,b\n1\n",
        b"a,b\n1,2,3\n",
        b'a,b\n"1,2\n',
        b"," * 70 + b"\n",
        b'a\n"x"y\n',
    )
    yield b"note\n" + b"x" * 30_000
    yield b"n\n" + b"1\n" * 1001
    yield whole * 900
    for _ in range(187):
        data = bytearray(whole)
        for _ in range(int(rng.integers(1, 6))):
            data[int(rng.integers(len(data)))] = int(rng.integers(128, 256))
        yield bytes(data)


def test_two_hundred_broken_sheets_are_refused_by_name_or_read_as_they_are():
    refused = 0
    for data in malformed():
        try:
            read_csv(data, **LIMITS)
        except DomainError as error:
            refused += 1
            assert len(str(error)) < 200
            assert "\n" not in str(error)
    assert refused >= 150
