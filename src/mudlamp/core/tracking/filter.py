"""The constant-velocity Kalman filter in the fan's plane, for many tracks at once.

Source: standard Kalman filter with white acceleration (Bar-Shalom, Li and Kirubarajan 2001).
"""

import numpy as np

from mudlamp.core.arrays import FloatArray
from mudlamp.core.tracking import _kernels_tracks

ACCELERATION_M_S2 = 1.0
START_SPEED_M_S = 0.5
_MEASURES = np.array([[1.0, 0.0, 0.0, 0.0], [0.0, 1.0, 0.0, 0.0]])


def predict(state: FloatArray, covariance: FloatArray, dt_s: float) -> tuple[FloatArray, FloatArray]:
    """Return (N, 4) states and (N, 4, 4) covariances a time step [s] later."""
    step = np.eye(4)
    step[0, 2] = step[1, 3] = dt_s
    q = ACCELERATION_M_S2**2
    block = q * np.array([[dt_s**4 / 4.0, dt_s**3 / 2.0], [dt_s**3 / 2.0, dt_s**2]])
    noise = np.zeros((4, 4))
    noise[np.ix_([0, 2], [0, 2])] = block
    noise[np.ix_([1, 3], [1, 3])] = block
    return state @ step.T, step @ covariance @ step.T + noise


def distances(state: FloatArray, covariance: FloatArray, place: FloatArray, noise: FloatArray) -> FloatArray:
    """Return the Mahalanobis distances squared (N, M) of M places (M, 2) with noise (M, 2, 2) to N states."""
    out = np.empty((len(state), len(place)))
    _kernels_tracks.distances(state, covariance, place, noise, out)
    return out


def update(state: FloatArray, covariance: FloatArray, place: FloatArray, noise: FloatArray) -> tuple[FloatArray, FloatArray]:
    """Return (N, 4) states and (N, 4, 4) covariances after one measurement each: places (N, 2), noise (N, 2, 2). Joseph form."""
    residual = place - state[:, :2]
    total = covariance[:, :2, :2] + noise
    gain = covariance[:, :, :2] @ np.linalg.inv(total)
    new_state = state + (gain @ residual[:, :, None])[:, :, 0]
    keep = np.eye(4) - gain @ _MEASURES
    new_covariance = keep @ covariance @ np.swapaxes(keep, 1, 2) + gain @ noise @ np.swapaxes(gain, 1, 2)
    return new_state, new_covariance
