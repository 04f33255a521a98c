"""The 3-D view: narrow beams across the track become points, the bottom's and those of what swims over it."""

import math

import numpy as np
from scipy.ndimage import median_filter

from mudlamp.core.arrays import Float32Array, FloatArray, IntArray
from mudlamp.core.receiver.law import tvg_db
from mudlamp.core.searching.boat import Standing
from mudlamp.core.sonar.console import ConsoleView

# A point is x, y and depth [m], its level [dB re 1 m^2], and what it is.
FIELDS = 5
BOTTOM, ABOVE = 0.0, 1.0
NEAREST_M = 0.9
# A beam whose strongest echo is shallower than so much of what this many beams about it say heard something over the bottom.
SHALLOWER, NEIGHBORS = 0.8, 9
# What swims must stand over the bottom by so much of its range (a slanting beam's skirt hears the bottom as much sooner), over what else is in its beam by so much [dB], and over this level [dB re 1 m^2].
OFF_BOTTOM = 0.15
OVER_DB = 16.0
FAINTEST_DB = -58.0
# Of one beam no more than so many are kept, so far apart [cells].
MOST_A_BEAM = 4
APART = 12


def points_of(levels_db: Float32Array, view: ConsoleView, at: Standing) -> FloatArray:
    """Return the points (N, 5) of one ping of a fan of beams (beam, range_bin) [dB], by where the boat was told to be.

    The bottom is each beam's strongest echo, spreading by range taken out but for an area's; what stands out above it is what swims, or cover.
    """
    lifted = levels_db + tvg_db(view.range_m, view.absorption_db_m)
    first = int(NEAREST_M / view.bin_m)
    bottoms = _bottoms(lifted - 10.0 * np.log10(view.range_m), view, first)
    found = []
    for beam, shape in enumerate(view.profile.shapes):
        row, bottom = lifted[beam], int(bottoms[beam])
        found.append(_placed(at, shape.toward_rad, float(view.range_m[bottom]), float(row[bottom]), BOTTOM))
        last = int(bottom * (1.0 - OFF_BOTTOM)) - 2
        for cell in _standing_out(row[first:last]):
            found.append(_placed(at, shape.toward_rad, float(view.range_m[first + cell]), float(row[first + cell]), ABOVE))
    return np.array(found, dtype=np.float64).reshape(-1, FIELDS)


def _bottoms(levels: FloatArray, view: ConsoleView, first: int) -> IntArray:
    """Return each beam's cell of the bottom (beam,): its strongest, unless its neighbors agree that the bottom lies deeper."""
    down = np.cos([shape.toward_rad for shape in view.profile.shapes])
    strongest = first + np.argmax(levels[:, first:], axis=1)
    depth = median_filter(view.range_m[strongest] * down, size=NEIGHBORS, mode="nearest")
    found = strongest.copy()
    for beam in np.flatnonzero(view.range_m[strongest] * down < SHALLOWER * depth):
        least = min(int(SHALLOWER * depth[beam] / down[beam] / view.bin_m), levels.shape[1] - 1)
        found[beam] = least + int(np.argmax(levels[beam, least:]))
    return np.asarray(found, dtype=np.int64)


def _standing_out(row: FloatArray) -> list[int]:
    """Return the cells that stand out from the rest of a beam's water, strongest first."""
    if len(row) < 2 * APART:
        return []
    least = max(float(np.median(row)) + OVER_DB, FAINTEST_DB)
    picked: list[int] = []
    for cell in np.argsort(row)[::-1]:
        if row[cell] < least or len(picked) == MOST_A_BEAM:
            break
        if all(abs(int(cell) - one) > APART for one in picked):
            picked.append(int(cell))
    return picked


def _placed(at: Standing, toward_rad: float, range_m: float, level_db: float, kind: float) -> tuple[float, ...]:
    x, y, z = at.transducer_m
    aside = range_m * math.sin(toward_rad)
    east, north = math.cos(at.heading_rad), -math.sin(at.heading_rad)
    return (x + aside * east, y + aside * north, z + range_m * math.cos(toward_rad), level_db, kind)
