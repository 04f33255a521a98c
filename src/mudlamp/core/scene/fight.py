"""A fish on the line: what comes of a bite, how it fights, and how it is let go."""

import math
from collections.abc import Sequence

import numpy as np

from mudlamp.core.arrays import FloatArray
from mudlamp.core.casting.lure_on_line import STOWED_LINE_M, Lure, LureState
from mudlamp.core.chance import stream
from mudlamp.core.ping import Pose
from mudlamp.core.scene.drifting import Bubbles
from mudlamp.core.scene.fish import Fish, Mode
from mudlamp.core.scene.shots import Outcome
from mudlamp.core.vectors import length

HOOK_DELAY_S = 0.35
HOOK_CHANCE = 0.75
LOSE_RATE_HZ = 0.03
HOOK_BUBBLES = 8
SPLASH_BUBBLES = 12
RELEASE_BUBBLES = 40
# A fish on the line breaks the surface where it is no deeper than this [m], so often [1/s], and loses air so often on the way up.
SPLASH_M = 0.7
SPLASH_HZ = 3.0
FIGHT_BUBBLES_HZ = 2.0


class Fight:
    """Settles what comes of bites, step by step; air that fish lose goes to the water's bubbles."""

    def __init__(self, seed: int, bubbles: Bubbles) -> None:
        self._chance = stream(seed, "hook")
        self._splash = stream(seed, "splash")
        self._bubbles = bubbles
        self._taken_s: float | None = None

    def step(
        self, lure: Lure, fish: Sequence[Fish], *, time_s: float, dt_s: float, tip_m: FloatArray, boat: Pose
    ) -> tuple[str, Outcome] | None:
        """Live on for a step; return who bit and how that stands, where that changed: hooked or missed when the angler tightens, then landed or lost."""
        holder = next((one for one in fish if one.has_lure), None)
        if holder is None or lure.state is not LureState.TAKEN:
            self._taken_s = None
            return None
        came = None
        if self._taken_s is None:
            self._taken_s = time_s
            lure.line_m = length(lure.position_m - tip_m) + 0.2
            came = Outcome.MISSED
        if holder.mode is Mode.HOLDS_LURE:
            came = self._tighten(holder, lure, time_s=time_s, tip_m=tip_m) or came
        else:
            came = self._play(holder, lure, time_s=time_s, dt_s=dt_s, boat=boat) or came
        return None if came is None else (holder.name, came)

    def _tighten(self, holder: Fish, lure: Lure, *, time_s: float, tip_m: FloatArray) -> Outcome | None:
        if not (lure.reeling or lure.lift_wanted_m > 0.3):
            lure.line_m = max(lure.line_m, length(lure.position_m - tip_m))
        elif self._taken_s is not None and time_s - self._taken_s >= HOOK_DELAY_S:
            if float(self._chance.random()) < HOOK_CHANCE:
                holder.hook()
                self._bubbles.add(holder.position_m, count=HOOK_BUBBLES, spread_m=0.2, time_s=time_s)
                return Outcome.HOOKED
            holder.let_go(time_s, lure)
        return None

    def _play(self, holder: Fish, lure: Lure, *, time_s: float, dt_s: float, boat: Pose) -> Outcome | None:
        """A fish on the line loses air on the way up, and splashes at the surface."""
        depth = float(holder.position_m[2])
        rate, count = (SPLASH_HZ, SPLASH_BUBBLES) if depth < SPLASH_M else (FIGHT_BUBBLES_HZ, 2)
        if float(self._splash.random()) < 1.0 - math.exp(-rate * dt_s):
            self._bubbles.add(holder.position_m, count=count, spread_m=0.15, time_s=time_s)
        if lure.line_m <= STOWED_LINE_M + 0.4:
            self._release(holder, lure, time_s=time_s, boat=boat)
            return Outcome.LANDED
        if float(self._chance.random()) < 1.0 - math.exp(-LOSE_RATE_HZ * dt_s):
            holder.let_go(time_s, lure)
            return Outcome.LOST
        return None

    def _release(self, fish: Fish, lure: Lure, *, time_s: float, boat: Pose) -> None:
        """Put a landed fish back over the side, out of the fan: it swims home."""
        lure.state = LureState.STOWED
        aside = np.array([math.cos(boat.heading_rad), -math.sin(boat.heading_rad), 0.0])
        fish.position_m = np.array([boat.x_m, boat.y_m, 0.4]) + 3.5 * aside
        self._bubbles.add(fish.position_m, count=RELEASE_BUBBLES, spread_m=0.25, time_s=time_s)
        fish.bolt(from_m=np.array([boat.x_m, boat.y_m, 0.0]), time_s=time_s)
