"""Ghosts: marks that stand where echoes come by way of the bottom. A fish's stand behind it, the bottom's second echo under the ground."""

import numpy as np

from mudlamp.core.arrays import BoolArray, FloatArray
from mudlamp.core.plane import GroundPlane
from mudlamp.core.tracking import _kernels_ghosts
from mudlamp.core.tracking.bottom_line import BottomLine
from mudlamp.core.tracking.track import BAIT, COVER, FISH, LURE, Tracks

# A fish is so much louder than its ghost [dB], which stands so far behind it or more [m] and so near to where it should [m] (ours, chosen
# on drawn waters); nearer to the fish it might be another fish.
LOUDER_DB, APART_M, WITHIN_M = 4.0, 0.8, 0.2
# The bottom's second echo stands so near to where it should [m], give or take so much of its range, and so far under the ground [m] (ours).
SECOND_M, SECOND_SHARE, UNDER_M = 0.35, 0.03, 0.3
# What was a ghost for so much of the last tellings is one; how much the newest counts.
IS_GHOST, NEWEST = 0.5, 0.1
# So much of its odds a ghost keeps of being fish or bait.
KEPT = 0.1
_LIVING = np.array([FISH, BAIT])


def note_ghosts(due: Tracks, everyone: Tracks, *, plane: GroundPlane, bottom: BottomLine, beam_width_rad: float) -> None:
    """Note of the tracks that are due whether each stands where a ghost of another, or of the bottom, should; not where the depth is not known.

    Source: image method over a flat bottom of the depth at the boat.
    """
    depth_m = bottom.under_m(plane.origin[0])
    if depth_m is None:
        return
    roster, rows, others = due.roster, due.rows, everyone.rows
    place = roster.state[rows, :2] - np.array(plane.origin)
    likely = others[(roster.lead[others] > 0.0) & (roster.ghost[others] < IS_GHOST) & (roster.kind[others] != LURE)]
    seen = np.zeros(len(rows), np.bool_)
    _kernels_ghosts.bounced(
        place,
        roster.means[rows, 0],
        roster.state[likely, :2] - np.array(plane.origin),
        roster.means[likely, 0],
        depth_m - plane.origin[1],
        LOUDER_DB,
        APART_M,
        WITHIN_M,
        beam_width_rad,
        seen,
    )
    ground = [bottom.depth_m(ahead) or depth_m for ahead in roster.state[rows, 0].tolist()]
    seen |= (roster.state[rows, 1] > np.array(ground) + UNDER_M) & _second(place, depth_m, plane.origin[1])
    told = roster.told[rows]
    roster.ghost[rows] += np.maximum(NEWEST, 1.0 / (told + 1.0)) * (seen - roster.ghost[rows])


def are_ghosts(ghost: FloatArray) -> BoolArray:
    """Return which tracks are ghosts (N,), by how much of the last tellings each stood where one should (N,)."""
    return ghost > IS_GHOST


def without_ghosts(odds: FloatArray, ghost: FloatArray) -> FloatArray:
    """Return odds (N, K) in which those who mostly stood where a ghost should (N,) are cover."""
    found = odds.copy()
    found[np.ix_(np.flatnonzero(are_ghosts(ghost)), _LIVING)] *= KEPT
    found[:, COVER] += 1.0 - found.sum(axis=1)
    return found


def _second(place: FloatArray, depth_m: float, mount_m: float) -> BoolArray:
    """Return which places (N, 2), as seen from the transducer, lie where the second echo of ground along their beams does: by surface and bottom."""
    range_m = np.maximum(np.hypot(place[:, 0], place[:, 1]), 1e-3)
    down = np.maximum(place[:, 1] / range_m, 1e-3)
    straight = (depth_m - mount_m) / down
    again = np.hypot(place[:, 0] / range_m * straight, 3.0 * depth_m - mount_m)
    near: BoolArray = np.abs(range_m - 0.5 * (straight + again)) < SECOND_M + SECOND_SHARE * range_m
    return near
