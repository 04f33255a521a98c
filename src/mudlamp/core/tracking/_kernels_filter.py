"""Kernels of the filter: how states move on, how far echoes lie from them, what it costs to take one for the other."""

import numpy as np
from numba import njit


@njit(cache=True, nogil=True)
def predict(state, covariance, dt, acceleration, out, spread):
    """Write states (N, 4) and covariances (N, 4, 4) a time step later, with the noise of white accelerations (N,)."""
    for n in range(len(state)):
        whole = acceleration[n] ** 2 * dt**2
        half, quarter = 0.5 * whole * dt, 0.25 * whole * dt**2
        for a in range(2):
            out[n, a] = state[n, a] + dt * state[n, a + 2]
            out[n, a + 2] = state[n, a + 2]
        for a in range(2):
            for b in range(2):
                place, speed = covariance[n, a, b], covariance[n, a + 2, b + 2]
                mixed, other = covariance[n, a, b + 2], covariance[n, a + 2, b]
                spread[n, a, b] = place + dt * (mixed + other) + dt * dt * speed
                spread[n, a, b + 2] = mixed + dt * speed
                spread[n, a + 2, b] = other + dt * speed
                spread[n, a + 2, b + 2] = speed
            spread[n, a, a] += quarter
            spread[n, a, a + 2] += half
            spread[n, a + 2, a] += half
            spread[n, a + 2, a + 2] += whole


@njit(cache=True, nogil=True)
def update(state, covariance, place, noise, out, spread):
    """Write states (N, 4) and covariances (N, 4, 4) after one measurement each: places (N, 2), noise (N, 2, 2). Joseph form."""
    gain, keep, kept = np.empty((4, 2)), np.empty((4, 4)), np.empty((4, 4))
    for n in range(len(state)):
        xx = covariance[n, 0, 0] + noise[n, 0, 0]
        xy = covariance[n, 0, 1] + noise[n, 0, 1]
        yx = covariance[n, 1, 0] + noise[n, 1, 0]
        yy = covariance[n, 1, 1] + noise[n, 1, 1]
        whole = xx * yy - xy * yx
        for a in range(4):
            for b in range(4):
                keep[a, b] = 1.0 if a == b else 0.0
            gain[a, 0] = (covariance[n, a, 0] * yy - covariance[n, a, 1] * yx) / whole
            gain[a, 1] = (covariance[n, a, 1] * xx - covariance[n, a, 0] * xy) / whole
            keep[a, 0] -= gain[a, 0]
            keep[a, 1] -= gain[a, 1]
            out[n, a] = state[n, a] + gain[a, 0] * (place[n, 0] - state[n, 0]) + gain[a, 1] * (place[n, 1] - state[n, 1])
        for a in range(4):
            for b in range(4):
                kept[a, b] = 0.0
                for c in range(4):
                    kept[a, b] += keep[a, c] * covariance[n, c, b]
        for a in range(4):
            for b in range(4):
                total = 0.0
                for c in range(4):
                    total += kept[a, c] * keep[b, c]
                for c in range(2):
                    total += (gain[a, 0] * noise[n, 0, c] + gain[a, 1] * noise[n, 1, c]) * gain[b, c]
                spread[n, a, b] = total


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


@njit(cache=True, nogil=True)
def costs(distance, level_db, echo_db, level_cost_db, gate, out):
    """Write what it costs (N, M) that tracks of levels (N,) take echoes of levels (M,) so far off (N, M): the gate where they lie outside it."""
    for i in range(len(level_db)):
        for j in range(len(echo_db)):
            if distance[i, j] < gate:
                level = (echo_db[j] - level_db[i]) / level_cost_db
                out[i, j] = 0.6 * distance[i, j] + 0.4 * min(level * level, gate)
            else:
                out[i, j] = gate
