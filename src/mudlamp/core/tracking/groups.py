"""Many as one: schools of fish with how many they may be, and clouds of bait with how far they reach and how dense they are."""

import math
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from mudlamp.core.arrays import FloatArray
from mudlamp.core.tracking.detect import PART_TALL_M, PART_WIDE_M
from mudlamp.core.tracking.track import Kind
from mudlamp.core.tracking.views import TrackView

# Fish this near to each other swim together; echoes of bait this near are of one cloud.
TOGETHER_M, OF_ONE_CLOUD_M = 0.75, 0.9
# More fish than this within six feet are a school (common practice).
MOST_SINGLE, SCHOOL_WITHIN_M = 15, 1.83
# A count never comes out as more than so many for each fish that is seen apart.
MOST_FOR_ONE = 4.0
# Four of five counts lie within so many standard deviations.
DOUBT = 1.28
LEAST_CLOUD = 3


@dataclass(frozen=True, slots=True, kw_only=True)
class School:
    """A school: its fish that are followed, its middle in the plane and its reach [m], about how many there are, and from what to what."""

    members: frozenset[int]
    place: tuple[float, float]
    radius_m: float
    about: int
    low: int
    high: int


@dataclass(frozen=True, slots=True, kw_only=True)
class Cloud:
    """A cloud of bait: its tracks, its middle in the plane, its reach [m], its echoes, and how many there are to a square meter."""

    members: frozenset[int]
    place: tuple[float, float]
    radius_m: float
    echoes: int
    per_m2: float


def schools_of(views: Sequence[TrackView], *, beam_width_rad: float) -> list[School]:
    """Return the schools among the tracks of a ping; `beam_width_rad` says how near two fish side by side are one echo."""
    fish = [view for view in views if view.kind is Kind.FISH]
    places = np.array([view.place for view in fish]).reshape(-1, 2)
    found = []
    for members in _linked(places, TOGETHER_M):
        if len(members) <= MOST_SINGLE // 3:
            continue
        at = places[members]
        middle = at.mean(axis=0)
        within = np.linalg.norm(at - middle, axis=1) < SCHOOL_WITHIN_M
        range_m = float(np.mean([fish[i].range_m for i in members]))
        about, spread = counted(int(within.sum()), _area_m2(at[within]), PART_WIDE_M * max(PART_TALL_M, range_m * beam_width_rad))
        more = len(members) - int(within.sum())
        if about + more > MOST_SINGLE:
            found.append(
                School(
                    members=frozenset(fish[i].number for i in members),
                    place=(float(middle[0]), float(middle[1])),
                    radius_m=_reach_m(at),
                    about=round(about) + more,
                    low=max(round(about - DOUBT * spread), int(within.sum())) + more,
                    high=round(about + DOUBT * spread) + more,
                )
            )
    return found


def counted(seen: int, area_m2: float, cell_m2: float) -> tuple[float, float]:
    """Return how many there are likely to be where so many are seen apart, and the standard deviation of that.

    Fish in one cell of what can be parted are one echo. Source: occupancy of M cells by N at random, N = -M ln(1 - n / M), and its
    variance by the delta method, M (exp(N / M) - 1 - N / M) (Feller 1968); M is the school's area by the cell's.
    """
    cells = max(area_m2 / cell_m2, seen / (1.0 - math.exp(-MOST_FOR_ONE)), 1.0)
    number = min(-cells * math.log(max(1.0 - seen / cells, 1e-9)), MOST_FOR_ONE * seen)
    filled = number / cells
    return number, math.sqrt(cells * (math.exp(filled) - 1.0 - filled)) if filled > 0.0 else 0.0


def clouds_of(views: Sequence[TrackView]) -> list[Cloud]:
    """Return the clouds of bait among the tracks of a ping."""
    echoes = [view for view in views if view.kind is Kind.BAIT]
    bait = np.array([view.place for view in echoes]).reshape(-1, 2)
    found = []
    for members in _linked(bait, OF_ONE_CLOUD_M):
        if len(members) < LEAST_CLOUD:
            continue
        at = bait[members]
        middle = at.mean(axis=0)
        radius = _reach_m(at)
        found.append(
            Cloud(
                members=frozenset(echoes[i].number for i in members),
                place=(float(middle[0]), float(middle[1])),
                radius_m=radius,
                echoes=len(members),
                per_m2=len(members) / (math.pi * radius**2),
            )
        )
    return found


def _linked(places: FloatArray, gap_m: float) -> list[np.ndarray]:
    """Return the numbers of places (N, 2) that hang together by steps of at most `gap_m`, group by group."""
    # Imported here: the sparse kit takes long to load, and whoever never tracks should not wait for it.
    from scipy.sparse import csr_array
    from scipy.sparse.csgraph import connected_components

    if not len(places):
        return []
    near = np.linalg.norm(places[:, None] - places[None], axis=2) < gap_m
    count, group = connected_components(csr_array(near), directed=False)
    return [np.flatnonzero(group == number) for number in range(count)]


def _area_m2(places: FloatArray) -> float:
    """Return the area of the ellipse that would have the spread of places (N, 2), evenly filled: 4 pi times the root of their covariance's determinant."""
    if len(places) < LEAST_CLOUD:
        return 0.0
    return float(4.0 * math.pi * math.sqrt(max(float(np.linalg.det(np.cov(places.T))), 0.0)))


def _reach_m(places: FloatArray) -> float:
    """Return how far from their middle nine of ten places (N, 2) are [m], at least what can be parted."""
    away = np.linalg.norm(places - places.mean(axis=0), axis=1)
    return max(float(np.quantile(away, 0.9)), PART_WIDE_M)
