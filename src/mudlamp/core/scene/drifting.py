"""What drifts in the water: insects rising, a boat's wake, bubbles behind a lure or a released fish."""

import math

import numpy as np

from mudlamp.core.arrays import FloatArray
from mudlamp.core.scene.model import Insects, Wake
from mudlamp.core.water.thermocline import Thermocline

INSECT_TS_DB = -57.0
LAYER_RADIUS_M = 22.0
LAYER_COUNT = 600
SMALL_FISH_SHARE = 0.15
SMALL_FISH_TS_DB = -52.0
WAKE_POINTS = 900
WAKE_FADE_S = 90.0
# How fast a boat that crosses goes [m/s].
CROSSING_M_S = 5.0
BUBBLE_TS_DB = -58.0
BUBBLE_RISE_M_S = 0.22
BUBBLE_LIFE_S = 5.0
BUBBLE_BRAKE_S = 1.2


class Swarm:
    """Insects: each rises from the bottom to the surface, wandering a little, and then rises anew."""

    def __init__(self, plan: Insects, depth_m: float, rng: np.random.Generator) -> None:
        spot = plan.radius_m * np.sqrt(rng.uniform(0.0, 1.0, plan.count))
        turn = rng.uniform(0.0, 2.0 * math.pi, plan.count)
        self._x, self._y = plan.x_m + spot * np.sin(turn), plan.y_m + spot * np.cos(turn)
        self._depth_m = depth_m
        self._start = rng.uniform(0.0, depth_m, plan.count)
        self._rise = plan.rise_m_s * rng.uniform(0.6, 1.4, plan.count)
        self._wander = rng.uniform(0.0, 2.0 * math.pi, plan.count)
        self.amplitude: FloatArray = 10.0 ** (INSECT_TS_DB / 20.0) * np.sqrt(rng.exponential(1.0, plan.count))
        self.phase_rad: FloatArray = rng.uniform(0.0, 2.0 * math.pi, plan.count)

    def places_m(self, time_s: float) -> FloatArray:
        """Return where they are (N, 3) [m] at a time [s]."""
        z = self._depth_m - np.mod(self._start + self._rise * time_s, self._depth_m)
        sway = 0.1 * np.sin(0.7 * time_s + self._wander)
        return np.column_stack((self._x + sway, self._y + 0.5 * sway, z))


class Layer:
    """What hangs on a thermocline: insects and small fish, spread evenly about the boat's start, each bobbing about its own depth."""

    def __init__(self, plan: Thermocline, x_m: float, y_m: float, rng: np.random.Generator) -> None:
        spot = LAYER_RADIUS_M * np.sqrt(rng.uniform(0.0, 1.0, LAYER_COUNT))
        turn = rng.uniform(0.0, 2.0 * math.pi, LAYER_COUNT)
        depth = plan.depth_m + plan.thickness_m * np.clip(rng.normal(0.5, 0.25, LAYER_COUNT), -0.2, 1.2)
        self._place = np.column_stack((x_m + spot * np.sin(turn), y_m + spot * np.cos(turn), depth))
        self._bob = rng.uniform(0.0, 2.0 * math.pi, (LAYER_COUNT, 3))
        small_fish = rng.random(LAYER_COUNT) < SMALL_FISH_SHARE
        level = np.where(small_fish, SMALL_FISH_TS_DB, INSECT_TS_DB)
        self.amplitude: FloatArray = 10.0 ** (level / 20.0) * np.sqrt(rng.exponential(1.0, LAYER_COUNT))
        self.phase_rad: FloatArray = rng.uniform(0.0, 2.0 * math.pi, LAYER_COUNT)

    def places_m(self, time_s: float) -> FloatArray:
        """Return where they are (N, 3) [m] at a time [s]."""
        return self._place + np.array([0.25, 0.25, 0.06]) * np.sin(0.5 * time_s + self._bob)


class Plume:
    """A wake: bubbles down to 20 ft that fade with time, strongest at the top; its points stand for many bubbles each.

    A boat that crosses leaves its wake along its track as it goes; else it is a round patch that is there from the start.
    """

    def __init__(self, plan: Wake, rng: np.random.Generator) -> None:
        spot = plan.radius_m * np.sqrt(rng.uniform(0.0, 1.0, WAKE_POINTS))
        turn = rng.uniform(0.0, 2.0 * math.pi, WAKE_POINTS)
        # Sv falls evenly in dB, by 20 dB from top to foot.
        share = rng.uniform(0.02, 1.0, WAKE_POINTS)
        self._base = np.column_stack((plan.x_m + spot * np.sin(turn), plan.y_m + spot * np.cos(turn), plan.depth_m * share))
        volume = math.pi * plan.radius_m**2 * plan.depth_m / WAKE_POINTS
        self._born = np.full(WAKE_POINTS, -plan.age_s)
        if plan.crosses_s is not None:
            along = rng.uniform(-0.5, 0.5, WAKE_POINTS) * plan.length_m
            aside = 0.5 * plan.radius_m * rng.normal(0.0, 1.0, WAKE_POINTS)
            east, north = math.sin(plan.bearing_rad), math.cos(plan.bearing_rad)
            self._base[:, 0] = plan.x_m + along * east + aside * north
            self._base[:, 1] = plan.y_m + along * north - aside * east
            self._born = plan.crosses_s + along / CROSSING_M_S
            volume = 2.0 * plan.radius_m * plan.length_m * plan.depth_m / WAKE_POINTS
        self._full = np.sqrt(volume * 10.0 ** ((plan.strength_db - 20.0 * share) / 10.0) * rng.exponential(1.0, WAKE_POINTS))
        self._turn = rng.uniform(0.0, 2.0 * math.pi, (WAKE_POINTS, 3))
        self.phase_rad: FloatArray = rng.uniform(0.0, 2.0 * math.pi, WAKE_POINTS)

    def places_m(self, time_s: float) -> FloatArray:
        """Return where its points are (N, 3) [m]: stirred by what is left of the turbulence."""
        return self._base + 0.25 * np.sin(0.9 * time_s + self._turn) * [1.0, 1.0, 0.15]

    def amplitude(self, time_s: float) -> FloatArray:
        """Return their amplitudes (N,) [m], which fade by half in power every WAKE_FADE_S; nothing where the boat has not passed yet."""
        age = time_s - self._born
        return np.where(age >= 0.0, self._full * 2.0 ** (-np.maximum(age, 0.0) / WAKE_FADE_S / 2.0), 0.0)


class Bubbles:
    """Air that a lure or a released fish took under: it rises and is gone."""

    def __init__(self, rng: np.random.Generator) -> None:
        self._rng = rng
        self._place: FloatArray = np.zeros((0, 3))
        self._born = np.zeros(0)
        self._strength = np.zeros(0)
        self._velocity: FloatArray = np.zeros((0, 3))

    def add(self, place_m: FloatArray, *, count: int, spread_m: float, time_s: float, velocity_m_s: FloatArray | None = None) -> None:
        """Put bubbles about a place [m], thrown with (count, 3) velocities [m/s] where given: the water brakes them within a second."""
        thrown = np.zeros((count, 3)) if velocity_m_s is None else velocity_m_s
        self._velocity = np.concatenate((self._velocity, thrown))
        self._place = np.concatenate((self._place, place_m + self._rng.normal(0.0, spread_m, (count, 3))))
        self._born = np.concatenate((self._born, np.full(count, time_s)))
        self._strength = np.concatenate((self._strength, 10.0 ** (BUBBLE_TS_DB / 20.0) * np.sqrt(self._rng.exponential(1.0, count))))

    def step(self, *, time_s: float, dt_s: float) -> None:
        """Let them rise; drop those that are old or at the surface."""
        if not len(self._born):
            return
        self._place += self._velocity * dt_s
        self._velocity *= math.exp(-dt_s / BUBBLE_BRAKE_S)
        self._place[:, 2] -= BUBBLE_RISE_M_S * dt_s
        keep = (self._place[:, 2] > 0.02) & (time_s - self._born < BUBBLE_LIFE_S)
        self._place, self._born, self._strength = self._place[keep], self._born[keep], self._strength[keep]
        self._velocity = self._velocity[keep]

    def now(self, time_s: float) -> tuple[FloatArray, FloatArray, FloatArray]:
        """Return their places (N, 3) [m], amplitudes (N,) [m] and phases (N,) [rad]; they dissolve with age."""
        fade = np.clip(1.0 - (time_s - self._born) / BUBBLE_LIFE_S, 0.0, 1.0)
        return self._place, self._strength * fade, 7.0 * self._born + 3.0 * np.arange(len(self._born))
