"""What a track is where nothing is learned: odds by weights of our own, from its level, motion, size, steadiness and company."""

from dataclasses import dataclass

import numpy as np

from mudlamp.core.arrays import FloatArray, IntArray
from mudlamp.core.tracking.roster import Roster
from mudlamp.core.tracking.track import FISH, KINDS, Kind


@dataclass(frozen=True, slots=True, kw_only=True)
class Typical:
    """What a kind looks like: mean and spread of level after TVG [dB re 1 m^2] and of extent [m]; starting values of our own."""

    level_db: float
    level_spread_db: float
    length_m: float
    length_spread_m: float
    prior: float


LOOKS = {
    Kind.FISH: Typical(level_db=-39.8, level_spread_db=2.8, length_m=0.30, length_spread_m=0.15, prior=0.35),
    Kind.LURE: Typical(level_db=-56.5, level_spread_db=3.0, length_m=0.03, length_spread_m=0.07, prior=0.15),
    Kind.BAIT: Typical(level_db=-46.5, level_spread_db=3.5, length_m=0.20, length_spread_m=0.35, prior=0.15),
    Kind.COVER: Typical(level_db=-45.0, level_spread_db=6.5, length_m=0.40, length_spread_m=0.50, prior=0.35),
}
ROAMED_M = 0.40
CROWD = 2.2

_LEVEL, _LEVEL_SPREAD, _LENGTH, _LENGTH_SPREAD, _PRIOR = np.array(
    [[look.level_db, look.level_spread_db, look.length_m, look.length_spread_m, look.prior] for look in map(LOOKS.__getitem__, KINDS)]
).T


def odds(roster: Roster, rows: IntArray) -> FloatArray:
    """Return for each of some tracks (N,) the odds of each kind (N, K), summing to one.

    Source: Gaussian levels and sizes, and our own weights of motion and company.
    """
    level, length, roam, crowd = roster.level_db[rows], roster.length_m[rows], roster.roam_m[rows], roster.crowd[rows]
    score, moved, company = roster.score[rows], roster.moved_m[rows], roster.company[rows]
    roams = _soft(roam, ROAMED_M, 0.10)
    still = 1.0 - _soft(roam, 0.2, 0.05)
    crowded = _soft(crowd, CROWD, 0.5) * (1.0 - _soft(level, -42.0, 1.0))
    unsteady = 1.0 - _soft(score, 0.74, 0.06)
    far = _soft(moved, 0.55, 0.08)
    brushy = _soft(company, 1.9, 0.25)
    motion = {
        Kind.FISH: 0.8 * roams - 3.0 * crowded - 4.0 * unsteady + 1.5 * far - 2.5 * brushy,
        Kind.LURE: 3.0 * roams - 2.5 * still - 1.5 * crowded - 3.0 * unsteady,
        Kind.BAIT: 3.0 * crowded - 3.0 * (1.0 - crowded) - 1.0 * roams,
        Kind.COVER: 0.7 * unsteady - 2.5 * roams * (1.0 - unsteady) - 1.5 * far + 1.0 * brushy,
    }
    logs = np.log(_PRIOR) + _likeness(level, length) + np.stack([motion[kind] for kind in KINDS], axis=1)
    weights = np.exp(logs - logs.max(axis=1, keepdims=True))
    shares: FloatArray = weights / weights.sum(axis=1, keepdims=True)
    return shares


def _likeness(level_db: FloatArray, length_m: FloatArray) -> FloatArray:
    """Return the log likelihoods (track, kind) of levels [dB] and lengths [m]."""
    level = (level_db[:, None] - _LEVEL) / _LEVEL_SPREAD
    length = (length_m[:, None] - _LENGTH) / _LENGTH_SPREAD
    # A big or near fish may well be louder: the odds do not fall for that.
    level[:, FISH] = np.where(level[:, FISH] < 1.5, np.minimum(level[:, FISH], 0.0), level[:, FISH] - 1.5)
    likeness: FloatArray = -0.5 * (level**2 + length**2) - np.log(_LEVEL_SPREAD) - np.log(_LENGTH_SPREAD)
    return likeness


def _soft(value: FloatArray, middle: float, width: float) -> FloatArray:
    soft: FloatArray = 1.0 / (1.0 + np.exp(-np.clip((value - middle) / width, -30.0, 30.0)))
    return soft
