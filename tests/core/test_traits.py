"""What tracks are told apart by: the extents of an echo, what tracks share with those about them, the sway of the boat."""

import math
from dataclasses import replace

import numpy as np
import pytest

from mudlamp.core.ping import Fan, Pose
from mudlamp.core.plane import FanPlane, GroundPlane
from mudlamp.core.tracking.detect import _extents
from mudlamp.core.tracking.motion import note_motion
from mudlamp.core.tracking.roster import STEPS
from mudlamp.core.tracking.sway import Sway
from mudlamp.core.tracking.traits import ABOUT, _neighbors, _ways, gaps_to
from tests.core.tracks import a_track, together


def test_an_echo_s_extents_are_those_of_the_line_that_it_is(pear_pings):
    ping = pear_pings[0][0]
    plane, sonar = GroundPlane.of(ping), ping.setup
    rng = np.random.default_rng(2)
    # A level line 0.4 m long, seen from aslant: its points in range and angle.
    middle, angle = np.array([6.0]), np.array([0.1])
    center = np.array(plane.directions(angle)).ravel() * middle
    points = center + np.column_stack((rng.uniform(-0.2, 0.2, 4000), np.zeros(4000)))
    grid = np.linspace(-0.5, 0.5, 20001)
    around = np.stack(plane.directions(grid), axis=1)
    ranges = np.linalg.norm(points, axis=1)
    angles = np.array([grid[np.argmax(around @ (point / np.linalg.norm(point)))] for point in points])
    across = (angles - angle) * middle
    spread = np.cov(ranges, across)
    wide, tall = _extents(plane, sonar, angle, spread[:1, 0], spread[1:, 1], spread[0, 1:])[0]
    assert wide == pytest.approx(0.4, rel=0.05)
    assert tall < 0.05


def moved(number, place, *, level=-40.0, shift=(0.0, 0.0)):
    track = a_track(number, place, level_db=level)
    track.means[0] = level
    track.shift_m, track.steps = shift, [1.0] * len(STEPS)
    return track


def test_a_fish_that_moves_against_its_tree_stands_out_from_it():
    # Limbs that all seem to drift one way, as by an error of the heading, and a fish that goes the other.
    limbs = [moved(n, (8.0 + 0.5 * n, 3.0), level=-30.0, shift=(0.3, 0.0)) for n in range(4)]
    fish = moved(9, (8.7, 3.2), level=-42.0, shift=(-0.1, 0.0))
    far = moved(10, (20.0, 3.0))
    everyone = together(*limbs, fish, far)
    nearest, louder, near, apart, *rest = _neighbors(everyone.roster, everyone.rows, everyone.rows, gaps_to(everyone, everyone))
    about, shifts = rest[: len(ABOUT)], rest[len(ABOUT) :]
    assert nearest[4] == pytest.approx(math.hypot(0.2, 0.2))
    assert (louder[4], near[4]) == (pytest.approx(12.0), 4)
    assert about[0][4] == pytest.approx(12.0)
    assert shifts[0][4] == pytest.approx(0.4)
    assert shifts[0][0] == pytest.approx(0.1)
    assert np.isnan(about[0][5])
    assert np.isnan(shifts[0][5])
    assert np.isnan(apart[5])


def test_sway_is_that_of_the_pose(pear_pings):
    ping = pear_pings[0][0]
    sway = Sway()
    for n in range(90):
        pose = replace(ping.pose, heading_rad=0.02 * n, x_m=0.05 * n)
        moved = replace(ping, pose=pose, time_s=n / 15.0)
        sway.look_at(GroundPlane.of(moved), moved)
    assert sway.swing_rad_s == pytest.approx(0.3, rel=0.02)
    assert sway.glide_m_s > 0.05


@pytest.mark.parametrize(("fan", "falls"), [(Fan.AHEAD, 0.2), (Fan.FLAT, np.nan)])
def test_a_lure_on_a_tight_line_comes_straight_toward_the_boat(fan, falls):
    pose = Pose(x_m=2.0, y_m=1.0, z_m=0.0, heading_rad=0.0, tilt_rad=1.0, pitch_rad=0.0, roll_rad=0.0)
    plane = GroundPlane(FanPlane(fan=fan, tilt_rad=1.0, depth_m=0.0), pose)
    out = np.array((6.0, 8.0))
    track = a_track(1, tuple(out + plane.origin))
    for n in range(40):
        track.fixes.add(0.1 * n, tuple(out + plane.origin + 0.1 * n * np.array((-0.3, 0.2))), -50.0)
    rows = together(track).rows
    note_motion(track.roster, rows, 3.9)
    found = _ways(track.roster, rows, plane)
    # Along (0.6, 0.8) it comes nearer by 0.6 x 0.3 and goes off by 0.8 x 0.2.
    assert found[0] == pytest.approx([0.02, falls, 0.0] * 2, abs=1e-9, nan_ok=True)
