"""Tables and sheets: what goes out comes back; share copies say nowhere where it was."""

import io
import json
import math
import uuid
import zipfile

import geojson
import gpxpy
import numpy as np
import polars
import pytest

from mudlamp.core.errors import DomainError, MissingError
from mudlamp.core.scene.world import first_acquisition
from mudlamp.formats.recording import RecordingReader
from mudlamp.services.keep.kinds import KINDS, formats_of
from mudlamp.services.keep.sheet_in import guessed, look
from mudlamp.services.recordings.simulate import record_simulation
from mudlamp.store import keep as keep_store
from tests.services.keep.conftest import everything
from tests.services.trips.conftest import NOW, OTHER, OWNER, ZONE

SHEET = b"""Date,Clock,Fish,Inches,Pounds,Bait,Remarks
2026-10-03,06:40,crappie,12.25,,white jig,first
2026-10-03,,largemouth,,4.5,,
"""


@pytest.mark.parametrize("kind", KINDS)
def test_every_kind_is_written_in_every_format_and_only_ones_own(account, kind):
    rows = keep_store.rows_of(account.engine, OWNER, KINDS[kind], and_deleted=False)
    for form in formats_of(kind):
        data = account.keep.written(OWNER, kind, form)
        if form == "csv":
            assert polars.read_csv(io.BytesIO(data), infer_schema=False).height == len(rows)
        elif form == "parquet":
            assert polars.read_parquet(io.BytesIO(data)).height == len(rows)
        elif form == "json":
            assert len(json.loads(data)["rows"]) == len(rows)
        elif form == "geojson":
            # Source: the geojson package's own rules of RFC 7946.
            found = geojson.loads(data)
            assert found.is_valid
            assert len(found["features"]) == len(rows) > 0
        else:
            assert len(gpxpy.parse(data.decode()).waypoints) == len(rows)
        assert str(OWNER).encode() not in data
        empty = account.keep.written(OTHER, kind, "json")
        assert json.loads(empty)["rows"] == []
    with pytest.raises(DomainError, match="format is exe"):
        account.keep.written(OWNER, kind, "exe")


def test_ones_own_tables_come_back_as_they_were(account, fresh):
    for kind in ("trips", "catches"):
        count = fresh.keep.take_file(OWNER, kind, account.keep.written(OWNER, kind, "csv"), None, None)
        assert count == len(keep_store.rows_of(account.engine, OWNER, KINDS[kind], and_deleted=False)) > 0
        lost = {"rig_id", "session_id"}
        for there, here in zip(
            keep_store.rows_of(account.engine, OWNER, KINDS[kind], and_deleted=False),
            keep_store.rows_of(fresh.engine, OWNER, KINDS[kind], and_deleted=False),
            strict=True,
        ):
            assert {name: value for name, value in here.items() if name not in lost} == {
                name: value for name, value in there.items() if name not in lost
            }


def test_a_strangers_sheet_is_mapped_by_its_names_and_read_in_the_anglers_units_and_time(account):
    key, looked = account.keep.look(OWNER, "catches", SHEET, ZONE)
    assert looked.mapping == {
        "Date": "day",
        "Clock": "time",
        "Fish": "species",
        "Inches": "length_in",
        "Pounds": "weight_lb",
        "Bait": "lure",
        "Remarks": "note",
    }
    assert looked.problems == []
    first, second = looked.records
    assert (first.at.isoformat(), round(first.length_m, 4), first.lure) == ("2026-10-03T11:40:00+00:00", 0.3111, "white jig")
    assert (second.at.astimezone(ZONE).hour, round(second.weight_kg, 3)) == (7, 2.041)
    before = len(keep_store.rows_of(account.engine, OWNER, "catch", and_deleted=False))
    assert account.keep.take(OWNER, key, looked.mapping, ZONE) == 2
    assert len(keep_store.rows_of(account.engine, OWNER, "catch", and_deleted=False)) == before + 2
    # It waits no more; and the same file again, by the command line, is the same fish.
    with pytest.raises(MissingError, match="waits no more"):
        account.keep.take(OWNER, key, looked.mapping, ZONE)
    for _ in range(2):
        account.keep.take_file(OWNER, "catches", SHEET, None, ZONE)
    assert len(keep_store.rows_of(account.engine, OWNER, "catch", and_deleted=False)) == before + 2


def test_errors_are_told_by_row_and_nothing_comes_in(account):
    before = everything(account.engine)
    broken = SHEET + b"2026-10-04,26:00,salmon,900,,,\n2026-10-05,,,,,,\n"
    key, looked = account.keep.look(OWNER, "catches", broken, ZONE)
    assert [one.partition(":")[0] for one in looked.problems] == ["row 4", "row 4", "row 4", "row 5"]
    assert "row 4: Species is salmon: it must be one of" in " ".join(looked.problems)
    with pytest.raises(DomainError, match=r"row 4: .*\(and 3 more\); nothing was kept"):
        account.keep.take(OWNER, key, looked.mapping, ZONE)
    # Another mapping, another look: without a day nothing can come in, and two columns cannot be one field.
    again = account.keep.look_again(OWNER, key, {"Fish": "species"}, ZONE)
    assert "row 2: Day is empty: each fish must have a day, or a day and time" in again.problems
    with pytest.raises(DomainError, match="two columns are taken as note"):
        account.keep.look_again(OWNER, key, {"Bait": "note", "Remarks": "note"}, ZONE)
    with pytest.raises(DomainError, match="it must be one of"):
        account.keep.look_again(OWNER, key, {"Bait": "password"}, ZONE)
    with pytest.raises(MissingError):
        account.keep.look_again(OTHER, key, {}, ZONE)
    assert everything(account.engine) == before


def test_a_row_with_anothers_key_takes_nothing_of_theirs(account):
    (theirs,) = [row for row in keep_store.rows_of(account.engine, OWNER, "catch", and_deleted=False) if row["note"]]
    sheet = f"id,day,species,trip_id\n{theirs['id']},2026-10-03,gar,{theirs['trip_id']}\n".encode()
    before = keep_store.rows_of(account.engine, OWNER, "catch", and_deleted=True)
    account.keep.take_file(OTHER, "catches", sheet, None, None)
    assert keep_store.rows_of(account.engine, OWNER, "catch", and_deleted=True) == before
    (row,) = keep_store.rows_of(account.engine, OTHER, "catch", and_deleted=False)
    assert (row["species"], row["trip_id"]) == ("gar", None)
    assert row["id"] != theirs["id"]


def malformed():
    """Two hundred broken sheets of catches, from a seed."""
    rng = np.random.default_rng(990)
    odd = (b"-1", b"1e999", b"nan", b"\xff", b'"', b",", b"'", b"=1", b"9" * 400, b"x" * 3000, b"\x00", b"2026-99-99", b"<b>")
    for _ in range(200):
        rows = [line.split(b",") for line in SHEET.strip().split(b"\n")]
        row = rows[int(rng.integers(1, len(rows)))]
        row[int(rng.integers(4 if rng.random() < 0.9 else 1))] = odd[int(rng.integers(len(odd)))]
        yield b"\n".join(b",".join(row) for row in rows)


def test_two_hundred_broken_sheets_are_refused_and_no_row_is_lost(account):
    before = everything(account.engine)
    refused = 0
    for data in malformed():
        with pytest.raises(DomainError) as error:
            account.keep.take_file(OWNER, "catches", data, None, ZONE)
        refused += 1
        assert "\n" not in str(error.value)
    assert refused == 200
    assert everything(account.engine) == before


def test_names_are_guessed_and_a_kind_that_is_none_is_refused():
    assert guessed("trips", ["Lake", "When", "Date", "With"]) == {"Lake": "water", "When": "", "Date": "day", "With": "people"}
    with pytest.raises(DomainError, match="a sheet must be one of catches, trips"):
        look(b"a\n1\n", "rigs", None, owner=OWNER, zone=None, now=NOW)


def test_a_share_copy_says_nowhere_where_it_was_and_who_was_aboard(account):
    account.trips.write_rule(OWNER, {"species": "crappie", "most": "15"})
    data = account.keep.shared_trip(OWNER, account.filled.id, with_words=False)
    with zipfile.ZipFile(io.BytesIO(data)) as found:
        parts = {name: found.read(name) for name in found.namelist()}
    assert "photos/1.jpg" in parts
    whole = b"".join(data for name, data in parts.items() if not name.endswith("jpg"))
    # What of it is kept about a place, a person or a day: none of it is there.
    for secret in (
        "Harl Mill",
        "harl-mill",
        "orchard",
        "cedar",
        "Jo",
        "Fog till",
        "2026-11-01",
        "latitude",
        "10.5",
        str(account.filled.id),
        str(OWNER),
        "=cmd",
    ):
        assert secret.encode() not in whole, secret
    assert b"crappie" in parts["catches.csv"]
    assert parts["shots.csv"].count(b"\n") == 3
    named = account.keep.shared_trip(OWNER, account.filled.id, with_words=True)
    assert b"Harl Mill" in zipfile.ZipFile(io.BytesIO(named)).read("trip.json")
    with pytest.raises(MissingError):
        account.keep.shared_trip(OTHER, account.filled.id, with_words=False)


def test_a_recording_is_shared_without_its_place_and_with_every_echo(account, pear_tree, tmp_path):
    from dataclasses import replace

    boat = replace(pear_tree.boat, x_m=120.0, y_m=-45.0, heading_rad=1.1, speed_m_s=0.5)
    path = tmp_path / "far.nc"
    record_simulation(replace(pear_tree, boat=boat), seconds=2.0, seed=3, ping_hz=5.0, acquisition=first_acquisition(pear_tree), out=path)
    with account.library.receiving() as part:
        part.write_bytes(path.read_bytes())
        kept = account.library.take(OWNER, part, name="far", source="simulated")
    shared = account.keep.shared_recording(OWNER, kept.id)
    one, other = RecordingReader(path), RecordingReader(shared)
    try:
        assert len(one) == len(other)
        first = other.ping(0).pose
        assert (first.x_m, first.y_m, first.heading_rad) == (0.0, 0.0, 0.0)
        for number in (1, len(one) - 1):
            a, b = one.ping(number), other.ping(number)
            assert np.array_equal(a.echo_level_db, b.echo_level_db)
            start = one.ping(0).pose
            assert math.hypot(b.pose.x_m, b.pose.y_m) == pytest.approx(math.hypot(a.pose.x_m - start.x_m, a.pose.y_m - start.y_m), abs=1e-3)
            # Seen from the bow it went the same way.
            bearing = math.atan2(a.pose.x_m - start.x_m, a.pose.y_m - start.y_m) - start.heading_rad
            assert math.remainder(math.atan2(b.pose.x_m, b.pose.y_m) - bearing, 2 * math.pi) == pytest.approx(0.0, abs=0.02)
    finally:
        one.close()
        other.close()
    with pytest.raises(MissingError):
        account.keep.shared_recording(OTHER, kept.id)
    assert uuid.UUID(shared.stem)
