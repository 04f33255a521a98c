"""Charts of one's own: contours and soundings read, spots on them placed on earth; what is broken is refused in a line."""

import datetime as dt
import json
import math
import uuid
from dataclasses import replace

import gpxpy
import numpy as np
import pytest
from geographiclib.geodesic import Geodesic

from mudlamp.core.errors import DomainError
from mudlamp.core.scene.model import OPEN_SEA
from mudlamp.formats.nmea import Said
from mudlamp.formats.scene.file import load_scene, parse_scene, stock_text
from mudlamp.services.find.gpx_file import spots_gpx
from mudlamp.services.find.own_charts import read_chart
from mudlamp.services.find.spot_book import SpotBook, origins_of
from mudlamp.services.find.spot_map import spot_map
from mudlamp.services.find.spots_file import spots_geojson
from mudlamp.services.water.plans import water_of_scene

NOW = dt.datetime(2026, 11, 1, 12, 0, tzinfo=dt.UTC)
OWNER, OTHER = uuid.UUID(int=61), uuid.UUID(int=62)
MIDDLE = (-85.05, 34.12)


def pond(levels=((0.0, 200.0), (6.0, 160.0), (12.0, 110.0), (20.0, 40.0))):
    """A round pond's contours: depth [ft] and radius [m]."""
    north, east = 1.0 / 110_900.0, 1.0 / (111_320.0 * math.cos(math.radians(MIDDLE[1])))
    features = []
    for depth, radius in levels:
        ring = [
            [MIDDLE[0] + radius * math.cos(i * math.pi / 24) * east, MIDDLE[1] + radius * math.sin(i * math.pi / 24) * north]
            for i in range(49)
        ]
        features.append({"type": "Feature", "geometry": {"type": "LineString", "coordinates": ring}, "properties": {"depth_ft": depth}})
    features.append({"type": "Feature", "geometry": {"type": "Point", "coordinates": [*MIDDLE, -7.0]}, "properties": None})
    return json.dumps({"type": "FeatureCollection", "features": features}).encode()


@pytest.fixture
def book(engine):
    return SpotBook(engine, now=lambda: NOW)


def test_a_chart_is_drawn_with_its_bands_and_spots_stand_where_they_are_on_earth(book, engine):
    water = book.read_chart(OWNER, pond(), " Lower   pond ")
    spot = book.put_spot(OWNER, water, kind="brush", note="cedar", place_m=(30.0, 40.0), depth_m=5.0)
    found = spot_map(book, OWNER, water, fed=None)
    assert [round(low / 0.3048) for low, _, _ in found.bands] == [0, 3, 6, 10, 15, 20]
    (one,) = found.spots
    assert (one.away_m, math.degrees(one.bearing_rad)) == (pytest.approx(50.0), pytest.approx(36.87, abs=0.01))
    origins = origins_of(engine, OWNER, [spot])
    longitude, latitude = spots_geojson([spot], origins)["features"][0]["geometry"]["coordinates"]
    assert math.hypot((longitude - MIDDLE[0]) * 92_200.0, (latitude - MIDDLE[1]) * 110_900.0) == pytest.approx(50.0, abs=3.0)
    point = gpxpy.parse(spots_gpx([spot], origins).decode()).waypoints[0]
    assert (point.latitude, point.longitude) == (pytest.approx(latitude), pytest.approx(longitude))
    # By the boat's own instruments distances count from the boat.
    near = spot_map(book, OWNER, water, fed=Said(latitude_deg=latitude, longitude_deg=longitude))
    assert near.is_fed
    assert near.spots[0].away_m < 0.5
    # Spots that left in a file come back to the same place; on a water far away they are refused.
    data = json.dumps(spots_geojson([spot], origins)).encode()
    (again,) = book.read_spots(OWNER, data, water)
    assert (again.id, again.x_m, again.y_m) == (spot.id, pytest.approx(30.0, abs=0.01), pytest.approx(40.0, abs=0.01))
    with pytest.raises(DomainError, match="from this water"):
        book.read_spots(OWNER, data, "harl-mill")


@pytest.mark.parametrize(("latitude", "longitude"), [(44.5, -93.25), (-33.125, 179.9999)])
def test_spots_on_a_scene_lie_where_its_file_says(book, engine, latitude, longitude):
    origin = {"latitude_deg": latitude, "longitude_deg": longitude, "zone": "America/Chicago"}
    scene = parse_scene(json.dumps(json.loads(stock_text("pear-tree")) | {"origin": origin}))
    water = water_of_scene(scene)
    spot = book.put_spot(OWNER, water, kind="brush", note="", place_m=(30.0, 40.0), depth_m=None)
    data = spots_geojson([spot], origins_of(engine, OWNER, [spot]))
    # Against a geodesy library: 50 m on a bearing of 36.87 deg.
    there = Geodesic.WGS84.Direct(latitude, longitude, math.degrees(math.atan2(30.0, 40.0)), 50.0)
    away = Geodesic.WGS84.Inverse(there["lat2"], there["lon2"], *data["features"][0]["geometry"]["coordinates"][::-1])["s12"]
    assert away < 0.01
    (again,) = book.read_spots(OWNER, json.dumps(data).encode(), water)
    assert (again.id, again.source, again.x_m) == (spot.id, "simulated", pytest.approx(30.0, abs=0.01))
    # A scene that says nothing lies in open sea, where its spots stood before; a name that says no place is refused.
    assert book.origin_on(OWNER, water_of_scene(load_scene("pear-tree"))) is OPEN_SEA
    assert origins_of(engine, OWNER, [replace(spot, water="scene-pear-tree@here")]) == {}
    with pytest.raises(DomainError, match="a latitude and a longitude"):
        book.origin_on(OWNER, "scene-pear-tree@here")
    with pytest.raises(DomainError, match="latitude_deg is 91"):
        book.origin_on(OWNER, "scene-pear-tree@91,5")


def test_a_chart_brought_again_takes_the_place_of_the_first_and_spots_stay(book):
    water = book.read_chart(OWNER, pond(), "Pond")
    book.put_spot(OWNER, water, kind="brush", note="", place_m=(3.0, 4.0), depth_m=None)
    assert book.read_chart(OWNER, pond(levels=((0.0, 100.0), (9.0, 50.0))), "Pond") == water
    assert len(book.own_charts(OWNER)) == 1
    assert spot_map(book, OWNER, water, fed=None).spots[0].away_m == pytest.approx(5.0)
    with pytest.raises(DomainError, match="one of ours, or one that you brought"):
        spot_map(book, OTHER, water, fed=None)


def malformed():
    """Two hundred broken charts, from a seed."""
    whole, rng = pond(), np.random.default_rng(970)
    yield from (b"", b"{}", b"[]", b"null", b'{"type":"FeatureCollection","features":[]}', b"\xff", whole[:-9])
    for coordinates in ([[1]], [["a", "b"]], [[181, 0]], [[0, 91]], [[None, 0]], [[[[[[0, 0]]]]]], [0, [1, 2]], [[1e999, 0]]):
        yield json.dumps(
            {
                "type": "FeatureCollection",
                "features": [
                    {"type": "Feature", "geometry": {"type": "LineString", "coordinates": coordinates}, "properties": {"depth_ft": 3}}
                ],
            }
        ).encode()
    for depth in ("deep", True, 1e9, None, [3]):
        yield whole.replace(b'"depth_ft": 6.0', b'"depth_ft": ' + json.dumps(depth).encode()) if depth is not None else pond(levels=())
    for _ in range(180):
        data = bytearray(whole)
        for _ in range(int(rng.integers(1, 4))):
            at = int(rng.integers(len(data)))
            data[at : at + int(rng.integers(1, 30))] = bytes([int(rng.integers(33, 127))])
        yield bytes(data)


def test_two_hundred_broken_charts_are_refused_in_a_line_or_drawn(book):
    refused = 0
    charts = list(malformed())
    assert len(charts) == 200
    for data in charts:
        try:
            read_chart(data, owner=OWNER, name="Pond", now=NOW)
        except DomainError as error:
            refused += 1
            assert "\n" not in str(error)
            assert len(str(error)) < 320
    assert refused > 150
    assert book.own_charts(OWNER) == []
    with pytest.raises(DomainError, match="water is 0 characters"):
        book.read_chart(OWNER, pond(), "  ")
