"""An angler's own casting error: how far past, and how far to one side of where it was meant, a lure usually lands."""

import math
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from scipy import stats

from mudlamp.core.arrays import FloatArray

# The newest throws count, from so many on; and only an error that chance explains no oftener than this (ours).
KEPT, ENOUGH, BY_CHANCE = 20, 5, 0.1
# Nearer than this a lure is placed, not thrown [m]; beyond these an error is no habit but a slip [share, rad] (ours).
LEAST_AIMED_M = 1.0
MOST_LONG, MOST_OFF_RAD = 0.5, math.radians(45.0)


@dataclass(frozen=True, slots=True, kw_only=True)
class Landing:
    """A throw: how far it was aimed [m], how far it went [m], how far to the right of the way aimed it landed [rad]."""

    aimed_m: float
    landed_m: float
    off_rad: float


@dataclass(frozen=True, slots=True, kw_only=True)
class Habit:
    """What throws have in common: by what share they go too far, by what angle too far right [rad]; 0 where chance explains as much.

    `throws` is how many it stands on.
    """

    long: float = 0.0
    right_rad: float = 0.0
    throws: int = 0

    def aim(self, *, ahead_m: float, right_m: float) -> tuple[float, float]:
        """Return where to aim, ahead and to the right [m], for the lure to land at a place."""
        far = math.hypot(ahead_m, right_m) / (1.0 + self.long)
        way = math.atan2(right_m, ahead_m) - self.right_rad
        return far * math.cos(way), far * math.sin(way)


NONE = Habit()


def habit_of(landings: Sequence[Landing]) -> Habit:
    """Return the habit that throws show, newest last: medians, each only where a sign test finds it.

    Source: the sign test (Arbuthnot 1710), two-sided; throws that landed as meant say nothing for either side.
    """
    newest = [one for one in landings if one.aimed_m >= LEAST_AIMED_M][-KEPT:]
    long = _middle(np.array([one.landed_m / one.aimed_m - 1.0 for one in newest]))
    right = _middle(np.array([one.off_rad for one in newest]))
    return Habit(long=min(max(long, -MOST_LONG), MOST_LONG), right_rad=min(max(right, -MOST_OFF_RAD), MOST_OFF_RAD), throws=len(newest))


def _middle(errors: FloatArray) -> float:
    over, under = int((errors > 1e-6).sum()), int((errors < -1e-6).sum())
    if len(errors) < ENOUGH or not over + under or stats.binomtest(over, over + under).pvalue > BY_CHANCE:
        return 0.0
    return float(np.median(errors))
