"""A path that finds the most in the time there is: lanes along the contours of the band, in the order that a beam search finds best.

Source: Koopman (1956) for what a lane finds; Lowerre (1976), beam search, from memory.
"""

import itertools
import math
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from mudlamp.core.arrays import BoolArray, FloatArray
from mudlamp.core.searching.charted import Charted
from mudlamp.core.searching.coverage import Odds, seen_from
from mudlamp.core.searching.lateral import LateralCurve

Line = list[tuple[float, float]]
# Legs are so long [m]; a turn of more than a right angle costs so much [s].
LEG_M = 48.0
TURN_S = 6.0
SHARP_RAD = math.radians(100.0)
# A lane that would find less than this share of the rest is not worth going for.
LEAST_GAIN = 1e-3
CLEAR_STEP_M = 4.0
# So many ways are carried on at once, each by so many stretches; in a long time, over many stretches, as few as this work allows.
CARRIED, FEWEST, BRANCHES = 12, 2, 8
WORK = 30_000
# What time that is left is worth, in shares of the quickest stretch's gain: which holds on a water nobody knows before, so that each is tried.
LEFT_WORTH = (0.35, 1.0)


@dataclass(frozen=True, slots=True, kw_only=True)
class Planned:
    """A plan: its path [m], length [m] and time [s], the chance that a school of the odds is found along it, and after each of its places."""

    path: tuple[tuple[float, float], ...]
    length_m: float
    seconds: float
    share: float
    share_after: tuple[float, ...]


@dataclass(frozen=True, slots=True, kw_only=True)
class Leg:
    """A stretch of a lane, in one of its directions, and the chance (N,) that it shows each cell."""

    places: tuple[tuple[float, float], ...]
    length_m: float
    seen: FloatArray


def _length(line: Sequence[tuple[float, float]]) -> float:
    return sum(math.dist(a, b) for a, b in itertools.pairwise(line))


def legs_of(lanes: Sequence[Line], odds: Odds, curve: LateralCurve, water: Charted) -> list[Leg]:
    """Return the legs of lanes (polylines [m]) where a boat floats."""
    legs = []
    for lane in lanes:
        part: Line = []
        for place in _stepped(lane):
            if not water.is_afloat(*place):
                part = []
                continue
            part.append(place)
            if _length(part) >= LEG_M:
                legs.append(_leg(part, odds, curve))
                part = [place]
        if _length(part) > 0.3 * LEG_M:
            legs.append(_leg(part, odds, curve))
    return legs


def _stepped(lane: Line, step_m: float = 8.0) -> Line:
    """Return a polyline at even steps [m]."""
    points = np.array(lane)
    along = np.concatenate(([0.0], np.cumsum(np.hypot(*np.diff(points, axis=0).T))))
    at = np.arange(0.0, along[-1] + 0.5 * step_m, step_m)
    return [(float(x), float(y)) for x, y in zip(np.interp(at, along, points[:, 0]), np.interp(at, along, points[:, 1]), strict=True)]


def _leg(part: Line, odds: Odds, curve: LateralCurve) -> Leg:
    missed = np.ones(len(odds.cells_m))
    for a, b in itertools.pairwise(part):
        missed *= 1.0 - seen_from(a, b, odds.cells_m, curve)
    return Leg(places=tuple(part), length_m=_length(part), seen=1.0 - missed)


def plan_path(
    water: Charted,
    lanes: Sequence[Line],
    odds: Odds,
    curve: LateralCurve,
    *,
    start_m: tuple[float, float],
    speed_m_s: float,
    seconds: float,
    missed: FloatArray | None = None,
) -> Planned:
    """Return the plan from a place [m] at a speed [m/s] in a time [s]; `missed` (N,) is what an earlier search left unseen of each cell."""
    left = np.ones(len(odds.cells_m)) if missed is None else missed.copy()
    search = _Search(water, _stretches(legs_of(lanes, odds, curve, water)), odds, curve, speed_m_s=speed_m_s, seconds=seconds)
    walk = search.best(_Walk(share=odds.share(left), spent_s=0.0, left=left, here=start_m, bearing=None, taken=()))
    path: Line = [start_m]
    shares = [odds.share(left)]
    for number in walk.taken:
        places = search.stretches[number].places
        for a, b in zip([path[-1], *places], places, strict=False):
            left = left * (1.0 - seen_from(a, b, odds.cells_m, curve))
            path.append(b)
            shares.append(odds.share(left))
    return Planned(path=tuple(path), length_m=_length(path), seconds=walk.spent_s, share=shares[-1], share_after=tuple(shares))


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class _Stretch:
    """A leg gone along in one of its directions: the leg's number, its places, and its bearings at both ends [rad]."""

    leg: int
    places: tuple[tuple[float, float], ...]
    length_m: float
    seen: FloatArray
    first_rad: float
    last_rad: float


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class _Walk:
    """A way so far: what it found, what it took [s], what it left unseen of each cell (N,), where it ends and how, the stretches it took."""

    share: float
    spent_s: float
    left: FloatArray
    here: tuple[float, float]
    bearing: float | None
    taken: tuple[int, ...]


def _stretches(legs: Sequence[Leg]) -> list[_Stretch]:
    return [
        _Stretch(
            leg=number,
            places=places,
            length_m=leg.length_m,
            seen=leg.seen,
            first_rad=_bearing(places[0], places[1]),
            last_rad=_bearing(places[-2], places[-1]),
        )
        for number, leg in enumerate(legs)
        for places in (leg.places, leg.places[::-1])
    ]


def _bearing(start: tuple[float, float], end: tuple[float, float]) -> float:
    return math.atan2(end[0] - start[0], end[1] - start[1])


class _Search:
    """A beam search over the order of stretches: the best few ways so far are all carried on, by what they found and may still find."""

    def __init__(
        self, water: Charted, stretches: Sequence[_Stretch], odds: Odds, curve: LateralCurve, *, speed_m_s: float, seconds: float
    ) -> None:
        self._water, self._odds, self._curve = water, odds, curve
        self._speed_m_s, self._seconds = speed_m_s, seconds
        self.stretches = stretches
        self._leg = np.array([one.leg for one in stretches], dtype=np.int64)
        self._seen = np.array([one.seen for one in stretches]).reshape(len(stretches), len(odds.cells_m))
        self._start = np.array([one.places[0] for one in stretches]).reshape(-1, 2)
        self._first = np.array([one.first_rad for one in stretches])
        self._length = np.array([one.length_m for one in stretches])
        self._clear: dict[tuple[tuple[float, float], int], bool] = {}
        self._pace = 0.0
        moves = min(seconds * speed_m_s / LEG_M, len(stretches) / 2.0)
        self._carried = min(max(round(WORK / max(moves * len(stretches), 1.0)), FEWEST), CARRIED)

    def best(self, start: _Walk) -> _Walk:
        """Return the way that finds the most in the time."""
        if not self.stretches:
            return start
        quickest = self._quickest(start)
        return max((self._best_by(start, worth * quickest) for worth in LEFT_WORTH), key=lambda one: one.share)

    def _best_by(self, start: _Walk, pace: float) -> _Walk:
        """Return the best way where a second that is left is worth so much."""
        self._pace = pace
        walks, ended = [start], [start]
        while walks:
            found: list[_Walk] = []
            for walk, onward in zip(walks, self._onward(walks), strict=True):
                if not onward:
                    ended.append(walk)
                found += onward
            walks = sorted(found, key=self._promise, reverse=True)[: self._carried]
        return max(ended, key=lambda one: one.share)

    def _quickest(self, start: _Walk) -> float:
        """Return the most that a stretch gives a second from the start on."""
        gain, cost = self._gains([start])[0], self._costs(start)
        return float(np.max(gain / cost))

    def _promise(self, walk: _Walk) -> float:
        """Return what a way found and may still find in the time that is left to it."""
        return walk.share + self._pace * (self._seconds - walk.spent_s)

    def _gains(self, walks: Sequence[_Walk]) -> FloatArray:
        """Return what each stretch would add to each way (ways, stretches); what lies on the way to it not counted."""
        weights = self._odds.odds * np.array([walk.left for walk in walks])
        gains: FloatArray = weights @ self._seen.T
        return gains

    def _costs(self, walk: _Walk) -> FloatArray:
        """Return what each stretch costs from the end of a way (stretches,) [s]: the way there, the stretch, and sharp turns."""
        offset = self._start - np.array(walk.here)
        way = np.hypot(offset[:, 0], offset[:, 1])
        toward = np.arctan2(offset[:, 0], offset[:, 1])
        toward = np.where(way > 1.0, toward, self._first if walk.bearing is None else walk.bearing)
        turns = _is_sharp(self._first - toward).astype(np.float64)
        if walk.bearing is not None:
            turns += _is_sharp(toward - walk.bearing)
        return (way + self._length) / self._speed_m_s + TURN_S * turns

    def _onward(self, walks: Sequence[_Walk]) -> list[list[_Walk]]:
        """Return the ways that carry each of the ways on by one stretch, the most promising few of each."""
        found: list[list[_Walk]] = []
        there: set[tuple[frozenset[int], int]] = set()
        for walk, gains in zip(walks, self._gains(walks), strict=True):
            cost = self._costs(walk)
            taken = self._leg[list(walk.taken)]
            can = (cost <= self._seconds - walk.spent_s) & (gains >= LEAST_GAIN) & ~np.isin(self._leg, taken)
            promise = np.where(can, gains - self._pace * cost, -np.inf)
            onward = [int(one) for one in np.argsort(-promise)[: 3 * BRANCHES] if can[one] and self._is_clear(walk.here, int(one))][
                :BRANCHES
            ]
            found.append([])
            for number in onward:
                # Two ways that saw the same and end at the same place are one.
                key = (frozenset((*taken.tolist(), int(self._leg[number]))), number)
                if key not in there:
                    there.add(key)
                    found[-1].append(self._carried_on(walk, number, float(cost[number])))
        return found

    def _is_clear(self, here: tuple[float, float], number: int) -> bool:
        start = self.stretches[number].places[0]
        if math.dist(here, start) <= CLEAR_STEP_M:
            return True
        key = (here, number)
        if key not in self._clear:
            self._clear[key] = is_clear(self._water, here, start)
        return self._clear[key]

    def _carried_on(self, walk: _Walk, number: int, cost_s: float) -> _Walk:
        stretch = self.stretches[number]
        left = walk.left * (1.0 - seen_from(walk.here, stretch.places[0], self._odds.cells_m, self._curve)) * (1.0 - stretch.seen)
        return _Walk(
            share=self._odds.share(left),
            spent_s=walk.spent_s + cost_s,
            left=left,
            here=stretch.places[-1],
            bearing=stretch.last_rad,
            taken=(*walk.taken, number),
        )


def _is_sharp(turn_rad: FloatArray) -> BoolArray:
    """Return whether each turn (N,) [rad] is of more than SHARP_RAD."""
    return np.asarray(np.abs((turn_rad + np.pi) % (2.0 * np.pi) - np.pi) > SHARP_RAD)


def is_clear(water: Charted, start: tuple[float, float], end: tuple[float, float]) -> bool:
    """Return whether a boat floats all the way between two places [m]."""
    steps = max(2, math.ceil(math.dist(start, end) / CLEAR_STEP_M))
    share = np.linspace(0.0, 1.0, steps + 1)
    return all(water.is_afloat(start[0] + float(s) * (end[0] - start[0]), start[1] + float(s) * (end[1] - start[1])) for s in share)
