"""Where a mark in a picture is on the ground, and how well that is known.

A picture knows a slant range and a direction; which of depth and distance out it is made of, the chart or a second look must say.
"""

import math
from collections.abc import Callable, Sequence
from dataclasses import dataclass
from enum import StrEnum

import numpy as np
from scipy.stats import chi2

from mudlamp.core.arrays import FloatArray
from mudlamp.core.scene.survey import Survey
from mudlamp.core.searching.boat import COMPASS_SIGMA_RAD, FIX_SIGMA_M, Standing
from mudlamp.core.sonar.console import VIEWS, Shape, ViewKind, two_way_width_rad

# How well the chart's depths are known [m], and how well one reads a mark's range [m] (ours).
CHART_SIGMA_M = 0.3
READING_SIGMA_M = 0.15
HOLDS = 0.9
ARC_POINTS = 17
# A suspended mark is looked for between straight down and straight out, no nearer to either than this share of its range.
ARC_ENDS = (0.08, 0.97)


class Lies(StrEnum):
    """Where a mark is in the column: on the bottom, or somewhere above it."""

    BOTTOM = "bottom"
    ABOVE = "above"


@dataclass(frozen=True, slots=True, kw_only=True)
class Mark:
    """A mark in a view: where the boat was told to be, which view and beam at which carrier [Hz], slant range from the transducer [m], where it lies."""

    at: Standing
    view: ViewKind
    beam: int
    carrier_hz: float
    slant_m: float
    lies: Lies


@dataclass(frozen=True, slots=True, kw_only=True)
class Fix:
    """Where a mark is: place [m], depth [m] where it is known, distance out to the side [m], covariance (2, 2) [m^2], and the places [m] that it

    could be at where a picture alone cannot say.
    """

    x_m: float
    y_m: float
    depth_m: float | None
    out_m: float
    covariance: FloatArray
    arc_m: tuple[tuple[float, float, float], ...] = ()

    @property
    def ellipse(self) -> tuple[float, float, float]:
        """The ellipse that holds it nine times in ten: half axes, the longer first [m], and the bearing of that [rad]."""
        values, vectors = np.linalg.eigh(self.covariance)
        scale = float(chi2.ppf(HOLDS, 2))
        return (
            math.sqrt(scale * max(float(values[1]), 0.0)),
            math.sqrt(scale * max(float(values[0]), 0.0)),
            math.atan2(float(vectors[0, 1]), float(vectors[1, 1])),
        )


def shape_of(view: ViewKind, beam: int) -> Shape:
    """Return the shape of a view's beam."""
    return VIEWS[view].shapes[beam]


def fix_of(mark: Mark, chart: Survey, *, sound_m_s: float) -> Fix:
    """Return where a mark is, its slant range taken out by the chart's depths [m], boat's heading and the transducer's place put in."""
    x, y, z = mark.at.transducer_m
    heading = mark.at.heading_rad
    bow, starboard = (math.sin(heading), math.cos(heading)), (math.cos(heading), -math.sin(heading))
    shape = shape_of(mark.view, mark.beam)
    side = 0.0 if shape.toward_rad == 0.0 else math.copysign(1.0, shape.toward_rad)
    along = along_sigma_m(mark, shape, sound_m_s)
    if side == 0.0:
        across = across_half_m(mark, sound_m_s) / math.sqrt(3.0)
        return Fix(x_m=x, y_m=y, depth_m=mark.slant_m + z, out_m=0.0, covariance=_covariance(bow, starboard, along, across))

    def toward(out_m: float) -> tuple[float, float]:
        return x + side * out_m * starboard[0], y + side * out_m * starboard[1]

    if mark.lies is Lies.BOTTOM:
        out, drop = _out_on_bottom(mark.slant_m, toward, chart, z)
        spread = math.hypot(mark.slant_m * READING_SIGMA_M, drop * CHART_SIGMA_M) / max(out, 0.15 * mark.slant_m)
        turned = math.hypot(along, out * COMPASS_SIGMA_RAD)
        where = toward(out)
        return Fix(x_m=where[0], y_m=where[1], depth_m=drop + z, out_m=out, covariance=_covariance(bow, starboard, turned, spread))
    outs = mark.slant_m * np.linspace(*ARC_ENDS, ARC_POINTS)
    arc = [(*toward(float(out)), math.sqrt(mark.slant_m**2 - float(out) ** 2) + z) for out in outs]
    wet = [one for one in arc if one[2] < chart.depth_at(one[0], one[1])] or arc[-1:]
    middle = wet[len(wet) // 2]
    long = math.dist(wet[0][:2], wet[-1][:2])
    out = math.dist((x, y), middle[:2])
    covariance = _covariance(bow, starboard, math.hypot(along, out * COMPASS_SIGMA_RAD), max(long / math.sqrt(12.0), READING_SIGMA_M))
    return Fix(x_m=middle[0], y_m=middle[1], depth_m=None, out_m=out, covariance=covariance, arc_m=tuple(wet))


def _out_on_bottom(slant_m: float, toward: Callable[[float], tuple[float, float]], chart: Survey, z_m: float) -> tuple[float, float]:
    """Return how far out the bottom is at a slant range [m], and how far under the transducer [m]: the farthest place that fits the chart."""
    outs = np.linspace(0.0, slant_m, 241)
    places = [toward(float(out)) for out in outs]
    drops = chart.depths(np.array([p[0] for p in places]), np.array([p[1] for p in places])) - z_m
    off = np.hypot(outs, drops) - slant_m
    crossing = np.flatnonzero((off[:-1] <= 0.0) & (off[1:] > 0.0))
    if not len(crossing):
        return (0.0, slant_m)
    i = int(crossing[0])
    share = float(-off[i] / (off[i + 1] - off[i]))
    return float(outs[i] + share * (outs[i + 1] - outs[i])), float(drops[i] + share * (drops[i + 1] - drops[i]))


def along_sigma_m(mark: Mark, shape: Shape, sound_m_s: float) -> float:
    """Return how well a mark's place along the keel is known [m]: its beam's width there, as a deviation."""
    width = two_way_width_rad(shape, sound_m_s / mark.carrier_hz) * mark.slant_m
    return math.hypot(width / 2.355 if not shape.is_round else 0.5 * width / 2.355, 0.1)


def across_half_m(mark: Mark, sound_m_s: float) -> float:
    """Return how far to either side a mark in a view that looks down could be [m]: half its beam's width across."""
    shape = shape_of(mark.view, mark.beam)
    width = two_way_width_rad(shape, sound_m_s / mark.carrier_hz) if shape.is_round else shape.across_rad
    return mark.slant_m * math.tan(width / 2.0)


def _covariance(bow: tuple[float, float], starboard: tuple[float, float], along_m: float, across_m: float) -> FloatArray:
    axes = np.array([bow, starboard]).T
    return np.asarray(axes @ np.diag([along_m**2, across_m**2]) @ axes.T + np.eye(2) * FIX_SIGMA_M**2, dtype=np.float64)


def together(first: Fix, second: Fix) -> Fix:
    """Return what two looks say together: each counts by how well it knows. Source: weighted least squares of two independent fixes."""
    one, two = np.linalg.inv(first.covariance), np.linalg.inv(second.covariance)
    both = np.linalg.inv(one + two)
    place = both @ (one @ [first.x_m, first.y_m] + two @ [second.x_m, second.y_m])
    depth = first.depth_m if first.depth_m is not None else second.depth_m
    return Fix(x_m=float(place[0]), y_m=float(place[1]), depth_m=depth, out_m=first.out_m, covariance=np.asarray(both, dtype=np.float64))


def seen_by(
    view: ViewKind, place_m: tuple[float, float, float], standings: Sequence[Standing], *, beam_count: int
) -> tuple[int, int, float] | None:
    """Return where a place (x, y, depth) [m] is in a view's columns: column, beam, slant range [m]; None where the boat never passed it.

    The column is the one in which the place is abeam of (or nearest to) the transducer.
    """
    if not standings:
        return None
    at = np.array([one.transducer_m for one in standings])
    heading = np.array([one.heading_rad for one in standings])
    offset = np.array(place_m)[None, :] - at
    along = offset[:, 0] * np.sin(heading) + offset[:, 1] * np.cos(heading)
    aside = offset[:, 0] * np.cos(heading) - offset[:, 1] * np.sin(heading)
    slant = np.linalg.norm(offset, axis=1)
    best = int(np.argmin(slant + 4.0 * np.abs(along)))
    if abs(along[best]) > 0.1 * slant[best] + 0.5:
        return None
    beam = 0 if beam_count == 1 else int(aside[best] >= 0.0)
    return best, beam, float(slant[best])
