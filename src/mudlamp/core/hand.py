"""What the angler's hand did, and nothing about where anything is: thrown where, reeled, stopped, lifted, let sink, stowed, and what is tied on."""

from dataclasses import dataclass
from enum import StrEnum

from mudlamp.core.casting.lures import LureKind


class Doing(StrEnum):
    """What a hand does."""

    TIED = "tied"
    THROW = "throw"
    REEL = "reel"
    STOP = "stop"
    LIFT = "lift"
    SINK = "sink"
    STOW = "stow"


@dataclass(frozen=True, slots=True, kw_only=True)
class HandEvent:
    """One thing done at a time [s]: for a throw where it was aimed, ahead of the bow and to the right [m]; for what is tied on the lure and its head [kg]."""

    time_s: float
    do: Doing
    ahead_m: float | None = None
    across_m: float | None = None
    lure: LureKind | None = None
    head_kg: float | None = None
