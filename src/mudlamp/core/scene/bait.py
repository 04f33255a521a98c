"""A bait cloud: many small fish milling about a center that wanders."""

import math

import numpy as np

from mudlamp.core.arrays import FloatArray
from mudlamp.core.scene.model import BaitCloud

BAIT_TS_DB = -50.0
WANDER_M = 0.6
WANDER_PERIOD_S = 53.0


class Cloud:
    """A cloud in motion: every member swings about its own place in it."""

    def __init__(self, name: str, plan: BaitCloud, rng: np.random.Generator) -> None:
        self.name = name
        self.radius_m = plan.radius_m
        self._center = np.array([plan.x_m, plan.y_m, plan.z_m])
        spot = rng.normal(0.0, 1.0, (plan.count, 3))
        spot /= np.maximum(np.linalg.norm(spot, axis=1, keepdims=True), 1e-6)
        self._spot = spot * (rng.random((plan.count, 1)) ** (1.0 / 3.0)) * plan.radius_m * [1.0, 1.0, 0.5]
        self._rate = rng.uniform(0.4, 1.4, (plan.count, 3))
        self._turn = rng.uniform(0.0, 2.0 * math.pi, (plan.count, 3))
        self._wander_phase = rng.uniform(0.0, 2.0 * math.pi, 3)
        self.phase_rad: FloatArray = rng.uniform(0.0, 2.0 * math.pi, plan.count)
        self.amplitude: FloatArray = 10.0 ** (BAIT_TS_DB / 20.0) * np.sqrt(rng.exponential(1.0, plan.count))

    def center_m(self, time_s: float) -> FloatArray:
        """Return the cloud's center (3,) [m] at a time [s]."""
        turn = 2.0 * math.pi * time_s / WANDER_PERIOD_S
        return self._center + WANDER_M * np.sin(turn * np.array([1.0, 0.7, 0.5]) + self._wander_phase) * [1.0, 1.0, 0.25]

    def places_m(self, time_s: float) -> FloatArray:
        """Return where its members are (N, 3) [m] at a time [s]."""
        return self.center_m(time_s) + self._spot + 0.12 * np.sin(self._rate * time_s + self._turn)
