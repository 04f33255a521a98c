"""Charts, plans and searches by the HTTP API."""

import base64
import math
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Annotated

import orjson
from fastapi import APIRouter, Query
from fastapi.responses import Response
from pydantic import BaseModel, ConfigDict, Field

from mudlamp.core.receiver.inks import INKS
from mudlamp.core.scene.places import Season
from mudlamp.core.searching.search import ViewSetting
from mudlamp.core.sonar.console import BINS, VIEWS, ViewKind
from mudlamp.core.units import FOOT_M, MPH_M_S
from mudlamp.services.find import plans
from mudlamp.services.find.chart import chart_geojson, chart_of
from mudlamp.services.find.columns import told
from mudlamp.services.find.desk import in_feet
from mudlamp.services.find.voyage import VoyageHandle
from mudlamp.services.find.waters import DEMO, reach_named
from mudlamp.web.context import At, Who

router = APIRouter(prefix="/api/v1/find")
Place = tuple[float, float]
# Of the track every so many pings are drawn.
TRACK_EVERY = 8


class Asked(BaseModel):
    """What is asked: only what is named, and finite."""

    model_config = ConfigDict(extra="forbid", allow_inf_nan=False)


class PlanRequest(Asked):
    """What a plan is asked for."""

    low_ft: float
    high_ft: float
    minutes: float
    speed_mph: float
    has_side: bool = True
    season: Season | None = None

    def asked(self) -> plans.PlanAsked:
        """Return it as the desk takes it."""
        return plans.PlanAsked(**self.model_dump())


class SteerRequest(Asked):
    """How to go on: pace of time, speed, path; what is left out stays."""

    pace: float | None = None
    speed_mph: float | None = None
    path: list[Place] | None = Field(default=None, max_length=5000)


class ViewRequest(Asked):
    """A view to open: its carrier and Reach."""

    view: ViewKind
    carrier_khz: float
    reach_ft: float


class ViewsRequest(Asked):
    """The views to open."""

    views: list[ViewRequest] = Field(max_length=3)


@dataclass(frozen=True, slots=True, kw_only=True)
class ViewAnswer:
    """A view that is open."""

    view: str
    carrier_khz: float
    reach_m: float
    beams: int


@dataclass(frozen=True, slots=True, kw_only=True)
class StateAnswer:
    """How a search stands."""

    water: str
    newest: int
    time_s: float
    pace: float
    kept_pace: float
    ping_hz: float
    share: float
    left_m: float
    aground: bool
    is_full: bool
    x_m: float
    y_m: float
    heading_rad: float
    speed_mph: float
    depth_ft: float
    views: Sequence[ViewAnswer]
    path: Sequence[Place]
    track: Sequence[tuple[float, float, float]]
    track_from: int
    bins: int


def _state(voyage: VoyageHandle, since: int) -> StateAnswer:
    state = voyage.state
    count = voyage.columns.count
    first = max(min(since, count), 0)
    rows = voyage.columns.track(first, count)
    here = told(rows[-1]) if len(rows) else None
    if here is None:
        last = voyage.columns.track(count - 1, count) if count else rows
        here = told(last[0]) if len(last) else None
        depth = float(last[0][8]) if len(last) else 0.0
    else:
        depth = float(rows[-1][8])
    x, y = reach_named(voyage.water).launch_m
    return StateAnswer(
        water=voyage.water,
        newest=count - 1,
        time_s=0.0 if here is None else here.time_s,
        pace=state.pace,
        kept_pace=state.kept_pace,
        ping_hz=state.ping_hz,
        share=state.share,
        left_m=state.left_m,
        aground=state.aground,
        is_full=state.is_full,
        x_m=x if here is None else here.x_m,
        y_m=y if here is None else here.y_m,
        heading_rad=math.pi / 2.0 if here is None else here.heading_rad,
        speed_mph=0.0 if here is None else here.speed_m_s / MPH_M_S,
        depth_ft=in_feet(depth),
        views=[
            ViewAnswer(view=one.kind.value, carrier_khz=one.carrier_hz / 1000.0, reach_m=one.reach_m, beams=len(VIEWS[one.kind].shapes))
            for one in state.views
        ],
        path=state.path,
        track=[(round(float(row[1]), 2), round(float(row[2]), 2), round(float(row[3]), 4)) for row in rows[::TRACK_EVERY]],
        track_from=count,
        bins=BINS,
    )


@router.get("/chart")
def chart(water: Annotated[str, Query(max_length=40)] = DEMO) -> Response:
    """Return a water's chart as it is drawn: depths, contours, charted places, and the inks of the pictures."""
    found, reach = chart_of(water), reach_named(water)
    content = {
        "water": water,
        "west_m": found.west_m,
        "south_m": found.south_m,
        "cell_m": found.cell_m,
        "rows": found.shade.shape[0],
        "columns": found.shade.shape[1],
        "shade": base64.b64encode(found.shade.tobytes()).decode(),
        "contours": found.contours,
        "places": found.places,
        "launch": reach.launch_m,
        "inks": {name: base64.b64encode(ink.table.tobytes()).decode() for name, ink in INKS.items() if name in ("soot", "chalk")},
    }
    return Response(orjson.dumps(content), media_type="application/json")


@router.get("/chart.geojson")
def chart_file(water: Annotated[str, Query(max_length=40)] = DEMO) -> Response:
    """Return a water's contours and charted places as GeoJSON."""
    return Response(orjson.dumps(chart_geojson(water)), media_type="application/geo+json")


@router.post("/plan")
def plan(house: At, who: Who, wanted: PlanRequest) -> plans.SearchPlan:
    """Plan a search from where the boat is."""
    return house.find.plan(who.device, wanted.asked())


@router.post("/search")
def push_off(house: At, who: Who, wanted: PlanRequest | None = None) -> StateAnswer:
    """Push off: a new search of this browser, standing still at the ramp."""
    return _state(house.find.push_off(who.device, asked=None if wanted is None else wanted.asked()), 0)


@router.delete("/search")
def end(house: At, who: Who) -> dict[str, bool]:
    """End this browser's search."""
    house.find.voyages.end(who.device)
    return {"ended": True}


@router.get("/search")
def state(house: At, who: Who, since: Annotated[int, Query(ge=0, le=10**9)] = 0) -> StateAnswer | None:
    """Return how this browser's search stands, with its track from a ping on; nothing where there is none."""
    voyage = house.find.voyages.of_device(who.device)
    return None if voyage is None else _state(voyage, since)


@router.post("/steer")
def steer(house: At, who: Who, wanted: SteerRequest) -> StateAnswer:
    """Set pace, speed and path."""
    house.find.steer(who.device, pace=wanted.pace, speed_mph=wanted.speed_mph, path=wanted.path)
    return _state(house.find.voyages.require(who.device), 10**9)


@router.post("/views")
def views(house: At, who: Who, wanted: ViewsRequest) -> StateAnswer:
    """Open these views and close the others."""
    house.find.open_views(
        who.device,
        [ViewSetting(kind=one.view, carrier_hz=one.carrier_khz * 1000.0, reach_m=one.reach_ft * FOOT_M) for one in wanted.views],
    )
    return _state(house.find.voyages.require(who.device), 10**9)


@router.get("/columns")
def columns(
    house: At,
    who: Who,
    view: ViewKind,
    first: Annotated[int, Query(ge=0, le=10**9)],
    last: Annotated[int, Query(ge=0, le=10**9)],
    gain: float | None = None,
    punch: float | None = None,
    near_cut_db: float | None = None,
    quieting_pings: float | None = None,
) -> Response:
    """Return a view's columns, a byte a cell: (ping, beam, range_bin); the first one's number is in the header."""
    given = {"gain": gain, "punch": punch, "near_cut_db": near_cut_db, "quieting_pings": quieting_pings}
    found = house.find.columns(who.device, view, first, last, {name: value for name, value in given.items() if value is not None})
    return Response(
        found.brightness.tobytes(),
        media_type="application/octet-stream",
        headers={"X-First": str(found.first), "X-Count": str(len(found.brightness)), "Cache-Control": "no-store"},
    )


class PointsRequest(Asked):
    """How far the 3-D view reaches; 0 closes it."""

    reach_ft: float


@router.post("/points")
def show_points(house: At, who: Who, wanted: PointsRequest) -> dict[str, bool]:
    """Open the 3-D view, or close it."""
    house.find.show_points(who.device, wanted.reach_ft * FOOT_M)
    return {"shown": wanted.reach_ft > 0.0}


@router.get("/points")
def points(house: At, who: Who, first: Annotated[int, Query(ge=0, le=10**9)] = 0) -> Response:
    """Return points of the 3-D view from one on: x, y, depth [m], level [dB], 1 for what stands over the bottom; 32-bit floats, little-endian."""
    found = house.find.points(who.device, first)
    return Response(found.tobytes(), media_type="application/octet-stream", headers={"Cache-Control": "no-store"})


@router.get("/all-round")
def all_round(house: At, who: Who, reach_ft: float = 100.0, gain: float | None = None, punch: float | None = None) -> Response:
    """Return one turn of the all-round scan from where the boat is, a byte a cell: (step, range_bin), clockwise from the bow."""
    given = {name: value for name, value in (("gain", gain), ("punch", punch)) if value is not None}
    bright = house.find.all_round(who.device, reach_ft * FOOT_M, given)
    headers = {"X-Steps": str(bright.shape[0]), "X-Bins": str(bright.shape[1]), "Cache-Control": "no-store"}
    return Response(bright.tobytes(), media_type="application/octet-stream", headers=headers)
