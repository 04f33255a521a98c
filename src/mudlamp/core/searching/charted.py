"""Waters that a search can be planned on: those of ours, and a piece of anybody's chart."""

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Protocol

import numpy as np

from mudlamp.core.errors import DomainError
from mudlamp.core.scene.places import Place, Season
from mudlamp.core.scene.reach import LEAST_DEPTH_M
from mudlamp.core.scene.survey import Survey
from mudlamp.core.searching.soundings import DepthGrid

Line = tuple[tuple[float, float], tuple[float, float]]
# A plan looks so far about where it starts [m], on a grid of this step [m].
HALF_M, STEP_M = 400.0, 4.0


class Charted(Protocol):
    """The role: a charted water; depths that nobody knows are not a number."""

    @property
    def chart(self) -> Survey:
        """Its depths as they are charted."""

    @property
    def places(self) -> Sequence[Place]:
        """What is known to stand in it."""

    @property
    def season(self) -> Season:
        """The season."""

    @property
    def middle_line_m(self) -> Line:
        """The ends of the straight way down its middle [m]."""

    def is_afloat(self, x_m: float, y_m: float) -> bool:
        """Return whether a boat floats at a place [m]."""


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class ChartPiece:
    """A piece of a chart about a place: nothing is known of it but its depths."""

    chart: Survey
    season: Season
    middle_line_m: Line
    places: tuple[Place, ...] = ()

    def is_afloat(self, x_m: float, y_m: float) -> bool:
        """Return whether a boat floats at a place [m]: on the piece, where the depth is known, and deep enough."""
        east, north = self.chart.nodes_m
        inside = east[0] < x_m < east[-1] and north[0] < y_m < north[-1]
        return bool(inside and self.chart.depths(np.array([x_m]), np.array([y_m]))[0] >= LEAST_DEPTH_M)


def piece_of(grid: DepthGrid, at_m: tuple[float, float], season: Season) -> ChartPiece:
    """Return the piece of a chart within HALF_M of a place [m]; raise DomainError where the place is off the chart."""
    west, east = max(grid.east_m[0], at_m[0] - HALF_M), min(grid.east_m[-1], at_m[0] + HALF_M)
    south, north = max(grid.north_m[0], at_m[1] - HALF_M), min(grid.north_m[-1], at_m[1] + HALF_M)
    if east - west < 4.0 * STEP_M or north - south < 4.0 * STEP_M:
        raise DomainError("the plan begins off the chart: it must begin on it")
    whole = Survey(
        west_m=float(grid.east_m[0]),
        south_m=float(grid.north_m[0]),
        step_m=float(grid.east_m[1] - grid.east_m[0]),
        depth_m=grid.depth_m,
        kind=np.zeros(grid.depth_m.shape, dtype=np.int64),
    )
    x, y = np.arange(west, east, STEP_M), np.arange(south, north, STEP_M)
    xx, yy = (axis.ravel() for axis in np.meshgrid(x, y))
    depth = whole.depths(xx, yy).reshape(len(y), len(x))
    middle = (0.5 * (west + east), 0.5 * (south + north))
    ends: Line = ((west, middle[1]), (east, middle[1])) if east - west >= north - south else ((middle[0], south), (middle[0], north))
    return ChartPiece(
        chart=Survey(west_m=float(west), south_m=float(south), step_m=STEP_M, depth_m=depth, kind=np.zeros(depth.shape, dtype=np.int64)),
        season=season,
        middle_line_m=ends,
    )


def afloat_near(piece: ChartPiece, at_m: tuple[float, float]) -> tuple[float, float]:
    """Return the place nearest to one [m] where a boat floats on a piece of a chart; raise DomainError where there is none."""
    x, y = piece.chart.nodes_m
    xx, yy = np.meshgrid(x[1:-1], y[1:-1])
    deep = piece.chart.depth_m[1:-1, 1:-1] >= LEAST_DEPTH_M
    if not deep.any():
        raise DomainError("no water deep enough is charted there: the plan must begin where a boat floats")
    away = np.where(deep, np.hypot(xx - at_m[0], yy - at_m[1]), np.inf)
    row, column = np.unravel_index(int(away.argmin()), away.shape)
    return float(xx[row, column]), float(yy[row, column])
