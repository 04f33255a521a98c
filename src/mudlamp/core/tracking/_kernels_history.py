"""Kernels of what tracks did over their measured moments: how they moved, how their level swung, how two were heard together."""

import math

import numpy as np
from numba import njit

# A straight way is told over no fewer moments.
LEAST_STRAIGHT = 8

# These take a microsecond each: to let go of the interpreter for it would cost a session among others more than it gives.


@njit(cache=True)
def add(rows, now, place, level, aim, keep_s, times, places, levels, aims, first, last):
    """Add a moment to some rows (N,) of histories (R, room): places (N, 2) and levels (N,) then; let go of what is older than `keep_s`.

    At more pings a second than there is room for, the oldest go before their time.
    """
    room = times.shape[1]
    for n in range(len(rows)):
        row = rows[n]
        while first[row] < last[row] and now - times[row, first[row]] > keep_s:
            first[row] += 1
        if last[row] == room:
            start = max(first[row], room // 2)
            for k in range(room - start):
                times[row, k] = times[row, start + k]
                places[row, k, 0] = places[row, start + k, 0]
                places[row, k, 1] = places[row, start + k, 1]
                levels[row, k] = levels[row, start + k]
                aims[row, k] = aims[row, start + k]
            first[row], last[row] = 0, room - start
        at = last[row]
        times[row, at] = now
        places[row, at, 0] = place[n, 0]
        places[row, at, 1] = place[n, 1]
        levels[row, at] = level[n]
        aims[row, at] = aim
        last[row] += 1


@njit(cache=True)
def heard_together(rows, others, times, places, levels, first, last, since, out):
    """Write of the moments since a time, oldest first, of rows (N,) and of an other each (N,), the shares at which both were heard, the one alone

    and the other alone; of those of both how far apart they were (root mean square), how much that swayed (standard deviation), how much
    louder the other was (N, 6).
    """
    for n in range(len(rows)):
        one, other = rows[n], others[n]
        both = alone = other_alone = 0
        x = y = square = louder = 0.0
        i, j = last[one] - 1, last[other] - 1
        while True:
            here = times[one, i] if i >= first[one] else -math.inf
            there = times[other, j] if j >= first[other] else -math.inf
            if max(here, there) < since:
                break
            if here == there:
                dx = places[other, j, 0] - places[one, i, 0]
                dy = places[other, j, 1] - places[one, i, 1]
                x += dx
                y += dy
                square += dx * dx + dy * dy
                louder += levels[other, j] - levels[one, i]
                both += 1
            elif here > there:
                alone += 1
            else:
                other_alone += 1
            i -= here >= there
            j -= there >= here
        total = both + alone + other_alone
        out[n, :] = math.nan
        if total > 0:
            out[n, 0], out[n, 1], out[n, 2] = both / total, alone / total, other_alone / total
        if both > 0:
            out[n, 3] = math.sqrt(square / both)
            out[n, 4] = math.sqrt(max(square / both - (x / both) ** 2 - (y / both) ** 2, 0.0))
            out[n, 5] = louder / both


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
def straight(time, place, first, last, since_s, out):
    """Write the velocity (2) of the straight line through the moments since a time, by least squares, and how far off it they lie (root mean

    square); return how many moments there were.
    """
    start = last
    while start > first and time[start - 1] > since_s:
        start -= 1
    count = last - start
    out[:3] = 0.0
    if count < 3:
        return count
    mean_t = mean_x = mean_y = 0.0
    for n in range(start, last):
        mean_t += time[n]
        mean_x += place[n, 0]
        mean_y += place[n, 1]
    mean_t /= count
    mean_x /= count
    mean_y /= count
    spread = slope_x = slope_y = 0.0
    for n in range(start, last):
        t = time[n] - mean_t
        spread += t * t
        slope_x += t * (place[n, 0] - mean_x)
        slope_y += t * (place[n, 1] - mean_y)
    slope_x /= max(spread, 1e-9)
    slope_y /= max(spread, 1e-9)
    square = 0.0
    for n in range(start, last):
        t = time[n] - mean_t
        square += (place[n, 0] - mean_x - slope_x * t) ** 2 + (place[n, 1] - mean_y - slope_y * t) ** 2
    out[0] = slope_x
    out[1] = slope_y
    out[2] = math.sqrt(square / count)
    return count


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


@njit(cache=True)
def beat(time, level, first, last, since_s, beats_hz, out):
    """Write at which frequency the level swings most since a time, and that swing's share of the variance; return whether there were 20 moments.

    The level's straight-line trend is taken out first. Source: classical periodogram at uneven times (Scargle 1982, without his delay).
    """
    start = last
    while start > first and time[start - 1] > since_s:
        start -= 1
    count = last - start
    if count < 20:
        return False
    mean_t = mean = 0.0
    for n in range(start, last):
        mean_t += time[n]
        mean += level[n]
    mean_t /= count
    mean /= count
    spread = slope = 0.0
    for n in range(start, last):
        spread += (time[n] - mean_t) ** 2
        slope += (time[n] - mean_t) * (level[n] - mean)
    slope /= max(spread, 1e-9)
    total = 1e-9
    for n in range(start, last):
        total += (level[n] - mean - slope * (time[n] - mean_t)) ** 2
    out[1] = -1.0
    for f in range(len(beats_hz)):
        real = imaginary = 0.0
        turn = 2.0 * math.pi * beats_hz[f]
        for n in range(start, last):
            left = level[n] - mean - slope * (time[n] - mean_t)
            real += left * math.cos(turn * (time[n] - mean_t))
            imaginary += left * math.sin(turn * (time[n] - mean_t))
        share = 2.0 * (real * real + imaginary * imaginary) / (count * total)
        if share > out[1]:
            out[0] = beats_hz[f]
            out[1] = share
    return True


@njit(cache=True)
def motion(
    rows,
    now,
    times,
    places,
    first,
    last,
    score,
    steady,
    roams_s,
    least_s,
    far_s,
    ways_s,
    shift,
    long_shift,
    roam,
    moved,
    sink,
    ways,
):
    """Write of some rows (N,) how they went: straight ways (R, S, 3) over each of `ways_s` (S,), not numbers with under LEAST_STRAIGHT moments;

    and, where they were heard for over `least_s` of the last `roams_s`, how they shifted (R, 2) over those, and over `far_s`, how far they
    roamed (R,), how far at most while their `score` (R,) was over `steady` (R,), how fast they sank (R,).
    """
    out = np.empty(3)
    for n in range(len(rows)):
        row = rows[n]
        time, place = times[row], places[row]
        for s in range(len(ways_s)):
            count = straight(time, place, first[row], last[row], now - ways_s[s], out)
            for k in range(3):
                ways[row, s, k] = out[k] if count >= LEAST_STRAIGHT else math.nan
        span = travel(time, place, first[row], last[row], now - roams_s, out)
        if span <= least_s:
            continue
        shift[row, 0], shift[row, 1] = out[0], out[1]
        roam[row] = math.hypot(out[0], out[1])
        sink[row] = out[1] / span
        if score[row] > steady:
            moved[row] = max(moved[row], roam[row])
        if travel(time, place, first[row], last[row], now - far_s, out) > 0.0:
            long_shift[row, 0], long_shift[row, 1] = out[0], out[1]


@njit(cache=True)
def beats(rows, times, levels, first, last, since_s, beats_hz, out):
    """Write of some rows (N,) at which frequency their level swings most since a time, and that swing's share (R, 2); not numbers with too few moments."""
    found = np.empty(2)
    for n in range(len(rows)):
        row = rows[n]
        told = beat(times[row], levels[row], first[row], last[row], since_s, beats_hz, found)
        for k in range(2):
            out[row, k] = found[k] if told else math.nan
