"""The fan's plane: its inverse, the world it stands in, and the page and the saved picture that are drawn in it."""

import json
import math
import os
import subprocess
from pathlib import Path

import numpy as np
import pytest
from hypothesis import assume, given, settings
from hypothesis import strategies as st

from mudlamp.core.ping import Fan, Ping, Pose, SonarSetup
from mudlamp.core.plane import FanPlane, GroundPlane, cells_of
from mudlamp.core.setup import ReceiverSetup, Setup, Window
from mudlamp.core.sonar.transducer import axes
from mudlamp.services.recordings.picture import Shown, true_shape
from tools.front_end import node_bin

JS_TEST = Path(__file__).resolve().parents[1] / "web" / "plane.test.mjs"
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


def test_the_pages_two_functions_are_pythons(tmp_path):
    rng = np.random.default_rng(5)
    cases = []
    for fan in Fan:
        for _ in range(150):
            plane = plane_of(fan, rng.uniform(), depth_m=rng.uniform(0.2, 2.0))
            range_m, angle = rng.uniform(0.3, 40.0), rng.uniform(-HALF_RAD, HALF_RAD)
            ahead, other = plane.place(np.array(range_m), np.array(angle))
            told = {"fan": fan.value, "tilt_rad": plane.tilt_rad, "depth_m": plane.depth_m}
            cases.append({"plane": told, "range": range_m, "angle": angle, "ahead": float(ahead), "other": float(other)})
    table = tmp_path / "cases.json"
    table.write_text(json.dumps(cases))
    done = subprocess.run(
        [str(node_bin() / "node"), "--test", str(JS_TEST)],
        env=os.environ | {"PLANE_CASES": str(table)},
        capture_output=True,
        text=True,
        check=False,
    )
    assert done.returncode == 0, done.stdout[-2000:]
    assert "# pass 3" in done.stdout


def ping_with_one_bright_cell(fan, tilt_rad, beam, cell):
    setup = SonarSetup(
        fan=fan,
        beam_angle_rad=np.linspace(-HALF_RAD, HALF_RAD, 120),
        range_m=(np.arange(300) + 0.5) * 0.1,
        carrier_hz=9e5,
        pulse_s=5e-5,
        source_level_db=210.0,
        absorption_db_m=0.1,
        sound_speed_m_s=1470.0,
        thickness_rad=0.3,
    )
    pose = Pose(x_m=0.0, y_m=0.0, z_m=0.4, heading_rad=0.0, pitch_rad=0.0, roll_rad=0.0, tilt_rad=tilt_rad)
    picture = np.zeros((120, 300), np.uint8)
    picture[beam, cell] = 255
    level = np.full((120, 300), -150.0, np.float32)
    return Ping(number=0, time_s=0.0, pose=pose, setup=setup, echo_level_db=level), picture


@settings(max_examples=40, deadline=None)
@given(FANS, st.floats(0, 1), st.integers(20, 100), st.integers(60, 180))
def test_a_saved_picture_puts_a_cell_where_the_plane_says(fan, share, beam, cell):
    plane = plane_of(fan, share)
    ping, picture = ping_with_one_bright_cell(fan, plane.tilt_rad, beam, cell)
    assert cells_of(ping.setup, ping.setup.range_m[cell], ping.setup.beam_angle_rad[beam]) == (beam, cell)
    window = Window(down_to_m=25.0, reach_m=25.0, look_back_m=5.0)
    ahead, other = plane.place(ping.setup.range_m[cell], ping.setup.beam_angle_rad[beam])
    assume(-4.5 < ahead < 24.5 and (plane.is_flat or 0.5 < other < 24.5))
    colors = true_shape(Shown(ping=ping, picture=picture, setup=Setup(receiver=ReceiverSetup(), window=window)))
    lit = np.argwhere(np.any(colors != colors[0, 0], axis=2))
    scale = colors.shape[1] / 30.0
    assert lit.size
    down, across = lit.mean(axis=0) + 0.5
    # Half a cell along the range or across the beam is the most that it may be off.
    slack = 0.05 + 0.5 * ping.setup.range_m[cell] * ping.setup.beam_step_rad
    assert across / scale - 5.0 == pytest.approx(ahead, abs=slack)
    assert down / scale - (25.0 if plane.is_flat else 0.0) == pytest.approx(other, abs=slack)
