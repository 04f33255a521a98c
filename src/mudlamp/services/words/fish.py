"""What was measured of a fish, in words: how long, where, how it moves, to which side, what it did."""

import math
from dataclasses import dataclass

from mudlamp.core.fish_weight import Weighed, standard_weight_kg
from mudlamp.core.fishing.guessing import Guessing
from mudlamp.core.tracking.classes import FishClass, Identity
from mudlamp.core.tracking.side import Side
from mudlamp.core.tracking.sizing import Size
from mudlamp.core.units import INCH_M, MPH_M_S, POUND_KG, feet

NO_LENGTH = "end not seen: turn or wait"
SWEEP = "left or right unknown: sweep"
STILL = "holds still"
# Slower than this a fish holds still: the tracker's own error is of that size [m/s].
STILL_M_S = 0.12
# A lure this far aside of the fish is worth a word [m]; nearer to the boat than this the rod moves it, farther out only the next throw.
ASIDE_M, ROD_MOVES_M = 0.3, 4.5
# Nearer to cover than this a fish is in it, farther off than this it has nothing to do with it [m].
IN_COVER_M, FROM_COVER_M = 0.15, 3.0
WEIGHED = {FishClass.PANFISH: Weighed.BLACK_CRAPPIE, FishClass.BASS: Weighed.LARGEMOUTH, FishClass.ROUGH: Weighed.CARP}


@dataclass(frozen=True, slots=True, kw_only=True)
class Measured:
    """What is known of a fish: `ahead_m` of the boat, under it and off the bottom [m], its way ahead and down [m/s], size and side,

    and how far it is from the nearest cover in the fan's plane [m] (None: from none that is known). Under a flat fan it is `right_m` of
    the bow [m], and its way is ahead and to the right.
    """

    ahead_m: float
    depth_m: float | None
    over_bottom_m: float | None
    toward: tuple[float, float]
    size: Size | None
    side: Side | None
    identity: Identity | None
    off_cover_m: float | None = None
    right_m: float | None = None

    @property
    def aside_m(self) -> float | None:
        """How far it is to the right of the bow or of the beam's middle [m], as far as that is told."""
        return self.right_m if self.right_m is not None or self.side is None else self.side.across_m


def inches(length_m: float) -> int:
    """Return a length in whole inches."""
    return round(length_m / INCH_M)


def fact_words(fish: Measured, lure: Measured | None) -> str:
    """Return a line on what was measured of a fish but its length, and where the lure is beside it."""
    parts = [_place_words(fish), _motion_words(fish), _side_words(fish)]
    if lure is not None and fish.aside_m is not None and lure.aside_m is not None:
        parts.append(aside_words(lure.aside_m - fish.aside_m, out_m=lure.ahead_m))
    return " · ".join(part for part in parts if part)


def size_words(size: Size | None, identity: Identity | None) -> str:
    """Return how long a fish is, with its doubt and about what it weighs; without a sure length what to do about it."""
    if size is None or not size.sure:
        return NO_LENGTH
    words = f"{inches(size.length_m)} in ({inches(size.low_m)} to {inches(size.high_m)})"
    kind = None if identity is None else WEIGHED.get(identity.name)
    weight = None if kind is None else standard_weight_kg(kind, size.length_m)
    return words if weight is None else f"{words}, about {weight / POUND_KG:.1f} lb"


def guess_words(guess_m: float, size: Size | None) -> str:
    """Return what a guess of a fish's length [m] is beside what is measured of it; it is not off within the measure's own doubt."""
    said = f"you guess {guess_m / INCH_M:.3g} in"
    if size is None or not size.sure:
        return f"{said}, not measured yet"
    if size.low_m <= guess_m <= size.high_m:
        return f"{said}: as measured, within its doubt"
    return f"{said}: {100.0 * abs(guess_m / size.length_m - 1.0):.0f} % {'over' if guess_m > size.high_m else 'under'}"


def guessing_words(found: Guessing) -> str:
    """Return how guesses run, in a line; empty while there are too few to say."""
    if not found.is_told:
        return ""
    fish = f"{found.pairs} guessed fish measured"
    low, high = sorted((abs(found.low), abs(found.high)))
    if not found.is_off:
        return f"{fish}: you guess neither high nor low beyond chance"
    return f"{fish}: you guess {100.0 * abs(found.share):.0f} % {'high' if found.share > 0.0 else 'low'} ({100.0 * low:.0f} to {100.0 * high:.0f})"


def _place_words(fish: Measured) -> str:
    out = f"{feet(fish.ahead_m):.0f} ft out"
    if fish.depth_m is None:
        return out
    under = f"{out}, {feet(fish.depth_m):.0f} down"
    found = under if fish.over_bottom_m is None else f"{under}, {feet(fish.over_bottom_m):.0f} off bottom"
    return found + _cover_words(fish.off_cover_m)


def _cover_words(off_m: float | None) -> str:
    if off_m is None or off_m > FROM_COVER_M:
        return ""
    return ", in the cover" if off_m < IN_COVER_M else f", {max(round(feet(off_m)), 1)} ft off cover"


def _motion_words(fish: Measured) -> str:
    ahead, other = fish.toward
    speed = math.hypot(ahead, other)
    if speed < STILL_M_S:
        return STILL
    aside = ("sinking", "rising") if fish.right_m is None else ("to the right", "to the left")
    way = ("away" if ahead > 0.0 else "toward you") if abs(ahead) > abs(other) else aside[other <= 0.0]
    words = f"{speed / MPH_M_S:.1f} mph {way}"
    # Of a fish whose length is not known nobody can say how many of them it swims.
    return words if fish.size is None or not fish.size.sure else f"{words}, {speed / fish.size.length_m:.1f} lengths/s"


def _side_words(fish: Measured) -> str:
    if fish.right_m is not None:
        off, middle = feet(fish.right_m), "straight off the bow"
    elif fish.side is not None and fish.side.known:
        off, middle = feet(fish.side.across_m), "in the middle of the beam"
    else:
        return SWEEP
    if abs(off) < 0.75:
        return middle
    return f"{abs(off):.0f} ft {'right' if off > 0.0 else 'left'}"


def aside_words(right_m: float, *, out_m: float) -> str:
    """Return where the lure is beside the fish and what moves it there, `right_m` to the right [m], `out_m` from the boat: the beam stays on

    the fish.
    """
    if abs(right_m) < ASIDE_M:
        return "jig in line"
    off, side, other = round(feet(abs(right_m))), *(("right", "left") if right_m > 0.0 else ("left", "right"))
    cure = f"swing the rod tip {other}" if out_m < ROD_MOVES_M else f"next throw {off} ft {other}"
    return f"jig {off} ft {side} of it: {cure}"
