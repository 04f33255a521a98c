"""Marks on the live picture and spots: there and back, whatever way the boat lies; what is across is doubt."""

import datetime as dt
import math
import uuid

import numpy as np
import pytest

from mudlamp.core.ping import Pose
from mudlamp.core.records.spots import Spot
from mudlamp.core.searching.boat import FIX_SIGMA_M
from mudlamp.core.searching.pictured import in_fan, pictured

NOW = dt.datetime(2026, 11, 1, 12, 0, tzinfo=dt.UTC)


def spot_at(found=None, *, x_m=0.0, y_m=0.0, note="", owner=None, water="scene-pear-tree"):
    """A spot at a place, or at that of a mark on the picture."""
    fix = FIX_SIGMA_M**2
    place = {"x_m": x_m, "y_m": y_m, "xx_m2": fix, "xy_m2": 0.0, "yy_m2": fix}
    if found is not None:
        place = {name: getattr(found, name) for name in (*place, "bearing_rad", "away_m")}
    return Spot(
        id=uuid.uuid4(),
        owner=owner,
        water=water,
        kind="brush",
        note=note,
        depth_m=4.0,
        looks=1,
        source="simulated",
        created_at=NOW,
        **place,
    )


def pose(x, y, heading):
    return Pose(x_m=x, y_m=y, z_m=0.5, heading_rad=heading, pitch_rad=0.0, roll_rad=0.0, tilt_rad=1.2)


@pytest.mark.parametrize("seed", range(990, 998))
def test_a_mark_that_was_kept_stands_where_it_was_tapped_and_where_it_lies_when_the_boat_has_moved(seed):
    rng = np.random.default_rng(seed)
    at = pose(*rng.uniform(-50, 50, 2), rng.uniform(-4, 4))
    ahead, across = rng.uniform(3, 25), rng.uniform(-0.5, 0.5)
    found = pictured(at, ahead_m=ahead, across_m=across, is_flat=False, thickness_rad=math.radians(18))
    spot = spot_at(found)
    (again,) = in_fan([spot], at, is_flat=False, thickness_rad=math.radians(18), reach_m=30.0, back_m=0.6)
    assert (again.ahead_m, again.across_m) == pytest.approx((ahead, across), abs=1e-9)
    # Across it is known as well as the fan is narrow there: even odds over its width (a uniform's variance), and the boat's own fix.
    half = ahead * math.tan(math.radians(9))
    assert again.doubt_m == pytest.approx(math.hypot(FIX_SIGMA_M, half / math.sqrt(3)), rel=1e-6)
    # Bearing and distance by the compass: a plain rotation.
    assert found.bearing_rad == pytest.approx((at.heading_rad + math.atan2(across, ahead)) % (2 * math.pi), abs=1e-9)
    assert found.away_m == pytest.approx(math.hypot(ahead, across))
    # From the other side of it, looking back: as far ahead as it is behind now.
    beyond = pose(
        at.x_m + (ahead + 7.0) * math.sin(at.heading_rad), at.y_m + (ahead + 7.0) * math.cos(at.heading_rad), at.heading_rad + math.pi
    )
    (back,) = in_fan([spot], beyond, is_flat=False, thickness_rad=math.radians(18), reach_m=30.0, back_m=0.6)
    assert (back.ahead_m, back.across_m) == pytest.approx((7.0, -across), abs=1e-6)


def test_the_fan_looks_at_what_may_lie_in_it_and_at_nothing_behind_it():
    north = pose(0.0, 0.0, 0.0)
    places = {"ahead": (0.2, 15.0), "behind": (0.0, -5.0), "far": (0.0, 40.0), "aside": (9.0, 15.0), "at the edge": (2.9, 15.0)}
    spots = [spot_at(x_m=x, y_m=y, note=name) for name, (x, y) in places.items()]
    look = {"thickness_rad": math.radians(18), "reach_m": 30.0, "back_m": 0.6}
    assert [one.spot.note for one in in_fan(spots, north, is_flat=False, **look)] == ["ahead", "at the edge"]
    assert [one.spot.note for one in in_fan(spots, north, is_flat=True, **look)] == ["ahead", "at the edge", "aside"]
    flat = pictured(north, ahead_m=10.0, across_m=6.0, is_flat=True, thickness_rad=math.radians(18))
    assert (flat.x_m, flat.y_m, flat.xx_m2, flat.xy_m2) == pytest.approx((6.0, 10.0, FIX_SIGMA_M**2, 0.0))
