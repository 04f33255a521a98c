"""A path that finds the most in the time there is: lanes along the contours of the band, taken in the order of what they give a minute.

Source: greedy search of the largest gain in the chance of detection a second; Koopman (1956) for what a lane finds.
"""

import itertools
import math
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from mudlamp.core.arrays import FloatArray
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


@dataclass(frozen=True, slots=True, kw_only=True)
class Planned:
    """A plan: its path [m], length [m] and time [s], the chance that a school of the band is found along it, and after each of its places."""

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
    legs = legs_of(lanes, odds, curve, water)
    left = np.ones(len(odds.cells_m)) if missed is None else missed.copy()
    before = float(np.sum(odds.odds * (1.0 - left)))
    path: Line = [start_m]
    shares: list[float] = [before]
    used, spent, bearing = np.zeros(len(legs), dtype=bool), 0.0, None
    while True:
        best = _best(legs, used, left, odds, water, here=path[-1], bearing=bearing, speed_m_s=speed_m_s, left_s=seconds - spent)
        if best is None:
            break
        number, places, cost = best
        for a, b in zip([path[-1], *places], places, strict=False):
            left = left * (1.0 - seen_from(a, b, odds.cells_m, curve))
            path.append(b)
            shares.append(float(np.sum(odds.odds * (1.0 - left))))
        used[number] = True
        spent += cost
        bearing = math.atan2(path[-1][0] - path[-2][0], path[-1][1] - path[-2][1])
    length = _length(path)
    return Planned(path=tuple(path), length_m=length, seconds=spent, share=shares[-1], share_after=tuple(shares))


def _best(
    legs: Sequence[Leg],
    used: FloatArray,
    left: FloatArray,
    odds: Odds,
    water: Charted,
    *,
    here: tuple[float, float],
    bearing: float | None,
    speed_m_s: float,
    left_s: float,
) -> tuple[int, list[tuple[float, float]], float] | None:
    """Return the leg that gives the most a second from here: its number, its places as they are gone along, what it costs [s]."""
    found: tuple[float, int, list[tuple[float, float]], float] | None = None
    weight = odds.odds * left
    for number, leg in enumerate(legs):
        if used[number]:
            continue
        gain = float(weight @ leg.seen)
        if gain < LEAST_GAIN:
            continue
        for places in (list(leg.places), list(reversed(leg.places))):
            way = math.dist(here, places[0])
            cost = (way + leg.length_m) / speed_m_s + _turning(here, bearing, places)
            if cost > left_s or (found is not None and gain / cost <= found[0]):
                continue
            if way > CLEAR_STEP_M and not is_clear(water, here, places[0]):
                continue
            found = (gain / cost, number, places, cost)
    return None if found is None else found[1:]


def _turning(here: tuple[float, float], bearing: float | None, places: Sequence[tuple[float, float]]) -> float:
    """Return what turning costs [s]: into the way there, and from it into the leg."""
    toward = math.atan2(places[0][0] - here[0], places[0][1] - here[1]) if math.dist(here, places[0]) > 1.0 else bearing
    leg = math.atan2(places[1][0] - places[0][0], places[1][1] - places[0][1])
    turns = [(bearing, toward), (toward, leg)]
    return sum(TURN_S for a, b in turns if a is not None and b is not None and abs(math.remainder(a - b, 2.0 * math.pi)) > SHARP_RAD)


def is_clear(water: Charted, start: tuple[float, float], end: tuple[float, float]) -> bool:
    """Return whether a boat floats all the way between two places [m]."""
    steps = max(2, math.ceil(math.dist(start, end) / CLEAR_STEP_M))
    share = np.linspace(0.0, 1.0, steps + 1)
    return all(water.is_afloat(start[0] + float(s) * (end[0] - start[0]), start[1] + float(s) * (end[1] - start[1])) for s in share)
