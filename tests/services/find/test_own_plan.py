"""A search planned on a chart of one's own: it floats, keeps to what is charted, sees more than straight down the middle, leaves as a valid route."""

import math
import uuid
from pathlib import Path

import gpxpy
import numpy as np
import orjson
import pytest
import xmlschema

from mudlamp.core.errors import DomainError
from mudlamp.core.scene.model import Origin
from mudlamp.core.scene.places import Season
from mudlamp.core.searching.charted import HALF_M, piece_of
from mudlamp.core.units import FOOT_M
from mudlamp.formats.nmea import Said
from mudlamp.services.find.own_charts import grid_of_chart, origin_of
from mudlamp.services.find.own_plan import own_plan
from mudlamp.services.find.plans import PlanAsked
from mudlamp.services.find.spot_book import SpotBook
from mudlamp.services.find.waters import from_earth, to_earth
from tests.services.trips.conftest import NOW, OTHER, OWNER

THERE = Origin(latitude_deg=44.5, longitude_deg=-93.25, zone="UTC")
ASKED = PlanAsked(low_ft=9.0, high_ft=17.0, minutes=25.0, speed_mph=4.2, season=Season.FALL)


def lake(seed):
    """Soundings of a lake a third of a mile long: two basins, a hump between them, an island nobody can cross."""
    rng = np.random.default_rng(seed)
    x, y = rng.uniform(-260, 260, 900), rng.uniform(-160, 160, 900)
    basin = 8.0 * np.exp(-(((x + 120) / 110) ** 2) - (y / 90) ** 2) + 7.0 * np.exp(-(((x - 130) / 90) ** 2) - ((y - 20) / 80) ** 2)
    island = 9.0 * np.exp(-(((x - 10) / 25) ** 2) - ((y + 10) / 25) ** 2)
    deep = np.clip(basin + 1.2 - island, 0.0, None)
    longitude, latitude = to_earth(x, y, THERE)
    features = [
        {"type": "Feature", "geometry": {"type": "Point", "coordinates": [float(a), float(b)]}, "properties": {"depth_m": float(d)}}
        for a, b, d in zip(longitude, latitude, deep, strict=True)
    ]
    return orjson.dumps({"type": "FeatureCollection", "features": features})


@pytest.fixture
def book(engine):
    return SpotBook(engine, now=lambda: NOW)


@pytest.mark.parametrize("seed", [988, 989])
def test_a_plan_on_ones_own_water_floats_fits_the_time_and_sees_more_than_the_middle(book, seed):
    water = book.read_chart(OWNER, lake(seed), "Two basins")
    found = own_plan(book, OWNER, water, ASKED, start="middle", fed=None)
    ways = {one.name: one for one in found.plan.ways}
    assert ways["console"].share > 1.3 * ways["middle"].share > 0.0
    assert found.plan.minutes <= ASKED.minutes + 0.1
    chart = book.own_chart(OWNER, water)
    piece = piece_of(grid_of_chart(chart), (0.0, 0.0), Season.FALL)
    for (ax, ay), (bx, by) in zip(found.plan.path, found.plan.path[1:], strict=False):
        for share in (0.0, 0.25, 0.5, 0.75, 1.0):
            assert piece.is_afloat(ax + share * (bx - ax), ay + share * (by - ay))
    # Most of the way lies in the band that was asked for (brute force over the chart's own depths).
    depths = [piece.chart.depth_at(x, y) for x, y in found.plan.path]
    assert np.mean([8.0 * FOOT_M <= one <= 18.0 * FOOT_M for one in depths]) > 0.8
    # Source: GPX 1.1's published schema; the way is where the plan is, by the geodesy library.
    xmlschema.XMLSchema(Path(__file__).parents[2] / "data" / "gpx-1.1.xsd").validate(found.gpx.decode())
    (route,) = gpxpy.parse(found.gpx.decode()).routes
    x, y = from_earth([one.longitude for one in route.points], [one.latitude for one in route.points], origin_of(chart))
    assert np.allclose(np.column_stack((x, y)), found.plan.path, atol=0.2)


def test_a_plan_begins_where_it_is_told_and_says_why_it_cannot(book):
    water = book.read_chart(OWNER, lake(990), "Two basins")
    spot = book.put_spot(OWNER, water, kind="brush", note="", place_m=(-150.0, 10.0), depth_m=None)
    assert math.dist(own_plan(book, OWNER, water, ASKED, start=str(spot.id), fed=None).plan.path[0], (-150.0, 10.0)) < 6.0
    chart = book.own_chart(OWNER, water)
    fed = Said(latitude_deg=chart.latitude_deg, longitude_deg=chart.longitude_deg + 0.0012)
    assert own_plan(book, OWNER, water, ASKED, start="boat", fed=fed).plan.path[0][0] == pytest.approx(95.0, abs=8.0)
    for change, why in (
        ({"start": "boat"}, "instruments do not say where"),
        ({"start": str(uuid.uuid4())}, "must be boat, middle, or a spot"),
        (
            {"asked": PlanAsked(low_ft=33.0, high_ft=37.0, minutes=20.0, speed_mph=4.0)},
            "no water of 33 to 37 ft is charted within 1,312 ft",
        ),
        ({"water": "harl-mill"}, "must be one that you brought a chart of"),
        ({"owner": OTHER}, "must be one of ours, or one that you brought"),
    ):
        given = {"owner": OWNER, "water": water, "asked": ASKED, "start": "middle"} | change
        with pytest.raises(DomainError, match=why):
            own_plan(book, given["owner"], given["water"], given["asked"], start=given["start"], fed=None)
    with pytest.raises(DomainError, match="begins off the chart"):
        piece_of(grid_of_chart(chart), (2000.0 + HALF_M, 0.0), Season.FALL)
