"""The cast solver against closed forms, a geodesy library, an integrated pendulum, and casts that miss as anglers do."""

import math
from dataclasses import replace

import numpy as np
import pymap3d
import pytest
from scipy.integrate import solve_ivp

from mudlamp.core.casting.fall import REEL_M_S, level_reel, risen_depth_m, slack_fall, splash_m, tight_fall
from mudlamp.core.casting.solve import (
    AHEAD_M,
    FLIGHT_S,
    CastQuery,
    Drift,
    Mood,
    Technique,
    horizontal_m,
    side_tolerance_m,
    solve,
    stand_off_m,
)
from mudlamp.core.errors import DomainError
from mudlamp.core.scene.species import Species
from mudlamp.core.units import FOOT_M, OUNCE_KG
from mudlamp.core.water.clarity import Clarity


def asked(**changes):
    return CastQuery(**{"range_m": 34 * FOOT_M, "depth_m": 23 * FOOT_M, "head_kg": OUNCE_KG / 16.0, **changes})


@pytest.mark.parametrize(("north", "east", "down"), [(5.0, 3.0, 4.0), (12.0, -2.0, 1.0), (2.0, 0.5, 9.0)])
def test_distance_along_the_water_is_a_geodesy_library_s(north, east, down):
    # pymap3d, north-east-down to azimuth, elevation, range.
    _, elevation, slant = pymap3d.ned2aer(north, east, down)
    query = asked(range_m=float(slant), depth_m=down + 0.4, transducer_m=0.4)
    assert horizontal_m(query) == pytest.approx(slant * math.cos(math.radians(elevation)), rel=1e-9)
    assert horizontal_m(query) == pytest.approx(math.hypot(north, east), rel=1e-6)


def test_side_tolerance_is_its_closed_form():
    # R tan(half thickness sqrt(spare / 3)): at 3 dB the half-power edge.
    assert side_tolerance_m(range_m=10.0, thickness_rad=math.radians(20.0), spare_db=3.0) == pytest.approx(
        10.0 * math.tan(math.radians(10.0))
    )
    assert side_tolerance_m(range_m=10.0, thickness_rad=math.radians(20.0), spare_db=12.0) == pytest.approx(
        10.0 * math.tan(math.radians(20.0))
    )
    assert side_tolerance_m(range_m=10.0, thickness_rad=math.radians(20.0), spare_db=0.0) == 0.0


def swung(line, start_rad, end_rad, sink):
    """Seconds that a weight takes along the arc of a taut line: integrated, with its weight in water and drag by the square of the speed."""
    pull = 9.0  # m/s^2: what weight in water leaves of gravity for a heavy small body; the sink speed sets the drag.

    def motion(_, state):
        angle, speed = state
        return [speed / line, pull * math.cos(angle) - pull * speed * abs(speed) / sink**2]

    def there(_, state):
        return state[0] - end_rad

    there.terminal = True
    return solve_ivp(motion, (0.0, 300.0), [start_rad, 0.0], events=there, rtol=1e-7, max_step=0.05).t[-1]


@pytest.mark.parametrize(("away", "depth", "sink"), [(8.0, 5.0, 0.3), (12.0, 3.0, 0.6), (5.0, 6.0, 0.3)])
def test_a_swing_is_a_pendulum_s(away, depth, sink):
    tip = 1.5
    fall = tight_fall(away_m=away, depth_m=depth, rod_tip_m=tip, sink_m_s=sink)
    line = math.hypot(away, depth + tip)
    assert fall.toward_rod_m == pytest.approx(math.sqrt(line**2 - tip**2) - away)
    assert fall.seconds == pytest.approx(swung(line, math.asin(tip / line), math.asin((depth + tip) / line), sink), rel=0.03)
    assert fall.seconds > slack_fall(depth_m=depth, sink_m_s=sink).seconds


def test_reeled_at_the_level_speed_a_lure_neither_sinks_nor_rises_there():
    level = level_reel(away_m=9.0, depth_m=4.0, rod_tip_m=1.5, sink_m_s=0.4)
    held = risen_depth_m(from_m=9.0, to_m=8.8, depth_m=4.0, rod_tip_m=1.5, sink_m_s=0.4, reel_m_s=level.reel_m_s)
    assert held == pytest.approx(4.0, abs=0.01)
    # At the same speed it comes up nearer to the rod, and faster reeling brings it up sooner.
    near = risen_depth_m(from_m=9.0, to_m=2.0, depth_m=4.0, rod_tip_m=1.5, sink_m_s=0.4, reel_m_s=level.reel_m_s)
    assert near < 3.5
    assert risen_depth_m(from_m=9.0, to_m=2.0, depth_m=4.0, rod_tip_m=1.5, sink_m_s=0.4, reel_m_s=2.0 * level.reel_m_s) < near
    # It swims in as fast as a point on the line does: sink over the sine at a flat angle.
    assert level.swims_m_s == pytest.approx(0.4 * math.sqrt(9.0 / math.hypot(9.0, 5.5)) / math.sin(math.atan2(5.5, 9.0)), rel=1e-6)


def test_the_cast_past_a_fish_is_as_anglers_throw():
    # Common practice: 15 ft away cast 15; 25 away cast 40; at 35 away 50 is too far. Fish 20 ft down, a quarter-ounce head.
    def cast(away):
        return solve(asked(range_m=away * FOOT_M, is_slant=False, depth_m=20 * FOOT_M, head_kg=OUNCE_KG / 4.0)).cast_m / FOOT_M

    # A foot and a half past, to be drawn over it: whichever way it faces.
    assert cast(15) == pytest.approx(15.0, abs=2.0)
    assert cast(25) == pytest.approx(40.0, abs=2.0)
    assert 42.0 < cast(35) < 49.5


def test_a_dressed_sixteenth_falls_a_foot_a_second():
    found = solve(asked(technique=Technique.PITCH))
    # Common practice, no source.
    assert found.sink_m_s / FOOT_M == pytest.approx(1.0, rel=0.1)
    assert found.fall.seconds == pytest.approx(found.hold_m / found.sink_m_s)
    # The angler's own timed drops count for more than drag physics.
    assert solve(asked(technique=Technique.PITCH, sink_m_s=0.5)).fall.seconds == pytest.approx(found.hold_m / 0.5)


@pytest.mark.parametrize("heading", [0.0, math.radians(70.0), math.radians(180.0), math.radians(-120.0)])
def test_a_fish_that_holds_its_course_meets_the_lure_a_little_behind_it(heading):
    query = asked(speed_m_s=0.2, heading_rad=heading, technique=Technique.PITCH)
    found = solve(query)
    assert found.lead.in_time
    assert found.lead.meet_s == pytest.approx(FLIGHT_S + found.fall.seconds)
    away = horizontal_m(query)
    fish = np.array([away + 0.2 * found.lead.meet_s * math.cos(heading), 0.2 * found.lead.meet_s * math.sin(heading)])
    lure_aside = found.right_m
    lure = np.array([math.sqrt(found.cast_m**2 - lure_aside**2), lure_aside])
    ahead = (lure - fish) @ np.array([math.cos(heading), math.sin(heading)])
    assert ahead == pytest.approx(AHEAD_M[Species.CRAPPIE], abs=0.02)
    assert np.linalg.norm(lure - fish) == pytest.approx(AHEAD_M[Species.CRAPPIE], abs=0.02)


def test_a_fish_that_comes_must_be_thrown_at_before_it_is_under_the_boat():
    toward = solve(asked(speed_m_s=0.5, heading_rad=math.pi, range_m=15.0, depth_m=6.0)).lead
    slower = solve(asked(speed_m_s=0.25, heading_rad=math.pi, range_m=15.0, depth_m=6.0)).lead
    assert 0.0 <= toward.wait_s < slower.wait_s < 60.0
    # Eight meters away at a walk, and twenty seconds down: it is past the boat by then.
    assert not solve(asked(speed_m_s=0.6, heading_rad=math.pi)).lead.in_time


def test_beyond_six_seconds_the_ring_holds_four_of_five_fish_that_wander():
    query = asked(speed_m_s=0.3, heading_rad=math.pi / 2.0, depth_m=4.0, range_m=10.0, head_kg=OUNCE_KG / 16.0)
    found = solve(query)
    assert found.lead.meet_s > 6.0
    rng = np.random.default_rng(4)
    # Casts that miss by 6 % and 3 degrees, fish that hold course for six seconds and then stray by half their speed, each way.
    stray = rng.normal(0.0, 0.5 * 0.3 * (found.lead.meet_s - 6.0), (4000, 2))
    along, aside = rng.normal(0.0, 0.06 * found.cast_m, 4000), rng.normal(0.0, math.radians(3.0) * found.cast_m, 4000)
    assert 0.75 < (np.hypot(stray[:, 0] + along, stray[:, 1] + aside) < found.lead.ring_m).mean() < 0.88
    # And for a fish that holds still, the casts alone.
    still = solve(asked(depth_m=4.0, range_m=10.0))
    along, aside = rng.normal(0.0, 0.06 * still.cast_m, 4000), rng.normal(0.0, math.radians(3.0) * still.cast_m, 4000)
    assert 0.75 < (np.hypot(along, aside) < still.ring_m).mean() < 0.88


def test_the_boat_stays_off_shallow_wary_fish_in_clear_water():
    # Common practice, no source: 6 ft down stay 50 ft away; deep or winter fish 12 ft.
    assert stand_off_m(asked(depth_m=6 * FOOT_M)) / FOOT_M == pytest.approx(50.0, abs=1.0)
    assert stand_off_m(asked(depth_m=30 * FOOT_M)) / FOOT_M == pytest.approx(12.0, abs=0.5)
    assert stand_off_m(asked(depth_m=12 * FOOT_M, temperature_degc=5.0)) < stand_off_m(asked(depth_m=12 * FOOT_M, temperature_degc=18.0))
    shallow = asked(depth_m=3.0)
    for change in ({"clarity": Clarity.CLEAR}, {"mood": Mood.WARY}):
        assert stand_off_m(asked(depth_m=3.0, **change)) > stand_off_m(shallow)
    assert stand_off_m(asked(depth_m=3.0, wind=Drift(speed_m_s=6.0))) < stand_off_m(shallow)
    assert solve(asked(range_m=5.0, is_slant=False, depth_m=2.0)).too_close


def test_wind_and_current_are_thrown_against():
    still = solve(asked())
    against = solve(asked(current=Drift(speed_m_s=0.1, toward_rad=0.0)))
    assert still.cast_m - against.cast_m == pytest.approx(0.1 * still.fall.seconds)
    across = solve(asked(wind=Drift(speed_m_s=8.0, toward_rad=math.pi / 2.0)))
    assert across.right_m == pytest.approx(-0.015 * 8.0 * across.fall.seconds)


def test_each_technique_says_what_it_needs():
    assert solve(asked(technique=Technique.FLOAT)).stop_knot_m == pytest.approx(solve(asked()).hold_m)
    assert solve(asked(technique=Technique.DOCK, rod_m=2.1)).free_line_m == pytest.approx(1.5)
    cold, warm = (solve(asked(technique=Technique.PAUSE, temperature_degc=t)).pause_s for t in (5.0, 20.0))
    assert cold > warm
    assert solve(asked(range_m=3.0, is_slant=False, depth_m=5.0)).technique is Technique.DROP
    assert solve(asked(technique=Technique.MINNOW)).retrieve is not None


@pytest.mark.parametrize(("field", "value"), [("range_m", 90.0), ("depth_m", 0.0), ("speed_m_s", 9.0), ("head_kg", 1.0), ("sink_m_s", 0.0)])
def test_what_cannot_be_is_refused_by_name(field, value):
    with pytest.raises(DomainError, match=field.removeprefix("head_").replace("kg", "mass_kg") if field == "head_kg" else field):
        solve(asked(**{field: value}))


def test_a_still_fish_whose_facing_is_known_gets_it_before_its_nose_else_it_is_drawn_over():
    away = horizontal_m(asked(range_m=5.0, is_slant=False))
    for heading, past, right in ((0.0, 0.6, 0.0), (math.pi, -0.6, 0.0), (math.pi / 2.0, None, 0.6)):
        found = solve(asked(range_m=5.0, is_slant=False, heading_rad=heading, technique=Technique.PITCH))
        assert found.past_m == pytest.approx(math.hypot(away, 0.6) - away if past is None else past)
        assert found.right_m == pytest.approx(right, abs=1e-9)
        assert found.retrieve is None
        assert found.lead is None
    unknown = solve(asked(range_m=5.0, is_slant=False, technique=Technique.PITCH))
    assert unknown.past_m == pytest.approx(unknown.run_m)
    assert unknown.retrieve is not None


def test_what_no_reel_holds_level_is_begun_higher_and_is_at_its_height_over_the_fish():
    # A half-ounce head 6 ft over a fish 25 ft out: held level it would be reeled three times as fast as one reels.
    query = asked(range_m=25 * FOOT_M, is_slant=False, depth_m=7.5 * FOOT_M, head_kg=OUNCE_KG / 2.0, technique=Technique.CAST)
    found = solve(query)
    assert found.retrieve.reel_m_s == REEL_M_S
    assert 0.0 < found.down_m < found.hold_m - 0.3
    end = found.cast_m - found.fall.toward_rod_m
    there = risen_depth_m(
        from_m=end,
        to_m=end - found.run_m,
        depth_m=found.down_m,
        rod_tip_m=query.rod_tip_m,
        sink_m_s=found.sink_m_s,
        reel_m_s=REEL_M_S,
    )
    assert there == pytest.approx(found.hold_m, abs=0.05)
    # A light head is held level from the start.
    light = solve(replace(query, head_kg=OUNCE_KG / 32.0))
    assert light.down_m == light.hold_m
    assert light.retrieve.reel_m_s < REEL_M_S


def test_a_line_too_steep_to_swing_on_falls_slack_and_a_long_fall_asks_for_a_heavier_head():
    steep = solve(asked(range_m=3.0, is_slant=False, depth_m=14.0, technique=Technique.CAST))
    assert steep.fall.toward_rod_m == 0.0
    assert solve(asked(range_m=12.0, is_slant=False, depth_m=5.0, technique=Technique.CAST)).fall.toward_rod_m > 0.0
    heavier = steep.heavier_kg
    assert heavier > OUNCE_KG / 16.0
    assert solve(asked(range_m=3.0, is_slant=False, depth_m=14.0, head_kg=heavier)).fall.seconds <= 20.0
    assert solve(asked(range_m=3.0, is_slant=False, depth_m=2.0)).heavier_kg is None
    # By the angler's own drops it falls slower than its figure: so will the heavier one, which must be heavier still.
    own = solve(asked(range_m=3.0, is_slant=False, depth_m=14.0, sink_m_s=0.85 * steep.sink_m_s))
    assert own.heavier_kg > heavier


def test_splash_and_hang_are_on_the_same_line():
    out = splash_m(away_m=7.0, depth_m=4.0, rod_tip_m=1.5)
    assert math.hypot(out, 1.5) == pytest.approx(math.hypot(7.0, 5.5))
