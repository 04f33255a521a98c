"""Kernels of context: what a track's neighbors, and what was lost at its place, were taken for."""

import math

import numpy as np
from numba import njit


@njit(cache=True, nogil=True)
def among(places, lean, asked, within_m, out):
    """Write of those asked (M,) of places (N, 2) the mean, the most and the least lean (N,) of the others within each distance (Q,): out (M, 3 Q)."""
    for m in range(len(asked)):
        one = asked[m]
        for q in range(len(within_m)):
            count = 0
            total = 0.0
            most, least = -np.inf, np.inf
            for n in range(len(places)):
                if n == one:
                    continue
                across, down = places[n, 0] - places[one, 0], places[n, 1] - places[one, 1]
                if across * across + down * down < within_m[q] * within_m[q]:
                    count += 1
                    total += lean[n]
                    most, least = max(most, lean[n]), min(least, lean[n])
            out[m, 3 * q] = total / count if count else np.nan
            out[m, 3 * q + 1] = most if count else np.nan
            out[m, 3 * q + 2] = least if count else np.nan


@njit(cache=True, nogil=True)
def before(places, asked, lost, here_m, about_m, least_s, out):
    """Write of those asked (M,) of places (N, 2) what was lost there: out (M, 3).

    `lost` (L, 5) is place, lean, for how long it was followed [s], when. Columns of `out`: the mean lean, by how near (a Gaussian of spread
    `here_m`) and how long, where that makes `least_s` in all; the log of that sum and a tenth; the mean lean within `about_m`, by how long.
    """
    for m in range(len(asked)):
        here_s = about_s = here = about = 0.0
        for n in range(len(lost)):
            across, down = lost[n, 0] - places[asked[m], 0], lost[n, 1] - places[asked[m], 1]
            gap2 = across * across + down * down
            near = math.exp(-0.5 * gap2 / (here_m * here_m)) * lost[n, 3] if gap2 < 36.0 * here_m * here_m else 0.0
            here_s += near
            here += near * lost[n, 2]
            if gap2 < about_m * about_m:
                about_s += lost[n, 3]
                about += lost[n, 3] * lost[n, 2]
        out[m, 0] = here / here_s if here_s > least_s else np.nan
        out[m, 1] = math.log(here_s + 0.1)
        out[m, 2] = about / about_s if about_s > least_s else np.nan
