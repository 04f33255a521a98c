"""Beside: how a track and the likeliest fish next to it are heard. Two fish are heard together, apart and each on its own way; one fish with two tracks is not."""

import numpy as np

from mudlamp.core.arrays import FloatArray
from mudlamp.core.plane import GroundPlane
from mudlamp.core.tracking.history import TOGETHER
from mudlamp.core.tracking.track import Tracks

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
    due: Tracks,
    everyone: Tracks,
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
    roster, rows, others = due.roster, due.rows, everyone.rows
    likeliest = np.where(gap < BESIDE_M, leads, -np.inf)
    next_to = likeliest.argmax(axis=1)
    told = np.flatnonzero(likeliest[np.arange(len(rows)), next_to] > -np.inf)
    found = np.full((len(rows), len(BESIDE)), np.nan)
    if not len(told):
        return found
    own, who = rows[told], others[next_to[told]]
    between, out = roster.state[who, :2] - roster.state[own, :2], roster.state[own, :2] - np.array(plane.origin)
    range_m = np.maximum(np.hypot(out[:, 0], out[:, 1]), _LEAST_RANGE_M)
    across = np.abs(between[:, 1] * out[:, 0] - between[:, 0] * out[:, 1]) / range_m
    found[told] = np.column_stack(
        (
            roster.lead[who],
            between,
            across / (range_m * beam_width_rad),
            roster.born_s[own] - roster.born_s[who],
            roster.history.together(own, who, since_s=time_s - LATELY_S),
            time_s - roster.own_s[own],
            time_s - roster.own_s[who],
        )
    )
    return found
