"""A fish that darts off: found again by echoes in a line from where it was, and by nothing else."""

from types import SimpleNamespace

import numpy as np
import pytest

from mudlamp.core.fish_judge import LURE_NEAR_M, flight_cause
from mudlamp.core.judge import Judge
from mudlamp.core.reactions import Reaction, ReactionCause
from mudlamp.core.tracking.bolts import ECHOES, Bolts, may_bolt
from mudlamp.core.tracking.roster import Roster
from mudlamp.core.tracking.track import FISH, Kind
from mudlamp.core.tracking.tracker import Tracker
from tests.core.tracks import a_track, one_echo, together

STEP_S, WAS = 0.08, (6.0, 2.0)


def a_fish(roster, **more):
    """A fish that was followed for long and heard last at time zero."""
    track = a_track(1, WAS, roster=roster, **({"confirmed": True, "born_s": -9.0, "score": 0.9, "own_s": 0.0, "level_db": -40.0} | more))
    track.kind = Kind.FISH
    roster.newest[track.row] = [-40.0, 0.3, *WAS]
    return track


def echoes(*places, level_db=-42.0):
    """Return what stands out in a ping, all that nobody took."""
    place = np.array(places).reshape(-1, 2)
    return SimpleNamespace(place=place, level_db=np.full(len(place), level_db))


def found(speed_m_s, *, pings=ECHOES, aside_m=0.0, clutter=(), level_db=-42.0, bend_m=0.0):
    """Let a fish dart to the right for some pings; return what is found of it at the last one."""
    roster, bolts = Roster(), Bolts()
    row = a_fish(roster).row
    for number in range(1, pings + 1):
        way_m = speed_m_s * STEP_S * number
        at = (WAS[0] + way_m, WAS[1] + aside_m + (bend_m if number == 2 else 0.0))
        ping = echoes(*clutter, at, level_db=level_db)
        silent = may_bolt(roster, np.array([row]), FISH, number * STEP_S)
        last = bolts.look_for(roster, silent, ping, np.arange(len(ping.place)), number * STEP_S)
    return last


def test_four_echoes_in_a_line_from_where_it_was_are_the_fish():
    (bolt,) = found(2.5, clutter=((3.0, 3.0), (8.5, 1.2)))
    assert bolt.column == 2
    np.testing.assert_allclose(bolt.velocity, (2.5, 0.0), atol=1e-9)


@pytest.mark.parametrize(
    "case",
    [{"speed_m_s": 0.6}, {"speed_m_s": 9.0}, {"pings": ECHOES - 1}, {"aside_m": 0.4}, {"level_db": -55.0}, {"bend_m": 0.3}],
    ids=["too slow", "too fast", "too few", "from elsewhere", "too faint", "no line"],
)
def test_what_is_too_slow_too_fast_too_few_from_elsewhere_too_faint_or_no_line_is_not(case):
    assert found(**({"speed_m_s": 2.5} | case)) == []


@pytest.mark.parametrize("more", [{"own_s": 0.5}, {"own_s": -1.0}, {"born_s": 0.2}, {"score": 0.3}, {"confirmed": False}])
def test_only_a_fish_that_was_followed_well_and_has_just_fallen_silent_is_looked_for(more):
    roster = Roster()
    assert len(may_bolt(roster, np.array([a_fish(roster).row]), FISH, 0.5)) == 1
    assert len(may_bolt(roster, np.array([a_fish(roster, **more).row]), FISH, 0.5)) == 0


def test_pings_of_one_moment_show_no_dart():
    roster, bolts = Roster(), Bolts()
    row = a_fish(roster).row
    for number in range(1, ECHOES + 1):
        silent = may_bolt(roster, np.array([row]), FISH, 0.1)
        assert bolts.look_for(roster, silent, echoes((WAS[0] + 0.2 * number, WAS[1])), np.arange(1), 0.1) == []


def test_a_tracker_goes_on_with_the_fish_that_darted_off_while_it_brakes():
    tracker, ahead_m = Tracker(), 8.0
    fish = a_track(
        4, (8.0, 3.0), roster=tracker.roster, confirmed=True, covariance=0.003 * np.eye(4), born_s=-9.0, score=0.9, level_db=-38.0
    )
    fish.kind = Kind.FISH
    tracker.tracks = together(fish)
    for number in range(30):
        time_s = number * STEP_S
        speed_m_s = 0.0 if number < 5 else 3.0 if number < 13 else 3.0 * np.exp(-(time_s - 13 * STEP_S))
        ahead_m += speed_m_s * STEP_S
        ping = one_echo(ahead_m)
        used = tracker._associate(ping, *tracker._predict(STEP_S, time_s), time_s)
        tracker._find_bolts(ping, used, time_s)
    assert STEP_S * 5 < tracker.roster.bolted_s[fish.row] < STEP_S * 13
    assert fish.own_s == time_s
    assert fish.place[0] == pytest.approx(ahead_m, abs=0.1)


BOAT, PLACE = (0.0, 0.0, 0.0), (0.0, 6.0, 2.0)


@pytest.mark.parametrize(
    ("velocity", "lure", "cause"),
    [
        ((0.0, 2.0, 0.0), (0.0, 5.0, 2.0), ReactionCause.LURE),
        ((0.0, -2.0, 0.0), (0.0, 5.0, 2.0), None),
        ((2.0, 0.0, 0.0), (0.0, 5.0, 2.0), None),
        ((0.0, 2.0, 0.0), None, ReactionCause.BOAT),
        ((2.0, 0.0, 0.0), None, ReactionCause.UNKNOWN),
        ((0.0, -2.0, 0.0), (0.0, 6.0 - LURE_NEAR_M - 0.1, 2.0), ReactionCause.UNKNOWN),
    ],
)
def test_a_flight_is_from_the_lure_the_boat_or_nobody_knows_and_at_the_lure_it_is_none(velocity, lure, cause):
    assert flight_cause(velocity, PLACE, lure, BOAT) is cause


def fled(*fish, at_s=1.0, apart_m=0.5):
    """Let some fish flee at once; return what the judge settles within two seconds."""
    judge, events = Judge(), []
    for number, name in enumerate(fish):
        judge.flee(fish=name, time_s=at_s, place=(apart_m * number, 6.0, 2.0), cause=ReactionCause.BOAT, shot=3)
    for time_s in np.arange(at_s, at_s + 2.0, 0.1):
        events += judge.update(time_s=float(time_s), fish=(), lure=None, boat=BOAT, shot=3)
    return events


def test_a_flight_that_somebody_saw_is_settled_as_any_other_once():
    (event,) = fled("7", "7")
    assert (event.token, event.cause, event.time_s, event.shot) == (Reaction.SPOOKED, ReactionCause.BOAT, 1.0, 3)
    assert [one.token for one in fled("1", "2", "3")] == [Reaction.LEFT_WITH_SCHOOL] * 3


def test_who_has_just_bitten_does_not_flee():
    judge = Judge()
    judge.bite(fish="7", time_s=0.0, shot=None)
    judge.flee(fish="7", time_s=1.0, place=PLACE, cause=ReactionCause.LURE, shot=None)
    events = [one for time_s in (1.0, 1.5, 2.5) for one in judge.update(time_s=time_s, fish=(), lure=None, boat=BOAT, shot=None)]
    assert events == []
