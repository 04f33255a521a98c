"""How far to a side a mark is: a fan has no left or right, but a mark is brightest when the fan's middle sweeps over it.

Off the middle by an angle x the two-way level falls by 3 (x / half thickness)^2 dB (`core/sonar/pattern.py`). So a mark's levels, raised by
3 (d / half thickness)^2 where d is how far the fan was turned from where it looks now, lie on a straight line over d whose slope tells the
mark's own bearing: a line fit by least squares, with the doubt of its slope. Source: parabola's vertex, plain algebra.
"""

import math
from dataclasses import dataclass

import numpy as np

from mudlamp.core.arrays import FloatArray

# So far back a sweep is looked at [s]: a mark must not move much meanwhile.
WINDOW_S = 4.0
LEAST_MOMENTS = 8
# What is nearer than this is under the boat: no turn takes the fan off it [m].
LEAST_OUT_M = 1.0
# The fan must have turned at least so much [rad] before a side can be told at all.
LEAST_TURN_RAD = math.radians(2.0)
# Neighboring moments are alike (the detector's running mean, a fish's slow glints), so that many tell no more than a few. How alike is
# taken from what the line leaves over, within limits.
LEAST_ALIKE, MOST_ALIKE = 0.3, 0.95
# Half of the interval that holds nine of ten, in standard errors with few moments, and the least spread of levels that is believed [dB].
NINE_OF_TEN = 1.8
LEAST_SPREAD_DB = 0.9
# No mark is looked for further off than this many half thicknesses.
MOST_HALVES = 4.0


@dataclass(frozen=True, slots=True, kw_only=True)
class Side:
    """How far right of the fan's middle a mark is [m] (left negative), and the interval that holds it in nine cases of ten."""

    across_m: float
    low_m: float
    high_m: float

    @property
    def known(self) -> bool:
        """Whether left or right can be told, or that it is in the middle: the interval lies on one side, or is short."""
        return self.low_m > 0.0 or self.high_m < 0.0 or self.high_m - self.low_m < SHORT_M


# An interval this short tells enough, whichever side it reaches over to [m].
SHORT_M = 0.9


def side_of(turn_rad: FloatArray, level_db: FloatArray, *, thickness_rad: float, out_m: float, deep_m: float) -> Side | None:
    """Return how far to a side a mark is, of its levels (N,) [dB] while the fan was turned (N,) [rad] from where it looks now.

    The mark is `out_m` ahead and `deep_m` under the transducer [m]: the deeper it is, the less a turn takes the fan off it.

    None where the fan hardly turned, or with under LEAST_MOMENTS levels.
    """
    if len(turn_rad) < LEAST_MOMENTS or out_m < LEAST_OUT_M:
        return None
    middle = float(turn_rad.mean())
    off = turn_rad - middle
    spread = float((off**2).sum())
    if math.sqrt(spread / len(off)) < LEAST_TURN_RAD:
        return None
    half = thickness_rad / 2.0 * math.hypot(out_m, deep_m) / out_m
    raised = level_db + 3.0 * (turn_rad / half) ** 2
    slope = float((off * raised).sum()) / spread
    left_over = raised - raised.mean() - slope * off
    noise_db = max(math.sqrt(float((left_over**2).sum()) / (len(off) - 2)), LEAST_SPREAD_DB)
    error = NINE_OF_TEN * noise_db * math.sqrt(_moments_for_one(left_over) / spread)
    farthest = MOST_HALVES * half
    low, bearing, high = (
        out_m * math.sin(float(np.clip((slope + by) * half**2 / 6.0, -farthest, farthest))) for by in (-error, 0.0, error)
    )
    return Side(across_m=bearing, low_m=low, high_m=high)


def _moments_for_one(left_over: FloatArray) -> float:
    """Return how many neighboring moments tell as much as one alone would, by how alike neighbors are (N,) [dB].

    Source: effective number of samples of a first-order autoregression, (1 + r) / (1 - r).
    """
    power = float((left_over**2).sum())
    alike = float((left_over[1:] * left_over[:-1]).sum()) / power if power > 0.0 else 0.0
    alike = min(max(alike, LEAST_ALIKE), MOST_ALIKE)
    return (1.0 + alike) / (1.0 - alike)
