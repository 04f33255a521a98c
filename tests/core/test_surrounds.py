"""What runs on from an echo: lines, single blobs, rims, by hand and against the kernel's own Python."""

import numpy as np
import pytest

from mudlamp.core.tracking import _kernels_surrounds
from mudlamp.core.tracking.clutter import RUNS, ClutterMap

STEPS_M = np.array([0.25, 0.5, 0.85])
CELL_M = 0.05
SILENT_DB = -30.0
ROWS = {name: number for number, name in enumerate(RUNS)}


def looked_at(grid, places, *, look_rad=0.0, is_power=True, kernel=_kernels_surrounds.surrounds, ways=16):
    out = np.empty((len(places), 6))
    row, column = np.array(places, dtype=float).T
    count = len(places)
    kernel(
        grid, is_power, row, column, np.full(count, look_rad), np.full(count, CELL_M), CELL_M, 0.05, STEPS_M, SILENT_DB,
        np.empty((2, ways)), out,
    )  # fmt: skip
    return out


def drawn(width=60, height=60):
    return np.full((width, height), 1e-6, np.float32)


def test_a_line_runs_through_and_a_fish_off_it_does_not():
    grid = drawn()
    grid[:, 40] = 0.01
    grid[30, 12:15] = 0.01
    on_line, fish = looked_at(grid, [(30, 40), (30, 13)])
    assert on_line[ROWS["runs_far_through_db"]] == on_line[ROWS["runs_one_way_db"]] == pytest.approx(0.0)
    # Columns run plumb: a line along the rows lies level.
    assert on_line[ROWS["runs_level_db"]] == pytest.approx(0.0)
    assert on_line[ROWS["runs_upright_db"]] == SILENT_DB
    assert fish[:3] == pytest.approx([SILENT_DB] * 3)
    assert fish[ROWS["all_ways_db"]] == pytest.approx(SILENT_DB)


def test_a_lines_end_runs_on_one_way_alone():
    grid = drawn()
    grid[30, 30:] = 0.02
    grid[30, 50:] = 0.001
    (end,) = looked_at(grid, [(30, 30)])
    assert end[ROWS["runs_through_db"]] == SILENT_DB
    assert end[ROWS["runs_one_way_db"]] == pytest.approx(0.0)
    (end,) = looked_at(grid, [(30, 40)])
    # As loud as its weakest step, which is 13 dB down where the line is faint.
    assert end[ROWS["runs_one_way_db"]] == pytest.approx(-13.01, abs=0.01)
    assert end[ROWS["runs_far_through_db"]] == SILENT_DB


def test_upright_is_upright_wherever_the_range_runs():
    grid = drawn()
    grid[30, :] = 0.01
    (plumb,) = looked_at(grid, [(30, 30)])
    (aside,) = looked_at(grid, [(30, 30)], look_rad=np.pi / 2)
    assert plumb[ROWS["runs_upright_db"]] == aside[ROWS["runs_level_db"]] == pytest.approx(0.0)
    assert plumb[ROWS["runs_level_db"]] == aside[ROWS["runs_upright_db"]] == SILENT_DB


def test_beyond_the_rim_all_is_silent_and_of_the_unheard_nothing_is_known():
    grid = drawn()
    grid[:, :] = 0.01
    middle, corner, outside = looked_at(grid, [(30, 30), (0, 0), (90, 30)])
    assert middle == pytest.approx(np.zeros(6))
    assert corner[ROWS["runs_through_db"]] == SILENT_DB
    assert corner[ROWS["runs_one_way_db"]] == pytest.approx(0.0)
    assert np.isnan(outside).all()
    levels = np.full((60, 60), np.nan)
    levels[20:40, 30] = -40.0
    known, unknown = looked_at(levels, [(30, 30), (30, 50)], is_power=False)
    assert known[ROWS["runs_through_db"]] == pytest.approx(0.0)
    assert np.isnan(unknown).all()
    assert np.isnan(ClutterMap().runs_db(np.zeros((2, 2)))).all()


def test_the_kernel_is_its_own_python():
    rng = np.random.default_rng(8)
    grid = rng.exponential(1.0, (40, 50)).astype(np.float32)
    places = rng.uniform(-3.0, 45.0, (12, 2))
    slow = looked_at(grid, places, look_rad=0.4, kernel=_kernels_surrounds.surrounds.py_func)
    np.testing.assert_allclose(looked_at(grid, places, look_rad=0.4), slow, rtol=1e-6, atol=1e-9)
