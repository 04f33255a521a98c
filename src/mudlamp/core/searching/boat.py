"""The boat that searches: it idles along a path, and what its position fix and compass say of that."""

import itertools
import math
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from mudlamp.core.units import MPH_M_S

SPEED_M_S = (0.0, 8.0 * MPH_M_S)
# Side and down pictures keep their shape between these speeds (common practice).
TRUE_SPEED_M_S = (3.5 * MPH_M_S, 5.0 * MPH_M_S)
# How fast it turns [rad/s]; a place of its path counts as reached so near to it [m], or abeam of it within so much [m]: what it cannot turn to
# it does not circle; at the last one it stops (ours).
TURN_RAD_S = 0.35
CORNER_M = 4.0
ABEAM_M = 14.0
END_M = 0.8
# How far off the fix is, each way [m], over how long it wanders [s], and how far off the compass is [rad]: a corrected fix under open sky (ours).
FIX_SIGMA_M = 0.6
FIX_WANDERS_S = 90.0
COMPASS_SIGMA_RAD = math.radians(2.0)
# Where the transducers are, by the antenna: astern and to starboard [m], and how deep [m].
ASTERN_M, STARBOARD_M, DRAFT_M = 2.0, 0.4, 0.3


@dataclass(frozen=True, slots=True, kw_only=True)
class Standing:
    """Where a boat is: time [s], place of its antenna [m], heading [rad] and speed [m/s]."""

    time_s: float
    x_m: float
    y_m: float
    heading_rad: float
    speed_m_s: float

    @property
    def transducer_m(self) -> tuple[float, float, float]:
        """Where its console's transducers are [m]."""
        east, north = math.sin(self.heading_rad), math.cos(self.heading_rad)
        return (self.x_m - ASTERN_M * east + STARBOARD_M * north, self.y_m - ASTERN_M * north - STARBOARD_M * east, DRAFT_M)


class IdlingBoat:
    """A boat that follows a path of places [m] at a speed [m/s] and stops at its end; without a path it goes straight on."""

    def __init__(self, at_m: tuple[float, float], heading_rad: float, *, rng: np.random.Generator) -> None:
        self.time_s = 0.0
        self.x_m, self.y_m = at_m
        self.heading_rad = heading_rad
        self.speed_m_s = 0.0
        self.path: list[tuple[float, float]] = []
        self._rng = rng
        self._fix = rng.normal(0.0, FIX_SIGMA_M, 2)
        self._compass = float(rng.normal(0.0, COMPASS_SIGMA_RAD))

    def follow(self, path: Sequence[tuple[float, float]]) -> None:
        """Take another path [m]."""
        self.path = list(path)

    @property
    def left_m(self) -> float:
        """How much of its path is left [m]."""
        places = [(self.x_m, self.y_m), *self.path]
        return sum(math.dist(a, b) for a, b in itertools.pairwise(places))

    def advance(self, dt_s: float) -> None:
        """Go on for a while [s]."""
        self.time_s += dt_s
        under_way = bool(self.path)
        while self.path and self._has_reached(self.path[0]):
            self.path.pop(0)
        if under_way and not self.path:
            self.speed_m_s = 0.0
        if self.path and self.speed_m_s > 0.0:
            wanted = math.atan2(self.path[0][0] - self.x_m, self.path[0][1] - self.y_m)
            turn = math.remainder(wanted - self.heading_rad, 2.0 * math.pi)
            most = TURN_RAD_S * dt_s
            self.heading_rad = math.remainder(self.heading_rad + min(max(turn, -most), most), 2.0 * math.pi)
        step = self.speed_m_s * dt_s
        self.x_m += step * math.sin(self.heading_rad)
        self.y_m += step * math.cos(self.heading_rad)
        keep = math.exp(-dt_s / FIX_WANDERS_S)
        stirred = math.sqrt(1.0 - keep * keep)
        self._fix = keep * self._fix + stirred * self._rng.normal(0.0, FIX_SIGMA_M, 2)
        self._compass = keep * self._compass + stirred * float(self._rng.normal(0.0, COMPASS_SIGMA_RAD))

    def _has_reached(self, place: tuple[float, float]) -> bool:
        """Return whether a place of the path [m] is reached, or passed by."""
        dx, dy = place[0] - self.x_m, place[1] - self.y_m
        ahead = dx * math.sin(self.heading_rad) + dy * math.cos(self.heading_rad)
        away = math.hypot(dx, dy)
        if len(self.path) == 1:
            return away < END_M or (away < CORNER_M and ahead <= 0.0) or (away < ABEAM_M and ahead < -0.5 * away)
        return away < CORNER_M or (away < ABEAM_M and ahead < 0.3 * away)

    def truly(self) -> Standing:
        """Return where it really is."""
        return Standing(time_s=self.time_s, x_m=self.x_m, y_m=self.y_m, heading_rad=self.heading_rad, speed_m_s=self.speed_m_s)

    def told(self) -> Standing:
        """Return where its fix and compass say it is."""
        return Standing(
            time_s=self.time_s,
            x_m=self.x_m + float(self._fix[0]),
            y_m=self.y_m + float(self._fix[1]),
            heading_rad=self.heading_rad + self._compass,
            speed_m_s=self.speed_m_s,
        )
