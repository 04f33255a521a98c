"""The archive: a fresh installation reads it back to the last row; a broken or a wicked one changes nothing."""

import hashlib
import io
import json
import os
import uuid
import zipfile

import numpy as np
import orjson
import pytest
from PIL import Image

from mudlamp.core.errors import DomainError
from mudlamp.core.records.log import AnglerRecord
from mudlamp.services.jobs import JobCancelledError
from mudlamp.services.keep.archive import CARD, read_archive, write_archive
from mudlamp.services.keep.desk import angler_named
from mudlamp.services.quarantine.inspect import inspect_recording
from mudlamp.store import keep as keep_store
from mudlamp.store import log as log_store
from tests.services.keep.conftest import everything
from tests.services.live.test_writer import session_record
from tests.services.trips.conftest import NOW, OTHER, OWNER


def nothing(share):
    pass


@pytest.fixture
def archive(account, tmp_path):
    path = tmp_path / "all.zip"
    write_archive(account.engine, OWNER, path, run_dir=account.run_dir, now=NOW, progress=nothing)
    return path


def rewritten(path, target, change):
    """The archive with its parts changed by `change(name, data)`; digests and counts are made to hold again."""
    with zipfile.ZipFile(path) as source:
        parts = {name: source.read(name) for name in source.namelist()}
    parts = {name: change(name, data) for name, data in parts.items()}
    card = json.loads(parts[CARD])
    card["digests"] = {
        name: was if parts[name] is None else hashlib.sha256(parts[name]).hexdigest() for name, was in card["digests"].items()
    }
    card["rows"] = {name: parts[f"tables/{name}.jsonl"].count(b"\n") for name in card["rows"]}
    parts[CARD] = json.dumps(card).encode()
    with zipfile.ZipFile(target, "w") as out:
        for name, data in parts.items():
            if data is not None:
                out.writestr(name, data)
    return target


def with_rows(name, change):
    """A change of a table's rows."""

    def act(part, data):
        if part != f"tables/{name}.jsonl":
            return data
        return b"".join(orjson.dumps(change(orjson.loads(line))) + b"\n" for line in data.splitlines())

    return act


def test_a_fresh_installation_reads_it_back_to_the_last_row(account, archive, fresh):
    before = everything(account.engine)
    # Of every kind there is something; else this would show nothing.
    assert {name for name, rows in before.items() if not rows} <= {
        "card",
        "rig",
        "lure",
        "rod",
        "named_setup",
        "landing",
        "ended",
        "pack",
        "launch_list",
        "track",
        "setup_change",
    }
    found = fresh.keep.read_archive(archive, owner=None)
    assert everything(fresh.engine) == before
    assert (found.new_rows, found.files) == (found.rows, 2)
    for folder in ("recordings", "photos"):
        names = {path.name: path.read_bytes() for path in (account.run_dir / folder).iterdir()}
        assert {path.name: path.read_bytes() for path in (fresh.run_dir / folder).iterdir()} == names
    assert angler_named(fresh.engine, None) == OWNER
    # Twice is once.
    again = fresh.keep.read_archive(archive, owner=None)
    assert (again.new_rows, again.files) == (0, 0)
    assert everything(fresh.engine) == before


def test_it_holds_only_ones_own(account, tmp_path):
    theirs = session_record(owner=OTHER)
    log_store.put(account.engine, [theirs])
    path = tmp_path / "own.zip"
    write_archive(account.engine, OWNER, path, run_dir=account.run_dir, now=NOW, progress=nothing)
    with zipfile.ZipFile(path) as found:
        assert str(theirs.id) not in "".join(
            found.read(name).decode(errors="replace") for name in found.namelist() if name.endswith("jsonl")
        )


def test_stopped_on_the_way_it_leaves_nothing(account):
    job = account.keep.start_archive(OWNER, OWNER)
    job.cancel()
    account.jobs.end_all()
    assert job.view().state.value in ("cancelled", "done")
    if job.view().state.value == "cancelled":
        assert not list((account.run_dir / "archives").glob("*")) if (account.run_dir / "archives").exists() else True

    def stop(share):
        raise JobCancelledError

    with pytest.raises(JobCancelledError):
        read_archive(account.engine, make(account), run_dir=account.run_dir, owner=None, progress=stop)


def make(account):
    path = account.run_dir / "again.zip"
    write_archive(account.engine, OWNER, path, run_dir=account.run_dir, now=NOW, progress=nothing)
    return path


def photo_with_place(part, data):
    if not part.endswith(".jpg"):
        return data
    out = io.BytesIO()
    exif = Image.Exif()
    exif[0x010E] = "34.12N"
    Image.new("RGB", (8, 8)).save(out, "JPEG", exif=exif)
    return out.getvalue()


@pytest.mark.parametrize(
    ("change", "said"),
    [
        (with_rows("shot", lambda row: row | {"session_id": str(uuid.uuid4())}), "it must be in the archive"),
        (with_rows("shot", lambda row: row | {"evil": 1}), "evil is no column of it"),
        (with_rows("shot", lambda row: row | {"at": "soon"}), "at is 'soon'"),
        (with_rows("shot", lambda row: row | {"ahead_m": None}), "ahead_m is missing"),
        (with_rows("shot", lambda row: row | {"number": 2**40}), "cannot be kept"),
        (with_rows("trip", lambda row: row | {"source": "stolen"}), "clashes with what is here"),
        (lambda part, data: b"[]\n" if part == "tables/trip.jsonl" else data, "row 1 is no object"),
        (lambda part, data: b"{\n" if part == "tables/trip.jsonl" else data, "row 1 is no JSON"),
        (lambda part, data: None if part.endswith(".nc") else data, "is missing"),
        (lambda part, data: data[:2000] if part.endswith(".nc") else data, "recording"),
        (lambda part, data: b"no photo" if part.endswith(".jpg") else data, "is no photo that can be read"),
        (photo_with_place, "says more than its picture"),
        (lambda part, data: None if part == CARD else data, CARD),
    ],
)
def test_a_wicked_archive_changes_nothing(account, archive, fresh, tmp_path, change, said):
    before = everything(fresh.engine)
    try:
        path = rewritten(archive, tmp_path / "wicked.zip", change)
    except TypeError:
        # Without its card: written as it is.
        path = tmp_path / "wicked.zip"
        with zipfile.ZipFile(archive) as source, zipfile.ZipFile(path, "w") as out:
            for name in source.namelist():
                if name != CARD:
                    out.writestr(name, source.read(name))
    with pytest.raises((DomainError, ValueError), match=said):
        fresh.keep.read_archive(path, owner=None)
    assert everything(fresh.engine) == before
    assert not [path for folder in ("recordings", "photos") for path in (fresh.run_dir / folder).glob("*")]


@pytest.mark.parametrize(
    ("change", "said"),
    [
        ({"format": "other"}, "it must be mud-lamp archive 1"),
        ({"schema_number": "9999"}, "this release is older than the archive"),
        ({"schema_number": "x"}, "schema_number is x"),
        ({"angler": {"id": "me"}}, "angler.id"),
        ({"more": 1}, "more"),
    ],
)
def test_a_card_that_is_wrong_is_named(account, archive, fresh, tmp_path, change, said):
    path = tmp_path / "card.zip"
    with zipfile.ZipFile(archive) as source, zipfile.ZipFile(path, "w") as out:
        for name in source.namelist():
            data = source.read(name)
            out.writestr(name, json.dumps(json.loads(data) | change) if name == CARD else data)
    with pytest.raises(DomainError, match=said):
        fresh.keep.read_archive(path, owner=None)


def test_it_can_be_read_into_an_account_of_another_name_but_hangs_nothing_on_anothers_things(account, archive, fresh):
    log_store.put(fresh.engine, [AnglerRecord(id=OTHER, name="Jo", created_at=NOW)])
    with pytest.raises(DomainError, match="somebody else goes by it here"):
        fresh.keep.read_archive(archive, owner=None)
    fresh.keep.read_archive(archive, owner=OTHER)
    assert [one.title for one in fresh.trips.all(OTHER, limit=9)] == ["Second cold front"]
    # A third who reads the same archive would hang rows on what is another's now.
    before = everything(fresh.engine)
    with pytest.raises(DomainError, match="is somebody else's here"):
        fresh.keep.read_archive(archive, owner=uuid.UUID(int=77))
    assert everything(fresh.engine) == before


def test_two_hundred_spoiled_archives_change_nothing(account, archive, fresh, tmp_path):
    whole, rng = archive.read_bytes(), np.random.default_rng(980)
    before = everything(fresh.engine)
    path = tmp_path / "spoiled.zip"
    refused = 0
    for number in range(200):
        data = bytearray(whole[: int(rng.integers(1, len(whole)))] if number % 4 == 0 else whole)
        for _ in range(int(rng.integers(1, 8))):
            # Rows, card and the list of parts stand near the beginning and the end.
            near = int(rng.integers(min(4000, len(data))))
            data[near if number % 2 else len(data) - 1 - near] = int(rng.integers(256))
        path.write_bytes(data)
        try:
            fresh.keep.read_archive(path, owner=None)
        except (DomainError, ValueError) as error:
            refused += 1
            assert "\n" not in str(error)
            assert everything(fresh.engine) == before
        else:
            # Spoiled where nothing of it stands: then it is the same account.
            assert keep_store.anglers(fresh.engine) == {"Jo": OWNER}
            before = everything(fresh.engine)
    assert refused >= 150


def test_a_file_that_goes_while_the_folder_is_swept_harms_nobody(account, monkeypatch):
    path = account.keep.receiving()
    path.touch()
    gone = path.with_name("gone.in")
    monkeypatch.setattr(type(path), "iterdir", lambda folder: iter([gone, path]))
    account.keep.sweep()
    assert path.exists()
    os.utime(path, (0, 0))
    account.keep.sweep()
    assert not path.exists()


def test_an_archive_is_read_while_the_recordings_leftovers_are_swept_away(account, archive, fresh, monkeypatch):
    inspected = []

    def sweeping(path, *, shown):
        fresh.library.sweep()
        inspected.append(inspect_recording(path, shown=shown))

    monkeypatch.setattr("mudlamp.services.keep.archive.inspect_recording", sweeping)
    assert fresh.keep.read_archive(archive, owner=None).files == 2
    assert len(inspected) == 1
    assert [*(fresh.run_dir / "archives").iterdir()] == []
