"""Beside: how a track and the likeliest fish next to it are heard. Two fish are heard together, apart and each on its own way; one fish with two tracks is not."""

import math
from collections.abc import Sequence

import numpy as np

from mudlamp.core.arrays import FloatArray
from mudlamp.core.plane import GroundPlane
from mudlamp.core.tracking.track import TOGETHER, Track

# Of the likeliest fish beside: its lead, where it lies [m], across the beams in widths of one, how much older it is [s]; how both were
# heard lately; for how long each had no echo of its own [s].
BESIDE = (
    "beside_lead",
    "beside_ahead_m",
    "beside_down_m",
    "beside_beams",
    "beside_older_s",
    *(f"beside_{name}" for name in TOGETHER),
    "own_silent_s",
    "beside_silent_s",
)
# No farther off [m] is beside; so far back [s] counts.
BESIDE_M, LATELY_S = 0.6, 2.0
# Nearer to the transducer than this [m] nothing has a width in beams.
_LEAST_RANGE_M = 0.1


def beside_of(
    due: Sequence[Track],
    everyone: Sequence[Track],
    gap: FloatArray,
    leads: FloatArray,
    *,
    plane: GroundPlane,
    beam_width_rad: float,
    time_s: float,
) -> FloatArray:
    """Return BESIDE (N, len(BESIDE)) of tracks by how far each lies from everyone (N, M) [m] and everyone's leads (M,).

    Not numbers where there is none within BESIDE_M. A lead of minus infinity is of who was never told.
    """
    found = np.full((len(due), len(BESIDE)), np.nan)
    likeliest = np.where(gap < BESIDE_M, leads, -np.inf)
    for row, track, who in zip(range(len(due)), due, likeliest.argmax(axis=1).tolist(), strict=True):
        if likeliest[row, who] == -np.inf:
            continue
        other = everyone[who]
        ahead, down = other.state[0] - track.state[0], other.state[1] - track.state[1]
        out, deep = track.state[0] - plane.origin[0], track.state[1] - plane.origin[1]
        range_m = max(math.hypot(out, deep), _LEAST_RANGE_M)
        across = abs(down * out - ahead * deep) / range_m
        found[row] = (
            other.lead,
            ahead,
            down,
            across / (range_m * beam_width_rad),
            track.born_s - other.born_s,
            *track.fixes.together(other.fixes, since_s=time_s - LATELY_S),
            time_s - track.own_s,
            time_s - other.own_s,
        )
    return found
