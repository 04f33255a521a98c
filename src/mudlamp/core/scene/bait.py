"""A bait cloud: many small fish milling about a center that wanders; it draws together before a hunter and bursts when one shoots through."""

import math

import numpy as np

from mudlamp.core.arrays import BoolArray, FloatArray
from mudlamp.core.scene.model import BaitCloud

BAIT_TS_DB = -50.0
WANDER_M = 0.6
WANDER_PERIOD_S = 53.0
# One that hunts it this near to its edge [m] has it draw together: to what share of its size, how quickly, and how slowly it eases again [s].
WARY_M = 1.5
TIGHT = 0.5
DRAWS_S, EASES_S = 2.0, 8.0
# A hunter that charges this far into the ball (share of its radius) bursts it: how far it flies apart by its size at ease, how quickly, and
# how slowly it gathers again [s]; it does not burst again before (all ours; the order of things is common practice).
INTO = 0.8
FLUNG = 1.3
FLIES_S, GATHERS_S = 0.6, 5.0
TOP_M = 0.05


class Cloud:
    """A cloud in motion: every member swings about its own place in it. Without `step` it is at ease."""

    def __init__(self, name: str, plan: BaitCloud, rng: np.random.Generator) -> None:
        self.name = name
        self._widest_m = plan.radius_m
        self._center = np.array([plan.x_m, plan.y_m, plan.z_m])
        spot = rng.normal(0.0, 1.0, (plan.count, 3))
        spot /= np.maximum(np.linalg.norm(spot, axis=1, keepdims=True), 1e-6)
        self._spot = spot * (rng.random((plan.count, 1)) ** (1.0 / 3.0)) * plan.radius_m * [1.0, 1.0, 0.5]
        self._rate = rng.uniform(0.4, 1.4, (plan.count, 3))
        self._turn = rng.uniform(0.0, 2.0 * math.pi, (plan.count, 3))
        self._wander_phase = rng.uniform(0.0, 2.0 * math.pi, 3)
        self.phase_rad: FloatArray = rng.uniform(0.0, 2.0 * math.pi, plan.count)
        self.amplitude: FloatArray = 10.0 ** (BAIT_TS_DB / 20.0) * np.sqrt(rng.exponential(1.0, plan.count))
        self._drawn = 1.0
        self._flung = 0.0
        self._burst_s = -math.inf

    @property
    def size(self) -> float:
        """How wide it is now by its width at ease."""
        return self._drawn + self._flung

    @property
    def radius_m(self) -> float:
        """How far it reaches now [m]."""
        return self._widest_m * self.size

    def step(self, *, time_s: float, dt_s: float, hunters_m: FloatArray, charging: BoolArray) -> None:
        """Live on for one time step with those that hunt it at places (N, 3) [m], and which of them charge (N,)."""
        away = np.linalg.norm(hunters_m - self.center_m(time_s), axis=1)
        is_in = (away < INTO * self.radius_m) & charging
        if bool(is_in.any()) and time_s - self._burst_s > GATHERS_S:
            self._burst_s = time_s
        threatened = bool((away < self._widest_m + WARY_M).any())
        wanted, within_s = (TIGHT, DRAWS_S) if threatened else (1.0, EASES_S)
        self._drawn += (wanted - self._drawn) * min(1.0, dt_s / within_s)
        since = time_s - self._burst_s
        self._flung = FLUNG * (1.0 - math.exp(-since / FLIES_S)) * math.exp(-since / GATHERS_S)

    def center_m(self, time_s: float) -> FloatArray:
        """Return the cloud's center (3,) [m] at a time [s]."""
        turn = 2.0 * math.pi * time_s / WANDER_PERIOD_S
        return self._center + WANDER_M * np.sin(turn * np.array([1.0, 0.7, 0.5]) + self._wander_phase) * [1.0, 1.0, 0.25]

    def places_m(self, time_s: float) -> FloatArray:
        """Return where its members are (N, 3) [m] at a time [s]."""
        places: FloatArray = self.center_m(time_s) + self.size * self._spot + 0.12 * np.sin(self._rate * time_s + self._turn)
        if self._flung > 0.0:
            # What flies apart does not leave the water.
            places[:, 2] = np.maximum(places[:, 2], TOP_M)
        return places
