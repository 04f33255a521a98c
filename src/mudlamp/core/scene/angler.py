"""A scripted angler: throws past a fish, lets the jig sink, swims it over the fish's head, hangs it, moves on."""

import math
from typing import Protocol

import numpy as np

from mudlamp.core.arrays import FloatArray
from mudlamp.core.casting.lure_on_line import Lure, LureState
from mudlamp.core.scene.fish import Fish, Mode
from mudlamp.core.vectors import length

FIRST_THROW_S = 1.5
REST_S = 2.5
PAST_M = 1.3
ABOVE_M = 0.35
HANG_S = 4.0
LONGEST_SHOT_S = 32.0


class Hands(Protocol):
    """What an angler can do: the same commands a person gives from the page."""

    def throw(self, x_m: float, y_m: float) -> None:
        """Throw to a place on the surface [m]."""

    def open_bail(self) -> None:
        """Let the lure sink."""

    def reel(self, on: bool) -> None:
        """Start or stop reeling."""

    def lift(self, by_m: float) -> None:
        """Raise the rod tip [m]."""


class ScriptedAngler:
    """Fishes by itself. It sees true fish, as an angler with good eyes for the picture would."""

    def __init__(self, rng: np.random.Generator) -> None:
        self._rng = rng
        self._target: Fish | None = None
        self._thrown_s = -math.inf
        self._idle_since_s: float | None = None
        self._hang_until_s: float | None = None
        self._jig_s = 0.0

    def step(self, *, time_s: float, lure: Lure, fish: list[Fish], boat_m: FloatArray, hands: Hands) -> None:
        """Do what is due at this moment."""
        if lure.state is LureState.STOWED:
            self._rest(time_s, fish, boat_m, hands)
        elif lure.state is LureState.TAKEN:
            self._play(fish, hands)
        elif lure.state in (LureState.SINKING, LureState.TIGHT) and self._target is not None:
            self._work(time_s, lure, self._target, boat_m, hands)

    def _rest(self, time_s: float, fish: list[Fish], boat_m: FloatArray, hands: Hands) -> None:
        if self._idle_since_s is None:
            self._idle_since_s = time_s
        wait = FIRST_THROW_S if self._target is None else REST_S
        if time_s - self._idle_since_s < wait:
            return
        choices = [one for one in fish if one.mode is Mode.HOLD and length(one.position_m - boat_m) > 3.0]
        if not choices:
            return
        self._target = choices[int(self._rng.integers(len(choices)))]
        out = self._target.position_m - boat_m
        flat = math.hypot(out[0], out[1])
        past = PAST_M + float(self._rng.normal(0.0, 0.25))
        aside = float(self._rng.normal(0.0, 0.15))
        unit = np.array([out[0], out[1]]) / max(flat, 1e-6)
        goal = np.array([boat_m[0], boat_m[1]]) + unit * (flat + past) + np.array([unit[1], -unit[0]]) * aside
        hands.throw(float(goal[0]), float(goal[1]))
        self._thrown_s, self._idle_since_s, self._hang_until_s = time_s, None, None

    def _work(self, time_s: float, lure: Lure, target: Fish, boat_m: FloatArray, hands: Hands) -> None:
        if lure.state is LureState.SINKING:
            # On the way in over the fish the jig loses some depth to the line: start a little deep.
            if lure.position_m[2] >= target.position_m[2] - ABOVE_M + 0.1:
                hands.reel(True)
            return
        ahead = length(lure.position_m[:2] - boat_m[:2]) - length(target.position_m[:2] - boat_m[:2])
        if time_s - self._thrown_s > LONGEST_SHOT_S or ahead < -1.3:
            hands.reel(True)
            return
        if self._hang_until_s is None and ahead < 0.35:
            self._hang_until_s = time_s + HANG_S * float(self._rng.uniform(0.7, 1.4))
            hands.reel(False)
        elif self._hang_until_s is not None and time_s < self._hang_until_s:
            # A slow swim: short pulls with the rod, then a pull of the reel.
            hands.reel(math.fmod(time_s, 1.2) < 0.45)
        else:
            hands.reel(True)

    def _play(self, fish: list[Fish], hands: Hands) -> None:
        if any(one.has_lure for one in fish):
            hands.reel(True)
