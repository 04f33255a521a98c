"""How long a fish is, with its doubt: learned odds of lengths from how its echoes look, beam and pulse taken out, and how loud they are.

An echo shows less than the fish: head and tail are weak beside the bladder, and the beam smears what is there. So the echo is cut through its
middle, along the range and across the beams, and the cuts are gathered over pings, until head and tail stand out of the noise; how far they
reach over some levels, with the other traits, says how long the fish is. What it says is learned on drawn waters, as odds of steps of length;
the doubt is that of the odds.
"""

from dataclasses import dataclass

import numpy as np

from mudlamp.core.arrays import Float32Array, FloatArray
from mudlamp.core.ping import SonarSetup
from mudlamp.core.plane import GroundPlane
from mudlamp.core.tracking.classes import CLASS_TRAITS, FishClass
from mudlamp.core.tracking.cuts import REACHES, Cuts
from mudlamp.core.tracking.forest import Forest, odds_of
from mudlamp.core.tracking.track import FISH, Track, Tracks
from mudlamp.core.tracking.traits import TRAITS

# Steps of length [m], a sixth each: from the smallest panfish to the longest gar.
EDGES_M = np.geomspace(0.10, 1.30, 18)
STEPS = tuple(f"{edge:.3f}" for edge in EDGES_M[:-1])
_COLUMNS = np.array([TRAITS.index(trait) for trait in CLASS_TRAITS])
SIZE_TRAITS = (*CLASS_TRAITS, *REACHES)
# The interval that is told holds four of five: on waters left out these shares of the odds did (nominally three of four).
LOW, HIGH = 0.13, 0.87
# Where the interval's ends are further apart than this, an end of the fish was not seen.
WIDEST = 3.1
YOUNG_S = 1.0
# How much the newest of what the learned trees say counts.
EVIDENCE = 0.06
# No panfish is longer [m] (common practice, no source: the longest crappie are a little under 20 in).
PANFISH_MOST_M = 0.50
MAY_BE_FISH = 0.3


@dataclass(frozen=True, slots=True, kw_only=True)
class Size:
    """How long a fish is [m]: the middle, and between which lengths it is in four cases of five; `sure` where both ends were seen."""

    length_m: float
    low_m: float
    high_m: float

    @property
    def sure(self) -> bool:
        """Whether the doubt is small enough to tell a length at all."""
        return self.high_m < WIDEST * self.low_m


def size_traits(track: Track) -> FloatArray:
    """Return what a track's length is told by (len(SIZE_TRAITS),)."""
    own = np.full(len(CLASS_TRAITS), np.nan) if track.traits is None else track.traits[_COLUMNS]
    return np.concatenate((own, np.full(len(REACHES), np.nan) if track.cuts is None else track.cuts.reaches()))


class Sizer:
    """Keeps the sizes of tracks up to date; without a learned forest none has one."""

    def __init__(self, forest: Forest | None) -> None:
        self._forest = forest

    def look_at(self, due: Tracks, power: Float32Array, setup: SonarSetup, plane: GroundPlane, *, time_s: float) -> None:
        """Take in what is known of some tracks now, and the ping's power (beam, range_bin) where they were just heard."""
        # Where lengths are yet to be learned, everything is cut.
        least = MAY_BE_FISH if self._forest is not None else -1.0
        fish = due.those(due.roster.odds[due.rows, FISH] > least)
        self._cut(fish.those(fish.roster.own_s[fish.rows] == time_s), power, setup, plane)
        if self._forest is None or not len(fish):
            return
        newest = self._forest.sums(np.array([size_traits(track) for track in fish]))
        odds = odds_of(fish.roster.length_sums.with_newest(fish.rows, newest, share=EVIDENCE), self._forest.warmth)
        for track, row in zip(fish, odds, strict=True):
            is_panfish = track.identity is not None and track.identity.name is FishClass.PANFISH
            track.size = size_of(row, most_m=PANFISH_MOST_M if is_panfish else None) if time_s - track.born_s >= YOUNG_S else None

    @staticmethod
    def _cut(heard: Tracks, power: Float32Array, setup: SonarSetup, plane: GroundPlane) -> None:
        """Cut through the newest echoes of tracks that were just heard."""
        range_m, angle_rad = plane.polar(heard.roster.newest[heard.rows, 2:])
        for track, away_m, angle in zip(heard, range_m.tolist(), angle_rad.tolist(), strict=True):
            track.cuts = track.cuts or Cuts()
            track.cuts.add(power, setup, range_m=away_m, angle_rad=angle)


def size_of(odds: FloatArray, *, most_m: float | None = None) -> Size:
    """Return the size that odds of the steps of length (len(STEPS),) stand for; nothing over `most_m` [m] is believed, where that is given."""
    if most_m is not None:
        odds = np.where(EDGES_M[:-1] < most_m, odds, 0.0)
    total = np.concatenate(([0.0], np.cumsum(odds)))
    logs = np.interp((LOW, 0.5, HIGH), total / total[-1], np.log(EDGES_M))
    low, middle, high = np.exp(logs).tolist()
    return Size(length_m=middle, low_m=low, high_m=high if most_m is None else min(high, most_m))
