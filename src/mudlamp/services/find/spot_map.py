"""The map of spots: depth bands of a water, its spots, and how far off and which way each is."""

import math
import uuid
from collections.abc import Sequence
from dataclasses import dataclass
from functools import lru_cache

import numpy as np

from mudlamp.core.records.spots import Spot
from mudlamp.core.searching.soundings import DepthGrid, Ring, bands
from mudlamp.core.units import FOOT_M
from mudlamp.formats.nmea import Said
from mudlamp.services.find.own_charts import OWN, grid_of_chart
from mudlamp.services.find.spot_book import SpotBook
from mudlamp.services.find.waters import from_earth, reach_named
from mudlamp.services.water.plans import SCENE

# Bands of depth between these [ft]; the deepest takes in all below.
LEVELS_FT = (0.0, 3.0, 6.0, 10.0, 15.0, 20.0, 30.0, 45.0, 70.0, 1400.0)
# The map is so many times as wide as high: one of these, whichever fits; and has so much room around [share].
SHAPES, ROOM = (1.5, 2.5), 0.06
LEAST_SPAN_M = 60.0
EVERY = 4
# A boat farther off is on another water [m].
FARTHEST_BOAT_M = 30_000.0
Band = tuple[float, float, list[list[Ring]]]


@dataclass(frozen=True, slots=True, kw_only=True)
class Frame:
    """What of a water the map shows [m]: its west and south, and how wide and high."""

    west_m: float
    south_m: float
    wide_m: float
    high_m: float

    def share(self, x_m: float, y_m: float) -> tuple[float, float]:
        """Return where on the map a place is: from its left and its top, as shares."""
        return (x_m - self.west_m) / self.wide_m, 1.0 - (y_m - self.south_m) / self.high_m


@dataclass(frozen=True, slots=True, kw_only=True)
class SpotOnMap:
    """A spot: its number, how far off [m] and which way [rad from north] from here; how often one came, and how often fish were there."""

    number: int
    spot: Spot
    away_m: float
    bearing_rad: float
    came: int
    fish: int


@dataclass(frozen=True, slots=True, kw_only=True)
class SpotMap:
    """The map: frame, bands of depth [m], spots, where the boat went lately [m], and from where distances count [m] (`is_fed`: from the boat itself)."""

    frame: Frame
    bands: Sequence[Band]
    spots: Sequence[SpotOnMap]
    tracks: Sequence[Sequence[tuple[float, float]]]
    here_m: tuple[float, float]
    is_fed: bool


def spot_map(book: SpotBook, owner: uuid.UUID, water: str, *, fed: Said | None) -> SpotMap:
    """Return the map of an owner's spots on a water; `fed` is where the boat is by its own instruments.

    Raises DomainError for a water that is none.
    """
    spots = book.spots(owner, water)
    grid, here = _charted(book, owner, water)
    boat = place_of(book, owner, water, fed)
    here, is_fed = (here, False) if boat is None else (boat, True)
    visits, tracks = book.visits(owner), book.tracks(owner, water)
    places = [(one.x_m, one.y_m) for one in spots] + ([here] if is_fed else [])
    # A chart is not made small by a way that leaves it.
    places += [place for line in tracks for place in line] if grid is None else []
    return SpotMap(
        frame=_frame(grid, places),
        tracks=tracks,
        bands=[] if grid is None else _bands(water, grid),
        spots=[_on_map(number, one, here, visits.get(one.id, (0, 0))) for number, one in enumerate(spots, start=1)],
        here_m=here,
        is_fed=is_fed,
    )


def place_of(book: SpotBook, owner: uuid.UUID, water: str, fed: Said | None) -> tuple[float, float] | None:
    """Return where on a water the boat is by its own instruments [m]; None where they do not say, or it is on another."""
    if fed is None or fed.latitude_deg is None or fed.longitude_deg is None:
        return None
    x, y = from_earth([fed.longitude_deg], [fed.latitude_deg], book.origin_on(owner, water))
    return (float(x[0]), float(y[0])) if math.hypot(x[0], y[0]) < FARTHEST_BOAT_M else None


def _charted(book: SpotBook, owner: uuid.UUID, water: str) -> tuple[DepthGrid | None, tuple[float, float]]:
    if water.startswith(OWN):
        return grid_of_chart(book.own_chart(owner, water)), (0.0, 0.0)
    if water.startswith(SCENE):
        # Nobody sounded it: distances count from where the boat lies.
        return None, (0.0, 0.0)
    return _our_grid(water), reach_named(water).launch_m


@lru_cache(maxsize=6)
def _our_grid(water: str) -> DepthGrid:
    survey = reach_named(water).chart
    east, north = survey.nodes_m
    depth = survey.depth_m[::EVERY, ::EVERY]
    return DepthGrid(east_m=east[::EVERY], north_m=north[::EVERY], depth_m=np.where(depth > 0.0, depth, np.nan))


def _bands(water: str, grid: DepthGrid) -> list[Band]:
    return _our_bands(water) if not water.startswith(OWN) else bands(grid, [feet * FOOT_M for feet in LEVELS_FT])


@lru_cache(maxsize=6)
def _our_bands(water: str) -> list[Band]:
    return bands(_our_grid(water), [feet * FOOT_M for feet in LEVELS_FT])


def _on_map(number: int, spot: Spot, here: tuple[float, float], visits: tuple[int, int]) -> SpotOnMap:
    east, north = spot.x_m - here[0], spot.y_m - here[1]
    return SpotOnMap(
        number=number,
        spot=spot,
        away_m=math.hypot(east, north),
        bearing_rad=math.atan2(east, north) % (2.0 * math.pi),
        came=visits[0],
        fish=visits[1],
    )


def _frame(grid: DepthGrid | None, places: Sequence[tuple[float, float]]) -> Frame:
    """Return a frame of the map's shape around the chart and all places."""
    xs, ys = [x for x, _ in places], [y for _, y in places]
    if grid is not None:
        xs += [float(grid.east_m[0]), float(grid.east_m[-1])]
        ys += [float(grid.north_m[0]), float(grid.north_m[-1])]
    low_x, high_x, low_y, high_y = (min(xs), max(xs), min(ys), max(ys)) if xs else (0.0, 0.0, 0.0, 0.0)
    shape = min(SHAPES, key=lambda one: max((high_x - low_x) / one, high_y - low_y) * one)
    wide = max((high_x - low_x) * (1.0 + 2.0 * ROOM), (high_y - low_y) * (1.0 + 2.0 * ROOM) * shape, LEAST_SPAN_M)
    return Frame(west_m=(low_x + high_x - wide) / 2.0, south_m=(low_y + high_y - wide / shape) / 2.0, wide_m=wide, high_m=wide / shape)
