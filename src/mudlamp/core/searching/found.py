"""Whether a school was found: shown against its surround in three columns of an open view."""

import math
from dataclasses import dataclass

import numpy as np

from mudlamp.core.arrays import FloatArray
from mudlamp.core.receiver.inks import SHOWN_LIGHTNESS, ink_lightness
from mudlamp.core.sonar.console import Keel, Shape

COLUMNS = 3
# The surround: so many cells to either side of the school's own [cells].
AROUND = 30
GUARD = 3
# A mark spans so many cells; the surround is as bright as this share of it at most.
CLUMP = 3
BRIGHT = 0.98


@dataclass(frozen=True, slots=True, kw_only=True)
class SchoolCells:
    """Which range cells of a beam a school lies in: first and last."""

    first: int
    last: int


def cells_of(places_m: FloatArray, keel: Keel, shape: Shape, half_along_rad: float, bin_m: float, bins: int) -> SchoolCells | None:
    """Return the cells in which a beam could show the fish at (N, 3) places [m]; None where none of them is in the beam."""
    offset = places_m - keel.origin_m
    r = np.linalg.norm(offset, axis=1)
    along = offset[:, 0] * math.sin(keel.heading_rad) + offset[:, 1] * math.cos(keel.heading_rad)
    aside = offset[:, 0] * math.cos(keel.heading_rad) - offset[:, 1] * math.sin(keel.heading_rad)
    if shape.is_round:
        lit = np.hypot(along, aside) < r * math.sin(half_along_rad)
    else:
        off = np.arctan2(aside, offset[:, 2]) - shape.toward_rad
        lit = (np.abs(along) < r * math.sin(half_along_rad)) & (np.abs(off) < 0.75 * shape.across_rad)
    lit &= r < bins * bin_m
    if not np.any(lit):
        return None
    cells = (r[lit] / bin_m).astype(np.int64)
    return SchoolCells(first=int(cells.min()), last=int(cells.max()))


def is_shown(brightness: FloatArray, cells: SchoolCells, ink: str) -> bool:
    """Return whether the brightest of a school's cells in a column (range_bin,), 0 to 255, stands out from the cells about it by CIE L* 10."""
    lightness = ink_lightness(ink)
    # A mark is a few cells large: a lone speckle is none.
    smooth = np.convolve(brightness, np.ones(CLUMP) / CLUMP, mode="same")
    own = smooth[max(cells.first - 1, 0) : cells.last + 2]
    near = smooth[max(cells.first - GUARD - AROUND, 0) : max(cells.first - GUARD, 0)]
    far = smooth[cells.last + GUARD + 1 : cells.last + GUARD + 1 + AROUND]
    around = np.concatenate((near, far))
    if not len(own) or not len(around):
        return False
    # Its surround as the eye takes it: the brighter of what lies about it.
    ground, peak = float(np.quantile(around, BRIGHT)), float(np.max(own))
    return bool(peak > ground and abs(lightness[int(peak)] - lightness[int(ground)]) >= SHOWN_LIGHTNESS)
