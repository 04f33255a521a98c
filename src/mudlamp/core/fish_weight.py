"""What a fish of a length weighs, by published standard weights."""

import math
from dataclasses import dataclass
from enum import StrEnum


class Weighed(StrEnum):
    """Kinds with a published standard weight."""

    LARGEMOUTH = "largemouth"
    BLACK_CRAPPIE = "black crappie"
    WHITE_CRAPPIE = "white crappie"
    BLUEGILL = "bluegill"
    CARP = "carp"


@dataclass(frozen=True, slots=True, kw_only=True)
class _Line:
    """log10 of the weight [g] is `base` plus `slope` times log10 of the total length [mm]; below `least_m` [m] it does not hold."""

    base: float
    slope: float
    least_m: float


# Sources: Henson 1991 (largemouth); Neumann and Murphy 1991 (crappies); Hillman 1982 (bluegill); Bister and others 2000 (carp); from memory,
# each checked against its English intercept (tests/reference/test_fish_weight.py).
_LINES = {
    Weighed.LARGEMOUTH: _Line(base=-5.528, slope=3.273, least_m=0.150),
    Weighed.BLACK_CRAPPIE: _Line(base=-5.618, slope=3.345, least_m=0.100),
    Weighed.WHITE_CRAPPIE: _Line(base=-5.642, slope=3.332, least_m=0.100),
    Weighed.BLUEGILL: _Line(base=-5.374, slope=3.316, least_m=0.080),
    Weighed.CARP: _Line(base=-4.639, slope=2.920, least_m=0.200),
}


def standard_weight_kg(kind: Weighed, length_m: float) -> float | None:
    """Return the standard weight [kg] of a fish of a total length [m], or None below the length that its line holds from.

    Single fish weigh a fifth more or less.
    """
    line = _LINES[kind]
    if length_m < line.least_m:
        return None
    grams: float = 10.0 ** (line.base + line.slope * math.log10(length_m * 1000.0))
    return grams / 1000.0
