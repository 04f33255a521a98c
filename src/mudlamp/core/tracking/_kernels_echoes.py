"""Kernels of detection: what stands out, joined into echoes and parted at their peaks."""

import math

import numpy as np
from numba import njit


@njit(cache=True, nogil=True, fastmath=True)
def blend_power(level, tvg_db, keep, power_bits, scratch, mean):
    """mean = keep mean + (1 - keep) 10^((level + tvg) / 10), by 2^x = 2^floor times a polynomial of the fraction (error under 0.001 dB, tested).

    `power_bits` is the int32 view of `scratch`, both one beam long.
    """
    beams, bins = level.shape
    kept = np.float32(keep)
    for b in range(beams):
        row = level[b]
        to = mean[b]
        for k in range(bins):
            x = max((row[k] + tvg_db[k]) * np.float32(0.33219281), np.float32(-120.0))
            whole = np.int32(math.floor(x))
            f = x - np.float32(whole)
            # Taylor series of 2^f - 1 = exp(f ln 2) - 1, six terms: the mantissa's bits.
            p = f * (
                np.float32(0.69314718)
                + f
                * (
                    np.float32(0.24022651)
                    + f
                    * (np.float32(0.05550411) + f * (np.float32(0.00961813) + f * (np.float32(0.00133336) + f * np.float32(0.00015404))))
                )
            )
            power_bits[k] = ((whole + np.int32(127)) << np.int32(23)) + np.int32(p * np.float32(8388607.0))
        for k in range(bins):
            to[k] = kept * to[k] + (np.float32(1.0) - kept) * scratch[k]


@njit(cache=True, nogil=True, fastmath=True)
def _threshold_rim(row, prefix, aside, guard, reference, stop, first, last, multiplier, floor_power, hit):
    """Near a rim the windows along range are cut short; one with under half its cells counts for nothing."""
    for k in range(first, last):
        before_high = max(k - guard, 0)
        before_low = max(before_high - reference, 0)
        after_low = min(k + guard + 1, stop)
        after_high = min(after_low + reference, stop)
        befores = before_high - before_low
        afters = after_high - after_low
        before = (prefix[before_high] - prefix[before_low]) / max(befores, 1)
        after = (prefix[after_high] - prefix[after_low]) / max(afters, 1)
        along = min(before, after)
        if befores < reference // 2:
            along = after
        elif afters < reference // 2:
            along = before
        hit[k] = row[k] > multiplier * max(max(along, aside[k]), floor_power)


@njit(cache=True, nogil=True, fastmath=True)
def threshold(power, guard, reference, beam_guard, beam_reference, multiplier, floor_power, last_bin, prefix, beam_prefix, aside, hit):
    """Cell-averaging CFAR: hit = power over multiplier times a reference level.

    The reference is the greater of two: the smaller of the means before and behind along range, and the smaller of the
    means to both sides along the beams at the same range. The first stands for brush, the second for side-lobe arcs;
    the smaller-of keeps a strong neighbor on one side from hiding a weak echo. Cells from `last_bin` on are never hits.
    """
    beams, bins = power.shape
    factor = np.float32(multiplier)
    lowest = np.float32(floor_power)
    for k in range(bins):
        beam_prefix[0, k] = 0.0
    for b in range(beams):
        below = beam_prefix[b]
        above = beam_prefix[b + 1]
        row = power[b]
        for k in range(bins):
            above[k] = below[k] + row[k]
    least = beam_reference // 2
    share = np.float32(1.0 / reference)
    for b in range(beams):
        row = power[b]
        total = 0.0
        prefix[0] = 0.0
        for k in range(bins):
            total += row[k]
            prefix[k + 1] = total
        left_high = max(b - beam_guard, 0)
        left_low = max(left_high - beam_reference, 0)
        right_low = min(b + beam_guard + 1, beams)
        right_high = min(right_low + beam_reference, beams)
        lefts = left_high - left_low
        rights = right_high - right_low
        l_share = np.float32(1.0 / max(lefts, 1))
        r_share = np.float32(1.0 / max(rights, 1))
        # A side with too few beams counts for nothing: the other speaks alone.
        if lefts < least:
            left_high, left_low, l_share = right_high, right_low, r_share
        elif rights < least:
            right_high, right_low, r_share = left_high, left_low, l_share
        left_to, left_from = beam_prefix[left_high], beam_prefix[left_low]
        right_to, right_from = beam_prefix[right_high], beam_prefix[right_low]
        for k in range(bins):
            aside[k] = min((left_to[k] - left_from[k]) * l_share, (right_to[k] - right_from[k]) * r_share)
        stop = min(bins, last_bin[b])
        # Far from both rims every cell has whole windows: one plain loop.
        inside = min(guard + reference, stop)
        beyond = max(stop - guard - reference - 1, inside)
        span = beyond - inside
        row_in = row[inside:beyond]
        aside_in = aside[inside:beyond]
        hit_in = hit[b, inside:beyond]
        b0 = prefix[inside - guard - reference : inside - guard - reference + span]
        b1 = prefix[inside - guard : inside - guard + span]
        a0 = prefix[inside + guard + 1 : inside + guard + 1 + span]
        a1 = prefix[inside + guard + 1 + reference : inside + guard + 1 + reference + span]
        for n in range(span):
            along = np.float32(min(b1[n] - b0[n], a1[n] - a0[n])) * share
            hit_in[n] = row_in[n] > factor * max(max(along, aside_in[n]), lowest)
        _threshold_rim(row, prefix, aside, guard, reference, stop, 0, inside, multiplier, floor_power, hit[b])
        _threshold_rim(row, prefix, aside, guard, reference, stop, beyond, stop, multiplier, floor_power, hit[b])
        for k in range(stop, bins):
            hit[b, k] = False


@njit(cache=True, nogil=True)
def _root(parent, i):
    while parent[i] != i:
        parent[i] = parent[parent[i]]
        i = parent[i]
    return i


@njit(cache=True, nogil=True)
def components(hit, power, gap, run_first, run_last, run_beam, parent, table):
    """Join hits into components and sum them up; return how many components and runs.

    Runs along range (broken by at most `gap` misses) are joined to overlapping runs of the beam before (union-find).
    Columns of `table`: power, power x bin, power x beam, power x bin^2, power x beam^2, cells, peak, power x bin x beam.
    """
    beams, bins = hit.shape
    most = run_first.shape[0]
    runs = 0
    last_start = 0
    last_stop = 0
    for b in range(beams):
        start = runs
        k = 0
        while k < bins and runs < most:
            if not hit[b, k]:
                k += 1
                continue
            first = k
            last = k
            miss = 0
            k += 1
            while k < bins and miss <= gap:
                if hit[b, k]:
                    last = k
                    miss = 0
                else:
                    miss += 1
                k += 1
            run_first[runs] = first
            run_last[runs] = last
            run_beam[runs] = b
            parent[runs] = runs
            for other in range(last_start, last_stop):
                if run_first[other] <= last + gap and run_last[other] >= first - gap:
                    a = _root(parent, other)
                    c = _root(parent, runs)
                    parent[max(a, c)] = min(a, c)
            runs += 1
        last_start = start
        last_stop = runs
    count = 0
    for i in range(runs):
        if parent[i] == i and count < table.shape[0]:
            table[count, :] = 0.0
            parent[i] = -count - 1
            count += 1
        elif parent[i] == i:
            parent[i] = -most - 1
    for i in range(runs):
        j = i
        while parent[j] >= 0:
            j = parent[j]
        row = -parent[j] - 1
        if row >= table.shape[0]:
            continue
        b = run_beam[i]
        for k in range(run_first[i], run_last[i] + 1):
            p = power[b, k]
            table[row, 0] += p
            table[row, 1] += p * k
            table[row, 2] += p * b
            table[row, 3] += p * k * k
            table[row, 4] += p * b * b
            table[row, 5] += 1.0
            table[row, 6] = max(table[row, 6], p)
            table[row, 7] += p * k * b
    return count, runs


# A peak is the loudest of so many beams and cells to each side.
PEAK_BEAMS, PEAK_BINS = 1, 2


@njit(cache=True, nogil=True)
def _is_peak(power, b, k):
    beams, bins = power.shape
    here = power[b, k]
    for i in range(max(b - PEAK_BEAMS, 0), min(b + PEAK_BEAMS + 1, beams)):
        for j in range(max(k - PEAK_BINS, 0), min(k + PEAK_BINS + 1, bins)):
            if power[i, j] > here:
                return False
    return True


@njit(cache=True, nogil=True)
def _peaks(power, first_run, after, run_first, run_last, run_beam, floor, beam, bin_):
    """Write where a component's peaks over `floor` are, in no order; return how many."""
    count = 0
    i = first_run
    while i >= 0:
        b = run_beam[i]
        for k in range(run_first[i], run_last[i] + 1):
            if power[b, k] >= floor and count < len(beam) and _is_peak(power, b, k):
                beam[count] = b
                bin_[count] = k
                count += 1
        i = after[i]
    return count


@njit(cache=True, nogil=True)
def _stands_apart(b, k, peak_beam, peak_bin, found, range_m, beam_step, look_rad, wide_m, tall_m):
    """Return whether a peak lies outside the ellipse about each of those found, `wide_m` by `tall_m` in half axes, level and upright."""
    bin_m = range_m[1] - range_m[0]
    sine, cosine = math.sin(look_rad - b * beam_step), math.cos(look_rad - b * beam_step)
    for n in range(found):
        dr = (k - peak_bin[n]) * bin_m
        da = (b - peak_beam[n]) * beam_step * range_m[k]
        level = (dr * sine - da * cosine) / wide_m
        upright = (dr * cosine + da * sine) / tall_m
        if level * level + upright * upright < 1.0:
            return False
    return True


@njit(cache=True, nogil=True)
def _share_out(power, first_run, after, run_first, run_last, run_beam, peak_beam, peak_bin, found, range_m, beam_step, out):
    """Give each cell of a component to its nearest peak; write each peak's sums to a row of `out`."""
    bin_m = range_m[1] - range_m[0]
    out[:found, :] = 0.0
    i = first_run
    while i >= 0:
        b = run_beam[i]
        for k in range(run_first[i], run_last[i] + 1):
            nearest = 0
            least = 1e18
            for n in range(found):
                dr = (k - peak_bin[n]) * bin_m
                da = (b - peak_beam[n]) * beam_step * range_m[k]
                if dr * dr + da * da < least:
                    least = dr * dr + da * da
                    nearest = n
            p = power[b, k]
            to = out[nearest]
            to[0] += p
            to[1] += p * k
            to[2] += p * b
            to[3] += p * k * k
            to[4] += p * b * b
            to[5] += 1.0
            to[6] = max(to[6], p)
            to[7] += p * k * b
        i = after[i]


@njit(cache=True, nogil=True)
def split_components(
    power, runs, run_first, run_last, run_beam, parent, after, count, table, range_m, beam_step, look_rad, wide_m, tall_m, depth, most, out
):
    """Split components that hold several peaks, each at most a factor `depth` under the strongest and outside an ellipse about all stronger ones.

    The ellipse's half axes are `wide_m` along the ground and `tall_m` upright, where the first beam looks `look_rad` off plumb: a fish lies
    level. The strongest `most` peaks are taken. Cells go to their nearest peak. `after` is scratch: the runs of a component, linked.
    Returns how many rows of `out` are filled.
    """
    filled = 0
    peak_beam = np.zeros(most, np.int64)
    peak_bin = np.zeros(most, np.int64)
    cells = 0
    for i in range(runs):
        cells += run_last[i] - run_first[i] + 1
    beam = np.zeros(cells, np.int64)
    bin_ = np.zeros(cells, np.int64)
    loud = np.zeros(cells)
    first = np.full(count, -1, np.int64)
    for i in range(runs - 1, -1, -1):
        j = i
        while parent[j] >= 0:
            j = parent[j]
        row = -parent[j] - 1
        if row < count:
            after[i] = first[row]
            first[row] = i
    for row in range(count):
        peaks = _peaks(power, first[row], after, run_first, run_last, run_beam, table[row, 6] * depth, beam, bin_)
        for n in range(peaks):
            loud[n] = -power[beam[n], bin_[n]]
        found = 0
        for n in np.argsort(loud[:peaks]):
            if found < most and _stands_apart(beam[n], bin_[n], peak_beam, peak_bin, found, range_m, beam_step, look_rad, wide_m, tall_m):
                peak_beam[found] = beam[n]
                peak_bin[found] = bin_[n]
                found += 1
        if filled + max(found, 1) > out.shape[0]:
            break
        if found < 2:
            out[filled, :] = table[row, :]
            filled += 1
            continue
        _share_out(
            power,
            first[row],
            after,
            run_first,
            run_last,
            run_beam,
            peak_beam,
            peak_bin,
            found,
            range_m,
            beam_step,
            out[filled : filled + found],
        )
        filled += found
    return filled


@njit(cache=True, nogil=True)
def contrasts(power, beam, bin_, peak, guard, reference, beam_guard, beam_reference, out):
    """Write of each echo (N, 2) how its peak stands over the mean of its four surrounds, and over the loudest of them [dB].

    The surrounds lie before and behind along range, and to both sides along the beams; one with under half its cells counts for nothing.
    """
    beams, bins = power.shape
    for n in range(len(peak)):
        b = min(max(int(beam[n] + 0.5), 0), beams - 1)
        k = min(max(int(bin_[n] + 0.5), 0), bins - 1)
        total = 0.0
        loudest = 1e-30
        arms = 0
        for arm in range(4):
            power_sum = 0.0
            cells = 0
            if arm < 2:
                low = k - guard - reference if arm == 0 else k + guard + 1
                for j in range(max(low, 0), min(low + reference, bins)):
                    power_sum += power[b, j]
                    cells += 1
                if cells < reference // 2:
                    continue
            else:
                low = b - beam_guard - beam_reference if arm == 2 else b + beam_guard + 1
                for i in range(max(low, 0), min(low + beam_reference, beams)):
                    power_sum += power[i, k]
                    cells += 1
                if cells < beam_reference // 2:
                    continue
            arms += 1
            total += power_sum / cells
            loudest = max(loudest, power_sum / cells)
        out[n, 0] = 10.0 * math.log10(peak[n] / max(total / max(arms, 1), 1e-30))
        out[n, 1] = 10.0 * math.log10(peak[n] / loudest)
