"""Reactions from tracks: a fish that comes to the lure looked at it, be the lure seen or only reckoned."""

from types import SimpleNamespace

import pytest

from mudlamp.core.casting.lure_on_line import FLIGHT_S
from mudlamp.core.hand import Doing, HandEvent
from mudlamp.core.ping import Pose
from mudlamp.core.reactions import Reaction
from mudlamp.core.tracking.classes import FishClass
from mudlamp.core.tracking.reacting import RECKONED_ODDS, ReactionWatch
from mudlamp.core.tracking.track import Kind
from mudlamp.core.tracking.tracker import Tracker
from tests.core.tracks import a_plane, a_track, together

POSE = Pose(x_m=0.0, y_m=0.0, z_m=0.4, heading_rad=0.0, pitch_rad=0.0, roll_rad=0.0, tilt_rad=1.2)
STEP_S = 0.1
SINKS_S = 6.0


def a_mark(number, kind, place):
    track = a_track(number, place, confirmed=True, told=9)
    track.kind, track.odds = kind, {Kind.FISH: 0.05, Kind.LURE: 0.05} | {kind: 0.9}
    return track


def told(*, comes_m=0.6, throws=True, seen=False, leans=True, likely=0.9, said=None, lure_likely=0.9):
    """Let a jig hang 10 m ahead, reckoned or seen, and a fish 1.3 m before it that comes toward it; return what is told of the fish."""
    tracker, watch, found = Tracker(), ReactionWatch(), []
    tracker.plane = a_plane()
    if throws:
        event = HandEvent(time_s=0.0, do=Doing.THROW, ahead_m=10.0, across_m=0.0)
        tracker.hand.take(event, tracker.plane)
        tracker.line.take(event, POSE)
    fish = lure = None
    for number in range(round((FLIGHT_S + SINKS_S + 5.0) / STEP_S)):
        now_s = number * STEP_S
        since_s = now_s - FLIGHT_S - SINKS_S
        tracker.line.advance(now_s, tracker.plane, POSE, 1.5)
        if leans and throws and tracker.line.place is not None:
            tracker.line.lean_on(tracker.line.place)
        if since_s >= 0.0:
            came_m = comes_m * min(max(since_s - 2.0, 0.0) / 1.5, 1.0)
            fish = fish or a_mark(1, Kind.FISH, (8.7, 1.4))
            lure = lure or a_mark(2, Kind.LURE, (10.0, 1.5))
            lure.odds = {Kind.LURE: lure_likely, Kind.COVER: 1.0 - lure_likely}
            fish.odds, fish.said = {Kind.FISH: likely, Kind.COVER: 1.0 - likely}, said
            fish.state[0] = 8.7 + came_m
            tracker.tracks = together(fish, lure) if seen else together(fish)
            for track in tracker.tracks:
                track.fixes.add(now_s, track.place, -40.0)
                track.own_s = track.seen_s = now_s
        found += watch.update(tracker, SimpleNamespace(time_s=now_s))
    return found


@pytest.mark.parametrize("lure", [{"seen": True}, {"seen": False}])
def test_a_fish_that_comes_to_a_lure_looked_at_it_be_it_seen_or_reckoned(lure):
    (one,) = told(**lure)
    assert one.event.token is Reaction.LOOKED
    assert one.event.fish == "1"
    assert one.confidence == pytest.approx(0.9 * (0.9 if lure["seen"] else RECKONED_ODDS))


def test_nothing_is_told_of_what_is_hardly_a_fish_unless_the_angler_calls_it_one():
    assert told(likely=0.4) == []
    (one,) = told(likely=0.4, said=FishClass.BASS)
    assert one.event.token is Reaction.LOOKED


@pytest.mark.parametrize("case", [{"throws": False}, {"comes_m": 0.05}, {"leans": False}])
def test_nothing_is_told_with_no_lure_of_a_fish_that_stays_or_where_the_lure_may_be_anywhere_about(case):
    assert told(**case) == []


def test_without_the_hand_a_reaction_needs_a_likely_lure():
    assert [len(told(seen=True, throws=False, lure_likely=likely)) for likely in (0.9, 0.3)] == [1, 0]
    assert len(told(seen=True, lure_likely=0.3)) == 1


@pytest.mark.parametrize(
    ("many", "likely", "tokens"), [(1, 0.9, [Reaction.SPOOKED]), (1, 0.3, []), (3, 0.9, [Reaction.LEFT_WITH_SCHOOL] * 3)]
)
def test_a_fish_that_darted_off_was_spooked_or_left_with_its_school(many, likely, tokens):
    tracker, watch, found = Tracker(), ReactionWatch(), []
    tracker.plane = a_plane()
    tracker.tracks = together(*(a_mark(1 + i, Kind.FISH, (6.0, 2.0 + 0.3 * i)) for i in range(many)))
    for number in range(40):
        now_s = number * STEP_S
        for fish in tracker.tracks:
            fish.odds = {Kind.FISH: likely, Kind.COVER: 1.0 - likely}
            if number == 10:
                fish.roster.bolted_s[fish.row], fish.state = now_s, [6.6, fish.place[1], 2.5, 0.0]
            fish.fixes.add(now_s, fish.place, -40.0)
        found += watch.update(tracker, SimpleNamespace(time_s=now_s))
    assert [one.event.token for one in found] == tokens


def of_a_shot(*, until_m):
    """Reel a jig in from 10 m, 1.5 m over a fish at 6 m, until it is so far off and heard no more; return what is told, and when that was."""
    tracker, watch, found = Tracker(), ReactionWatch(), []
    tracker.plane = a_plane()
    fish, lure = a_mark(1, Kind.FISH, (6.0, 3.5)), a_mark(2, Kind.LURE, (10.0, 2.0))
    for number in range(160):
        now_s = number * STEP_S
        at_m = 10.0 - 0.8 * now_s
        tracker.tracks = together(fish, lure) if at_m > until_m else together(fish)
        lure.state[0] = at_m
        for track in tracker.tracks:
            track.fixes.add(now_s, track.place, -40.0)
            track.own_s = track.seen_s = now_s
        found += watch.update(tracker, SimpleNamespace(time_s=now_s))
    return found, lure.own_s


def test_a_shot_that_nobody_tells_of_ended_when_its_lure_was_heard_last():
    (one,), ended_s = of_a_shot(until_m=2.0)
    assert one.event.token is Reaction.NOT_SHOWN
    assert one.event.time_s == pytest.approx(ended_s)


def test_of_a_lure_that_was_lost_far_out_nobody_knows_whom_it_came_to():
    assert of_a_shot(until_m=5.0)[0] == []


@pytest.mark.parametrize(("lure_likely", "bites"), [(0.9, 1), (0.4, 0)])
def test_a_bite_is_told_only_where_what_grew_loud_is_likely_the_lure(lure_likely, bites):
    tracker, watch, found = Tracker(), ReactionWatch(), []
    tracker.plane = a_plane()
    fish, lure = a_mark(1, Kind.FISH, (8.0, 2.0)), a_mark(2, Kind.LURE, (8.4, 2.0))
    lure.odds = {Kind.LURE: lure_likely, Kind.COVER: 1.0 - lure_likely}
    tracker.tracks = together(fish, lure)
    fish, lure = tracker.tracks
    fish.roster.means[fish.row, 0] = -42.0
    for number in range(50):
        now_s = number * STEP_S
        struck = now_s > 3.0
        for track in (lure,) if struck else (fish, lure):
            track.own_s = track.seen_s = now_s
            track.fixes.add(now_s, track.place, -43.0 if struck else -60.0)
        found += watch.update(tracker, SimpleNamespace(time_s=now_s))
    assert [one.event.token for one in found if one.event.token is Reaction.BIT] == [Reaction.BIT] * bites
