"""How large a mark looks in a picture: which is not how large it is."""

import math

import numpy as np
from scipy.ndimage import label

from mudlamp.core.arrays import ByteArray

# A mark reaches as far as it is at least so bright by its brightest, joined up.
HALF = 0.5
# What is left of a look along the track once the beam is taken out is at least this share of it.
LEAST_LEFT = 0.2


def extent_of(brightness: ByteArray, row: int, column: int) -> tuple[int, int] | None:
    """Return over how many rows and columns the mark at a place of a picture (row, column), 0 to 255, reaches.

    None where nothing is drawn there, or where it runs on to the picture's edge: ground or a bottom line is no mark by itself. The mark is what is joined to the brightest of the nearest cells at half its brightness.
    """
    rows, columns = brightness.shape
    if not (0 <= row < rows and 0 <= column < columns):
        return None
    low_r, low_c = max(row - 2, 0), max(column - 2, 0)
    near = brightness[low_r : row + 3, low_c : column + 3]
    peak = int(near.max())
    if peak == 0:
        return None
    at = np.unravel_index(int(np.argmax(near)), near.shape)
    parts, _ = label(brightness >= HALF * peak, structure=np.ones((3, 3)))
    own = parts == parts[low_r + int(at[0]), low_c + int(at[1])]
    across = np.flatnonzero(own.any(axis=0))
    along = np.flatnonzero(own.any(axis=1))
    if across[0] == 0 or along[0] == 0 or across[-1] == columns - 1 or along[-1] == rows - 1:
        return None
    return int(along[-1] - along[0] + 1), int(across[-1] - across[0] + 1)


def by_reference(look_m: float, smear_m: float, reference_m: float, reference_smear_m: float, true_m: float) -> float:
    """Return how long something is along the track [m], by a thing of a known length [m] in the same view.

    `look_m` and `reference_m` are how long both look there, each drawn out by the beam at its own range (`smear_m`), which is taken out first:
    lengths and the beam's width add as squares do (Gaussian shapes, from memory).
    """

    def own(look: float, smear: float) -> float:
        return math.sqrt(max(look**2 - smear**2, (LEAST_LEFT * look) ** 2))

    return true_m * own(look_m, smear_m) / max(own(reference_m, reference_smear_m), 1e-6)
