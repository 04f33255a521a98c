"""Kernels of the field: another sonar's bursts added, then levels with noise.

Field arrays are (range_bin, beam) so that the innermost loop runs over neighboring beams.
"""

import math

import numpy as np
from numba import njit


@njit(cache=True, nogil=True, fastmath=True)
def add_burst(field_re, field_im, table_re, table_im, row, column, start, length, peak, tail, decay, beams):
    """Add another sounder's pulse to the field: `length` bins of `peak` amplitude from bin `start`, then a tail that decays over `decay` bins.

    `beams` is how much of it each beam hears. The tables hold a unit complex Gaussian field.
    """
    bins, count = field_re.shape
    rows = table_re.shape[0]
    for k in range(max(start, 0), bins):
        after = k - start - length
        level = peak if after < 0 else tail * math.exp(-after / decay)
        if after > 5.0 * decay:
            break
        source = (row + k) % rows
        for b in range(count):
            field_re[k, b] += np.float32(level * beams[b]) * table_re[source, column + b]
            field_im[k, b] += np.float32(level * beams[b]) * table_im[source, column + b]


@njit(cache=True, nogil=True, fastmath=True)
def finish_field(
    field_re, field_im, haze, leak, noise_power, table_re, table_im, at_noise, at_drift, keep, drift_re, drift_im, least_power, power
):
    """Add reverberation (drifting from ping to ping), leak and noise to the field; write its power, and leave the field empty.

    The tables hold unit complex Gaussian fields shaped by pulse and beam, their first columns repeated behind the last:
    a random window of them is one realization. `haze` is the root of the mean reverberation, `noise_power` the noise of each range.
    """
    bins, beams = field_re.shape
    rows = table_re.shape[0]
    kept = np.float32(keep)
    fresh = np.float32(math.sqrt(1.0 - keep * keep))
    least = np.float32(least_power)
    per_facet = beams // leak.shape[1]
    for k in range(bins):
        row_n = (at_noise[0] + k) % rows
        row_d = (at_drift[0] + k) % rows
        for f in range(leak.shape[1]):
            noise = np.float32(math.sqrt(noise_power[k] + leak[k, f]))
            base = f * per_facet
            noise_re = table_re[row_n, at_noise[1] + base : at_noise[1] + base + per_facet]
            noise_im = table_im[row_n, at_noise[1] + base : at_noise[1] + base + per_facet]
            fresh_re = table_re[row_d, at_drift[1] + base : at_drift[1] + base + per_facet]
            fresh_im = table_im[row_d, at_drift[1] + base : at_drift[1] + base + per_facet]
            for j in range(per_facet):
                b = base + j
                dr = kept * drift_re[k, b] + fresh * fresh_re[j]
                di = kept * drift_im[k, b] + fresh * fresh_im[j]
                drift_re[k, b] = dr
                drift_im[k, b] = di
                re = field_re[k, b] + haze[k, b] * dr + noise * noise_re[j]
                im = field_im[k, b] + haze[k, b] * di + noise * noise_im[j]
                field_re[k, b] = np.float32(0.0)
                field_im[k, b] = np.float32(0.0)
                power[k, b] = max(re * re + im * im, least)
