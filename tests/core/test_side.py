import json
import math
from dataclasses import replace

import numpy as np
import pytest

from mudlamp.core.plane import GroundPlane
from mudlamp.core.scene import world
from mudlamp.core.scene.boat import pose_at
from mudlamp.core.sonar.pattern import across_db
from mudlamp.core.tracking.side import SHORT_M, WINDOW_S, Side, side_of
from mudlamp.core.tracking.tracker import Tracker
from mudlamp.formats.learned import shipped
from mudlamp.formats.scene.file import parse_scene
from mudlamp.heads.simulated import SimulatedHead

THICKNESS = math.radians(18.0)
HZ = 15.0
AHEAD_M, DEEP_M = 8.0, 3.0


@pytest.mark.parametrize("across_m", [-0.9, -0.2, 0.0, 0.6])
def test_a_sweep_over_a_mark_without_noise_tells_its_side(across_m):
    turn = np.linspace(-0.2, 0.15, 40)
    bearing = math.asin(across_m / 8.0)
    level = -40.0 + across_db(bearing - turn, THICKNESS)
    found = side_of(turn, level, thickness_rad=THICKNESS, out_m=8.0, deep_m=0.0)
    assert found is not None
    assert found.across_m == pytest.approx(across_m, abs=1e-9)
    assert found.low_m < across_m < found.high_m


def test_without_a_sweep_or_under_the_boat_no_side_is_told():
    level = np.full(40, -40.0)
    assert side_of(np.full(40, 0.1), level, thickness_rad=THICKNESS, out_m=8.0, deep_m=2.0) is None
    turn = np.linspace(-0.2, 0.2, 40)
    assert side_of(turn[:5], level[:5], thickness_rad=THICKNESS, out_m=8.0, deep_m=2.0) is None
    assert side_of(turn, level, thickness_rad=THICKNESS, out_m=0.5, deep_m=6.0) is None


def test_a_side_is_known_where_its_interval_says_left_or_right_or_is_short():
    assert Side(across_m=0.8, low_m=0.1, high_m=2.0).known
    assert Side(across_m=0.1, low_m=-0.3, high_m=0.5).known
    assert not Side(across_m=0.3, low_m=-0.5, high_m=SHORT_M).known


def swung(boat, *, time_s, **more):
    there = pose_at(boat, time_s=time_s, **more)
    swing = 4.0 * abs((time_s * 20.0 / 80.0) % 1.0 - 0.5) - 1.0
    return replace(there, heading_rad=there.heading_rad + math.radians(20.0) * swing)


def swept(kind, seed):
    """Yield how far off the estimate is [m] and whether its interval holds the truth: one still target, the fan swung over it."""
    x = float(np.random.default_rng(seed).uniform(-1.2, 1.2))
    place = {"x_m": x, "y_m": AHEAD_M, "z_m": DEEP_M}
    scene = {"name": "swept", "bottom": {"depth_m": 6}, "water": {"temperature_degc": 20, "secchi_m": 3, "wind_m_s": 1}}
    scene |= {"boat": {"x_m": 0, "y_m": 0, "heading_deg": 0, "speed_m_s": 0}}
    scene |= {"transducer": {"profile": "demo", "fan": "ahead", "depth_m": 0.4, "reach_m": 14}}
    scene |= {"targets": [{"kind": "point", "ts_db": -42, **place}]} if kind == "point" else {"fish": [{"species": kind, **place}]}
    head, tracker = SimulatedHead(parse_scene(json.dumps(scene)), seed=seed), Tracker(shipped())
    for number in range(round(8.0 * HZ)):
        ping = head.listen(number / HZ)
        tracker.update(ping)
        plane = GroundPlane.of(ping)
        at = plane.origin[0] + AHEAD_M
        near = sorted((one for one in tracker.tracks if one.confirmed), key=lambda one: math.dist(one.place, (at, DEEP_M)))
        if number < 5.0 * HZ or number % 5 or not near or math.dist(near[0].place, (at, DEEP_M)) > 0.6:
            continue
        aim, level = near[0].fixes.sweep(since_s=ping.time_s - WINDOW_S)
        turn = aim - ping.pose.heading_rad
        found = side_of(
            turn, level, thickness_rad=ping.setup.thickness_rad, out_m=near[0].place[0] - plane.origin[0], deep_m=DEEP_M - ping.pose.z_m
        )
        if found is not None:
            there = head.world.fish[0].position_m if head.world.fish else (x, AHEAD_M)
            across = there[0] * math.cos(ping.pose.heading_rad) - there[1] * math.sin(ping.pose.heading_rad)
            yield abs(found.across_m - across), found.low_m <= across <= found.high_m


@pytest.mark.parametrize(("kind", "least_held"), [("point", 0.85), ("crappie", 0.7)])
def test_a_still_target_under_a_swinging_fan_is_found_within_a_foot(kind, least_held, monkeypatch):
    monkeypatch.setattr(world, "pose_at", swung)
    told = [one for seed in range(900, 904) for one in swept(kind, seed)]
    errors, held = np.array([error for error, _ in told]), np.array([inside for _, inside in told])
    assert len(told) > 25
    assert np.median(errors) < 0.3
    assert np.percentile(errors, 90) < 0.6
    assert held.mean() >= least_held
