"""Kernels of echo profiles: a fish's echo cut through its middle, along the range and across the beams, gathered over pings."""

import math

from numba import njit


@njit(cache=True)
def add_profiles(power, beam, range_bin, beam_m, bin_m, step_m, share, along, across):
    """Lean two profiles (K,) toward what a ping's power (beam, range_bin) shows about a place, as shares of the echo's peak.

    `along` is cut along the range, `across` over the beams, each at K places `step_m` apart about the middle; `beam_m` and `bin_m` are how
    far apart neighboring beams and cells are there. What lies outside the ping stays as it was.
    """
    beams, bins = power.shape
    row, column = int(round(beam)), int(round(range_bin))
    peak = 0.0
    for i in range(max(row - 1, 0), min(row + 2, beams)):
        for j in range(max(column - 3, 0), min(column + 4, bins)):
            peak = max(peak, power[i, j])
    if peak <= 0.0:
        return
    half = len(along) // 2
    for k in range(len(along)):
        off = (k - half) * step_m
        at = range_bin + off / bin_m
        j = int(math.floor(at))
        if j >= 0 and j + 1 < bins:
            part = at - j
            best = 0.0
            for i in range(max(row - 1, 0), min(row + 2, beams)):
                best = max(best, (1.0 - part) * power[i, j] + part * power[i, j + 1])
            along[k] += share * (min(best / peak, 1.0) - along[k])
        at = beam + off / beam_m
        i = int(math.floor(at))
        if i >= 0 and i + 1 < beams:
            part = at - i
            best = 0.0
            for j in range(max(column - 2, 0), min(column + 3, bins)):
                best = max(best, (1.0 - part) * power[i, j] + part * power[i + 1, j])
            across[k] += share * (min(best / peak, 1.0) - across[k])


@njit(cache=True)
def reaches(profile, step_m, gap_m, thresholds, out):
    """Write how far (T,) [m] a profile (K,) reaches over each threshold, from its middle outward both ways, gaps up to `gap_m` bridged."""
    half = len(profile) // 2
    most = int(gap_m / step_m)
    for t in range(len(thresholds)):
        total = 0.0
        for way in (-1, 1):
            last = 0
            k = 1
            while k <= half and k - last <= most + 1:
                if profile[half + way * k] >= thresholds[t]:
                    last = k
                k += 1
            total += last * step_m
        out[t] = total
