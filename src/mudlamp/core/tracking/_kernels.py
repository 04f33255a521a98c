"""Kernels of detection: power, constant-false-alarm threshold, components, ground map of the bottom."""

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
    Columns of `table`: power, power x bin, power x beam, power x bin^2, power x beam^2, cells, peak.
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
    return count, runs


@njit(cache=True, nogil=True)
def _is_peak(power, b, k, beam_half, bin_half):
    beams, bins = power.shape
    here = power[b, k]
    for i in range(max(b - beam_half, 0), min(b + beam_half + 1, beams)):
        for j in range(max(k - bin_half, 0), min(k + bin_half + 1, bins)):
            if power[i, j] > here:
                return False
    return True


@njit(cache=True, nogil=True)
def _next_peak(power, first_run, after, run_first, run_last, run_beam, floor, peak_beam, peak_bin, found, range_m, beam_step, gap_m):
    """Return the power of a component's strongest peak at least `gap_m` from those found, and write where it is; -1 where there is none."""
    bin_m = range_m[1] - range_m[0]
    best = -1.0
    i = first_run
    while i >= 0:
        b = run_beam[i]
        for k in range(run_first[i], run_last[i] + 1):
            p = power[b, k]
            if p <= best or p < floor:
                continue
            clear = True
            for n in range(found):
                dr = (k - peak_bin[n]) * bin_m
                da = (b - peak_beam[n]) * beam_step * range_m[k]
                if dr * dr + da * da < gap_m * gap_m:
                    clear = False
                    break
            if clear and _is_peak(power, b, k, 2, 4):
                best = p
                peak_beam[found] = b
                peak_bin[found] = k
        i = after[i]
    return best


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
        i = after[i]


@njit(cache=True, nogil=True)
def split_components(power, runs, run_first, run_last, run_beam, parent, after, count, table, range_m, beam_step, gap_m, depth, out):
    """Split components that hold several peaks at least `gap_m` apart and at most a factor `depth` under the strongest.

    Cells go to their nearest peak. `after` is scratch: the runs of a component, linked. Returns how many rows of `out` are filled.
    """
    most = 24
    filled = 0
    peak_beam = np.zeros(most, np.int64)
    peak_bin = np.zeros(most, np.int64)
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
        found = 0
        floor = table[row, 6] * depth
        while found < most:
            best = _next_peak(
                power, first[row], after, run_first, run_last, run_beam, floor, peak_beam, peak_bin, found, range_m, beam_step, gap_m
            )
            if best < 0.0:
                break
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


@njit(cache=True, nogil=True)
def distances(state, covariance, place, noise, out):
    """Write the Mahalanobis distances squared (N, M) of M places (M, 2) with noise (M, 2, 2) to N states."""
    for i in range(len(state)):
        for j in range(len(place)):
            x = place[j, 0] - state[i, 0]
            y = place[j, 1] - state[i, 1]
            xx = covariance[i, 0, 0] + noise[j, 0, 0]
            xy = covariance[i, 0, 1] + noise[j, 0, 1]
            yy = covariance[i, 1, 1] + noise[j, 1, 1]
            out[i, j] = (yy * x * x - 2.0 * xy * x * y + xx * y * y) / (xx * yy - xy * xy)


@njit(cache=True, nogil=True, fastmath=True)
def ground_map(power, range_m, ahead, down, u0, z0, cell_u, cell_z, grid, hits):
    """Sum power into ground cells (ahead, depth) of the fan's plane; count the cells that fell in each."""
    beams, bins = power.shape
    columns, rows = grid.shape
    for b in range(beams):
        for k in range(bins):
            i = int((u0 + range_m[k] * ahead[b]) / cell_u)
            j = int((z0 + range_m[k] * down[b]) / cell_z)
            if 0 <= i < columns and 0 <= j < rows:
                grid[i, j] += power[b, k]
                hits[i, j] += 1.0


@njit(cache=True, nogil=True)
def blend_map(total, hits, keep, first, faint_db, looks, mean, square):
    """Blend each heard cell's level (total / hits, in dB) into its running mean and mean square; young cells learn faster."""
    columns, rows = total.shape
    for i in range(columns):
        for j in range(rows):
            if hits[i, j] == 0.0:
                continue
            level = max(10.0 * math.log10(max(total[i, j] / hits[i, j], 1e-30)), faint_db)
            if looks[i, j] == 0.0:
                mean[i, j] = level
                square[i, j] = level * level
            else:
                kept = min(keep, first + (1.0 - first) * (1.0 - 1.0 / looks[i, j]))
                mean[i, j] = kept * mean[i, j] + (1.0 - kept) * level
                square[i, j] = kept * square[i, j] + (1.0 - kept) * level * level
            looks[i, j] += 1.0


@njit(cache=True, nogil=True)
def look_up(places, start_u, start_v, cell, ring, mean, square, out):
    """Write for each place (N, 2) the map's mean, standard deviation, and the mean of the cells `ring` off on eight sides; NaN where unheard."""
    columns, rows = mean.shape
    for n in range(len(places)):
        i = int(math.floor((places[n, 0] - start_u) / cell))
        j = int(math.floor((places[n, 1] - start_v) / cell))
        out[n, 0] = out[n, 1] = out[n, 2] = np.nan
        if not (0 <= i < columns and 0 <= j < rows) or math.isnan(mean[i, j]):
            continue
        out[n, 0] = mean[i, j]
        out[n, 1] = math.sqrt(max(square[i, j] - mean[i, j] ** 2, 0.0))
        total = 0.0
        count = 0
        for di in range(-ring, ring + 1, ring):
            for dj in range(-ring, ring + 1, ring):
                a = i + di
                b = j + dj
                if (di != 0 or dj != 0) and 0 <= a < columns and 0 <= b < rows and not math.isnan(mean[a, b]):
                    total += mean[a, b]
                    count += 1
        if count > 0:
            out[n, 2] = total / count


@njit(cache=True, nogil=True)
def likeliest_line(worth, slope_cost, most_cost, back, total, line):
    """Write the row of each column (N, M) of the line of most worth: the sum of its cells less `slope_cost` a row of step, `most_cost` at most.

    Source: Viterbi (1967), with a cost of steps that is cut off, found by two sweeps (Felzenszwalb and Huttenlocher 2012).
    `back` (N, M) and `total` (2, M) are scratch.
    """
    columns, rows = worth.shape
    for j in range(rows):
        total[0, j] = worth[0, j]
    for i in range(1, columns):
        before = total[(i - 1) % 2]
        now = total[i % 2]
        best = 0
        for j in range(rows):
            if before[j] > before[best]:
                best = j
        leap = before[best] - most_cost
        for j in range(rows):
            now[j] = before[j]
            back[i, j] = j
            if j > 0 and now[j - 1] - slope_cost > now[j]:
                now[j] = now[j - 1] - slope_cost
                back[i, j] = back[i, j - 1]
        for j in range(rows - 2, -1, -1):
            if now[j + 1] - slope_cost > now[j]:
                now[j] = now[j + 1] - slope_cost
                back[i, j] = back[i, j + 1]
        for j in range(rows):
            if leap > now[j]:
                now[j] = leap
                back[i, j] = best
            now[j] += worth[i, j]
    last = total[(columns - 1) % 2]
    at = 0
    for j in range(rows):
        if last[j] > last[at]:
            at = j
    for i in range(columns - 1, -1, -1):
        line[i] = at
        if i > 0:
            at = back[i, at]


@njit(cache=True, nogil=True)
def add_trees(traits, trait, threshold, left, right, missing_left, value, first, of_class, out):
    """Add to each row (N, K) the leaf of every tree that its traits (N, F) come to."""
    for n in range(len(traits)):
        row = traits[n]
        for t in range(len(first)):
            node = first[t]
            while trait[node] >= 0:
                x = row[trait[node]]
                if math.isnan(x):
                    node = left[node] if missing_left[node] else right[node]
                elif x <= threshold[node]:
                    node = left[node]
                else:
                    node = right[node]
            out[n, of_class[t]] += value[node]


# These three take a microsecond: to let go of the interpreter for it would cost a session among others more than it gives.
@njit(cache=True)
def line_fit(time, place, first, last, at_s, half_s, out):
    """Write the place at a time by a weighted straight-line fit (tricube weights) to what lies within `half_s`; return of how many."""
    total = sum_t = sum_x = sum_y = 0.0
    count = 0
    n = last - 1
    while n >= first and time[n] >= at_s - half_s:
        t = time[n] - at_s
        if t <= half_s:
            weight = (1.0 - (abs(t) / (half_s * 1.01)) ** 3) ** 3
            total += weight
            sum_t += weight * t
            sum_x += weight * place[n, 0]
            sum_y += weight * place[n, 1]
            count += 1
        n -= 1
    if count == 0:
        return 0
    mean_t = sum_t / total
    spread = slope_x = slope_y = 0.0
    for k in range(n + 1, last):
        t = time[k] - at_s
        if t <= half_s:
            weight = (1.0 - (abs(t) / (half_s * 1.01)) ** 3) ** 3
            spread += weight * (t - mean_t) ** 2
            slope_x += weight * (t - mean_t) * place[k, 0]
            slope_y += weight * (t - mean_t) * place[k, 1]
    out[0] = sum_x / total
    out[1] = sum_y / total
    if spread > 1e-9:
        out[0] -= slope_x / spread * mean_t
        out[1] -= slope_y / spread * mean_t
    return count


@njit(cache=True)
def travel(time, place, first, last, since_s, out):
    """Write the way from the mean of the first quarter to that of the last since a time; return its time span, 0 with under six."""
    start = last
    while start > first and time[start - 1] > since_s:
        start -= 1
    count = last - start
    if count < 6:
        return 0.0
    part = max(2, count // 4)
    for axis in range(2):
        early = late = 0.0
        for n in range(part):
            early += place[start + n, axis]
            late += place[last - part + n, axis]
        out[axis] = (late - early) / part
    return time[last - 1] - time[start]


@njit(cache=True)
def fast_steps(time, place, first, last, at_s, half_s, speed_m_s, out):
    """Return how many steps within `half_s` of a time were faster than a speed; write the fastest."""
    fastest = 0.0
    count = 0
    n = last - 1
    while n > first and time[n - 1] >= at_s - half_s:
        if time[n] <= at_s + half_s:
            step = math.hypot(place[n, 0] - place[n - 1, 0], place[n, 1] - place[n - 1, 1]) / max(time[n] - time[n - 1], 1e-3)
            fastest = max(fastest, step)
            if step > speed_m_s:
                count += 1
        n -= 1
    out[0] = fastest
    return count
