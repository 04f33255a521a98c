"""The chart of a reach: depth as a small picture, contours, what is charted; as it is drawn, and as GeoJSON."""

from dataclasses import dataclass
from functools import lru_cache
from typing import Any

import contourpy
import numpy as np

from mudlamp.core.arrays import ByteArray
from mudlamp.core.scene.model import OPEN_SEA, Origin
from mudlamp.core.searching.charted import Charted
from mudlamp.core.searching.coverage import CHARTED
from mudlamp.core.units import FOOT_M
from mudlamp.services.find.waters import reach_named, to_earth

CONTOUR_FT = (2.0, 4.0, 6.0, 8.0, 10.0, 12.0, 14.0, 16.0, 18.0, 20.0, 24.0, 28.0, 32.0, 36.0)
# The chart's picture has a cell every so many nodes of the survey, its depth in so many bytes a meter.
SHADE_EVERY = 2
SHADE_A_METER = 20.0
# Contours are drawn through depths so far apart [m].
CONTOUR_M = 2.0
Line = list[tuple[float, float]]


@dataclass(frozen=True, slots=True, kw_only=True)
class Chart:
    """A chart: its corner and cell [m], depth picture (north, east) in twentieths of a meter, contours by depth [ft], charted places."""

    west_m: float
    south_m: float
    cell_m: float
    shade: ByteArray
    contours: tuple[tuple[float, tuple[tuple[tuple[float, float], ...], ...]], ...]
    places: tuple[tuple[str, float, float], ...]


def contour(water: Charted, depth_m: float, *, least_m: float = 12.0) -> list[Line]:
    """Return the contour lines of a depth [m], those of at least some length [m]."""
    x, y = water.chart.nodes_m
    every = max(round(CONTOUR_M / water.chart.step_m), 1)
    depth = np.ma.masked_invalid(water.chart.depth_m[::every, ::every])
    lines = contourpy.contour_generator(x=x[::every], y=y[::every], z=depth).lines(depth_m)
    found = []
    for line in lines:
        points = np.asarray(line)
        if float(np.sum(np.hypot(*np.diff(points, axis=0).T))) >= least_m:
            found.append([(round(float(px), 1), round(float(py), 1)) for px, py in points])
    return found


def lanes(water: Charted, band_m: tuple[float, float], count: int) -> list[Line]:
    """Return the contour lines that part a depth band into so many lanes."""
    low, high = band_m
    found: list[Line] = []
    for i in range(count):
        found += contour(water, low + (i + 0.5) / count * (high - low), least_m=30.0)
    return found


@lru_cache(maxsize=6)
def chart_of(name: str) -> Chart:
    """Return the chart of a named reach."""
    reach = reach_named(name)
    survey = reach.chart
    depth = survey.depth_m[::SHADE_EVERY, ::SHADE_EVERY]
    return Chart(
        west_m=survey.west_m,
        south_m=survey.south_m,
        cell_m=survey.step_m * SHADE_EVERY,
        shade=np.clip(np.rint(depth * SHADE_A_METER), 0, 255).astype(np.uint8),
        contours=tuple((feet, tuple(tuple(line) for line in contour(reach, feet * FOOT_M))) for feet in CONTOUR_FT),
        places=tuple((place.kind.value, place.x_m, place.y_m) for place in reach.places if place.kind in CHARTED),
    )


def chart_geojson(name: str, origin: Origin = OPEN_SEA) -> dict[str, Any]:
    """Return a chart's contours and charted places as a GeoJSON feature collection."""
    chart, features = chart_of(name), []
    for feet, contour_lines in chart.contours:
        for line in contour_lines:
            features.append(feature("LineString", line, {"depth_ft": feet}, origin))
    for kind, x, y in chart.places:
        features.append(feature("Point", [(x, y)], {"kind": kind}, origin))
    return {"type": "FeatureCollection", "features": features}


def feature(
    kind: str, places: list[tuple[float, float]] | tuple[tuple[float, float], ...], properties: dict[str, Any], origin: Origin
) -> dict[str, Any]:
    """Return a GeoJSON feature of places [m]: a point or a line."""
    longitudes, latitudes = to_earth([x for x, _ in places], [y for _, y in places], origin)
    points = [[round(float(a), 8), round(float(b), 8)] for a, b in zip(longitudes, latitudes, strict=True)]
    return {
        "type": "Feature",
        "geometry": {"type": kind, "coordinates": points[0] if kind == "Point" else points},
        "properties": properties,
    }
