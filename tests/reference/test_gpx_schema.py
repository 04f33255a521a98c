"""GPX against the published schema of GPX 1.1 (topografix.com/GPX/1/1/gpx.xsd, kept as tests/data/gpx-1.1.xsd, its remarks left out), by a library (xmlschema)."""

import datetime as dt
import re
import uuid
from pathlib import Path

import numpy as np
import pytest
import xmlschema

from mudlamp.core.records.log import TripRecord
from mudlamp.core.records.spots import SPOT_KINDS, Spot
from mudlamp.core.records.trips import BoatPoint
from mudlamp.services.find.gpx_file import geojson_of_gpx, spots_gpx
from mudlamp.services.find.gpx_file import track_gpx as search_gpx
from mudlamp.services.trips.track import gone_m, points_of_gpx, track_gpx

NOW = dt.datetime(2026, 11, 1, 12, 0, tzinfo=dt.UTC)
NOTES = ("", "cedar & <pear>", 'by the mill’s wall "north"', "a\nb", "鯉 ]]>", "x" * 400)
TRIP = TripRecord(id=uuid.UUID(int=5), source="real", title="Fog & <ice>", water="Pond", day=NOW, notes="")


@pytest.fixture(scope="module")
def schema():
    return xmlschema.XMLSchema(Path(__file__).parents[1] / "data" / "gpx-1.1.xsd")


def drawn_spots(rng):
    for number in range(40):
        deep = None if number % 3 == 0 else float(rng.uniform(0.5, 40))
        yield Spot(
            id=uuid.uuid4(), owner=None, water="harl-mill", kind=SPOT_KINDS[number % len(SPOT_KINDS)], note=NOTES[number % len(NOTES)],
            x_m=float(rng.uniform(-300, 300)), y_m=float(rng.uniform(-100, 100)), depth_m=deep, xx_m2=0.4, xy_m2=0.1, yy_m2=0.4, looks=2,
            source="simulated", created_at=NOW,
        )  # fmt: skip


def drawn_track(rng):
    at = NOW
    for number in range(60):
        at += dt.timedelta(seconds=float(rng.choice([5.0, 20.0, 1200.0])))
        deep = None if number % 4 == 0 else round(float(rng.uniform(0, 30)), 2)
        latitude, longitude = (round(float(value), 6) for value in (rng.uniform(-89, 89), rng.uniform(-179, 179)))
        yield BoatPoint(
            id=uuid.uuid4(), trip_id=TRIP.id, at=at, latitude_deg=latitude, longitude_deg=longitude, depth_m=deep, origin="feed"
        )


def test_all_gpx_that_leaves_is_valid_by_the_published_schema(schema):
    rng = np.random.default_rng(985)
    track = list(drawn_track(rng))
    for data in (spots_gpx(list(drawn_spots(rng))), spots_gpx([]), search_gpx(rng.uniform(-50, 50, (30, 2))), track_gpx(TRIP, track)):
        schema.validate(data.decode())
        # What is not GPX's own stands in a namespace of ours, within extensions.
        assert {uri for uri in re.findall(r'xmlns:\w+="([^"]+)"', data.decode()) if "mudlamp" not in uri} <= {
            "http://www.w3.org/2001/XMLSchema-instance"
        }
    # The check can fail: a place that is none, an element of ours outside extensions.
    good = track_gpx(TRIP, track).decode()
    for bad in (re.sub(r'lat="[^"]+"', 'lat="95"', good, count=1), good.replace("<name>", "<depth_m>3</depth_m><name>", 1)):
        assert not schema.is_valid(bad)


def test_a_track_comes_back_as_it_left_and_is_as_long_as_it_is(schema):
    track = list(drawn_track(np.random.default_rng(986)))
    back = points_of_gpx(track_gpx(TRIP, track), TRIP)
    assert [(one.at.replace(microsecond=0), one.latitude_deg, one.longitude_deg, one.depth_m, one.origin) for one in back] == [
        (one.at.replace(microsecond=0), one.latitude_deg, one.longitude_deg, one.depth_m, "file") for one in track
    ]
    # Source: one degree of the meridian at the equator is 110.574 km long on WGS84 (handbook value).
    ends = [
        BoatPoint(id=uuid.uuid4(), trip_id=TRIP.id, at=NOW, latitude_deg=lat, longitude_deg=9.0, depth_m=None, origin="feed")
        for lat in (0.0, 1.0)
    ]
    assert gone_m(ends) == pytest.approx(110_574.0, abs=1.0)
    assert gone_m(ends[:1]) == 0.0


def test_spots_of_a_valid_file_of_somebody_elses_are_read(schema):
    text = (
        '<gpx xmlns="http://www.topografix.com/GPX/1/1" version="1.1" creator="x"><wpt lat="-41.25" lon="-18.5"><ele>3</ele><name>Log</name>'
        "<sym>Fish</sym></wpt></gpx>"
    )
    schema.validate(text)
    assert b'"kind":"other"' in geojson_of_gpx(text.encode())


def test_a_day_at_a_fix_a_second_is_thinned_and_goes_as_far():
    # An hour of a yard a second to and fro, then an hour on the spot.
    ways = [abs(number % 1200 - 600) * 0.9 for number in range(3600)] + [540.0] * 3600
    points = [
        BoatPoint(
            id=uuid.uuid4(), trip_id=TRIP.id, at=NOW + dt.timedelta(seconds=number), latitude_deg=42.0 + way / 111_000.0, longitude_deg=9.0,
            depth_m=None, origin="file",
        )
        for number, way in enumerate(ways)
    ]  # fmt: skip
    kept = points_of_gpx(track_gpx(TRIP, points), TRIP)
    assert 600 < len(kept) < 900
    assert gone_m(kept) == pytest.approx(gone_m(points), rel=0.02)
    assert [one.at for one in (kept[0], kept[-1])] == [points[0].at, points[-1].at]
