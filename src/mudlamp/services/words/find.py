"""What Find says: of what is really there, of views, of what a search has seen, of spots."""

import math

from mudlamp.core.records.spots import Spot
from mudlamp.core.units import FOOT_M, INCH_M

VIEW_WORDS = {"scrolling": "Scrolling", "down": "Straight down", "side": "Both sides"}
THINGS = {
    "tree": "a drowned tree or brush",
    "post": "a piling",
    "float": "a dock float",
    "weeds": "a weed bed",
    "boulders": "boulders",
    "wall": "a stone wall",
    "bait": "a ball of bait",
}


def said_of(what: str, count: int, size_m: float, depth_m: float) -> str:
    """Return what is there in words: fish with how many, how long [m] and how deep [m]; all else by name and depth."""
    deep = f"{depth_m / FOOT_M:.0f} ft down"
    if what in THINGS:
        return f"{THINGS[what]}, {deep}"
    if count == 1:
        return f"one {what}, some {size_m / INCH_M:.0f} in, {deep}"
    return f"{count} {what}, some {size_m / INCH_M:.0f} in each, {deep}"


def spot_words(spot: Spot) -> str:
    """Return a spot in words: what it is, how far off and which way it was seen, how deep."""
    seen = "" if spot.away_m is None or spot.bearing_rad is None else seen_words(spot.away_m, spot.bearing_rad)
    deep = "" if spot.depth_m is None else f"{spot.depth_m / FOOT_M:.0f} ft down"
    return ", ".join(part for part in (spot.kind, seen, deep) if part)


def seen_words(away_m: float, bearing_rad: float) -> str:
    """Return how far off [m] and which way [rad from north] something is, in words."""
    return f"{away_m / FOOT_M:.0f} ft at {math.degrees(bearing_rad):.0f}°"
