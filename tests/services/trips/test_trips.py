"""Trips: planned, fished, looked back at; nothing wrong is kept, nothing of another's is seen, what is deleted comes back for thirty days."""

import datetime as dt
import uuid
from dataclasses import replace

import pytest
from sqlalchemy import text

from mudlamp.core.errors import DomainError, MissingError
from mudlamp.core.records.log import SetupRecord
from mudlamp.core.records.trips import Condition
from mudlamp.services.boat.given import BatchGiven
from mudlamp.services.trips.line import condition_words, trip_line
from mudlamp.store import log as log_store
from mudlamp.store import trips as store
from mudlamp.store.deleted import purge
from tests.services.live.test_writer import reaction_record, session_record, shot_record
from tests.services.trips.conftest import NOW, OTHER, OWNER, ZONE

CATCH = {
    "species": "black crappie",
    "length_in": "12.5",
    "guess_in": "11",
    "kept": "true",
    "lure": "1/16 white",
    "rod": "Long one",
    "time": "07:15",
}


def told(at):
    return at.strftime("%H:%M")


def test_a_trip_is_kept_as_it_was_written_in_the_anglers_own_time(desks):
    trip = desks.trip()
    assert trip.day == dt.datetime(2026, 11, 1, 11, 30, tzinfo=dt.UTC)
    assert trip.people == ("Jo", "R.")
    assert desks.trips.find(OWNER, trip.id) == trip
    changed, _ = desks.trips.write(
        OWNER, {"title": "Other", "water": "Elsewhere", "day": "2026-11-02", "source": "real"}, ZONE, key=trip.id
    )
    assert (changed.id, changed.day.astimezone(ZONE).hour) == (trip.id, 7)
    assert len(desks.trips.all(OWNER, limit=9)) == 1


@pytest.mark.parametrize(
    ("given", "field", "said"),
    [
        ({"title": ""}, "title", "Trip is empty"),
        ({"day": "yesterday"}, "day", "Day is yesterday: it must be a day as YYYY-MM-DD, from 2000 to 2099"),
        ({"day": "1999-12-31"}, "day", "it must be a day"),
        ({"starts": "25:00"}, "starts", "Begins is 25:00: it must be a time of day"),
        ({"source": "demo"}, "source", "Where is demo: it must be one of real, simulated"),
        ({"people": ",".join("abcdefghi")}, "people", "Aboard is 9 names: it must be 8 at most"),
        ({"people": "x" * 31}, "people", "a name must be at most 30 characters"),
    ],
)
def test_a_wrong_field_is_named_and_nothing_is_kept(desks, given, field, said):
    trip, read = desks.trips.write(OWNER, {"title": "T", "water": "W", "day": "2026-11-01", "source": "real"} | given, ZONE)
    assert trip is None
    assert said in read.problems[field]
    assert desks.trips.all(OWNER, limit=9) == []


def test_what_is_fished_while_a_trip_is_under_way_belongs_to_it(desks, engine):
    running, ended, other_source = (
        session_record(owner=OWNER, source="real", state=state, ended_at=end)
        for state, end in (("running", None), ("ended", NOW), ("running", None))
    )
    other_source = replace(other_source, source="simulated")
    log_store.put(engine, [running, ended, other_source])
    first, second = desks.trip(), desks.trip(title="Another")
    desks.trips.start(OWNER, first.id)
    assert [one.summary.id for one in desks.trips.open(OWNER, first.id).sessions] == [running.id]
    # One trip is under way at a time, and a trip may be gone on with.
    desks.trips.start(OWNER, second.id)
    assert desks.trips.under_way(OWNER).id == second.id
    assert desks.trips.find(OWNER, first.id).ended_at is not None
    desks.trips.end(OWNER, second.id)
    assert desks.trips.under_way(OWNER) is None
    desks.trips.start(OWNER, first.id)
    assert desks.trips.find(OWNER, first.id).ended_at is None


def test_weather_moves_and_fish_are_noted_at_their_times_and_stand_on_the_timeline(desks):
    trip = desks.trip()
    desks.trips.start(OWNER, trip.id)
    assert not desks.trips.add_condition(
        OWNER, trip.id, {"sky": "cloud", "wind_mph": "7", "wind_from_deg": "225", "water_f": "58", "time": "06:45"}, ZONE
    ).problems
    assert not desks.trips.add_move(
        OWNER, trip.id, {"place": "The orchard", "depth_ft": "18", "saw_fish": "yes", "time": "07:00"}, ZONE
    ).problems
    assert not desks.trips.add_catch(OWNER, trip.id, CATCH, ZONE).problems
    # Without a time it is now.
    desks.trips.add_catch(OWNER, trip.id, {"species": "bluegill"}, ZONE)
    opened = desks.trips.open(OWNER, trip.id)
    assert [told(one.at) for one in opened.catches] == ["12:00", "12:15"]
    assert opened.catches[1].length_m == pytest.approx(0.3175)
    assert condition_words(opened.conditions[0]) == ["cloud", "wind 7 mph from the southwest", "water 58°F"]
    line = trip_line(opened, told=told)
    assert [lane.word for lane in line.lanes] == ["caught", "moved", "conditions"]
    # From the first that happened to a little after the last: 30 minutes.
    assert line.lanes[0].marks[-1].at_pct == pytest.approx(100.0 / 1.02, abs=0.1)
    assert line.lanes[0].marks[-1].href == f"#catch-{opened.catches[1].id}"
    assert trip_line(desks.trips.open(OWNER, desks.trip(title="Empty").id), told=told) is None


def test_nothing_said_and_nothing_sound_is_not_kept(desks):
    trip = desks.trip()
    assert "Nothing was said" in desks.trips.add_condition(OWNER, trip.id, {"time": "07:00"}, ZONE).problems["sky"]
    assert "Wind is 90: it must be 0 to 60 mph" in desks.trips.add_condition(OWNER, trip.id, {"wind_mph": "90"}, ZONE).problems["wind_mph"]
    assert "To is empty" in desks.trips.add_move(OWNER, trip.id, {}, ZONE).problems["place"]
    assert "Species is salmon" in desks.trips.add_catch(OWNER, trip.id, {"species": "salmon"}, ZONE).problems["species"]
    opened = desks.trips.open(OWNER, trip.id)
    assert (opened.conditions, opened.moves, opened.catches) == ([], [], [])


def test_a_fish_that_the_record_landed_becomes_a_catch_once(desks, engine):
    trip = desks.trip(source="simulated")
    session = session_record(owner=OWNER, trip_id=trip.id, known={"color": "white", "lure": "jig", "rod": "Long one", "species": "crappie"})
    shot = shot_record(session.id, end_s=21.0, outcome="landed")
    log_store.put(engine, [session, shot, shot_record(session.id, 2, outcome="lost"), reaction_record(session.id, shot.id, "bit")])
    (landed,) = desks.trips.open(OWNER, trip.id).landed
    caught = desks.trips.take_landed(OWNER, trip.id, landed.caught.id)
    assert (caught.species, caught.lure, caught.rod, caught.track) == ("crappie", "1/16 oz white jig", "Long one", "3")
    assert caught.at == NOW + dt.timedelta(seconds=20)
    assert desks.trips.open(OWNER, trip.id).landed == []
    with pytest.raises(MissingError, match="catch already"):
        desks.trips.take_landed(OWNER, trip.id, landed.caught.id)


def test_what_was_landed_in_the_boat_counts_too_within_the_trip(desks):
    trip = desks.trip()
    desks.trips.start(OWNER, trip.id)
    acts = [
        {"id": str(uuid.uuid4()), "number": i + 1, "at": (NOW + dt.timedelta(minutes=minutes)).isoformat(), "kind": "outcome",
         "values": {"token": "landed", "rod_name": "Caster", "lure": "1/8 chartreuse", "depth_ft": 12}}
        for i, minutes in enumerate((-30, 5))
    ]  # fmt: skip
    desks.clock.now = NOW + dt.timedelta(minutes=9)
    desks.boat.take_in(OWNER, uuid.uuid4(), BatchGiven(sent_at=desks.clock.now, entries=acts))
    (landed,) = desks.trips.open(OWNER, trip.id).landed
    assert (landed.caught.rod, landed.caught.lure) == ("Caster", "1/8 chartreuse")
    assert landed.caught.depth_m == pytest.approx(12 * 0.3048)


def test_a_fish_is_shown_with_the_set_up_that_was_in_force(desks, engine):
    from mudlamp.web.log.trip_views import session_at, setup_at

    trip = desks.trip(source="simulated")
    session = session_record(owner=OWNER, trip_id=trip.id, ended_at=NOW + dt.timedelta(minutes=10), state="ended")
    changes = [
        SetupRecord(id=uuid.uuid4(), session_id=session.id, session_s=at, values={"gain": gain})
        for at, gain in ((0.0, 60.0), (300.0, 71.0))
    ]
    log_store.put(engine, [session, *changes])
    for time in ("07:02", "07:06", "09:00"):
        desks.trips.add_catch(OWNER, trip.id, CATCH | {"time": time}, ZONE)
    opened = desks.trips.open(OWNER, trip.id)
    said = [setup_at(found, (one.at - NOW).total_seconds()) if (found := session_at(opened, one)) else "" for one in opened.catches]
    assert ["60" in said[0], "71" in said[1], said[2]] == [True, True, ""]


def test_own_limits_stand_one_a_species(desks):
    trip = desks.trip()
    desks.trips.write_rule(OWNER, {"species": "crappie", "most": "30"})
    desks.trips.write_rule(OWNER, {"species": "crappie", "most": "15", "wanted": "10", "least_in": "10"})
    (rule,) = desks.trips.open(OWNER, trip.id).rules
    assert (rule.most, rule.wanted, rule.least_m) == (15, 10, pytest.approx(0.254))
    desks.trips.remove_rule(OWNER, "crappie")
    assert desks.trips.open(OWNER, trip.id).rules == []


def test_what_is_deleted_is_gone_from_sight_comes_back_and_ends_after_thirty_days(desks, engine):
    trip = desks.trip()
    session = session_record(owner=OWNER, source="real", trip_id=trip.id)
    alone = session_record(owner=OWNER)
    log_store.put(engine, [session, alone, shot_record(session.id), shot_record(alone.id)])
    desks.trips.add_catch(OWNER, trip.id, CATCH, ZONE)
    (catch,) = desks.trips.open(OWNER, trip.id).catches
    # A fish that was deleted before the trip was does not come back with the trip.
    desks.trips.add_catch(OWNER, trip.id, CATCH | {"time": "08:00"}, ZONE)
    late = desks.trips.open(OWNER, trip.id).catches[1]
    desks.trips.delete(OWNER, "catch", late.id)
    desks.clock.now = NOW + dt.timedelta(hours=1)
    desks.trips.delete(OWNER, "trip", trip.id)
    with pytest.raises(MissingError):
        desks.trips.open(OWNER, trip.id)
    with pytest.raises(MissingError):
        desks.trips.catch(OWNER, catch.id)
    assert [one.id for one in log_store.sessions(engine, OWNER, with_demo=False)] == [alone.id]
    # What went along with the trip is not told by itself.
    assert [(one.kind, one.id) for one in desks.trips.deleted(OWNER)] == [("trip", trip.id), ("catch", late.id)]
    assert desks.trips.deleted(OTHER) == []
    with pytest.raises(MissingError, match="not there any more"):
        desks.trips.bring_back(OTHER, "trip", trip.id)
    desks.trips.bring_back(OWNER, "trip", trip.id)
    opened = desks.trips.open(OWNER, trip.id)
    assert [one.id for one in opened.catches] == [catch.id]
    assert len(opened.sessions) == 1
    desks.trips.delete(OWNER, "session", alone.id)
    assert purge(engine, now=desks.clock.now + dt.timedelta(days=29, hours=22)) == 0
    assert purge(engine, now=desks.clock.now + dt.timedelta(days=30)) == 2
    with engine.connect() as connection:
        assert connection.execute(text("select count(*) from shot")).scalar_one() == 1
    with pytest.raises(MissingError, match="not there any more"):
        desks.trips.bring_back(OWNER, "session", alone.id)
    with pytest.raises(MissingError, match="You have no angler"):
        desks.trips.delete(OWNER, "angler", OWNER)


def test_another_sees_and_changes_nothing(desks):
    trip = desks.trip()
    desks.trips.add_catch(OWNER, trip.id, CATCH, ZONE)
    (catch,) = desks.trips.open(OWNER, trip.id).catches
    for act in (
        lambda: desks.trips.open(OTHER, trip.id),
        lambda: desks.trips.start(OTHER, trip.id),
        lambda: desks.trips.add_catch(OTHER, trip.id, CATCH, ZONE),
        lambda: desks.trips.change_catch(OTHER, catch.id, CATCH, ZONE),
        lambda: desks.trips.delete(OTHER, "trip", trip.id),
        lambda: desks.trips.write(OTHER, {"title": "x"}, ZONE, key=trip.id),
    ):
        with pytest.raises(MissingError):
            act()
    part = Condition(id=uuid.uuid4(), trip_id=trip.id, at=NOW, sky="dark", wind_m_s=None, wind_from_rad=None, air_degc=None, water_degc=None, clarity=None, pressure_pa=None, origin="typed")  # fmt: skip
    assert not store.put_part(desks.engine, OTHER, part)
    assert desks.trips.open(OWNER, trip.id).conditions == []


def test_a_visit_is_a_move_of_the_trip_under_way(desks):
    from mudlamp.services.find.spot_book import SpotBook

    book = SpotBook(desks.engine, now=desks.clock)
    spot = book.put_spot(OWNER, "harl-mill", kind="brush", note="cedar", place_m=(10.0, -20.0), depth_m=4.0)
    with pytest.raises(DomainError, match="no trip is under way"):
        desks.trips.visit(OWNER, spot, saw_fish=True)
    trip = desks.trip()
    desks.trips.start(OWNER, trip.id)
    desks.trips.visit(OWNER, spot, saw_fish=True)
    desks.trips.visit(OWNER, spot, saw_fish=False)
    assert book.visits(OWNER) == {spot.id: (2, 1)}
    assert [one.place for one in desks.trips.open(OWNER, trip.id).moves] == ["brush cedar"] * 2
