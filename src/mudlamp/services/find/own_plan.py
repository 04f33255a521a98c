"""A search planned on a chart of one's own: its way, drawn and as GPX for one's own plotter. Nothing is simulated there: only the depths are known."""

import uuid
from dataclasses import dataclass

from gpxpy.gpx import GPXRoute, GPXRoutePoint

from mudlamp.core.errors import DomainError
from mudlamp.core.scene.places import Season
from mudlamp.core.searching.charted import HALF_M, afloat_near, piece_of
from mudlamp.core.units import FOOT_M
from mudlamp.formats.nmea import Said
from mudlamp.services.edge import forms
from mudlamp.services.edge.forms import Read
from mudlamp.services.find import plans
from mudlamp.services.find.gpx_file import new_gpx
from mudlamp.services.find.odds import odds_for
from mudlamp.services.find.own_charts import OWN, grid_of_chart
from mudlamp.services.find.spot_book import SpotBook
from mudlamp.services.find.spot_map import place_of
from mudlamp.services.find.waters import to_earth

MIDDLE, BOAT = "middle", "boat"
SEASONS = {one.value: one.value for one in Season}
LONGEST_START = 40
FIELDS = (
    forms.number("low_ft", "From", *plans.BAND_FT, forms.Unit(name="ft"), required=True),
    forms.number("high_ft", "to", *plans.BAND_FT, forms.Unit(name="ft"), required=True),
    forms.number("minutes", "Time", *plans.MINUTES, forms.Unit(name="min"), required=True),
    forms.number("speed_mph", "Speed", *plans.SPEED_MPH, forms.Unit(name="mph"), step=0.1, required=True),
    forms.choice("season", "Season", SEASONS, Season, required=True),
    forms.check("has_side", "A side view aboard"),
)
USUAL = {"low_ft": "9", "high_ft": "17", "minutes": "20", "speed_mph": f"{plans.IDLE_MPH:g}", "season": "fall", "has_side": "true"}


@dataclass(frozen=True, slots=True, kw_only=True)
class OwnPlan:
    """A plan on one's own water: what was asked, the plan, its way as a GPX route."""

    asked: plans.PlanAsked
    plan: plans.SearchPlan
    gpx: bytes


def asked_of(read: Read) -> plans.PlanAsked:
    """Return what a form without problems asks for; raise DomainError where its band is none."""
    season = read.values["season"]
    return plans.PlanAsked(
        low_ft=read.number("low_ft") or 0.0,
        high_ft=read.number("high_ft") or 0.0,
        minutes=read.number("minutes") or 0.0,
        speed_mph=read.number("speed_mph") or 0.0,
        has_side=bool(read.values["has_side"]),
        season=season if isinstance(season, Season) else None,
    ).checked()


def own_plan(book: SpotBook, owner: uuid.UUID, water: str, asked: plans.PlanAsked, *, start: str, fed: Said | None) -> OwnPlan:
    """Return the plan of a search on an owner's own water, from the boat by its instruments, a spot (its key), or the chart's middle.

    Raises DomainError for a water that is not one's own, a start that is none, or where no such depth is charted.
    """
    if not water.startswith(OWN):
        raise DomainError(f"water is {water[:60]}: it must be one that you brought a chart of; the demo's is searched on Find")
    chart = book.own_chart(owner, water)
    at = _start(book, owner, water, start, fed)
    piece = piece_of(grid_of_chart(chart), at, asked.season or Season.FALL)
    if not len(odds_for(piece, asked.band_m).cells_m):
        raise DomainError(
            f"no water of {asked.low_ft:g} to {asked.high_ft:g} ft is charted within {HALF_M / FOOT_M:,.0f} ft of where the plan begins"
        )
    found = plans.plan(piece, asked, start_m=afloat_near(piece, at))
    gpx = new_gpx()
    route = GPXRoute(name=f"Search, {asked.low_ft:g} to {asked.high_ft:g} ft")
    origin = book.origin_on(owner, water)
    longitudes, latitudes = to_earth([x for x, _ in found.path], [y for _, y in found.path], origin)
    route.points = [GPXRoutePoint(float(b), float(a)) for a, b in zip(longitudes, latitudes, strict=True)]
    gpx.routes.append(route)
    return OwnPlan(asked=asked, plan=found, gpx=bytes(gpx.to_xml(version="1.1").encode()))


def _start(book: SpotBook, owner: uuid.UUID, water: str, start: str, fed: Said | None) -> tuple[float, float]:
    if start == BOAT:
        place = place_of(book, owner, water, fed)
        if place is None:
            raise DomainError("start is boat: its instruments do not say where it is; begin at the middle, or at a spot")
        return place
    if start in ("", MIDDLE):
        return 0.0, 0.0
    spot = next((one for one in book.spots(owner, water) if str(one.id) == start), None)
    if spot is None:
        raise DomainError(f"start is {start[:LONGEST_START]}: it must be boat, middle, or a spot on this water")
    return spot.x_m, spot.y_m
