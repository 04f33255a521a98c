"""Tables of plain rows as CSV, JSON and Parquet files, and CSV back.

CSV: RFC 4180, UTF-8, times in ISO 8601, lists and objects as JSON. A text that a spreadsheet would take for a formula has an apostrophe before
it; reading takes it off again.
"""

import csv
import datetime as dt
import io
import uuid
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Any

import orjson
import pyarrow as pa
import pyarrow.parquet as pq

from mudlamp.core.errors import DomainError

Row = Mapping[str, object]
FORMULA = ("=", "+", "-", "@", "\t", "\r", "'")
MOST_CELL, MOST_COLUMNS = 20_000, 60
_ARROW: Mapping[type, Any] = {
    float: pa.float64(),
    int: pa.int64(),
    bool: pa.bool_(),
    str: pa.string(),
    uuid.UUID: pa.string(),
    dt.datetime: pa.timestamp("us", tz="UTC"),
    dt.date: pa.date32(),
    list: pa.string(),
    dict: pa.string(),
}


@dataclass(frozen=True, slots=True, kw_only=True)
class Column:
    """A column: its name and the type of what stands in it."""

    name: str
    type: type


@dataclass(frozen=True, slots=True, kw_only=True)
class Table:
    """A table: what it holds, its columns, its rows."""

    kind: str
    columns: Sequence[Column]
    rows: Sequence[Row]


def csv_bytes(table: Table) -> bytes:
    """Return a table as CSV."""
    out = io.StringIO(newline="")
    writer = csv.writer(out)
    writer.writerow([one.name for one in table.columns])
    writer.writerows([_cell(row.get(one.name)) for one in table.columns] for row in table.rows)
    return out.getvalue().encode()


def _cell(value: object) -> str:
    if value is None:
        return ""
    if isinstance(value, bool):
        return "true" if value else "false"
    if isinstance(value, dt.datetime | dt.date):
        return value.isoformat()
    if isinstance(value, list | tuple | dict):
        return orjson.dumps(value, option=orjson.OPT_SERIALIZE_NUMPY).decode()
    text = str(value)
    return f"'{text}" if isinstance(value, str) and text.startswith(FORMULA) else text


def json_bytes(table: Table) -> bytes:
    """Return a table as JSON: what it holds, and its rows as objects."""
    rows = [{one.name: row.get(one.name) for one in table.columns} for row in table.rows]
    return orjson.dumps({"kind": table.kind, "rows": rows}, option=orjson.OPT_INDENT_2)


def parquet_bytes(table: Table) -> bytes:
    """Return a table as Parquet; lists and objects as JSON text."""
    arrays = [pa.array([_packed(row.get(one.name)) for row in table.rows], type=_ARROW[one.type]) for one in table.columns]
    out = io.BytesIO()
    pq.write_table(pa.table(arrays, names=[one.name for one in table.columns]), out)
    return out.getvalue()


def _packed(value: object) -> object:
    if isinstance(value, list | tuple | dict):
        return orjson.dumps(value).decode()
    return str(value) if isinstance(value, uuid.UUID) else value


@dataclass(frozen=True, slots=True, kw_only=True)
class Sheet:
    """A CSV file as it was read: its columns and its rows, as texts."""

    columns: Sequence[str]
    rows: Sequence[Sequence[str]]


def read_csv(data: bytes, *, most_rows: int, most_bytes: int) -> Sheet:
    """Return the texts of a CSV file's bytes; lines that are wholly empty are left out.

    Raises DomainError naming the first thing wrong: the size, the encoding, a row of another length, a name that stands twice.
    """
    if len(data) > most_bytes:
        raise DomainError(f"the file has {len(data)} bytes: it may have {most_bytes} at most")
    try:
        text = data.decode("utf-8-sig")
    except UnicodeDecodeError as error:
        raise DomainError(f"the file's byte {error.start} is no UTF-8: it must be UTF-8 text") from None
    if "\x00" in text:
        raise DomainError("the file holds zero bytes: it must be UTF-8 text")
    try:
        rows = [row for row in csv.reader(io.StringIO(text, newline=""), strict=True) if any(cell.strip() for cell in row)]
    except csv.Error as error:
        raise DomainError(f"the file is no CSV: {error}") from None
    if not rows:
        raise DomainError("the file is empty: it must have a row of names first")
    columns = [cell.strip() for cell in rows[0]]
    if len(columns) > MOST_COLUMNS:
        raise DomainError(f"the file has {len(columns)} columns: it may have {MOST_COLUMNS} at most")
    twice = next((name for i, name in enumerate(columns) if name in columns[:i]), None)
    if twice is not None:
        raise DomainError(f"column {twice[:40]!r} stands twice: each name must stand once")
    if len(rows) - 1 > most_rows:
        raise DomainError(f"the file has {len(rows) - 1} rows: it may have {most_rows} at most")
    for number, row in enumerate(rows[1:], start=2):
        if len(row) != len(columns):
            raise DomainError(f"row {number} has {len(row)} cells: it must have {len(columns)}, as the first row has")
        for name, cell in zip(columns, row, strict=True):
            if len(cell) > MOST_CELL:
                raise DomainError(f"row {number}, {name[:40]} has {len(cell)} letters: it may have {MOST_CELL} at most")
    return Sheet(columns=columns, rows=[[_plain(cell) for cell in row] for row in rows[1:]])


def _plain(cell: str) -> str:
    return cell[1:] if cell[:1] == "'" and cell[1:2] in FORMULA and len(cell) > 1 else cell
