"""Find by the HTTP API: what is refused, what leaves as a file, what comes back."""

import json
import re
import uuid
from dataclasses import replace
from xml.etree import ElementTree

import gpx
import gpxpy
import numpy as np
import pytest
from pyproj import Geod

from mudlamp.core.errors import DomainError
from mudlamp.core.scene.model import OPEN_SEA
from mudlamp.core.scene.places import Season
from mudlamp.core.units import FOOT_M
from mudlamp.services.find.demo import demo_spots
from mudlamp.services.find.gpx_file import geojson_of_gpx, track_gpx
from mudlamp.services.find.lookfirst import look_list
from mudlamp.services.find.spots_file import read_spots, spots_geojson
from mudlamp.services.find.waters import DEMO, from_earth, reach_named, to_earth
from mudlamp.store.spots import put_spots

API = "/api/v1/find"
# Two depths of a pond.
CHART = json.dumps(
    {
        "type": "FeatureCollection",
        "features": [
            {"type": "Feature", "geometry": {"type": "LineString", "coordinates": [[lon, lat] for lon, lat in line]}, "properties": {"depth_ft": depth}}
            for depth, line in (
                (0.0, ((-85.051, 34.119), (-85.049, 34.119), (-85.049, 34.121), (-85.051, 34.121), (-85.051, 34.119))),
                (12.0, ((-85.0505, 34.1195), (-85.0495, 34.1195), (-85.0495, 34.1205), (-85.0505, 34.1205), (-85.0505, 34.1195))),
            )
        ],
    }
).encode()  # fmt: skip
PLAN = {"low_ft": 9, "high_ft": 17, "minutes": 20, "speed_mph": 4.2}


def test_a_plan_is_made_without_a_search(client):
    found = client.post(f"{API}/plan", json=PLAN).json()
    assert found["share"] > 0.3
    assert len(found["path"]) > 20
    assert {way["name"] for way in found["ways"]} == {"console", "live", "middle"}
    assert client.get(f"{API}/search").json() is None


@pytest.mark.parametrize(
    ("path", "body", "named"),
    [
        ("plan", PLAN | {"minutes": 0}, "minutes"),
        ("plan", PLAN | {"high_ft": 8}, "high_ft"),
        ("plan", PLAN | {"depth": 3}, "depth"),
        ("plan", {}, "low_ft"),
        ("steer", {"pace": 1}, "push off"),
        ("mark", {"view": "side", "number": 1, "beam": 0, "slant_m": 3.0}, "push off"),
        ("mark", {"view": "sideways", "number": 1, "beam": 0, "slant_m": 3.0}, "view"),
        ("views", {"views": []}, "push off"),
        ("reveal", {"x_m": 1e9, "y_m": 0}, "x_m"),
    ],
)
def test_what_cannot_be_is_refused_by_name(client, path, body, named):
    answer = client.post(f"{API}/{path}", json=body)
    assert answer.status_code in (404, 422)
    assert named in answer.text
    assert "Traceback" not in answer.text


@pytest.mark.parametrize("water", ["nowhere", "drawn-", "drawn-99999999999", "drawn-3-monsoon", "../etc"])
def test_a_water_that_is_none_is_refused(client, water):
    answer = client.get(f"{API}/chart", params={"water": water})
    assert answer.status_code == 422
    assert "harl-mill" in answer.text


def test_the_chart_leaves_as_geojson_with_contours_where_the_water_is(client):
    found = client.get(f"{API}/chart.geojson").json()
    lines = [one for one in found["features"] if one["geometry"]["type"] == "LineString"]
    assert {one["properties"]["depth_ft"] for one in lines} >= {10.0, 20.0, 32.0}
    reach, twenty = reach_named(DEMO), next(one for one in lines if one["properties"]["depth_ft"] == 20.0)
    xs, ys = from_earth(*zip(*twenty["geometry"]["coordinates"], strict=True))
    for x, y in zip(xs, ys, strict=True):
        assert reach.chart.depth_at(float(x), float(y)) == pytest.approx(20.0 * FOOT_M, abs=0.25)


def test_places_go_to_earth_and_back_as_a_geodesy_library_has_them():
    """Distances on the ellipsoid agree with the plane's within a centimeter over this water. Source: Karney (2013), by PROJ."""
    places = [(0.0, 0.0), (300.0, -120.0), (-250.5, 88.25)]
    longitudes, latitudes = to_earth([x for x, _ in places], [y for _, y in places])
    xs, ys = from_earth(longitudes, latitudes)
    for (x, y), a, b in zip(places, xs, ys, strict=True):
        assert (a, b) == (pytest.approx(x, abs=1e-6), pytest.approx(y, abs=1e-6))
    _, _, away = Geod(ellps="WGS84").inv(longitudes[1], latitudes[1], longitudes[2], latitudes[2])
    assert away == pytest.approx(((300.0 + 250.5) ** 2 + (120.0 + 88.25) ** 2) ** 0.5, abs=0.01)
    assert abs(latitudes[0] - OPEN_SEA.latitude_deg) < 1e-9


def test_ones_own_spots_leave_as_a_file_and_are_read_back_to_the_last_field(client, engine, now):
    own = [
        one.__class__(
            **{name: getattr(one, name) for name in one.__dataclass_fields__}
            | {"owner": client.owner, "source": "simulated", "id": uuid.uuid4()}
        )
        for one in demo_spots(now)
    ]
    put_spots(engine, [*own, *demo_spots(now)])
    assert len(client.get(f"{API}/spots").json()) == 12
    answer = client.get(f"{API}/spots.geojson")
    assert "attachment" in answer.headers["content-disposition"]
    back = read_spots(answer.content, owner=client.owner, water=DEMO, now=now, key_of=lambda key: key or uuid.uuid4())
    # The demo's stay here.
    assert {one.id for one in back} == {one.id for one in own}
    for a, b in zip(sorted(own, key=lambda one: one.id), sorted(back, key=lambda one: one.id), strict=True):
        assert (b.kind, b.note, b.looks) == (a.kind, a.note, a.looks)
        assert (b.x_m, b.y_m, b.depth_m) == (
            pytest.approx(a.x_m, abs=0.01),
            pytest.approx(a.y_m, abs=0.01),
            pytest.approx(a.depth_m, abs=0.01),
        )
        assert (b.xx_m2, b.yy_m2) == (pytest.approx(a.xx_m2), pytest.approx(a.yy_m2))


def test_spots_on_ones_own_chart_leave_for_where_they_are_on_earth(client):
    house = client.app.state.house
    water = house.spots.read_chart(client.owner, CHART, "Pond")
    house.spots.put_spot(client.owner, water, kind="brush", note="", place_m=(0.0, 0.0), depth_m=None)
    (feature,) = client.get(f"{API}/spots.geojson", params={"water": water}).json()["features"]
    point = gpxpy.parse(client.get(f"{API}/spots.gpx", params={"water": water}).text).waypoints[0]
    assert feature["geometry"]["coordinates"] == [pytest.approx(-85.05, abs=0.001), pytest.approx(34.12, abs=0.001)]
    assert (point.longitude, point.latitude) == (pytest.approx(-85.05, abs=0.001), pytest.approx(34.12, abs=0.001))


def _point(**changes):
    longitude, latitude = to_earth([10.0], [5.0])
    base = {"type": "Feature", "geometry": {"type": "Point", "coordinates": [longitude[0], latitude[0]]}, "properties": {"kind": "brush"}}
    for path, value in changes.items():
        at = base
        *way, last = path.split("__")
        for part in way:
            at = at[part]
        at[last] = value
    return json.dumps({"type": "FeatureCollection", "features": [base]}).encode()


@pytest.mark.parametrize(
    ("data", "named"),
    [
        (b"", "GeoJSON"),
        (b"[]", "GeoJSON"),
        (b'{"type": "FeatureCollection"}', "features"),
        (_point(geometry__coordinates=[500.0, 0.0]), "longitude"),
        (_point(geometry__coordinates=[10.0, 50.0]), "km from this water"),
        (_point(geometry__coordinates="here"), "coordinates"),
        (_point(geometry__type="Polygon"), "geometry"),
        (_point(properties__kind="treasure"), "treasure"),
        (_point(properties__depth_ft=-4), "depth_ft"),
        (_point(properties__covariance_m2=[1.0, 9.0, 1.0]), "covariance"),
        (_point(properties__note="x" * 500), "note"),
    ],
)
def test_a_file_of_spots_that_is_wrong_says_where(data, named, now):
    with pytest.raises(DomainError, match=named):
        read_spots(data, owner=uuid.uuid4(), water=DEMO, now=now, key_of=lambda key: key or uuid.uuid4())


def test_spots_are_read_from_a_file_all_or_none_and_once(client, now):
    good, bad = _point(properties__id=str(uuid.uuid4())), _point(properties__kind="treasure")
    for _ in range(2):
        assert client.post(f"{API}/spots.geojson", content=good).status_code == 200
    own = [one for one in client.get(f"{API}/spots").json() if one["own"]]
    assert [(one["kind"], round(one["x_m"]), round(one["y_m"])) for one in own] == [("brush", 10, 5)]
    assert client.post(f"{API}/spots.geojson", content=bad).status_code == 422
    assert len([one for one in client.get(f"{API}/spots").json() if one["own"]]) == 1


def test_an_empty_file_of_spots_is_a_file(now):
    assert spots_geojson([]) == {"type": "FeatureCollection", "features": []}


@pytest.mark.parametrize("season", list(Season))
def test_where_to_look_first_is_said_for_every_season_and_fish(client, season):
    page = client.get("/find/look-first", params={"season": season.value, "species": "bass"}).text
    places = [one.name for one in look_list(season, "bass").places]
    assert [page.index(name) for name in places] == sorted(page.index(name) for name in places)
    assert client.get("/find/look-first", params={"temperature_f": 44}).text.count("winter") > 0
    assert client.get("/find/look-first", params={"species": "whale"}).status_code == 422


def _own(client, now):
    return [replace(one, id=uuid.uuid4(), owner=client.owner, source="simulated") for one in demo_spots(now)]


def test_spots_leave_as_gpx_that_two_other_readers_understand_and_come_back_whole(client, engine, now):
    """Read by a library of its own making and by the element tree of the standard library; then back, to the last field."""
    own = _own(client, now)
    put_spots(engine, own)
    data = client.get(f"{API}/spots.gpx").content
    other = gpx.from_string(data.decode())
    root = ElementTree.fromstring(data)  # noqa: S314 - our own file
    space = {"g": "http://www.topografix.com/GPX/1/1"}
    plain = [(float(one.get("lat")), float(one.get("lon"))) for one in root.findall("g:wpt", space)]
    assert root.get("version") == "1.1"
    assert [(float(one.lat), float(one.lon)) for one in other.wpt] == plain
    assert gpx.validate_text(data.decode()).is_valid
    longitudes, latitudes = to_earth([one.x_m for one in own], [one.y_m for one in own])
    assert sorted(plain) == [
        (pytest.approx(a, abs=1e-7), pytest.approx(b, abs=1e-7)) for a, b in sorted(zip(latitudes, longitudes, strict=True))
    ]
    back = read_spots(geojson_of_gpx(data), owner=client.owner, water=DEMO, now=now, key_of=lambda key: key or uuid.uuid4())
    for a, b in zip(sorted(own, key=lambda one: one.id), sorted(back, key=lambda one: one.id), strict=True):
        assert (b.id, b.kind, b.note, b.looks) == (a.id, a.kind, a.note, a.looks)
        assert (b.x_m, b.depth_m, b.xx_m2) == (pytest.approx(a.x_m, abs=0.01), pytest.approx(a.depth_m, abs=0.01), pytest.approx(a.xx_m2))


GPX_HEAD = '<gpx xmlns="http://www.topografix.com/GPX/1/1" version="1.1" creator="x">'


def _wpt(inside="", lat=OPEN_SEA.latitude_deg, lon=OPEN_SEA.longitude_deg):
    return f'{GPX_HEAD}<wpt lat="{lat}" lon="{lon}">{inside}</wpt></gpx>'.encode()


def test_somebody_elses_gpx_is_taken_in_with_their_words(client):
    answer = client.post(f"{API}/spots.geojson", content=_wpt("<name>Old mill</name><type>Honey hole</type>"))
    assert [(one["kind"], one["note"]) for one in answer.json()] == [("other", "honey hole: Old mill")]
    assert client.get(f"{API}/track.gpx").status_code == 404


@pytest.mark.parametrize(
    ("data", "named"),
    [
        (b"<", "GPX"),
        (b"<html></html>", "GPX"),
        (b"<!DOCTYPE x [<!ENTITY a 'b'>]>" + _wpt(), "entities"),
        (_wpt(lat=400.0), "file|latitude"),
        (_wpt(lat=10.0), "km from this water"),
        (_wpt(lat="here"), "GPX"),
        (_wpt('<extensions><m:depth_ft xmlns:m="urn:mudlamp:spot:1">deep</m:depth_ft></extensions>'), "depth_ft"),
        (_wpt()[:-8], "GPX"),
        (b"\xff\xfe<gpx>", "GPX|GeoJSON"),
    ],
)
def test_a_gpx_file_that_is_wrong_says_why_and_nothing_is_kept(client, data, named):
    answer = client.post(f"{API}/spots.geojson", content=data)
    assert answer.status_code == 422
    assert re.search(named, answer.text)
    assert [one for one in client.get(f"{API}/spots").json() if one["own"]] == []


def test_a_track_leaves_as_gpx():
    data = track_gpx(np.array([[0.0, 0.0], [3.0, 4.0], [6.0, 8.0]]))
    (track,) = gpx.from_string(data.decode()).trk
    places = [(float(one.lon), float(one.lat)) for one in track.trkseg[0].trkpt]
    assert gpx.validate_text(data.decode()).is_valid
    _, _, away = Geod(ellps="WGS84").inv(*places[0], *places[2])
    assert away == pytest.approx(10.0, abs=0.01)
    assert len(gpx.from_string(track_gpx(np.zeros((0, 2))).decode()).trk) == 1
