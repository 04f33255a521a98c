"""Kernels of the receiver: integration, per-range statistics, and the one pass from level to brightness."""

import math

import numpy as np
from numba import njit


@njit(cache=True, nogil=True, fastmath=True)
def integrate(levels, first, count, out):
    """Integrate the `count` newest pings (1, 2, 3 or 5) of a ring (slot, beam, range_bin) whose newest slot is `first`.

    Two pings: their mean level. Three and five: the middle level, so that what stands in one ping alone (a spoke) is gone, and so is a
    target that leaves its cell within half of the pings. The middle of five is found by pairwise minima and maxima.
    """
    slots, beams, bins = levels.shape
    half = np.float32(0.5)
    for i in range(beams):
        row = out[i]
        a = levels[first, i]
        if count == 1:
            for k in range(bins):
                row[k] = a[k]
            continue
        b = levels[(first - 1) % slots, i]
        if count == 2:
            for k in range(bins):
                row[k] = half * (a[k] + b[k])
            continue
        c = levels[(first - 2) % slots, i]
        if count < 5:
            for k in range(bins):
                row[k] = max(min(a[k], b[k]), min(max(a[k], b[k]), c[k]))
            continue
        d = levels[(first - 3) % slots, i]
        e = levels[(first - 4) % slots, i]
        for k in range(bins):
            # Of four, neither the least nor the greatest can be the middle of five: the middle of the other two and the fifth is.
            low = max(min(a[k], b[k]), min(c[k], d[k]))
            high = min(max(a[k], b[k]), max(c[k], d[k]))
            row[k] = max(min(low, high), min(max(low, high), e[k]))


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
def predict_bounces(level, tvg_db, first_look_rad, beam_step_rad, first_m, bin_m, bottom_m, depth_m, strong_db, under_db, spread_m, limit):
    """Write into `limit` (beam, range_bin) how strong an echo must be to stand where a bounce off the bottom is to be expected.

    For each strong cell above the bottom, of range r1: the echo by the bottom seems to come from (r1 + r2) / 2 on the same beam or on
    the image's, the echo by the bottom both ways from r2 on the image's (r2 to the image, 2 H - d under the transducer). For the bottom
    itself: its second echo, with r2 to three depths. Anything weaker there than the source less `under_db` is not to be trusted.
    """
    beams, bins = level.shape
    spread = int(spread_m / bin_m) + 1
    for b in range(beams):
        forward = math.sin(first_look_rad - b * beam_step_rad)
        downward = math.cos(first_look_rad - b * beam_step_rad)
        for k in range(bins):
            r1 = first_m + k * bin_m
            down = r1 * downward
            if level[b, k] + tvg_db[k] < strong_db or down < 0.0 or down > bottom_m + 0.25:
                continue
            flat = r1 * forward
            ground = down > bottom_m - 0.25
            image = 2.0 * bottom_m - down if not ground else 3.0 * bottom_m + 2.0 * depth_m
            r2 = math.sqrt(flat * flat + image * image)
            if r2 - r1 < 3.0 * spread * bin_m:
                continue
            # The image's beam, by its look from plumb.
            other = int(math.floor((first_look_rad - math.atan2(flat, image)) / beam_step_rad + 0.5))
            for way in range(3):
                beam = b if way == 0 else other
                if beam < 0 or beam >= beams or (way == 2 and ground):
                    continue
                seems = r2 if way == 2 else 0.5 * (r1 + r2)
                middle = int((seems - first_m) / bin_m + 0.5)
                allowed = level[b, k] + tvg_db[k] - under_db
                for j in range(max(middle - spread, 0), min(middle + spread + 1, bins)):
                    limit[beam, j] = max(limit[beam, j], np.float32(allowed - tvg_db[j]))


@njit(cache=True, nogil=True, fastmath=True)
def cut_weaker(level, limit, gone_db):
    """Set to `gone_db` each level that is under its limit."""
    beams, bins = level.shape
    for b in range(beams):
        row = level[b]
        edge = limit[b]
        for k in range(bins):
            if row[k] < edge[k]:
                row[k] = gone_db


@njit(cache=True, nogil=True, fastmath=True)
def develop(level, lift_db, gone_below_db, black_db, per_db, hide_share, out):
    """Brightness 0 to 255 of (beam, range_bin) levels: lifted by TVG and gain, cut where too weak, stretched by punch.

    `gone_below_db` is a threshold on the level itself, per range bin; `hide_share` is on the brightness. The law is `law.brightness`.
    """
    beams, bins = level.shape
    for b in range(beams):
        row = level[b]
        to = out[b]
        for k in range(bins):
            share = (row[k] + lift_db[k] - black_db) * per_db
            kept = row[k] >= gone_below_db[k] and share >= hide_share
            shown = min(max(share, np.float32(0.0)), np.float32(1.0))
            to[k] = np.uint8(math.floor(shown * np.float32(255.0) + np.float32(0.5))) if kept else np.uint8(0)
