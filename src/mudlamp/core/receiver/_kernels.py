"""Kernels of the receiver: integration, per-range statistics, and the one pass from level to brightness."""

import math

import numpy as np
from numba import njit


@njit(cache=True, nogil=True, fastmath=True)
def integrate(levels, first, count, out):
    """Mean level of `count` of the newest pings; `levels` is a ring (slot, beam, range_bin) whose newest slot is `first`."""
    slots, beams, bins = levels.shape
    share = np.float32(1.0 / count)
    for b in range(beams):
        row = out[b]
        newest = levels[first, b]
        for k in range(bins):
            row[k] = newest[k] * share
        for back in range(1, count):
            older = levels[(first - back) % slots, b]
            for k in range(bins):
                row[k] += older[k] * share


@njit(cache=True, nogil=True)
def range_medians(level, stride, scratch, out):
    """Median level over every `stride`-th beam, per range bin."""
    beams, bins = level.shape
    count = (beams + stride - 1) // stride
    for k in range(bins):
        for i in range(count):
            scratch[i] = level[i * stride, k]
        out[k] = np.median(scratch[:count])


@njit(cache=True, nogil=True, fastmath=True)
def range_maxima(level, out):
    """Strongest level over the beams, per range bin."""
    beams, bins = level.shape
    out[:] = -1e9
    for b in range(beams):
        row = level[b]
        for k in range(bins):
            out[k] = max(out[k], row[k])


@njit(cache=True, nogil=True, fastmath=True)
def develop(level, lift_db, quiet_below_db, cut_below_db, black_db, per_db, hide_share, out):
    """Brightness 0 to 255 of (beam, range_bin) levels: lifted by TVG and gain, cut where too weak, stretched by punch.

    `quiet_below_db` and `cut_below_db` are thresholds on the level itself, per range bin; `hide_share` is on the brightness.
    """
    beams, bins = level.shape
    for b in range(beams):
        row = level[b]
        to = out[b]
        for k in range(bins):
            share = (row[k] + lift_db[k] - black_db) * per_db
            kept = row[k] >= quiet_below_db[k] and row[k] >= cut_below_db[k] and share >= hide_share
            shown = min(max(share, np.float32(0.0)), np.float32(1.0))
            to[k] = np.uint8(math.floor(shown * np.float32(255.0) + np.float32(0.5))) if kept else np.uint8(0)
