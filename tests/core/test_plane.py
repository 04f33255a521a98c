"""The fan's plane: its inverse, and the world it stands in."""

import math

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from mudlamp.core.ping import Fan, Pose
from mudlamp.core.plane import FanPlane, GroundPlane, Travel
from mudlamp.core.sonar.transducer import axes

TILT = {Fan.AHEAD: (0.6, 1.9), Fan.BELOW: (-0.3, 0.3), Fan.FLAT: (0.8, 1.5)}
FANS = st.sampled_from(list(Fan))
HALF_RAD = math.radians(63.0)


def plane_of(fan, share, depth_m=0.4):
    low, high = TILT[fan]
    return FanPlane(fan=fan, tilt_rad=low + share * (high - low), depth_m=depth_m)


@given(FANS, st.floats(0, 1), st.floats(0.5, 40.0), st.floats(-HALF_RAD, HALF_RAD))
def test_polar_is_the_inverse_of_place(fan, share, range_m, angle_rad):
    plane = plane_of(fan, share)
    ahead, other = plane.place(np.array([range_m]), np.array([angle_rad]))
    again_m, again_rad = plane.polar(ahead, other)
    assert again_m[0] == pytest.approx(range_m)
    assert math.cos(again_rad[0] - angle_rad) == pytest.approx(1.0)


@given(FANS, st.floats(0, 1), st.floats(0.5, 40.0), st.floats(-HALF_RAD, HALF_RAD), st.floats(-math.pi, math.pi))
def test_a_place_is_where_the_beam_goes_in_the_world(fan, share, range_m, angle_rad, heading_rad):
    # Against the transducer's own axes: the beam's direction in space, then seen from the boat.
    plane = plane_of(fan, share)
    pose = Pose(x_m=3.0, y_m=-2.0, z_m=0.4, heading_rad=heading_rad, pitch_rad=0.0, roll_rad=0.0, tilt_rad=plane.tilt_rad)
    own = axes(pose, fan)
    way = math.cos(angle_rad) * own.center + math.sin(angle_rad) * own.edge
    bow = np.array([math.sin(heading_rad), math.cos(heading_rad), 0.0])
    right = np.array([math.cos(heading_rad), -math.sin(heading_rad), 0.0])
    ahead, other = plane.place(np.array([range_m]), np.array([angle_rad]))
    assert ahead[0] == pytest.approx(range_m * (way @ bow), abs=1e-9)
    assert other[0] == pytest.approx(range_m * (way @ right) if fan is Fan.FLAT else 0.4 + range_m * way[2], abs=1e-9)
    # The plane that is fixed to the ground knows the same place.
    ground = GroundPlane(plane, pose)
    here = ground.project(*(np.array([3.0, -2.0, 0.4]) + range_m * way))
    found_m, found_rad = ground.polar(np.array([here]))
    assert (found_m[0], math.cos(found_rad[0] - angle_rad)) == (pytest.approx(range_m), pytest.approx(1.0))
    assert ground.from_boat(here) == (pytest.approx(ahead[0]), pytest.approx(other[0]))


def test_a_boat_that_turns_in_place_goes_nowhere_and_what_it_passes_stands_still():
    travel = Travel()

    def plane_at(x_m, y_m, heading_deg):
        pose = Pose(
            x_m=x_m, y_m=y_m, z_m=0.4, heading_rad=math.radians(heading_deg), pitch_rad=0.0, roll_rad=0.0, tilt_rad=math.radians(60.0)
        )
        return GroundPlane(FanPlane(fan=Fan.AHEAD, tilt_rad=pose.tilt_rad, depth_m=0.4), pose, travel.to(pose))

    first = plane_at(500.0, 800.0, 0.0)
    assert first.origin[0] == pytest.approx(800.0)
    for heading in (10.0, 20.0, 5.0, 350.0, 0.0):
        assert plane_at(500.0, 800.0, heading).origin[0] == pytest.approx(800.0)
    # Two meters ahead, then three to the side: of those none is along the way.
    assert plane_at(500.0, 802.0, 0.0).origin[0] == pytest.approx(802.0)
    last = plane_at(503.0, 802.0, 0.0)
    assert last.origin[0] == pytest.approx(802.0)
    # A stump 6 m ahead of where the boat was first is 4 m ahead now, and where it was in the plane.
    assert last.project(503.0, 806.0, 3.0) == (pytest.approx(806.0), 3.0)
    assert last.from_boat(last.project(503.0, 806.0, 3.0))[0] == pytest.approx(4.0)
