"""How well tracks follow what is there: coverage, false tracks, switches, GOSPA, the lure. Measured in the fan's plane, range by angle."""

import math
from collections import defaultdict
from collections.abc import Collection, Sequence
from dataclasses import dataclass

import numpy as np

from mudlamp.core.arrays import FloatArray
from mudlamp.core.scene.truth import TruthRow
from mudlamp.core.score.gospa import gospa, matched
from mudlamp.core.score.labels import polar_places
from mudlamp.core.tracking.track import Kind
from mudlamp.core.tracking.views import TrackView

# Two feet: a track so near to a fish follows it.
NEAR_M = 0.61
# A fish that no picture could show may be followed all the same: such a track is neither right nor wrong.
FREE_M = 0.6
# A track of at least so many pings that is near a fish in under so much of them is false.
FALSE_PINGS = 8
FALSE_SHARE = 0.3
CUT_M = 1.0


@dataclass(frozen=True, slots=True, kw_only=True)
class Following:
    """Sums of a recording, so that recordings can be added up: fish-pings seen and covered (`hard_`: of fish near cover or other fish),

    identity switches, false tracks, the mean GOSPA [m], lure-pings seen, covered, named and named right, and named with no lure in the water.
    """

    minutes: float
    pings: int
    seen: int
    covered: int
    hard_seen: int
    hard_covered: int
    switches: int
    false_tracks: int
    gospa_m: float
    lure_seen: int
    lure_covered: int
    lure_named: int
    lure_right: int
    lure_stray: int
    fish_minutes: float

    @classmethod
    def total(cls, many: "Sequence[Following]") -> "Following":
        """Return the sum of several; GOSPA is their mean."""
        sums = {name: sum(getattr(one, name) for one in many) for name in cls.__dataclass_fields__}
        sums["gospa_m"] /= max(len(many), 1)
        return cls(**sums)

    def figures(self) -> dict[str, float]:
        """Return the figures that are reported: shares, and rates a minute."""
        return {
            "covered": self.covered / max(self.seen, 1),
            "covered_hard": self.hard_covered / max(self.hard_seen, 1),
            "hard_share": self.hard_seen / max(self.seen, 1),
            "false_per_min": self.false_tracks / max(self.minutes, 1e-9),
            "switches_per_fish_min": self.switches / max(self.fish_minutes, 1e-9),
            "gospa_m": self.gospa_m,
            "lure_covered": self.lure_covered / max(self.lure_seen, 1),
            "lure_right": self.lure_right / max(self.lure_named, 1),
            "lure_stray": self.lure_stray / max(self.pings, 1),
        }


class FollowingScore:
    """Adds up pings in their order."""

    def __init__(self) -> None:
        self._last: dict[str, int] = {}
        self._last_of: dict[str, int] = {}
        self._pings_of: dict[int, int] = defaultdict(int)
        self._good_of: dict[int, int] = defaultdict(int)
        self._sums: dict[str, int] = defaultdict(int)
        self._gospa: list[float] = []
        self._times: list[float] = []

    def add(self, time_s: float, truth: Sequence[TruthRow], views: Sequence[TrackView], hard: Collection[str] = ()) -> None:
        """Take in a ping: what was there, what is followed, which fish (by id) are near cover or another fish."""
        self._times.append(time_s)
        fish = [row for row in truth if row.kind == "fish" and row.in_fan]
        places, seen = polar_places(fish), np.array([row.seen for row in fish], dtype=bool)
        tracks = [view for view in views if view.kind is Kind.FISH]
        at = polar_places(tracks)
        pairs = self._pairs(fish, places, tracks, at)
        self._last = {fish[i].id: tracks[j].number for i, j in pairs.items()}
        self._count(fish, pairs, tracks, hard)
        for track, place in zip(tracks, at, strict=True):
            self._pings_of[track.number] += 1
            self._good_of[track.number] += bool(len(places) and np.linalg.norm(places - place, axis=1).min() < NEAR_M)
        free = free_tracks(at, places[~seen], places[seen])
        self._gospa.append(gospa(places[seen], free, cutoff_m=CUT_M).distance_m)
        self._count_lure(truth, views)

    def _pairs(self, fish: Sequence[TruthRow], places: FloatArray, tracks: Sequence[TrackView], at: FloatArray) -> dict[int, int]:
        """Return which fish is followed by which track: what was, while it stays near, then the nearest."""
        numbers = {view.number: j for j, view in enumerate(tracks)}
        pairs: dict[int, int] = {}
        for i, row in enumerate(fish):
            j = numbers.get(self._last.get(row.id, -1))
            if j is not None and j not in pairs.values() and math.dist(places[i], at[j]) < NEAR_M:
                pairs[i] = j
        left = [i for i in range(len(fish)) if i not in pairs]
        taken = set(pairs.values())
        free = [j for j in range(len(tracks)) if j not in taken]
        for a, b in matched(places[left], at[free], cut_m=NEAR_M):
            pairs[left[a]] = free[b]
        return pairs

    def _count(self, fish: Sequence[TruthRow], pairs: dict[int, int], tracks: Sequence[TrackView], hard: Collection[str]) -> None:
        sums = self._sums
        for i, row in enumerate(fish):
            if row.seen:
                sums["seen"] += 1
                sums["covered"] += i in pairs
                if row.id in hard:
                    sums["hard_seen"] += 1
                    sums["hard_covered"] += i in pairs
            if i in pairs:
                number = tracks[pairs[i]].number
                sums["switches"] += self._last_of.get(row.id, number) != number
                self._last_of[row.id] = number

    def _count_lure(self, truth: Sequence[TruthRow], views: Sequence[TrackView]) -> None:
        sums = self._sums
        lure = next((row for row in truth if row.kind == "lure"), None)
        named = polar_places([view for view in views if view.kind is Kind.LURE])
        near = np.zeros(len(named), bool) if lure is None else np.linalg.norm(named - polar_places([lure]), axis=1) < NEAR_M
        if lure is not None and lure.seen:
            sums["lure_seen"] += 1
            sums["lure_covered"] += bool(near.any())
        sums["lure_named"] += len(named)
        sums["lure_right"] += int(near.sum())
        sums["lure_stray"] += lure is None and len(named) > 0

    def result(self) -> Following:
        """Return the sums so far."""
        sums = self._sums
        long = [number for number, pings in self._pings_of.items() if pings >= FALSE_PINGS]
        span_s = self._times[-1] - self._times[0] if len(self._times) > 1 else 0.0
        step_s = span_s / max(len(self._times) - 1, 1)
        return Following(
            minutes=span_s / 60.0,
            pings=len(self._times),
            seen=sums["seen"],
            covered=sums["covered"],
            hard_seen=sums["hard_seen"],
            hard_covered=sums["hard_covered"],
            switches=sums["switches"],
            false_tracks=sum(self._good_of[number] / self._pings_of[number] < FALSE_SHARE for number in long),
            gospa_m=float(np.mean(self._gospa)) if self._gospa else 0.0,
            lure_seen=sums["lure_seen"],
            lure_covered=sums["lure_covered"],
            lure_named=sums["lure_named"],
            lure_right=sums["lure_right"],
            lure_stray=sums["lure_stray"],
            fish_minutes=sums["seen"] * step_s / 60.0,
        )


def free_tracks(at: FloatArray, unseen: FloatArray, seen: FloatArray) -> FloatArray:
    """Return the tracks that count against truth: not those that follow a fish which could not be seen."""
    if not len(at) or not len(unseen):
        return at
    near = np.linalg.norm(at[:, None] - unseen[None], axis=2).min(axis=1) < FREE_M
    if len(seen):
        near &= np.linalg.norm(at[:, None] - seen[None], axis=2).min(axis=1) >= FREE_M
    return at[~near]
