"""A chart of one's own: depths at scattered places made into a grid, and bands of depth between contours."""

import itertools
from collections.abc import Sequence
from dataclasses import dataclass
from typing import cast

import contourpy
import numpy as np
from scipy.interpolate import LinearNDInterpolator
from scipy.spatial import QhullError

from mudlamp.core.arrays import FloatArray, IntArray
from mudlamp.core.errors import DomainError

# The grid has so many cells along its longer side.
CELLS = 160
LEAST_SOUNDINGS = 4
Ring = list[tuple[float, float]]


@dataclass(frozen=True, slots=True, kw_only=True)
class DepthGrid:
    """Depths (north, east) [m] at nodes east (E,) and north (N,) [m]; NaN where nobody sounded."""

    east_m: FloatArray
    north_m: FloatArray
    depth_m: FloatArray


def grid_of(places_m: FloatArray, depths_m: FloatArray) -> DepthGrid:
    """Return a grid of depths from soundings (N, 2) east and north [m] and their depths (N,) [m]: linear between them, unknown outside their hull.

    Raises DomainError for too few, or such that lie on one line. Source: Delaunay triangulation (SciPy's Qhull).
    """
    if len(places_m) < LEAST_SOUNDINGS:
        raise DomainError(f"the file has {len(places_m)} depths: it must have at least {LEAST_SOUNDINGS}")
    low, high = places_m.min(axis=0), places_m.max(axis=0)
    step = float(max(high - low)) / CELLS
    if step <= 0.0:
        raise DomainError("all depths are at one place: they must be spread over the water")
    try:
        surface = LinearNDInterpolator(places_m, depths_m)
    except (QhullError, ValueError):
        raise DomainError("the depths lie on one line: they must be spread over the water") from None
    east = np.arange(low[0], high[0] + 0.5 * step, step)
    north = np.arange(low[1], high[1] + 0.5 * step, step)
    if len(east) < 2 or len(north) < 2:
        raise DomainError("the depths lie on one line: they must be spread over the water")
    xx, yy = np.meshgrid(east, north)
    return DepthGrid(east_m=east, north_m=north, depth_m=np.asarray(surface(xx, yy), dtype=np.float64))


def bands(grid: DepthGrid, levels_m: Sequence[float]) -> list[tuple[float, float, list[list[Ring]]]]:
    """Return the bands of depth between levels [m]: from, to, and polygons, each as its rings, the outer one first, at places [m]."""
    generator = contourpy.contour_generator(
        x=grid.east_m, y=grid.north_m, z=np.ma.masked_invalid(grid.depth_m), fill_type=contourpy.FillType.OuterOffset
    )
    found = []
    for low, high in itertools.pairwise(levels_m):
        outers, offsets = cast(tuple[list[FloatArray], list[IntArray]], generator.filled(low, high))
        polygons = []
        for points, cuts in zip(outers, offsets, strict=True):
            rings = [points[a:b] for a, b in itertools.pairwise(cuts)]
            polygons.append([[(float(x), float(y)) for x, y in ring] for ring in rings])
        if polygons:
            found.append((low, high, polygons))
    return found
