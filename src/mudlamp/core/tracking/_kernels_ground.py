"""Kernels of the ground: the map of what always echoes, and the likeliest bottom line."""

import math

import numpy as np
from numba import njit


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
