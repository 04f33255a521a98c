"""Marks, what is really there, spots, and the way to the live fan by the HTTP API."""

import math
import uuid
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Annotated, Any

from fastapi import APIRouter, Query, Request
from fastapi.responses import Response
from pydantic import Field
from starlette.concurrency import run_in_threadpool

from mudlamp.core.casting.solve import Mood
from mudlamp.core.records.spots import Spot
from mudlamp.core.sonar.console import ViewKind
from mudlamp.core.units import FOOT_M, INCH_M
from mudlamp.formats.fields import PlainText
from mudlamp.services.find.desk import ellipse_of, in_feet
from mudlamp.services.find.gpx_file import spots_gpx
from mudlamp.services.find.marks import Marked
from mudlamp.services.find.spots_file import spots_bytes
from mudlamp.services.find.waters import DEMO
from mudlamp.services.words.find import said_of
from mudlamp.web.api.find import Asked
from mudlamp.web.context import At, Who

router = APIRouter(prefix="/api/v1/find")


class MarkRequest(Asked):
    """A point of a picture."""

    view: ViewKind
    number: int = Field(ge=0, le=10**8)
    beam: int
    slant_m: float


class ReferenceRequest(MarkRequest):
    """A mark of a known length [ft], which others are measured by."""

    long_ft: float


class PointRequest(MarkRequest):
    """A point of a picture, and what its size is measured by."""

    reference: ReferenceRequest | None = None


class SpotRequest(MarkRequest):
    """A mark to keep as a spot: what it is, a note, and which spot it is a second look at."""

    kind: str
    note: PlainText = ""
    again: uuid.UUID | None = None


class PlaceRequest(Asked):
    """A place on the chart."""

    x_m: float
    y_m: float


@dataclass(frozen=True, slots=True, kw_only=True)
class SpotAnswer:
    """A spot."""

    id: uuid.UUID
    kind: str
    note: str
    x_m: float
    y_m: float
    depth_ft: float | None
    long_m: float
    short_m: float
    bearing_rad: float
    looks: int
    own: bool


@dataclass(frozen=True, slots=True, kw_only=True)
class InViewAnswer:
    """Where a mark stands in a view."""

    view: str
    number: int
    beam: int
    slant_m: float
    meter_cells: float
    meter_pings: float
    smear_pings: float
    along_in: int | None
    across_in: int | None
    by_reference_in: int | None


@dataclass(frozen=True, slots=True, kw_only=True)
class MarkAnswer:
    """A mark in every view: what the picture knows, and how well."""

    slant_ft: float
    out_ft: float
    depth_ft: float | None
    shallowest_ft: float
    deepest_ft: float
    lies: str
    side: str
    x_m: float
    y_m: float
    long_m: float
    short_m: float
    bearing_rad: float
    arc: Sequence[tuple[float, float]]
    views: Sequence[InViewAnswer]


@dataclass(frozen=True, slots=True, kw_only=True)
class ThingAnswer:
    """Something that is really there, in words."""

    said: str
    x_m: float
    y_m: float


def _spot(spot: Spot) -> SpotAnswer:
    long, short, bearing = ellipse_of(spot)
    return SpotAnswer(
        id=spot.id,
        kind=spot.kind,
        note=spot.note,
        x_m=spot.x_m,
        y_m=spot.y_m,
        depth_ft=None if spot.depth_m is None else in_feet(spot.depth_m),
        long_m=long,
        short_m=short,
        bearing_rad=bearing,
        looks=spot.looks,
        own=spot.owner is not None,
    )


def _marked(house: At, who: Who, wanted: MarkRequest) -> Marked:
    return house.find.mark(who.device, view=wanted.view, number=wanted.number, beam=wanted.beam, slant_m=wanted.slant_m)


@router.post("/mark")
def mark(house: At, who: Who, wanted: PointRequest) -> MarkAnswer:
    """Return where a point of a picture is, where the same place stands in the other views, and how long it is by a reference."""
    found = _marked(house, who, wanted)
    known = wanted.reference
    sized: Sequence[float | None] = [None] * len(found.views)
    if known is not None:
        sized = house.find.sized(who.device, found, _marked(house, who, known), known.long_ft * FOOT_M)
    fix = found.fix
    long, short, bearing = fix.ellipse
    depths = [one[2] for one in fix.arc_m] or [fix.depth_m or 0.0]
    sides = {True: "port" if found.beam == 0 else "starboard", False: "under"}
    return MarkAnswer(
        slant_ft=in_feet(found.slant_m),
        out_ft=in_feet(fix.out_m),
        depth_ft=None if fix.depth_m is None else in_feet(fix.depth_m),
        shallowest_ft=in_feet(min(depths)),
        deepest_ft=in_feet(max(depths)),
        lies=found.lies.value,
        side=sides[found.view is ViewKind.SIDE],
        x_m=fix.x_m,
        y_m=fix.y_m,
        long_m=long,
        short_m=short,
        bearing_rad=bearing,
        arc=[(one[0], one[1]) for one in fix.arc_m],
        views=[
            InViewAnswer(
                view=one.view.value,
                number=one.number,
                beam=one.beam,
                slant_m=one.slant_m,
                meter_cells=one.meter_cells,
                meter_pings=one.meter_pings,
                smear_pings=one.smear_pings,
                along_in=None if look is None else round(look[0] / INCH_M),
                across_in=None if look is None else round(look[1] / INCH_M),
                by_reference_in=None if long is None else round(long / INCH_M),
            )
            for one, look, long in zip(found.views, house.find.looks(who.device, found), sized, strict=True)
        ],
    )


@router.post("/reveal")
def reveal(house: At, who: Who, wanted: PlaceRequest) -> list[ThingAnswer]:
    """Return what is really about a place: simulated water knows."""
    found = house.find.reveal(who.device, wanted.x_m, wanted.y_m)
    return [ThingAnswer(said=said_of(one.what, one.count, one.size_m, one.z_m), x_m=one.x_m, y_m=one.y_m) for one in found]


@router.get("/spots")
def spots(house: At, who: Who, water: Annotated[str, Query(max_length=60)] = DEMO) -> list[SpotAnswer]:
    """Return the spots on a water."""
    return [_spot(one) for one in house.spots.spots(who.owner, water)]


@router.get("/spots.geojson")
def spots_file(house: At, who: Who, water: Annotated[str, Query(max_length=60)] = DEMO) -> Response:
    """Return one's own spots on a water as GeoJSON: for oneself, with their places."""
    own = [one for one in house.spots.spots(who.owner, water) if one.owner is not None]
    return Response(
        spots_bytes(own, house.spots.origins(who.owner, own)),
        media_type="application/geo+json",
        headers={"Content-Disposition": 'attachment; filename="spots.geojson"'},
    )


@router.get("/spots.gpx")
def spots_gpx_file(house: At, who: Who, water: Annotated[str, Query(max_length=60)] = DEMO) -> Response:
    """Return one's own spots on a water as GPX."""
    own = [one for one in house.spots.spots(who.owner, water) if one.owner is not None]
    return Response(
        spots_gpx(own, house.spots.origins(who.owner, own)),
        media_type="application/gpx+xml",
        headers={"Content-Disposition": 'attachment; filename="spots.gpx"'},
    )


@router.get("/track.gpx")
def track_file(house: At, who: Who) -> Response:
    """Return where this browser's search went as GPX."""
    return Response(
        house.find.track_file(who.device),
        media_type="application/gpx+xml",
        headers={"Content-Disposition": 'attachment; filename="track.gpx"'},
    )


@router.post("/spots.geojson")
async def read_file(request: Request, house: At, who: Who, water: Annotated[str, Query(max_length=60)] = DEMO) -> list[SpotAnswer]:
    """Keep the spots of a GeoJSON or GPX file, all or none."""
    data = await request.body()
    return [_spot(one) for one in await run_in_threadpool(house.spots.read_spots, who.owner, data, water)]


@router.post("/spots")
def add_spot(house: At, who: Who, wanted: SpotRequest) -> SpotAnswer:
    """Keep a mark as a spot, or add it to one as a second look."""
    found = _marked(house, who, wanted)
    return _spot(house.find.add_spot(who.owner, who.device, found, kind=wanted.kind, note=wanted.note, again=wanted.again))


@router.delete("/spots/{key}")
def delete_spot(house: At, who: Who, key: uuid.UUID) -> dict[str, bool]:
    """Delete a spot of one's own."""
    house.spots.delete_spot(who.owner, key)
    return {"deleted": True}


@router.get("/handoff/{key}")
def handoff(house: At, who: Who, key: uuid.UUID, mood: Mood = Mood.USUAL) -> dict[str, Any]:
    """Return how to come to a spot from where the boat is."""
    found = house.find.hand_off(who.owner, who.device, key, mood)
    return {
        "away_ft": in_feet(found.away_m),
        "turn_deg": round(math.degrees(found.turn_rad)),
        "stand_off_ft": in_feet(found.stand_off_m),
        "known_ft": in_feet(found.known_m),
        "stop": found.stop_m,
        "there": found.is_there,
    }


@router.post("/lower/{key}")
def lower(house: At, who: Who, key: uuid.UUID) -> dict[str, str]:
    """Lower the live fan at a spot: Lamp opens there, in the same water at the same time."""
    plan = house.find.lower(who.owner, who.device, key)
    screen = house.rigs.screen_of(house.rigs.try_active(who.owner))
    session = house.sessions.open(who.device, plan, angler_id=who.angler_id, screen=screen, seed=plan.seed, anew=True)
    return {"session": str(session.id)}
