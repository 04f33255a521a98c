"""How an angler's guesses of length run against what the echo measures: high or low, by what share, with its doubt."""

import math
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from scipy import stats

INTERVAL = 0.95
# Fewer pairs say nothing.
LEAST_PAIRS = 3


@dataclass(frozen=True, slots=True, kw_only=True)
class Guessing:
    """Over so many fish, the share that guesses are over (positive) or under what is measured, with its 95 % interval; not numbers with too few."""

    pairs: int
    share: float
    low: float
    high: float

    @property
    def is_told(self) -> bool:
        """Whether there are enough fish to say anything."""
        return self.pairs >= LEAST_PAIRS

    @property
    def is_off(self) -> bool:
        """Whether guesses run to one side by more than chance explains."""
        return self.is_told and not self.low <= 0.0 <= self.high


def guessing(pairs: Sequence[tuple[float, float]]) -> Guessing:
    """Return how guessed lengths run against measured ones, from (guessed, measured) [m], all over zero.

    By the mean of the logarithms of their ratios: a guess is off by a share of the fish, and twice as long counts as much as half as long.
    Source: Student's t interval of the mean, taken back from logarithms.
    """
    n = len(pairs)
    if n < LEAST_PAIRS:
        return Guessing(pairs=n, share=math.nan, low=math.nan, high=math.nan)
    ratios = np.log([guessed / measured for guessed, measured in pairs])
    middle, half = float(ratios.mean()), float(stats.t.ppf(0.5 + INTERVAL / 2.0, n - 1) * stats.sem(ratios))
    return Guessing(pairs=n, share=math.expm1(middle), low=math.expm1(middle - half), high=math.expm1(middle + half))
