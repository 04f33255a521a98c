"""The map of spots, and charts of one's own."""

import math
import uuid
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from urllib.parse import urlencode

from fastapi import APIRouter, Request
from fastapi.responses import HTMLResponse, Response
from starlette.concurrency import run_in_threadpool

from mudlamp.core.errors import DomainError
from mudlamp.core.records.spots import SPOT_KINDS
from mudlamp.core.searching.soundings import Ring
from mudlamp.core.texts import mended
from mudlamp.core.units import FOOT_M, feet
from mudlamp.services.edge import forms
from mudlamp.services.edge.forms import DEGREES, FEET
from mudlamp.services.find.own_charts import OWN
from mudlamp.services.find.own_plan import BOAT, LONGEST_START, MIDDLE, USUAL, OwnPlan, asked_of, own_plan
from mudlamp.services.find.own_plan import FIELDS as PLAN_FIELDS
from mudlamp.services.find.plans import SearchPlan
from mudlamp.services.find.spot_map import LEVELS_FT, Frame, SpotMap, SpotOnMap, spot_map
from mudlamp.services.find.waters import DEMO, from_earth, reach_named
from mudlamp.services.water.plans import AT, SCENE
from mudlamp.services.water.sound import scene_rows
from mudlamp.services.words.find import seen_words
from mudlamp.web.context import At, Form, Who, go_to, in_place, render
from mudlamp.web.form_views import FieldView, field_views
from mudlamp.web.log.keep import chosen_file

router = APIRouter(prefix="/log", include_in_schema=False)
# The drawing's own units across.
ACROSS = 1500.0
SPOT_FIELDS = (
    forms.choice("kind", "Kind", {kind: kind for kind in SPOT_KINDS}, required=True),
    forms.number("away_ft", "Away", 0.0, 20_000.0, FEET, hint="from where distances count"),
    forms.number("bearing_deg", "Bearing", 0.0, 360.0, DEGREES, hint="0 is north, 90 is east"),
    forms.number("latitude", "or latitude", -90.0, 90.0, step=0.00001),
    forms.number("longitude", "longitude", -180.0, 180.0, step=0.00001),
    forms.number("depth_ft", "Depth", 0.0, 600.0, FEET),
    forms.words("note", "Note", longest=400),
)


@dataclass(frozen=True, slots=True, kw_only=True)
class BandView:
    """A band of depth: which (0 the shallowest), its words, its outline as a path."""

    step: int
    words: str
    path: str


@dataclass(frozen=True, slots=True, kw_only=True)
class SpotView:
    """A spot on the map: where [%], and its line."""

    id: str
    number: int
    kind: str
    note: str
    left_pct: float
    top_pct: float
    depth: str
    away: str
    seen: str
    visits: str
    own: bool


@dataclass(frozen=True, slots=True, kw_only=True)
class MapView:
    """The page: waters, the map, spots, forms; from where distances count."""

    water: str
    waters: Sequence[tuple[str, str]]
    bands: Sequence[BandView]
    spots: Sequence[SpotView]
    tracks: Sequence[str]
    here_pct: tuple[float, float] | None
    counted_from: str
    fields: Sequence[FieldView]
    under_way: bool
    is_own: bool
    chart_key: str
    across: float
    down: float
    is_long: bool
    plan_fields: Sequence[FieldView]
    starts: Sequence[tuple[str, str]]
    start: str
    plan_path: str
    plan_said: Sequence[str]
    plan_gpx: str


@router.get("/spots")
def spots(request: Request, house: At, who: Who, water: str = DEMO) -> HTMLResponse:
    """Show the map of one's spots on a water."""
    return render(request, "log/spots.html", _view(house, who, water))


def _view(
    house: At, who: Who, water: str, read: forms.Read | None = None, *, asked: forms.Read | None = None, planned: OwnPlan | None = None
) -> MapView:
    fed = None if house.feed is None else house.feed.heard().said
    found = spot_map(house.spots, who.owner, water, fed=fed)
    own = house.spots.own_charts(who.owner)
    plan_read = asked or forms.Read(values={}, problems={}, texts=USUAL)
    named = [(DEMO, reach_named(DEMO).title), *((f"{OWN}{one.id}", one.name) for one in own)]
    named += [
        (name, _title(name)) for name in house.spots.waters_with_spots(who.owner) if name not in dict(named) and not name.startswith(OWN)
    ]
    left, top = found.frame.share(*found.here_m)
    return MapView(
        water=water,
        waters=named,
        bands=[
            BandView(step=step, words=_depths(low, high), path=" ".join(_path(ring, found.frame) for rings in polygons for ring in rings))
            for step, (low, high, polygons) in ((LEVELS_FT.index(round(one[0] / FOOT_M, 6)), one) for one in found.bands)
        ],
        spots=[_spot(one, found) for one in found.spots],
        tracks=["M" + _line(line, found.frame) for line in found.tracks],
        here_pct=(round(100.0 * left, 2), round(100.0 * top, 2)) if 0.0 <= left <= 1.0 and 0.0 <= top <= 1.0 else None,
        counted_from="the boat, by its instruments"
        if found.is_fed
        else "the middle of the chart"
        if water.startswith(OWN)
        else "where the boat lies"
        if water.startswith(SCENE)
        else "the ramp",
        fields=field_views(SPOT_FIELDS, {} if read is None else read.texts, None if read is None else read.problems),
        under_way=house.trips.under_way(who.owner) is not None,
        is_own=water.startswith(OWN),
        chart_key=water.removeprefix(OWN) if water.startswith(OWN) else "",
        across=ACROSS,
        down=ACROSS * found.frame.high_m / found.frame.wide_m,
        plan_fields=field_views(PLAN_FIELDS, plan_read.texts, plan_read.problems, prefix="plan"),
        starts=[(MIDDLE, "the middle"), *([(BOAT, "the boat")] if found.is_fed else [])]
        + [(str(one.spot.id), f"spot {one.number}") for one in found.spots],
        start=plan_read.texts.get("start", MIDDLE),
        plan_path="" if planned is None else "M" + _line(planned.plan.path, found.frame),
        plan_said=() if planned is None else _plan_words(planned.plan),
        plan_gpx="" if planned is None or asked is None else f"/log/spots/plan.gpx?{urlencode({'water': water, **asked.texts})}",
        is_long=found.frame.wide_m > 2.0 * found.frame.high_m,
    )


def _title(water: str) -> str:
    """Return what people read of a water by its name."""
    scenes = {f"{SCENE}{one.name}": one.title for one in scene_rows()}
    return scenes.get(water, water.removeprefix(SCENE).partition(AT)[0])


def _path(ring: Ring, frame: Frame) -> str:
    return f"M{_line(ring, frame)}Z"


def _line(places: Sequence[tuple[float, float]], frame: Frame) -> str:
    down = ACROSS * frame.high_m / frame.wide_m
    shares = [frame.share(x, y) for x, y in places]
    return "L".join(f"{ACROSS * left:.1f} {down * top:.1f}" for left, top in shares)


def _depths(low_m: float, high_m: float) -> str:
    low, high = round(feet(low_m)), round(feet(high_m))
    return f"over {low} ft" if high > LEVELS_FT[-2] else f"{low} to {high} ft"


def _spot(one: SpotOnMap, found: SpotMap) -> SpotView:
    spot = one.spot
    left, top = found.frame.share(spot.x_m, spot.y_m)
    return SpotView(
        id=str(spot.id),
        number=one.number,
        kind=spot.kind,
        note=spot.note,
        left_pct=round(100.0 * left, 2),
        top_pct=round(100.0 * top, 2),
        depth="" if spot.depth_m is None else f"{feet(spot.depth_m):.0f} ft deep",
        away=seen_words(one.away_m, one.bearing_rad),
        seen="" if spot.away_m is None or spot.bearing_rad is None else seen_words(spot.away_m, spot.bearing_rad),
        visits="" if not one.came else f"{one.fish} of {one.came} visits with fish",
        own=spot.owner is not None,
    )


@router.post("/spots")
def add_spot(request: Request, house: At, who: Who, given: Form) -> HTMLResponse:
    """Keep a spot by bearing and distance, or by latitude and longitude."""
    water, found = given.get("water", DEMO), forms.read(SPOT_FIELDS, given)
    place = None if found.problems else _place(house, who, water, found)
    if place is None:
        problems = dict(found.problems) or {"away_ft": "Away is empty: give a distance and a bearing, or a latitude and a longitude"}
        wrong = forms.Read(values=found.values, problems=problems, texts=found.texts)
        return in_place(render(request, "log/_spot_map.html", _view(house, who, water, wrong), status=422), "#_spot_map")
    house.spots.put_spot(
        who.owner, water, kind=found.text("kind"), note=found.text("note"), place_m=place, depth_m=found.number("depth_ft")
    )
    return go_to(f"/log/spots?water={water}")


def _place(house: At, who: Who, water: str, found: forms.Read) -> tuple[float, float] | None:
    """Return the place that a form says [m east, north of the water's middle]; None where it says none."""
    latitude, longitude = found.number("latitude"), found.number("longitude")
    if latitude is not None and longitude is not None:
        x, y = from_earth([longitude], [latitude], house.spots.origin_on(who.owner, water))
        return float(x[0]), float(y[0])
    away, bearing = found.number("away_ft"), found.number("bearing_deg")
    if away is None or bearing is None:
        return None
    fed = None if house.feed is None else house.feed.heard().said
    here = spot_map(house.spots, who.owner, water, fed=fed).here_m
    return here[0] + away * math.sin(bearing), here[1] + away * math.cos(bearing)


@router.post("/spots/plan")
def plan(request: Request, house: At, who: Who, given: Form) -> HTMLResponse:
    """Plan a search on a water of one's own: its way on the map; the form with what is wrong in its place."""
    water, read = given.get("water", ""), _asked(given)
    planned = None
    if not read.problems:
        try:
            planned = _planned(house, who, water, read)
        except DomainError as error:
            read = replace(read, problems={"low_ft": str(error)})
    view = _view(house, who, water, asked=read, planned=planned)
    return in_place(render(request, "log/_spot_map.html", view, status=200 if planned is not None else 422), "#_spot_map")


@router.get("/spots/plan.gpx")
def plan_file(request: Request, house: At, who: Who, water: str) -> Response:
    """Return the way of a search on a water of one's own as a GPX route; raise DomainError naming the first thing wrong."""
    read = _asked({mended(name): mended(value) for name, value in request.query_params.items()})
    if read.problems:
        raise DomainError(next(iter(read.problems.values())))
    data = _planned(house, who, water, read).gpx
    return Response(data, media_type="application/gpx+xml", headers={"Content-Disposition": 'attachment; filename="search.gpx"'})


def _asked(given: Mapping[str, str]) -> forms.Read:
    read = forms.read(PLAN_FIELDS, given)
    return replace(read, texts={**read.texts, "start": given.get("start", MIDDLE)[:LONGEST_START]})


def _planned(house: At, who: Who, water: str, read: forms.Read) -> OwnPlan:
    fed = None if house.feed is None else house.feed.heard().said
    return own_plan(house.spots, who.owner, water, asked_of(read), start=read.texts["start"], fed=fed)


def _plan_words(found: SearchPlan) -> list[str]:
    """Return a plan in words: how it goes, and what it would see in the time."""
    ways = {one.name: f"{one.share:.0%}" for one in found.ways}
    return [
        f"{found.length_ft:,.0f} ft in {found.minutes:.0f} min: {found.carrier_khz:g} kHz, {found.reach_ft:.0f} ft to each side,"
        f" lanes {found.spacing_ft:.0f} ft apart",
        f"The chance that a school of this band within reach of the plan is shown: {ways['console']}."
        f" With the live fan alone: {ways['live']}. Straight down the middle: {ways['middle']}.",
    ]


@router.post("/spots/{key}/visit")
def visit(house: At, who: Who, key: uuid.UUID, given: Form) -> HTMLResponse:
    """Note on the trip under way that one came to a spot, and whether fish were there."""
    spot = house.spots.any_spot(who.owner, key)
    house.trips.visit(who.owner, spot, saw_fish=given.get("fish") == "yes")
    return go_to(f"/log/spots?water={spot.water}")


@router.post("/spots/chart")
async def read_chart(request: Request, house: At, who: Who) -> HTMLResponse:
    """Keep a chart of one's own, of a GeoJSON file's contours or soundings."""
    async with request.form(max_files=1) as form:
        data, name = await chosen_file(form.get("chart"), "chart").read(), str(form.get("name", ""))
    water = await run_in_threadpool(house.spots.read_chart, who.owner, data, name)
    return await run_in_threadpool(lambda: render(request, "log/spots.html", _view(house, who, water)))


@router.delete("/spots/chart/{key}")
def delete_chart(house: At, who: Who, key: uuid.UUID) -> HTMLResponse:
    """Delete a chart of one's own; the spots on it stay in the files that are taken along."""
    house.spots.delete_chart(who.owner, key)
    return go_to("/log/spots")
