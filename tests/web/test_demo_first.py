"""Until an angler has something of their own, every page opens on the demo's; from the first own thing on, on theirs alone."""

import datetime as dt
import re
import uuid

import pytest

from mudlamp.core.records.log import SessionRecord, ShotRecord, TripRecord
from mudlamp.services import house
from mudlamp.services.demo import DEMO_RIG, rig_records
from mudlamp.services.settings import read_settings
from mudlamp.store import log as store

MORNING = dt.datetime(2026, 10, 23, 12, 10, tzinfo=dt.UTC)


def session_of(owner, *, title, source="simulated", trip=None, at=MORNING):
    return SessionRecord(
        id=uuid.uuid4(), source=source, trip_id=trip, angler_id=None, device=None, owner=owner, scene="pear-tree", title=title, seed=1,
        state="ended", started_at=at, ended_at=at + dt.timedelta(minutes=9),
    )  # fmt: skip


def shot_of(session, source="simulated"):
    return ShotRecord(
        id=uuid.uuid4(), session_id=session.id, source=source, number=1, start_s=2.0, end_s=9.0, at=session.started_at, ahead_m=8.0,
        head_kg=0.0018, outcome=None,
    )  # fmt: skip


@pytest.fixture
def demo(engine):
    """The demo's rig and one trip of its."""
    trip = TripRecord(id=uuid.uuid4(), source="demo", title="First cold morning", water="Harl Mill Reservoir", day=MORNING, notes="")
    session = session_of(None, title="First cold morning", source="demo", trip=trip.id)
    store.put(engine, [*rig_records(), trip, session, shot_of(session, "demo")])
    return session


def test_an_empty_browser_sees_the_demo_on_every_page(client, demo):
    log = client.get("/log").text
    assert "First cold morning" in log
    assert "These are the demo angler" in log
    rig = client.get("/rig").text
    assert "The millwright's skiff" in rig.replace("&#39;", "'")
    assert "Make it mine" in rig
    # To be looked at: nothing of it can be saved.
    assert '<fieldset class="bare" disabled>' in rig
    tune = client.get("/tune").text
    assert "A worked card of the demo" in tune
    assert 'data-row="gain"' in tune
    assert "/try" not in tune


def test_make_it_mine_and_from_then_on_only_ones_own(client, demo):
    assert client.post("/rig", data={"name": "The millwright's skiff", "copy": "demo"}).status_code == 303
    rig = client.get("/rig").text
    assert "Make it mine" not in rig
    assert "disabled>" not in rig
    assert str(DEMO_RIG) not in rig
    made = client.post("/tune", data={"technique": "pitch", "depth_ft": "18"}, headers={"HX-Request": "true"})
    assert made.status_code == 200
    tune = client.get("/tune").text
    assert "A worked card of the demo" not in tune
    assert "/try" in tune


def test_a_session_in_which_nobody_took_the_rod_is_no_entry(client, engine, demo):
    owner = client.owner
    watched, fished = session_of(owner, title="Only watched"), session_of(owner, title="Fished", at=MORNING + dt.timedelta(days=1))
    store.put(engine, [watched, shot_of(watched, "demo")])
    # Nothing of one's own yet: the scripted angler's casts are not one's own.
    assert "First cold morning" in client.get("/log").text
    store.put(engine, [fished, shot_of(fished)])
    page = client.get("/log").text
    assert "Fished" in page
    assert "Only watched" not in page
    assert "First cold morning" not in page
    # The demo is one click away, and the scripted angler with it.
    both = client.get("/log?demo=true").text
    assert all(title in both for title in ("Fished", "Only watched", "First cold morning"))


@pytest.mark.parametrize(
    ("zone", "shown"),
    [
        ("America/Chicago", "Oct 23, 2026, 7:10 AM"),
        ("Asia/Tokyo", "Oct 23, 2026, 9:10 PM"),
        ("../etc/passwd", None),
        ("Nowhere/Else", None),
    ],
)
def test_times_are_on_the_anglers_clock(client, demo, zone, shown):
    client.cookies.set("lamp_zone", zone, domain="127.0.0.1")
    page = client.get("/log").text
    assert re.search(r"Oct 2[234], 2026, \d+:\d\d [AP]M", page)
    assert shown is None or shown in page
    assert "UTC" not in page


@pytest.mark.parametrize("wanted", [0, 1])
def test_the_demo_is_loaded_where_the_settings_want_one(wanted, engine, tmp_path, monkeypatch):
    loaded = []
    monkeypatch.setattr(house, "ensure_demo", loaded.append)
    made = house.house_on(engine, read_settings({"MUDLAMP_RUN_DIR": str(tmp_path), "MUDLAMP_DEMO": str(wanted)}))
    house._tidy(made)
    assert loaded == [engine] * wanted
    made.close()
