"""Kernels of company: what lies about a track, and how it differs from that."""

import math

import numpy as np
from numba import njit


@njit(cache=True, nogil=True)
def gaps(place, other, itself_m, out):
    """Write how far places (N, 2) lie from others (M, 2): (N, M), infinity from what is nearer than `itself_m`."""
    for n in range(len(place)):
        for m in range(len(other)):
            ahead, down = place[n, 0] - other[m, 0], place[n, 1] - other[m, 1]
            gap = math.sqrt(ahead * ahead + down * down)
            out[n, m] = np.inf if gap < itself_m else gap


@njit(cache=True, nogil=True)
def echoes_about(place, echo, level_db, small_db, crowd_m, company_m, out):
    """Write how many small echoes lie within `crowd_m` of each place (N, 2), and how many of any size but its own within `company_m` (N, 2)."""
    for n in range(len(place)):
        small = near = 0
        for m in range(len(echo)):
            ahead, down = place[n, 0] - echo[m, 0], place[n, 1] - echo[m, 1]
            square = ahead * ahead + down * down
            small += square < crowd_m * crowd_m and level_db[m] < small_db
            near += square < company_m * company_m
        out[n, 0] = small
        out[n, 1] = max(near - 1, 0)


@njit(cache=True, nogil=True)
def means_about(gap, values, radius, out):
    """Write the means (N, K) of values (M, K) of what lies nearer than a radius, by how far all lie (N, M); not a number where none is known."""
    count = np.empty(values.shape[1])
    for n in range(len(gap)):
        count[:] = 0.0
        out[n, :] = 0.0
        for m in range(len(values)):
            if gap[n, m] < radius:
                for k in range(values.shape[1]):
                    if math.isfinite(values[m, k]):
                        out[n, k] += values[m, k]
                        count[k] += 1.0
        for k in range(values.shape[1]):
            out[n, k] = out[n, k] / count[k] if count[k] > 0.0 else math.nan


@njit(cache=True, nogil=True)
def nearest(gap, near_m, out, count):
    """Write which lies nearest (N,), by how far all lie (N, M), and how many lie nearer than `near_m` (N,)."""
    for n in range(len(gap)):
        best = np.inf
        out[n] = count[n] = 0
        for m in range(gap.shape[1]):
            if gap[n, m] < best:
                best = gap[n, m]
                out[n] = m
            count[n] += gap[n, m] < near_m


@njit(cache=True, nogil=True)
def leads_about(lead, gap, leads, radii, out):
    """Write, for each of `radii` (S,), of what lies nearer and was told the mean and the most of leads (M,), how many there are, and how far the

    own lead (N,) is over that mean: (N, S, 4); not numbers where there is none. A lead of minus infinity is of who was never told.
    """
    for n in range(len(lead)):
        for s in range(len(radii)):
            total, most, count = 0.0, -np.inf, 0
            for m in range(len(leads)):
                if gap[n, m] < radii[s] and leads[m] > -np.inf:
                    total += leads[m]
                    most = max(most, leads[m])
                    count += 1
            out[n, s, 0] = total / count if count else math.nan
            out[n, s, 1] = most if count else math.nan
            out[n, s, 2] = count
            out[n, s, 3] = lead[n] - out[n, s, 0]
