"""The review: what was presented in what water, sources apart; the last time like this; the list of shots and the search by brute force."""

import datetime as dt
import uuid
from dataclasses import replace

import numpy as np
import pytest
from sqlalchemy import text

from mudlamp.core.controls import GAIN
from mudlamp.core.records.log import SetupRecord, TrackRecord
from mudlamp.core.records.shots import ShotOrder
from mudlamp.services.boat.given import BatchGiven
from mudlamp.services.log.shot_list import search as search_log
from mudlamp.services.log.shot_list import shot_page
from mudlamp.services.trips.review import last_time_words
from mudlamp.store import log as log_store
from tests.services.live.test_writer import reaction_record, session_record, shot_record
from tests.services.trips.conftest import NOW, OTHER, OWNER, ZONE

CONDITION = {"time": "06:30", "clarity": "stained", "water_f": "58", "sky": "cloud", "pressure_inhg": "30.10"}


def fished(engine, *, source="simulated", lure, bites, shots, owner=OWNER, trip=None, day=0):
    session = session_record(
        owner=owner,
        source=source,
        trip_id=trip,
        started_at=NOW + dt.timedelta(days=day),
        known={"lure": lure, "water_degc": 14.4, "clarity": "stained"},
    )
    rows = [session]
    for number in range(shots):
        shot = shot_record(session.id, number + 1, source=source, at=session.started_at + dt.timedelta(seconds=40 * number), end_s=21.0)
        rows += [shot, replace(reaction_record(session.id, shot.id, "bit" if number < bites else "no_answer"), source=source)]
    log_store.put(engine, rows)
    return session


def test_a_difference_that_chance_does_not_explain_is_said_and_sources_are_never_mixed(desks, engine):
    fished(engine, lure="jig", bites=28, shots=30)
    fished(engine, lure="minnow", bites=2, shots=30, day=1)
    fished(engine, source="recorded", lure="jig", bites=0, shots=9)
    fished(engine, owner=OTHER, lure="jig", bites=0, shots=9)
    found = desks.review.review(OWNER, uuid.uuid4(), "simulated", ZONE)
    assert found.shots == 60
    (lure,) = [one for one in found.factors if one.factor == "lure"]
    assert {one.value: (one.counts[1].passed, one.counts[1].of) for one in lure.values} == {"jig": (28, 30), "minnow": (2, 30)}
    # They came one after the other, on different days: a finding needs them side by side, and these are.
    assert [(one.factor, one.better, one.worse) for one in found.findings][:1] == [("lure", "jig", "minnow")]
    assert desks.review.sources(OWNER) == ["recorded", "simulated"]
    assert desks.review.review(OWNER, uuid.uuid4(), "recorded", ZONE).findings == []
    # Asked again it is not worked out again; after each correction it is.
    assert desks.review.review(OWNER, uuid.uuid4(), "simulated", ZONE) is found
    with engine.connect() as connection:
        reaction = connection.execute(text("select id from reaction where token = 'bit' and source = 'simulated' limit 1")).scalar_one()
    for word in ("refused", "spooked", "bit"):
        log_store.correct_reaction(engine, OWNER, reaction, word)
        again = desks.review.review(OWNER, uuid.uuid4(), "simulated", ZONE)
        assert (again == found) == (word == "bit")
        assert again.shots == 60


def test_casts_noted_in_the_boat_are_reviewed_with_their_water(desks):
    trip = desks.trip()
    desks.trips.start(OWNER, trip.id)
    desks.trips.add_condition(OWNER, trip.id, CONDITION, ZONE)
    desks.trips.add_condition(OWNER, trip.id, CONDITION | {"time": "09:00", "pressure_inhg": "29.90"}, ZONE)
    acts = [{"kind": "move", "values": {"depth_ft": 18, "clarity": "murky", "sky": "bright"}}]
    acts += [
        {"kind": "outcome", "values": {"token": "bit" if i % 2 else "looked", "lure": "white" if i < 5 else "gray", "out_ft": 25}}
        for i in range(10)
    ]
    acts += [{"kind": "outcome", "values": {"token": "landed", "lure": "gray"}}]
    entries = [
        one | {"id": str(uuid.uuid4()), "number": i + 1, "at": (NOW + dt.timedelta(hours=3, minutes=i)).isoformat()}
        for i, one in enumerate(acts)
    ]
    desks.clock.now = NOW + dt.timedelta(hours=4)
    desks.boat.take_in(OWNER, uuid.uuid4(), BatchGiven(sent_at=desks.clock.now, entries=entries))
    found = desks.review.review(OWNER, uuid.uuid4(), "real", ZONE)
    assert found.shots == 10
    (lure,) = [one for one in found.factors if one.factor == "lure"]
    assert {one.value: one.shots for one in lure.values} == {"white": 5, "gray": 5}
    presented = desks.review._presented(OWNER, [one.entry for one in desks.boat.told(OWNER)], ZONE)[0].factors
    # The trip's own notes of the last three hours are newer than what was said at the move.
    assert presented["clarity"] == "stained"
    assert presented["sky"] == "cloud"
    assert presented["pressure"] == "falling"
    assert presented["part of day"] == "morning"


def test_the_set_up_in_force_when_fish_came_up_and_were_lost_is_counted(desks, engine):
    session = session_record(owner=OWNER, ended_at=NOW + dt.timedelta(minutes=10), state="ended")
    rows = [
        session,
        *(
            SetupRecord(id=uuid.uuid4(), session_id=session.id, session_s=at, values={GAIN.name: gain})
            for at, gain in ((0.0, 60.0), (300.0, 70.0))
        ),
    ]
    for number, (first, last) in enumerate(((10.0, 200.0), (250.0, 400.0), (310.0, 599.0))):
        rows.append(
            TrackRecord(id=uuid.uuid4(), session_id=session.id, source="simulated", number=number, first_s=first, last_s=last, kind="fish", odds={}, length_m=None, said=None, path=[])
        )  # fmt: skip
    log_store.put(engine, rows)
    found = desks.review.review(OWNER, uuid.uuid4(), "simulated", ZONE)
    assert [(one.value, one.minutes, one.seen, one.lost) for one in found.in_force] == [(60.0, 5.0, 2, 1), (70.0, 5.0, 1, 1)]


def test_guesses_on_the_picture_are_reviewed_against_the_echo(desks, engine):
    session = session_record(owner=OWNER, ended_at=NOW, state="ended")
    rows = [session]
    for number, (guess_m, length_m, source) in enumerate(
        ((0.36, 0.3, "simulated"), (0.5, 0.4, "simulated"), (0.24, 0.2, "simulated"), (0.4, None, "simulated"), (None, 0.4, "simulated"), (0.2, 0.4, "real"), (0.0, 0.4, "simulated"))
    ):  # fmt: skip
        rows.append(
            TrackRecord(id=uuid.uuid4(), session_id=session.id, source=source, number=number, first_s=0.0, last_s=9.0, kind="fish", odds={}, length_m=length_m, said=None, path=[], guess_m=guess_m)
        )  # fmt: skip
    log_store.put(engine, rows)
    found = desks.review.review(OWNER, uuid.uuid4(), "simulated", ZONE).by_echo
    # Of the source alone, and of those alone that were guessed and measured: 20, 25 and 20 % over (by hand).
    assert (found.pairs, found.is_off, found.share) == (3, True, pytest.approx((1.2 * 1.25 * 1.2) ** (1 / 3) - 1.0))


def test_how_high_the_lure_was_over_the_fish_is_read_off_the_tracks(desks, engine):
    session = fished(engine, lure="jig", bites=4, shots=4)
    tracks = [
        TrackRecord(id=uuid.uuid4(), session_id=session.id, source="simulated", number=number, first_s=1.0, last_s=4.0, kind=kind, odds={}, length_m=None, said=None, path=[1.8, 6.0, 3.0, 2.1, 6.0, deep, 4.0, 6.0, 9.0])
        for number, kind, deep in ((3, "fish", 5.0), (9, "lure", 4.4))
    ]  # fmt: skip
    log_store.put(engine, tracks)
    from mudlamp.store.review import heights

    assert set(heights(engine, OWNER, "simulated", most=99).values()) == {(5.0, 4.4)}


def test_the_last_time_like_this_is_told_while_a_trip_is_under_way(desks):
    for day, clarity, warm in (("2026-10-20", "stained", "57"), ("2026-10-21", "clear", "58"), ("2026-10-22", "stained", "70")):
        trip = desks.trip(day=day, title=f"On {day}")
        desks.trips.add_condition(OWNER, trip.id, {"time": "07:00", "clarity": clarity, "water_f": warm}, ZONE)
        desks.trips.add_catch(OWNER, trip.id, {"species": "crappie", "lure": f"{clarity} {warm}", "depth_ft": "14", "time": "08:00"}, ZONE)
    today = desks.trip(title="Today")
    assert desks.review.last_time(OWNER, now=NOW) is None
    desks.trips.start(OWNER, today.id)
    assert desks.review.last_time(OWNER, now=NOW) is None
    desks.trips.add_condition(OWNER, today.id, {"clarity": "stained", "water_f": "58"}, ZONE)
    found = desks.review.last_time(OWNER, now=NOW)
    assert [one.title for one in found.trips] == ["On 2026-10-20"]
    words = last_time_words(found, ZONE)
    assert "stained water at 58°F" in words[0]
    assert "Most on stained 57, 14 ft deep" in words[1]


@pytest.fixture(scope="module")
def drawn():
    rng = np.random.default_rng(960)
    return [
        (float(rng.uniform(2, 20)), float(rng.choice([0.0017, 0.0035, 0.007])), str(rng.choice(["landed", "lost", ""])), str(rng.choice(["bit", "looked", "spooked"])), int(rng.integers(0, 40)))
        for _ in range(120)
    ]  # fmt: skip


@pytest.mark.parametrize(
    ("given", "holds"),
    [
        ({}, lambda one: True),
        ({"outcome": "landed"}, lambda one: one[2] == "landed"),
        ({"token": "bit"}, lambda one: one[3] == "bit"),
        ({"least_ft": "20", "most_ft": "50"}, lambda one: 20 * 0.3048 <= one[0] <= 50 * 0.3048),
        ({"least_oz": "0.1"}, lambda one: one[1] >= 0.1 * 0.028349523125),
        ({"since": "2026-11-05", "until": "2026-11-20"}, lambda one: 4 <= one[4] <= 19),
        ({"source": "real"}, lambda one: False),
        ({"text": "pear -orchard"}, lambda one: True),
        ({"text": "orchard"}, lambda one: False),
        ({"token": "looked", "outcome": "lost", "order": "out", "up": "true"}, lambda one: one[3] == "looked" and one[2] == "lost"),
    ],
)
def test_a_list_of_shots_is_narrowed_and_sorted_as_brute_force_does(engine, drawn, given, holds):
    session = session_record(owner=OWNER)
    rows = [session]
    for number, (ahead, head, outcome, token, day) in enumerate(drawn):
        shot = shot_record(
            session.id, number, ahead_m=ahead, head_kg=head, outcome=outcome or None, at=NOW + dt.timedelta(days=day, seconds=number)
        )
        rows += [shot, reaction_record(session.id, shot.id, token)]
    log_store.put(engine, rows)
    numbers, page = [], 0
    while True:
        found = shot_page(engine, OWNER, given, page=page, zone=dt.UTC, with_demo=False)
        numbers += [one.number for one in found.lines]
        page += 1
        if page >= found.pages:
            break
    wanted = [number for number, one in enumerate(drawn) if holds(one)]
    key = (lambda number: drawn[number][0]) if given.get("order") == "out" else (lambda number: (-drawn[number][4], -number))
    assert numbers == sorted(wanted, key=key)
    assert found.count == len(wanted)
    assert shot_page(engine, OTHER, given, page=0, zone=dt.UTC, with_demo=False).count == 0
    assert set(ShotOrder) >= {"at", "out"}


def test_the_words_of_the_log_are_found_where_they_stand_and_only_ones_own(desks, engine):
    trip = desks.trip(notes="Fog till ten, the pear trees held them")
    desks.trips.add_catch(OWNER, trip.id, {"species": "crappie", "note": "by the mill wall", "time": "08:00"}, ZONE)
    fished(engine, lure="jig", bites=0, shots=1)
    entry = {"id": str(uuid.uuid4()), "number": 1, "at": NOW.isoformat(), "kind": "tied", "values": {"rod": "1", "lure": "pear marabou"}}
    desks.boat.take_in(OWNER, uuid.uuid4(), BatchGiven(sent_at=NOW, entries=[entry]))
    found = search_log(engine, OWNER, "pear tree")
    assert {(one.kind, one.name) for one in found} == {("trip", "Second cold front"), ("session", "Pear tree")}
    assert [one.kind for one in search_log(engine, OWNER, "marabou")] == ["boat"]
    assert [one.kind for one in search_log(engine, OWNER, '"mill wall" -fog')] == ["catch"]
    assert search_log(engine, OTHER, "pear") == []
    assert search_log(engine, OWNER, "  ") == ()
    for odd in ("'", '"', "!!", "a & | b", "\\", "x" * 5000, "%", "(("):
        search_log(engine, OWNER, odd)


def test_casts_noted_in_the_boat_stand_among_the_shots_as_they_were_left(desks, engine):
    fished(engine, source="real", lure="jig", bites=1, shots=2)
    trip = desks.trip()
    desks.clock.now = NOW + dt.timedelta(hours=1)
    desks.trips.start(OWNER, trip.id)
    drawn = [("looked", 30.0), ("bit", 12.0), ("landed", None), ("spooked", 55.0)]
    keys = [str(uuid.UUID(int=600 + number)) for number in range(6)]
    entries = [
        {"id": key, "number": number, "at": (NOW + dt.timedelta(hours=2, minutes=number)).isoformat(), "kind": "outcome"}
        | {"values": {"token": token, "lure": "1/16 white"} | ({} if out is None else {"out_ft": out})}
        for number, (key, (token, out)) in enumerate(zip(keys, drawn, strict=False), start=1)
    ]
    later = (NOW + dt.timedelta(hours=3)).isoformat()
    entries += [
        {"id": keys[4], "number": 5, "at": later, "kind": "undo", "values": {"of": keys[3]}},
        {"id": keys[5], "number": 6, "at": later, "kind": "rod", "values": {"of": [keys[0]], "rod": "2", "lure": "1/8 pink"}},
    ]
    for owner in (OWNER, OTHER):
        assert not desks.boat.take_in(owner, uuid.uuid4(), BatchGiven(sent_at=NOW, entries=entries)).refused

    def listed(**given):
        found = shot_page(engine, OWNER, given, page=0, zone=dt.UTC, with_demo=False)
        assert found.count == len(found.lines)
        return [(one.outcome or ",".join(one.tokens), one.title, one.known["lure"]) for one in found.lines]

    boat = [("landed", trip.title, "1/16 white"), ("bit", trip.title, "1/16 white"), ("looked", trip.title, "1/8 pink")]
    assert listed()[:3] == boat
    assert len(listed()) == 5
    assert listed(outcome="landed") == boat[:1]
    assert listed(least_ft="20", most_ft="40", source="real")[0] == boat[2]
    assert [one[0] for one in listed(token="bit")] == ["bit", "bit"]
    assert listed(text="white") == boat[:2] + [("looked", trip.title, "1/8 pink")]
    assert [one[0] for one in listed(order="out", up="true")][-1] == "landed"
    assert listed(source="simulated") == []
    assert len(listed(least_oz="0.01")) == 2


# Source: NOAA's solar calculator (from memory): at 42 N, 88 W on 1 November the sun rises about 12:24 UTC and culminates near 34 deg.
@pytest.mark.parametrize(("hour", "said"), [(11.5, "down"), (13.0, "under 10 deg"), (14.5, "10 to 25 deg"), (17.5, "25 to 45 deg")])
def test_the_sun_stands_in_the_review_where_the_trip_has_a_place(desks, engine, hour, said):
    trip = desks.trip(latitude="42", longitude="-88", source="simulated")
    for _ in range(2):
        fished(engine, lure="jig", bites=2, shots=4, trip=trip.id, day=(hour - 12.0) / 24.0)
    fished(engine, lure="jig", bites=2, shots=4, trip=trip.id, day=1.27 if said == "down" else 0.98)
    fished(engine, lure="jig", bites=2, shots=4, day=2.0)
    found = desks.review.review(OWNER, uuid.uuid4(), "simulated", ZONE)
    (sun,) = [one for one in found.factors if one.factor == "sun"] or [None]
    assert said in {one.value for one in sun.values}
    assert sum(one.shots for one in sun.values) == 12
    _, read = desks.trips.write(OWNER, {"title": "x", "water": "y", "day": "2026-11-01", "source": "real", "latitude": "42"}, ZONE)
    assert "go together" in read.problems["latitude"]
