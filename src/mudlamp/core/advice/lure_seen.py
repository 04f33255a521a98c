"""How a lure showed where it was measured, and the cheapest way to bring a hidden one out."""

from dataclasses import dataclass
from enum import StrEnum

from mudlamp.core.receiver.readings import Readings

# So far over what is about it a lure is clear, and under the second gone [dB] (ours).
CLEAR_DB, GONE_DB = 6.0, 2.0


def is_hidden(readings: Readings) -> bool:
    """Return whether a lure that could be seen is erased, or as good as lost in what is about it."""
    stands_out = readings.lure_stands_out_db
    return "lure" in (readings.erased or ()) or (stands_out is not None and stands_out < GONE_DB)


class Way(StrEnum):
    """How a hidden lure is brought out, the cheapest first."""

    GAIN = "gain"
    HEAD = "head"
    LINE = "line"


@dataclass(frozen=True, slots=True, kw_only=True)
class LureSeen:
    """A lure over what is about it [dB], the least and most of the waters it was measured on; on how many of them it is hidden.

    `bare_db` is what bare water beside it shows by chance: the lure stands out by no more than it has over that.
    `way` is the cheapest that brings it out on all of them, at a Gain or with a head [kg] of `value`; None where nothing is hidden.
    """

    over_db: float
    low_db: float
    high_db: float
    hidden: int
    of: int
    bare_db: float = 0.0
    way: Way | None = None
    value: float = 0.0
