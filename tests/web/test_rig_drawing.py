"""The rig's drawing: its geometry against closed forms."""

import math
from dataclasses import replace

import pytest

from mudlamp.core.advice.answers import Answers
from mudlamp.core.rig.mount import dead_zone_m
from mudlamp.core.rig.profile import Mount, Power, RigProfile
from mudlamp.core.units import FOOT_M
from mudlamp.web.rig.drawing import HIGH_V, LOW_V, REACH_FT, drawing_view

WATER = Answers(depth_m=20.0 * FOOT_M)


def places(points):
    return [tuple(float(number) for number in one.split(",")) for one in points.split()]


def test_the_dead_zone_is_half_a_pulse_straight_down_and_a_beams_width_along_the_bottom():
    # 37 mm of pulse; at 20 m and level a beam of 0.0185 rad is 0.37 m wide (closed form).
    assert dead_zone_m(range_m=20.0, look_rad=0.0, beam_width_rad=0.0185, pulse_m=0.037) == pytest.approx(0.037)
    assert dead_zone_m(range_m=20.0, look_rad=math.pi / 2, beam_width_rad=0.0185, pulse_m=0.037) == pytest.approx(0.407)


def test_the_fan_is_drawn_at_its_tilt_down_to_the_bottom_and_out_to_the_reach():
    side = drawing_view(RigProfile(mount=Mount(depth_m=0.6)), WATER).side
    corner, *edge = places(side.fan)
    assert corner == (0.0, pytest.approx(0.6 / FOOT_M, abs=0.01))
    # The upper edge is level at the transducer's depth, out to the Reach; nothing lies under the bottom or beyond the Reach.
    assert edge[0] == (pytest.approx(REACH_FT, abs=0.02), pytest.approx(corner[1], abs=0.02))
    assert max(y for _, y in edge) <= 20.01
    assert all(math.hypot(x, y - corner[1]) <= REACH_FT + 0.02 for x, y in edge)
    dead = places(side.dead)
    assert max(y for _, y in dead) == pytest.approx(20.0, abs=0.01)
    assert min(y for _, y in dead) < 19.4


def test_from_above_the_fan_turns_with_the_aim():
    straight = places(drawing_view(RigProfile(), WATER).above.fan)
    turned = places(drawing_view(RigProfile(mount=Mount(aim_rad=math.radians(12.0))), WATER).above.fan)
    assert straight[2] == (pytest.approx(REACH_FT), pytest.approx(0.0))
    assert math.degrees(math.atan2(turned[2][1], turned[2][0])) == pytest.approx(12.0, abs=0.1)
    half = math.degrees(math.atan2(straight[3][1], straight[3][0]))
    assert half == pytest.approx(math.degrees(RigProfile().transducer.thickness_rad) / 2.0, abs=0.1)


def test_the_gauge_stands_where_the_volts_do_and_a_thin_long_cable_lowers_it():
    short, long = (drawing_view(RigProfile(power=replace(Power(), cable_m=length, gauge=16)), WATER).power for length in (1.0, 12.0))
    assert long.unit < short.unit <= short.battery
    assert short.limit == pytest.approx(100.0 * (11.5 - LOW_V) / (HIGH_V - LOW_V), abs=0.1)


def test_the_screen_has_its_true_shape_and_a_wider_one_shows_the_head_larger():
    small = drawing_view(RigProfile(), WATER).screen
    assert small.high == pytest.approx(200.0 * 800.0 / 1280.0, abs=0.1)
    assert 0.0 < small.head_high <= small.head_wide < 20.0
