"""Shots: how often a lure was presented, who bit and how that ended."""

from dataclasses import dataclass
from enum import StrEnum


class Outcome(StrEnum):
    """How a bite ended."""

    MISSED = "missed"
    HOOKED = "hooked"
    LOST = "lost"
    LANDED = "landed"


@dataclass(frozen=True, slots=True, kw_only=True)
class Shot:
    """One presentation: number, start and end [s], where it was thrown [m], who bit and how that ended."""

    number: int
    start_s: float
    end_s: float | None
    x_m: float
    y_m: float
    fish: str | None = None
    outcome: Outcome | None = None
