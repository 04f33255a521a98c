"""What many trips show: rates by what was presented and in what water, lengths guessed against measured, casts against their aim.

Nothing here is called a pattern: that takes a finding (`rates.findings`).
"""

import bisect
import datetime as dt
import math
from collections import Counter
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from scipy import stats

from mudlamp.core.casting.habit import LEAST_AIMED_M, Landing
from mudlamp.core.fishing.answers import Count, Presentation, Stage, count_of
from mudlamp.core.fishing.rates import Rate, rate_of

# A value that fewer shots had is gathered with its like; a factor shows so many values at most.
LEAST_SHOTS, MOST_VALUES = 4, 8
SHOWN = (Stage.ANSWERED, Stage.TOOK)
INTERVAL = 0.95
LEAST_PAIRS = 5
# Pressure that changes by less in three hours is steady [Pa] (common practice: 1 hPa).
STEADY_PA = 100.0


@dataclass(frozen=True, slots=True, kw_only=True)
class ValueRates:
    """A value of a factor: how many shots had it; of each stage how many passed, and the rate that stands for."""

    value: str
    shots: int
    counts: Sequence[Count]
    rates: Sequence[Rate]


@dataclass(frozen=True, slots=True, kw_only=True)
class FactorRates:
    """A factor and its values, the commonest first."""

    factor: str
    values: Sequence[ValueRates]


def by_factor(shots: Sequence[Presentation]) -> list[FactorRates]:
    """Return the rates of the stages in SHOWN by each factor that took at least two values."""
    factors = sorted({name for shot in shots for name in shot.factors})
    found = []
    for factor in factors:
        tally = Counter(shot.factors[factor] for shot in shots if factor in shot.factors)
        values = [value for value, count in tally.most_common(MOST_VALUES) if count >= LEAST_SHOTS]
        if len(values) > 1:
            found.append(FactorRates(factor=factor, values=[_value(value, factor, shots) for value in values]))
    return found


def _value(value: str, factor: str, shots: Sequence[Presentation]) -> ValueRates:
    own = [shot for shot in shots if shot.factors.get(factor) == value]
    counts = [count_of(own, stage) for stage in SHOWN]
    return ValueRates(value=value, shots=len(own), counts=counts, rates=[rate_of(count) for count in counts])


def binned(value: float, edges: Sequence[float], unit: str) -> str:
    """Return which of some bins a number lies in, in words: "under 10 ft", "10 to 20 ft", "over 20 ft"."""
    place = bisect.bisect_right(edges, value)
    if place == 0:
        return f"under {edges[0]:g} {unit}"
    return f"over {edges[-1]:g} {unit}" if place == len(edges) else f"{edges[place - 1]:g} to {edges[place]:g} {unit}"


def part_of_day(hour: float) -> str:
    """Return the part of the day of an hour on the angler's clock. Source: common practice, no source."""
    names = ((5.0, "night"), (8.0, "early morning"), (11.0, "morning"), (14.0, "midday"), (17.0, "afternoon"), (20.5, "evening"))
    return next((name for end, name in names if hour < end), "night")


def trend(change_pa: float) -> str:
    """Return how the pressure went over three hours, in a word [Pa]."""
    return "steady" if abs(change_pa) < STEADY_PA else "rising" if change_pa > 0.0 else "falling"


@dataclass(frozen=True, slots=True, kw_only=True)
class Agreement:
    """Guesses against measures: how many pairs, by how much guesses are too long on average with its 95 % interval, how far single ones stray [m].

    With fewer than LEAST_PAIRS there is no interval.
    """

    pairs: int
    bias_m: float
    low_m: float
    high_m: float
    spread_m: float

    @property
    def is_told(self) -> bool:
        """Whether there are enough pairs to say anything."""
        return self.pairs >= LEAST_PAIRS


def agreement(guessed_m: Sequence[float], measured_m: Sequence[float]) -> Agreement:
    """Return how guessed lengths agree with measured ones [m]. Source: limits of agreement (Bland and Altman 1986), Student's t for the bias."""
    errors = np.asarray(guessed_m, dtype=np.float64) - np.asarray(measured_m, dtype=np.float64)
    if len(errors) < LEAST_PAIRS:
        return Agreement(pairs=len(errors), bias_m=math.nan, low_m=math.nan, high_m=math.nan, spread_m=math.nan)
    bias, spread = float(errors.mean()), float(errors.std(ddof=1))
    half = float(stats.t.ppf(0.5 + INTERVAL / 2.0, len(errors) - 1)) * spread / math.sqrt(len(errors))
    return Agreement(pairs=len(errors), bias_m=bias, low_m=bias - half, high_m=bias + half, spread_m=spread)


@dataclass(frozen=True, slots=True, kw_only=True)
class CastError:
    """How far casts of a time missed: from when, how many, the middle miss [m] with its 95 % interval."""

    since: dt.datetime
    casts: int
    middle_m: float
    low_m: float
    high_m: float


def missed_m(one: Landing) -> float:
    """Return how far a cast landed from where it was aimed [m]."""
    along = one.landed_m * math.cos(one.off_rad) - one.aimed_m
    return math.hypot(along, one.landed_m * math.sin(one.off_rad))


def cast_errors(landings: Sequence[tuple[dt.datetime, Landing]], *, at_once: int = 10) -> list[CastError]:
    """Return the middle miss of each so many casts in their order; the last, where it is short, goes with the one before.

    Source: the median's interval by order statistics (Thompson 1936), which takes no law of the misses for granted.
    """
    thrown = [(at, missed_m(one)) for at, one in landings if one.aimed_m >= LEAST_AIMED_M]
    count = max(len(thrown) // at_once, 1)
    pieces = [thrown[i * at_once : (i + 1) * at_once if i < count - 1 else None] for i in range(count)]
    return [_cast_error(piece) for piece in pieces if len(piece) >= LEAST_PAIRS]


def _cast_error(piece: Sequence[tuple[dt.datetime, float]]) -> CastError:
    misses = np.sort(np.array([miss for _, miss in piece]))
    n = len(misses)
    # So many of the smallest lie under the median with no more than half of what may go wrong.
    rank = int(stats.binom.ppf((1.0 - INTERVAL) / 2.0, n, 0.5))
    return CastError(
        since=piece[0][0],
        casts=n,
        middle_m=float(np.median(misses)),
        low_m=float(misses[max(rank - 1, 0)]),
        high_m=float(misses[min(n - rank, n - 1)]),
    )


@dataclass(frozen=True, slots=True, kw_only=True)
class InForce:
    """A control's value: how long it was in force [min], how many fish came up and how many were lost in that time."""

    control: str
    value: float | str
    minutes: float
    seen: int
    lost: int

    @property
    def seen_a_minute(self) -> float:
        """How many fish came up a minute."""
        return self.seen / self.minutes if self.minutes else 0.0
