"""Kernel of notes: what tracks take in of the echoes that they got."""

import math

from numba import njit

# The share of the newest level and length, once there are so many echoes.
SHARE, SHARE_HITS = 0.12, 8


@njit(cache=True, nogil=True)
def note(rows, place, level, length, measured, now, slow_hits, hits, means, steps, newest, level_db, length_m, seen_s, own_s):
    """Let some rows (N,) of tracks take in what was measured of each: its place (N, 2), level and length (N,), and what is averaged (N, K).

    Over `slow_hits` echoes the mean counts the newest as one of so many. A body turned away looks short: the length leans to the longest
    that was seen.
    """
    for n in range(len(rows)):
        row = rows[n]
        count = hits[row]
        slow = 1.0 / slow_hits if count > slow_hits else 1.0 / (count + 1.0)
        for k in range(measured.shape[1]):
            means[row, k] += slow * (measured[n, k] - means[row, k])
        if not math.isnan(newest[row, 0]):
            part = 1.0 / slow_hits if count > slow_hits else 1.0 / count
            moved = math.hypot(place[n, 0] - newest[row, 2], place[n, 1] - newest[row, 3])
            steps[row, 0] += part * (abs(level[n] - newest[row, 0]) - steps[row, 0])
            steps[row, 1] += part * (abs(length[n] - newest[row, 1]) - steps[row, 1])
            steps[row, 2] += part * (moved - steps[row, 2])
        newest[row, 0], newest[row, 1] = level[n], length[n]
        newest[row, 2], newest[row, 3] = place[n, 0], place[n, 1]
        share = SHARE if count > SHARE_HITS else 1.0 / (count + 1.0)
        level_db[row] += share * (level[n] - level_db[row])
        leans = share if length[n] > length_m[row] or count < SHARE_HITS else 0.15 * share
        length_m[row] += leans * (length[n] - length_m[row])
        hits[row] += 1
        seen_s[row] = own_s[row] = now
