"""A boat that drifts on and on: what is known of the ground goes along."""

import json
from dataclasses import replace

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from mudlamp.core.tracking.clutter import slid
from mudlamp.core.tracking.tracker import Tracker
from mudlamp.formats.learned import shipped
from mudlamp.formats.scene.file import parse_scene
from mudlamp.heads.simulated import SimulatedHead


@given(st.integers(-12, 12), st.integers(0, 1))
def test_a_slid_grid_is_the_one_before_moved_by_whole_cells(cells, axis):
    grid = np.arange(48.0).reshape(8, 6)
    found = slid(grid, cells, axis, -1.0)
    # Brute force, cell by cell.
    for place in np.ndindex(grid.shape):
        before = list(place)
        before[axis] += cells
        inside = 0 <= before[axis] < grid.shape[axis]
        assert found[place] == (grid[tuple(before)] if inside else -1.0)


@pytest.mark.parametrize("fan", ["ahead", "flat"])
def test_after_sixty_meters_the_ground_about_the_boat_is_known_as_at_the_start(fan):
    scene = {"name": "drift", "bottom": {"kind": "gravel", "depth_m": 5.0}, "boat": {"speed_m_s": 0.8}, "transducer": {"fan": fan}}
    head, tracker = SimulatedHead(parse_scene(json.dumps(scene)), seed=921), Tracker(shipped())
    known, depths = [], []
    for number in range(375):
        tracker.update(head.listen(number / 5.0))
        if tracker.plane is None or number % 75 != 74:
            continue
        ahead, other = tracker.plane.origin
        place = (ahead, other + 6.0) if fan == "flat" else (ahead + 6.0, 3.0)
        known.append(bool(np.isfinite(tracker.clutter.levels_db(np.array([place]))).all()))
        depths.append(tracker.detector.bottom.depth_m(ahead + 6.0))
    assert all(known), known
    if fan == "ahead":
        assert depths == [pytest.approx(5.0, abs=0.4)] * len(depths)


def moved(scene, east_m, north_m):
    """The same water elsewhere in the world's frame."""

    def there(part):
        pocket = {"pocket_x_m": part.pocket_x_m + east_m, "pocket_y_m": part.pocket_y_m + north_m} if hasattr(part, "pocket_x_m") else {}
        return replace(part, x_m=part.x_m + east_m, y_m=part.y_m + north_m, **pocket)

    bottom = scene.bottom
    bottom = replace(
        bottom,
        depth_m=bottom.depth_m - bottom.slope_east * east_m - bottom.slope_north * north_m,
        features=tuple(there(one) for one in bottom.features),
        patches=tuple(there(one) for one in bottom.patches),
    )
    parts = {name: tuple(there(one) for one in getattr(scene, name)) for name in ("cover", "fish", "bait", "insects")}
    return replace(scene, bottom=bottom, boat=there(scene.boat), **parts)


def test_fish_do_the_same_on_the_same_water_elsewhere(pear_tree):
    found = []
    for scene in (pear_tree, moved(pear_tree, 150.0, -220.0)):
        head, events = SimulatedHead(scene, seed=12), []
        for number in range(240):
            head.listen(number / 15.0)
            events += [(round(one.time_s, 1), one.fish, one.token) for one in head.truth()[1]]
        found.append(events)
    assert found[0] == found[1]
    assert len(found[0]) > 4
