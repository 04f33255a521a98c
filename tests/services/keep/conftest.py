"""A whole account on one database, and a fresh installation beside it."""

import uuid

import pytest
from sqlalchemy import text

from mudlamp.core.records.log import AnglerRecord
from mudlamp.core.scene.world import first_acquisition
from mudlamp.services.boat.given import BatchGiven
from mudlamp.services.find.own_charts import read_chart
from mudlamp.services.find.spot_book import SpotBook
from mudlamp.services.keep.desk import KeepDesk
from mudlamp.services.recordings.library import Library
from mudlamp.services.recordings.simulate import record_simulation
from mudlamp.services.settings import read_settings
from mudlamp.services.trips.photo_drop import drop
from mudlamp.store import keep as keep_store
from mudlamp.store import log as log_store
from mudlamp.store import spots as spot_store
from mudlamp.store.database import connect
from tests.conftest import _database, _run
from tests.services.find.test_own_charts import pond
from tests.services.live.test_writer import bait_record, reaction_record, session_record, shot_record
from tests.services.trips.conftest import NOW, OWNER, ZONE, Desks, photo_bytes

TRACK = (
    b'<gpx xmlns="http://www.topografix.com/GPX/1/1" version="1.1" creator="x" xmlns:m="urn:mudlamp:spot:1"><trk><trkseg>'
    b'<trkpt lat="42.1" lon="-88.2"><time>2026-10-03T12:00:00Z</time><extensions><m:depth_m>4.5</m:depth_m></extensions></trkpt>'
    b'<trkpt lat="42.101" lon="-88.2"><time>2026-10-03T12:05:00Z</time></trkpt></trkseg></trk></gpx>'
)


class Account(Desks):
    """An installation with the desks of trips and of what goes out and comes in."""

    def __init__(self, engine, run_dir):
        super().__init__(engine, run_dir)
        self.run_dir = run_dir
        self.settings = read_settings({"MUDLAMP_RUN_DIR": str(run_dir), "MUDLAMP_LEAST_FREE_BYTES": "0"})
        self.library = Library(engine, self.settings, now=self.clock)
        self.book = SpotBook(engine, now=self.clock)
        self.keep = KeepDesk(engine, self.jobs, self.trips, self.library, self.settings, now=self.clock)


def fill(account, pear_tree, tmp_path):
    """Something of everything, made as people make it."""
    engine = account.engine
    log_store.put(engine, [AnglerRecord(id=OWNER, name="Jo", created_at=NOW)])
    trip = account.trip(notes="Fog till ten", latitude="42.123", longitude="-88.2")
    account.trips.start(OWNER, trip.id)
    session = session_record(owner=OWNER, angler_id=OWNER, source="real", trip_id=trip.id, known={"lure": "jig"})
    shot = shot_record(session.id, end_s=20.0, outcome="landed", source="real")
    log_store.put(
        engine,
        [session, shot, bait_record(session.id), reaction_record(session.id, shot.id, "bit"), shot_record(session.id, 2, source="real")],
    )
    account.trips.add_condition(OWNER, trip.id, {"sky": "cloud", "water_f": "58"}, ZONE)
    account.trips.add_move(OWNER, trip.id, {"place": "The orchard"}, ZONE)
    account.trips.add_catch(OWNER, trip.id, {"species": "crappie", "length_in": "12", "note": '=cmd|"x"'}, ZONE)
    account.trips.read_track(OWNER, trip.id, TRACK)
    account.trips.write_rule(OWNER, {"species": "crappie", "most": "15"})
    spot = account.book.put_spot(OWNER, "harl-mill", kind="brush", note="cedar", place_m=(10.5, -20.25), depth_m=4.0)
    account.trips.visit(OWNER, spot, saw_fish=True)
    spot_store.put_chart(engine, read_chart(pond(), owner=OWNER, name="Lower pond", now=NOW))
    entry = {"id": str(uuid.uuid4()), "number": 1, "at": NOW.isoformat(), "kind": "tied", "values": {"rod": "1", "lure": "white"}}
    account.boat.take_in(OWNER, uuid.uuid4(), BatchGiven(sent_at=NOW, entries=[entry]))
    drop(account.photos, account.trips.open(OWNER, trip.id), [("a.jpg", photo_bytes)], owner=OWNER, zone=ZONE, now=NOW)
    with account.library.receiving() as part:
        record_simulation(pear_tree, seconds=1.0, seed=1, ping_hz=5.0, acquisition=first_acquisition(pear_tree), out=part)
        account.library.take(OWNER, part, name="a minute", source="simulated")
    gone = account.trip(title="Deleted")
    account.trips.delete(OWNER, "trip", gone.id)
    return trip


@pytest.fixture
def account(engine, tmp_path, pear_tree):
    (tmp_path / "home").mkdir()
    found = Account(engine, tmp_path / "home")
    found.filled = fill(found, pear_tree, tmp_path)
    yield found
    found.jobs.end_all()


@pytest.fixture
def fresh(admin_url, template, tmp_path):
    """A fresh installation: a database of its own, a folder of its own."""
    name = f"t_{uuid.uuid4().hex[:12]}"
    _run(admin_url, f'create database "{name}" template "{template}"')
    engine = connect(_database(admin_url, name))
    (tmp_path / "elsewhere").mkdir()
    found = Account(engine, tmp_path / "elsewhere")
    yield found
    found.jobs.end_all()
    engine.dispose()
    _run(admin_url, f'drop database if exists "{name}" with (force)')


def everything(engine):
    """All rows of an owner's tables, and of the anglers."""
    with engine.connect() as connection:
        return {
            name: sorted(
                map(
                    str,
                    connection.execute(
                        text(f'select {", ".join(chr(34) + one.name + chr(34) for one in keep_store.columns_of(name))} from "{name}"')
                    ),
                )
            )
            for name in keep_store.CLASSES
        } | {"angler": sorted(map(str, connection.execute(text("select * from angler"))))}
