"""Kernel of surrounds: whether what lies about an echo runs on from it, as wood does, or falls off on every side, as about a fish."""

import math

import numpy as np
from numba import njit


@njit(cache=True)
def _loudest_db(grid, is_power, row, column, half):
    """Return the loudest cell [dB] within a row and `half` columns of a place; minus infinity outside the grid, or where nothing is known."""
    rows, columns = grid.shape
    at_row, at_column = int(math.floor(row + 0.5)), int(math.floor(column + 0.5))
    if at_row < 0 or at_row >= rows or at_column < 0 or at_column >= columns:
        return -np.inf
    loudest = -np.inf
    for i in range(max(at_row - 1, 0), min(at_row + 2, rows)):
        for j in range(max(at_column - half, 0), min(at_column + half + 1, columns)):
            if grid[i, j] > loudest:
                loudest = grid[i, j]
    if is_power:
        return 10.0 * math.log10(max(loudest, 1e-30))
    return loudest


@njit(cache=True, nogil=True)
def surrounds(grid, is_power, row, column, look_rad, row_m, column_m, half_m, steps_m, least_db, rays, out):
    """Write of each place (N,) in a grid of power or of levels [dB] how loud what runs on from it is (N, 6) [dB against its own].

    Along each of `rays.shape[1]` directions (a multiple of eight) the grid is looked at `steps_m` (S,) off, as loud as it gets within
    `half_m` along columns and a row; a ray is as loud as its weakest step. Columns of `out`: the loudest pair of rays that lie opposite, of
    all steps but the last and of all; the loudest single ray; all rays' mean; the loudest pair that stands upright, and that lies level,
    where columns run `look_rad` (N,) off plumb. Rays that leave the grid are silent. `rays` (2, ways) is scratch; nothing is under `least_db`,
    and where nothing is known of the place itself nothing is a number.
    """
    half = int(half_m / column_m + 0.5)
    count = len(steps_m)
    ways = rays.shape[1]
    for n in range(len(row)):
        peak = _loudest_db(grid, is_power, row[n], column[n], half)
        if peak == -np.inf:
            out[n, :] = np.nan
            continue
        for way in range(ways):
            turn = 2.0 * math.pi * way / ways + look_rad[n]
            weakest = np.inf
            for s in range(count):
                off = _loudest_db(
                    grid,
                    is_power,
                    row[n] + steps_m[s] * math.sin(turn) / row_m[n],
                    column[n] + steps_m[s] * math.cos(turn) / column_m,
                    half,
                )
                weakest = min(weakest, max(off - peak, least_db))
                if s == count - 2:
                    rays[0, way] = weakest
            rays[1, way] = weakest
        near = far = single = upright = level = least_db
        total = 0.0
        for way in range(ways):
            opposite = (way + ways // 2) % ways
            near = max(near, min(rays[0, way], rays[0, opposite]))
            pair = min(rays[1, way], rays[1, opposite])
            far = max(far, pair)
            if 8 * min(way, ways - way) <= ways:
                upright = max(upright, pair)
            if 8 * abs(4 * way - ways) <= 4 * ways:
                level = max(level, pair)
            single = max(single, rays[1, way])
            total += rays[1, way]
        out[n, 0] = near
        out[n, 1] = far
        out[n, 2] = single
        out[n, 3] = total / ways
        out[n, 4] = upright
        out[n, 5] = level
