"""An angler's own charts: contours or soundings of a GeoJSON file, kept as depths at places, drawn as bands of depth."""

import datetime as dt
import math
import uuid
from collections.abc import Iterator, Sequence
from typing import Annotated, Any, Literal

import numpy as np
from pydantic import BaseModel, ConfigDict, Field

from mudlamp.core.errors import DomainError
from mudlamp.core.records.spots import OwnChart
from mudlamp.core.scene.model import Origin
from mudlamp.core.searching.soundings import DepthGrid, grid_of
from mudlamp.core.texts import mended
from mudlamp.core.units import FOOT_M
from mudlamp.services.find.geojson import read_geojson, require_place
from mudlamp.services.find.waters import from_earth

MOST_BYTES, MOST_SOUNDINGS, LONGEST_NAME = 8_000_000, 40_000, 60
# A water of one's own is no longer than this from end to end [m], and no deeper [m].
WIDEST_M, DEEPEST_M = 60_000.0, 400.0
OWN = "own-"


class _Geometry(BaseModel):
    type: Literal["Point", "MultiPoint", "LineString", "MultiLineString", "Polygon"]
    coordinates: list[Any]


class _Feature(BaseModel):
    type: Literal["Feature"]
    geometry: _Geometry
    properties: dict[str, Any] | None = None


class _Collection(BaseModel):
    model_config = ConfigDict(extra="ignore")

    type: Literal["FeatureCollection"]
    features: Annotated[list[_Feature], Field(max_length=20_000)]


def read_chart(data: bytes, *, owner: uuid.UUID, name: str, now: dt.datetime) -> OwnChart:
    """Return the chart of a GeoJSON file's bytes: contours (lines) and soundings (points) with `depth_ft`, `depth_m` or a third coordinate [m].

    Raises DomainError naming the first thing wrong.
    """
    cleaned = " ".join(mended(name).split())
    if not 1 <= len(cleaned) <= LONGEST_NAME:
        raise DomainError(f"water is {len(cleaned)} characters long: it must be 1 to {LONGEST_NAME} characters")
    found = read_geojson(_Collection, data, most_bytes=MOST_BYTES, wanted="a GeoJSON feature collection of lines and points with depths")
    soundings: list[tuple[float, float, float]] = []
    for number, one in enumerate(found.features):
        soundings += _soundings(number, one)
        if len(soundings) > MOST_SOUNDINGS:
            raise DomainError(f"the file has over {MOST_SOUNDINGS} depths: it may have that at most")
    if not soundings:
        raise DomainError("the file has no depths: lines and points must have depth_ft, depth_m or a third coordinate")
    table = np.array(soundings)
    # Where the earth's roundness does not matter: about the middle.
    chart = OwnChart(
        id=uuid.uuid4(),
        owner=owner,
        name=cleaned,
        latitude_deg=float(np.median(table[:, 1])),
        longitude_deg=float(np.median(table[:, 0])),
        soundings=[value for row in table for value in (round(float(row[0]), 7), round(float(row[1]), 7), round(float(row[2]), 2))],
        created_at=now,
    )
    grid_of_chart(chart)
    return chart


def _soundings(number: int, one: _Feature) -> Iterator[tuple[float, float, float]]:
    known = one.properties or {}
    depth = _depth(number, known)
    for place in _places(one.geometry.coordinates):
        where = f"features.{number}.geometry"
        if not all(isinstance(value, int | float) and math.isfinite(value) for value in place) or len(place) < 2:
            raise DomainError(f"{where}: {str(place)[:40]} is no place: it must be longitude and latitude")
        longitude, latitude = place[0], place[1]
        require_place(where, longitude, latitude)
        # A shore without a depth is where the water ends.
        otherwise = 0.0 if known.get("kind") == "shore" else None
        deep = depth if depth is not None else abs(place[2]) if len(place) > 2 else otherwise
        if deep is not None:
            if not 0.0 <= deep <= DEEPEST_M:
                raise DomainError(f"features.{number}: depth is {deep:g} m: it must be 0 to {DEEPEST_M:g} m")
            yield longitude, latitude, deep


def _depth(number: int, known: dict[str, Any]) -> float | None:
    for name, unit in (("depth_m", 1.0), ("depth_ft", FOOT_M)):
        value = known.get(name)
        if value is None:
            continue
        if isinstance(value, bool) or not isinstance(value, int | float) or not math.isfinite(value):
            raise DomainError(f"features.{number}.properties.{name} is {str(value)[:20]}: it must be a number")
        return abs(value) * unit
    return None


def _places(coordinates: Sequence[Any], *, depth: int = 0) -> Iterator[Sequence[Any]]:
    if coordinates and not isinstance(coordinates[0], list):
        yield coordinates
        return
    if depth > 3:
        raise DomainError("geometry: its coordinates are nested too deep")
    for part in coordinates:
        if not isinstance(part, list):
            raise DomainError(f"geometry: {str(part)[:40]} is no place: it must be longitude and latitude")
        yield from _places(part, depth=depth + 1)


def origin_of(chart: OwnChart) -> Origin:
    """Return where the middle of an own chart lies."""
    return Origin(latitude_deg=chart.latitude_deg, longitude_deg=chart.longitude_deg, zone="UTC")


def grid_of_chart(chart: OwnChart) -> DepthGrid:
    """Return an own chart as a grid of depths about its middle; raise DomainError where no grid can be made of it."""
    table = np.array(chart.soundings).reshape(-1, 3)
    x, y = from_earth(list(table[:, 0]), list(table[:, 1]), origin_of(chart))
    places = np.column_stack([x, y])
    if float(np.abs(places).max()) > WIDEST_M / 2.0:
        raise DomainError(f"the depths reach over {WIDEST_M / 1000.0:g} km: one water is no longer")
    return grid_of(places, table[:, 2])
