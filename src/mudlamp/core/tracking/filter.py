"""The constant-velocity Kalman filter in the fan's plane, for many tracks at once.

Source: standard Kalman filter with white acceleration (Bar-Shalom, Li and Kirubarajan 2001).
"""

import numpy as np

from mudlamp.core.arrays import FloatArray
from mudlamp.core.tracking import _kernels_filter

# What is not known yet may be a lure on its way; of fish a smaller one leaves the echo of a neighbor to the neighbor (docs/decisions/0048).
ACCELERATION_M_S2, FISH_M_S2, DART_M_S2 = 1.0, 0.4, 4.0
START_SPEED_M_S = 0.5


def predict(state: FloatArray, covariance: FloatArray, dt_s: float, acceleration_m_s2: FloatArray) -> tuple[FloatArray, FloatArray]:
    """Return (N, 4) states and (N, 4, 4) covariances a time step [s] later, of what accelerates so much (N,)."""
    out, spread = np.empty_like(state), np.empty_like(covariance)
    _kernels_filter.predict(state, covariance, dt_s, acceleration_m_s2, out, spread)
    return out, spread


def distances(state: FloatArray, covariance: FloatArray, place: FloatArray, noise: FloatArray) -> FloatArray:
    """Return the Mahalanobis distances squared (N, M) of M places (M, 2) with noise (M, 2, 2) to N states."""
    out = np.empty((len(state), len(place)))
    _kernels_filter.distances(state, covariance, place, noise, out)
    return out


def update(state: FloatArray, covariance: FloatArray, place: FloatArray, noise: FloatArray) -> tuple[FloatArray, FloatArray]:
    """Return (N, 4) states and (N, 4, 4) covariances after one measurement each: places (N, 2), noise (N, 2, 2). Joseph form."""
    out, spread = np.empty_like(state), np.empty_like(covariance)
    _kernels_filter.update(state, covariance, place, noise, out, spread)
    return out, spread
