"""What of a water has been seen so far: by the chance of lateral range, not by area."""

import math
from collections.abc import Sequence

import numpy as np

from mudlamp.core.arrays import BoolArray, FloatArray
from mudlamp.core.scene.places import Place, PlaceKind
from mudlamp.core.scene.survey import Survey
from mudlamp.core.searching.lateral import LateralCurve

CELL_M = 4.0
# How far about a known place its fish are looked for [m], and how much likelier they are there than anywhere else in the band (ours).
NEAR_PLACE_M = 14.0
PLACE_WEIGHT = 6.0
# Fish keep to a band loosely: by so much shallower or deeper they are still this likely (ours).
BAND_EDGE, EDGE_WEIGHT = 0.2, 0.5
# What a chart shows of places: brush and weeds are on none.
CHARTED = frozenset(PlaceKind) - {PlaceKind.BRUSH, PlaceKind.WEEDS, PlaceKind.FLAT}


class Odds:
    """Where a school could be: cells (N, 2) [m] over a depth band and a little beyond, and how likely each is (N,), in sum 1; none without the band."""

    def __init__(self, chart: Survey, band_m: tuple[float, float], places: Sequence[Place], shares: dict[PlaceKind, float]) -> None:
        x, y = chart.nodes_m
        xs, ys = np.arange(x[0] + CELL_M / 2.0, x[-1], CELL_M), np.arange(y[0] + CELL_M / 2.0, y[-1], CELL_M)
        all_x, all_y = (axis.ravel() for axis in np.meshgrid(xs, ys))
        depth = chart.depths(all_x, all_y)
        inside = (depth >= band_m[0]) & (depth <= band_m[1])
        near = (depth >= (1.0 - BAND_EDGE) * band_m[0]) & (depth <= (1.0 + BAND_EDGE) * band_m[1]) & bool(inside.any())
        self.cells_m: FloatArray = np.column_stack((all_x[near], all_y[near]))
        weight = np.ones(len(self.cells_m))
        for place in places:
            if place.kind in CHARTED and place.kind in shares:
                away = np.hypot(self.cells_m[:, 0] - place.x_m, self.cells_m[:, 1] - place.y_m)
                weight += PLACE_WEIGHT * shares[place.kind] * np.exp(-((away / NEAR_PLACE_M) ** 2))
        weight *= np.where(inside[near], 1.0, EDGE_WEIGHT)
        self.odds: FloatArray = weight / max(float(weight.sum()), 1e-9)

    def share(self, missed: FloatArray) -> float:
        """Return the chance that a school was found, of what was left unseen of each cell (N,)."""
        return float(np.sum(self.odds * (1.0 - missed)))


class Coverage:
    """How likely a school in each cell of the odds would have been found by now; the boat's track adds to it."""

    def __init__(self, odds: Odds, curve: LateralCurve) -> None:
        self.odds, self.curve = odds, curve
        self.missed: FloatArray = np.ones(len(odds.cells_m))
        self._last: tuple[float, float] | None = None

    def pass_by(self, x_m: float, y_m: float) -> None:
        """The boat went on to a place [m]: the cells abeam of this stretch were looked at once more."""
        last, self._last = self._last, (x_m, y_m)
        if last is not None:
            self.missed *= 1.0 - seen_from(last, (x_m, y_m), self.odds.cells_m, self.curve)

    @property
    def share(self) -> float:
        """The chance that a school of this band, or a little beyond it, was found."""
        return self.odds.share(self.missed)


def seen_from(start: tuple[float, float], end: tuple[float, float], cells_m: FloatArray, curve: LateralCurve) -> FloatArray:
    """Return the chance (N,) that a straight stretch [m] shows what is in each cell: by its lateral range, where it is abeam of the stretch."""
    long = math.dist(start, end)
    if long < 1e-6:
        return np.zeros(len(cells_m))
    east, north = (end[0] - start[0]) / long, (end[1] - start[1]) / long
    dx, dy = cells_m[:, 0] - start[0], cells_m[:, 1] - start[1]
    along = dx * east + dy * north
    abeam: BoolArray = (along >= 0.0) & (along < long)
    found = np.zeros(len(cells_m))
    found[abeam] = curve.at(dx[abeam] * north - dy[abeam] * east)
    return found
