"""A lure on line: thrown, sinking on an open bail, swinging on a tight line, reeled, lifted, taken by a fish."""

import math
from dataclasses import dataclass
from enum import StrEnum

import numpy as np

from mudlamp.core.arrays import FloatArray
from mudlamp.core.casting.fall import LEAST_SHARE, REEL_M_S, swing_m_s
from mudlamp.core.casting.lures import Tackle
from mudlamp.core.vectors import length

# How long a lure flies (common practice: about a second for the casts of live sonar).
FLIGHT_S = 0.9
LIFT_M_S = 1.2
LIFT_M = (-0.6, 2.0)
# A rod of some 8 ft, held low over the bow.
ROD_AHEAD_M = 2.4
ROD_HEIGHT_M = 1.6
STOWED_LINE_M = 2.6


class LureState(StrEnum):
    """What the lure is doing."""

    STOWED = "stowed"
    FLYING = "flying"
    SINKING = "sinking"
    TIGHT = "tight"
    TAKEN = "taken"


@dataclass(frozen=True, slots=True, kw_only=True)
class Throw:
    """Where a lure is thrown to on the surface [m], and when it left the rod [s]."""

    x_m: float
    y_m: float
    start_s: float


class Lure:
    """One lure. The commands are those of a hand: throw, open or close the bail, reel, lift the rod tip."""

    def __init__(self, head_kg: float, tackle: Tackle) -> None:
        self.head_kg = head_kg
        self.tackle = tackle
        self.heading_rad = 0.0
        weight = tackle.weight_at_m
        # A weight that hangs below keeps the lure that much off the bottom.
        self._over_bottom_m = 0.02 - min(weight or 0.0, 0.0)
        self.state = LureState.STOWED
        self.position_m: FloatArray = np.zeros(3)
        self.velocity_m_s: FloatArray = np.zeros(3)
        self.line_m = STOWED_LINE_M
        self.reeling = False
        self.lift_m = 0.0
        self.lift_wanted_m = 0.0
        self._throw: Throw | None = None

    @property
    def in_water(self) -> bool:
        """Whether the lure is under the surface."""
        return self.state in (LureState.SINKING, LureState.TIGHT, LureState.TAKEN)

    def throw(self, *, x_m: float, y_m: float, time_s: float) -> None:
        """Throw the lure to a place on the surface [m]; it lands after FLIGHT_S."""
        self._throw = Throw(x_m=x_m, y_m=y_m, start_s=time_s)
        self.state = LureState.FLYING
        self.reeling = False
        self.lift_wanted_m = 0.0

    def hang(self, place_m: FloatArray, tip_m: FloatArray) -> None:
        """Put the lure at a place (3,) [m] on a tight line, as if it had been lowered there."""
        self.position_m = np.asarray(place_m, dtype=np.float64).copy()
        self.line_m = length(self.position_m - tip_m)
        self.state = LureState.TIGHT
        self.reeling = False

    def open_bail(self) -> None:
        """Let a lure in the water sink freely."""
        if self.state is LureState.TIGHT:
            self.state = LureState.SINKING

    def close_bail(self, tip_m: FloatArray) -> None:
        """Close the bail: the line is now as long as the lure is away from the rod tip."""
        if self.state is LureState.SINKING:
            self.state = LureState.TIGHT
            self.line_m = length(self.position_m - tip_m)

    def reel(self, on: bool, tip_m: FloatArray) -> None:
        """Start or stop reeling; reeling closes the bail, that of a lure in the air as it comes down."""
        if on:
            self.close_bail(tip_m)
        self.reeling = on

    def lift(self, by_m: float) -> None:
        """Raise (or lower) the rod tip by so much [m], within the rod's swing."""
        self.lift_wanted_m = min(max(self.lift_wanted_m + by_m, LIFT_M[0]), LIFT_M[1])

    def tip_m(self, *, boat_m: FloatArray, heading_rad: float) -> FloatArray:
        """Return where the rod tip is (3,), above the water (negative z)."""
        ahead = ROD_AHEAD_M * np.array([math.sin(heading_rad), math.cos(heading_rad), 0.0])
        return boat_m + ahead - [0.0, 0.0, boat_m[2] + ROD_HEIGHT_M + self.lift_m]

    def step(self, *, time_s: float, dt_s: float, tip_m: FloatArray, bottom_m: float) -> None:
        """Move the lure on by one time step."""
        step = LIFT_M_S * dt_s
        self.lift_m += min(max(self.lift_wanted_m - self.lift_m, -step), step)
        before = self.position_m.copy()
        if self.state is LureState.FLYING:
            self._fly(time_s, tip_m)
        elif self.state in (LureState.SINKING, LureState.TIGHT):
            self._sink(dt_s, tip_m, bottom_m)
        elif self.state is LureState.TAKEN:
            self._pull(dt_s, tip_m)
        elif self.state is LureState.STOWED:
            self.position_m = tip_m + [0.0, 0.0, 1.0]
        self.velocity_m_s = (self.position_m - before) / dt_s if self.in_water else np.zeros(3)
        if math.hypot(self.velocity_m_s[0], self.velocity_m_s[1]) > 0.05:
            self.heading_rad = math.atan2(self.velocity_m_s[0], self.velocity_m_s[1])

    def _fly(self, time_s: float, tip_m: FloatArray) -> None:
        if self._throw is None:
            raise RuntimeError("a lure flies without having been thrown")
        share = min((time_s - self._throw.start_s) / FLIGHT_S, 1.0)
        end = np.array([self._throw.x_m, self._throw.y_m, 0.0])
        self.position_m = tip_m + share * (end - tip_m) - [0.0, 0.0, 4.0 * share * (1.0 - share)]
        if share >= 1.0:
            self.position_m = end + [0.0, 0.0, 0.05]
            self.state = LureState.SINKING
            if self.reeling:
                self.close_bail(tip_m)

    def _sink(self, dt_s: float, tip_m: FloatArray, bottom_m: float) -> None:
        speed = self.tackle.sink_m_s
        if self.state is LureState.TIGHT:
            # Straight down by this, and back onto the line's circle: along the arc that is the swing's own speed.
            slope = self._slope(tip_m)
            speed = swing_m_s(sink_m_s=speed, slope=slope) / slope
        self.position_m = self.position_m + [0.0, 0.0, speed * dt_s]
        if self.state is LureState.TIGHT:
            self._pull(dt_s, tip_m)
        self.position_m[2] = min(self.position_m[2], bottom_m - self._over_bottom_m)
        # A lure that hangs by little line stays in the water: it is stowed by reeling.
        if self.state is LureState.TIGHT and ((self.reeling and self.line_m <= STOWED_LINE_M) or self.position_m[2] < 0.02):
            self.state = LureState.STOWED

    def _slope(self, tip_m: FloatArray) -> float:
        """Return how steeply the arc about the rod tip runs down here: 1 beside the tip, hardly anything under it."""
        away = self.position_m - tip_m
        return max(math.hypot(away[0], away[1]) / max(length(away), 1e-6), LEAST_SHARE)

    def _pull(self, dt_s: float, tip_m: FloatArray) -> None:
        if self.reeling:
            self.line_m = max(self.line_m - REEL_M_S * dt_s, STOWED_LINE_M * 0.9)
        away = self.position_m - tip_m
        distance = length(away)
        if distance > self.line_m:
            self.position_m = tip_m + away * (self.line_m / distance)
