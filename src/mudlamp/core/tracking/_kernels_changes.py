"""Kernel of changes: how much of what a ping shows about a place is other than what an earlier ping showed there."""

import math

import numpy as np
from numba import njit

# What is so much under the louder patch's peak tells nothing [dB]; what counts as silence under it.
TELLS_DB, SILENT_DB = 10.0, 25.0
DB_TO_EXPONENT = math.log(10.0) / 20.0


@njit(cache=True, nogil=True)
def changes(now, before, beam, range_bin, beam_before, bin_before, half_beams, half_bins, out):
    """Write of each place (N,) how a patch of levels [dB] (beam, range_bin) about it changed from one ping to another (N, 4).

    Columns of `out`: the mean change of the cells that are loud in either [dB]; that of the patch's power [dB]; that of its peak [dB]; one
    minus the cosine of its amplitudes. A place whose middle lies outside either ping is not a number.
    """
    beams, bins = now.shape
    for n in range(len(beam)):
        b, k, c, m = beam[n], range_bin[n], beam_before[n], bin_before[n]
        if min(b, c, k, m) < 0 or max(b, c) >= beams or max(k, m) >= bins:
            out[n, :] = np.nan
            continue
        low, high = max(-half_beams, -b, -c), min(half_beams, beams - 1 - b, beams - 1 - c)
        near, far = max(-half_bins, -k, -m), min(half_bins, bins - 1 - k, bins - 1 - m)
        peak = peak_before = -np.inf
        for i in range(low, high + 1):
            for j in range(near, far + 1):
                peak = max(peak, now[b + i, k + j])
                peak_before = max(peak_before, before[c + i, m + j])
        top = max(peak, peak_before)
        cells = 0
        change = power = power_before = both = 0.0
        for i in range(low, high + 1):
            for j in range(near, far + 1):
                x, y = max(now[b + i, k + j], top - 4.0 * SILENT_DB), max(before[c + i, m + j], top - 4.0 * SILENT_DB)
                if x > top - TELLS_DB or y > top - TELLS_DB:
                    change += abs(max(x, top - SILENT_DB) - max(y, top - SILENT_DB))
                    cells += 1
                x, y = math.exp((x - top) * DB_TO_EXPONENT), math.exp((y - top) * DB_TO_EXPONENT)
                power += x * x
                power_before += y * y
                both += x * y
        out[n, 0] = change / max(cells, 1)
        out[n, 1] = abs(10.0 * math.log10(power / power_before))
        out[n, 2] = abs(peak - peak_before)
        out[n, 3] = 1.0 - both / math.sqrt(power * power_before)
