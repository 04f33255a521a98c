"""Spots as GeoJSON, out and in."""

import datetime as dt
import uuid
from collections.abc import Callable, Mapping, Sequence
from types import MappingProxyType
from typing import Annotated, Any, Literal

import orjson
from pydantic import BaseModel, ConfigDict, Field

from mudlamp.core.errors import DomainError
from mudlamp.core.records.spots import MOST_SPOTS, SPOT_KINDS, Spot
from mudlamp.core.scene.model import OPEN_SEA, Origin
from mudlamp.core.searching.boat import FIX_SIGMA_M
from mudlamp.core.texts import mended
from mudlamp.core.units import FOOT_M
from mudlamp.services.find.chart import feature
from mudlamp.services.find.geojson import read_geojson, require_place
from mudlamp.services.find.waters import from_earth

MOST_BYTES = 2_000_000
# Spots farther from the water's middle are on some other water [m].
FARTHEST_M = 20_000.0


def spots_geojson(spots: Sequence[Spot], origins: Mapping[str, Origin] = MappingProxyType({})) -> dict[str, Any]:
    """Return spots as a GeoJSON feature collection: kind, note, depth [ft] and the covariance of the place [m^2] as properties.

    `origins` are the middles of waters by name, for those that do not lie where ours do.
    """
    features = []
    for spot in spots:
        properties = {
            "id": str(spot.id),
            "kind": spot.kind,
            "note": spot.note,
            "depth_ft": None if spot.depth_m is None else round(spot.depth_m / FOOT_M, 2),
            "covariance_m2": [round(value, 4) for value in (spot.xx_m2, spot.xy_m2, spot.yy_m2)],
            "looks": spot.looks,
            "created_at": spot.created_at.isoformat(),
        }
        features.append(feature("Point", [(spot.x_m, spot.y_m)], properties, origins.get(spot.water, OPEN_SEA)))
    return {"type": "FeatureCollection", "features": features}


def spots_bytes(spots: Sequence[Spot], origins: Mapping[str, Origin] = MappingProxyType({})) -> bytes:
    """Return spots as the bytes of a GeoJSON file."""
    return orjson.dumps(spots_geojson(spots, origins))


class _Geometry(BaseModel):
    type: Literal["Point"]
    coordinates: Annotated[list[float], Field(min_length=2, max_length=3)]


class _Properties(BaseModel):
    model_config = ConfigDict(allow_inf_nan=False)

    kind: str = "other"
    note: str = Field(default="", max_length=400)
    depth_ft: float | None = Field(default=None, ge=0.0, le=600.0)
    covariance_m2: Annotated[list[float], Field(min_length=3, max_length=3)] | None = None
    looks: int = Field(default=1, ge=1, le=1000)
    id: uuid.UUID | None = None


class _Feature(BaseModel):
    type: Literal["Feature"]
    geometry: _Geometry
    properties: _Properties = _Properties()


class _Collection(BaseModel):
    type: Literal["FeatureCollection"]
    features: Annotated[list[_Feature], Field(max_length=MOST_SPOTS)]


def read_spots(
    data: bytes,
    *,
    owner: uuid.UUID,
    water: str,
    now: dt.datetime,
    key_of: Callable[[uuid.UUID | None], uuid.UUID],
    origin: Origin = OPEN_SEA,
    source: str = "simulated",
) -> list[Spot]:
    """Return the spots of a GeoJSON file's bytes, all or none; `source` says whether their water is real.

    Raises DomainError naming the first thing wrong: a file that is none, a place off this water, a kind that is none.
    """
    found = read_geojson(_Collection, data, most_bytes=MOST_BYTES, wanted="a GeoJSON feature collection of points")
    return [
        _spot(i, one, owner=owner, water=water, now=now, key_of=key_of, origin=origin, source=source)
        for i, one in enumerate(found.features)
    ]


def _spot(
    i: int,
    one: _Feature,
    *,
    owner: uuid.UUID,
    water: str,
    now: dt.datetime,
    key_of: Callable[[uuid.UUID | None], uuid.UUID],
    origin: Origin,
    source: str,
) -> Spot:
    longitude, latitude = one.geometry.coordinates[:2]
    require_place(f"features.{i}.geometry", longitude, latitude)
    xs, ys = from_earth([longitude], [latitude], origin)
    if abs(xs[0]) > FARTHEST_M or abs(ys[0]) > FARTHEST_M:
        raise DomainError(f"features.{i}.geometry: {longitude:g}, {latitude:g} is over {FARTHEST_M / 1000.0:g} km from this water")
    kind = mended(one.properties.kind)
    if kind not in SPOT_KINDS:
        raise DomainError(f"features.{i}.properties.kind is {kind[:40]}: it must be one of {', '.join(SPOT_KINDS)}")
    spread = one.properties.covariance_m2 or [FIX_SIGMA_M**2, 0.0, FIX_SIGMA_M**2]
    if spread[0] < 0.0 or spread[2] < 0.0 or spread[0] * spread[2] < spread[1] ** 2:
        raise DomainError(f"features.{i}.properties.covariance_m2 is {spread}: it must be a covariance")
    depth = one.properties.depth_ft
    return Spot(
        id=key_of(one.properties.id),
        owner=owner,
        water=water,
        kind=kind,
        note=mended(one.properties.note),
        x_m=float(xs[0]),
        y_m=float(ys[0]),
        depth_m=None if depth is None else depth * FOOT_M,
        xx_m2=spread[0],
        xy_m2=spread[1],
        yy_m2=spread[2],
        looks=one.properties.looks,
        source=source,
        created_at=now,
    )
