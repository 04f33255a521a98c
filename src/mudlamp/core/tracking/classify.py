"""What a track is: odds from its level, motion, size, steadiness and company."""

import math
from dataclasses import dataclass

from mudlamp.core.tracking.track import Kind, Track


@dataclass(frozen=True, slots=True, kw_only=True)
class Look:
    """What a kind looks like: mean and spread of level after TVG [dB re 1 m^2] and of extent [m]; starting values of our own."""

    level_db: float
    level_spread_db: float
    length_m: float
    length_spread_m: float
    prior: float


LOOKS = {
    Kind.FISH: Look(level_db=-39.8, level_spread_db=2.8, length_m=0.30, length_spread_m=0.15, prior=0.35),
    Kind.LURE: Look(level_db=-56.5, level_spread_db=3.0, length_m=0.03, length_spread_m=0.07, prior=0.15),
    Kind.BAIT: Look(level_db=-46.5, level_spread_db=3.5, length_m=0.20, length_spread_m=0.35, prior=0.15),
    Kind.COVER: Look(level_db=-45.0, level_spread_db=6.5, length_m=0.40, length_spread_m=0.50, prior=0.35),
}
ROAMED_M = 0.40
CROWD = 2.2


def odds(track: Track) -> dict[Kind, float]:
    """Return the odds of each kind, summing to one. Source: Gaussian levels and sizes, and our own weights of motion and company."""
    roams = _soft(track.roam_m, ROAMED_M, 0.10)
    still = 1.0 - _soft(track.roam_m, 0.2, 0.05)
    crowded = _soft(track.crowd, CROWD, 0.5) * (1.0 - _soft(track.level_db, -42.0, 1.0))
    unsteady = 1.0 - _soft(track.score, 0.74, 0.06)
    moved = _soft(track.moved_m, 0.55, 0.08)
    brushy = _soft(track.company, 1.9, 0.25)
    motion = {
        Kind.FISH: 0.8 * roams - 3.0 * crowded - 4.0 * unsteady + 1.5 * moved - 2.5 * brushy,
        Kind.LURE: 3.0 * roams - 2.5 * still - 1.5 * crowded - 3.0 * unsteady,
        Kind.BAIT: 3.0 * crowded - 3.0 * (1.0 - crowded) - 1.0 * roams,
        Kind.COVER: 0.7 * unsteady - 2.5 * roams * (1.0 - unsteady) - 1.5 * moved + 1.0 * brushy,
    }
    logs = {kind: math.log(look.prior) + _likeness(track, kind, look) + motion[kind] for kind, look in LOOKS.items()}
    top = max(logs.values())
    weights = {kind: math.exp(value - top) for kind, value in logs.items()}
    total = sum(weights.values())
    return {kind: weight / total for kind, weight in weights.items()}


def _likeness(track: Track, kind: Kind, look: Look) -> float:
    level = (track.level_db - look.level_db) / look.level_spread_db
    length = (track.length_m - look.length_m) / look.length_spread_m
    if kind is Kind.FISH:
        # A big or near fish may well be louder: the odds do not fall for that.
        level = min(level, 0.0) if level < 1.5 else level - 1.5
    logs = -0.5 * (level * level + length * length)
    return logs - math.log(look.level_spread_db) - math.log(look.length_spread_m)


def _soft(value: float, middle: float, width: float) -> float:
    return 1.0 / (1.0 + math.exp(-min(max((value - middle) / width, -30.0), 30.0)))
