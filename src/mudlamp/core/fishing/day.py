"""A day in short: which rod and lure did best, how deep, how many."""

import statistics
from collections import Counter
from collections.abc import Sequence
from dataclasses import dataclass

from mudlamp.core.records.trips import Catch


@dataclass(frozen=True, slots=True, kw_only=True)
class Share:
    """A name and how many of the fish it stands for."""

    name: str
    count: int


@dataclass(frozen=True, slots=True, kw_only=True)
class Day:
    """How many fish, how many of them kept; rods and lures from the best down; the middle depth and its middle half [m], where depths were noted."""

    fish: int
    kept: int
    rods: Sequence[Share]
    lures: Sequence[Share]
    depth_m: tuple[float, float, float] | None
    longest: Catch | None


def day_of(catches: Sequence[Catch]) -> Day:
    """Return a day's catches in short."""
    depths = sorted(one.depth_m for one in catches if one.depth_m is not None)
    measured = [one for one in catches if one.length_m is not None]
    return Day(
        fish=len(catches),
        kept=sum(one.kept for one in catches),
        rods=_shares([one.rod for one in catches]),
        lures=_shares([one.lure for one in catches]),
        depth_m=_middle(depths) if depths else None,
        longest=max(measured, key=lambda one: one.length_m or 0.0, default=None),
    )


def _shares(names: Sequence[str]) -> list[Share]:
    return [Share(name=name, count=count) for name, count in Counter(name for name in names if name).most_common()]


def _middle(depths: Sequence[float]) -> tuple[float, float, float]:
    if len(depths) == 1:
        return depths[0], depths[0], depths[0]
    low, middle, high = statistics.quantiles(depths, n=4, method="inclusive")
    return low, middle, high
