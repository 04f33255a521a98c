"""Where the boat went on a trip: as GPX out and in, as soundings, and how far that was."""

import datetime as dt
import uuid
from collections.abc import Sequence
from xml.etree.ElementTree import Element

import orjson
from gpxpy.gpx import GPXTrack, GPXTrackPoint, GPXTrackSegment

from mudlamp.core.errors import DomainError
from mudlamp.core.records.log import TripRecord
from mudlamp.core.records.trips import BoatPoint
from mudlamp.services.edge.forms import EARLIEST_YEAR, LATEST_YEAR
from mudlamp.services.feed.noting import MOVED_M, STOOD_S
from mudlamp.services.find.geojson import require_place
from mudlamp.services.find.gpx_file import NAMESPACE, new_gpx, parsed_gpx
from mudlamp.services.find.waters import EARTH

# A day's track at a fix a second, twice over.
MOST_BYTES, MOST_POINTS = 16_000_000, 100_000
DEPTH = f"{{{NAMESPACE}}}depth_m"
# A pause longer than this begins a new stretch [s].
PAUSE_S = 900.0


def gone_m(points: Sequence[BoatPoint]) -> float:
    """Return how far it is along points in their order [m], by geodesics."""
    if len(points) < 2:
        return 0.0
    return float(EARTH.line_length([one.longitude_deg for one in points], [one.latitude_deg for one in points]))


def track_gpx(trip: TripRecord, points: Sequence[BoatPoint]) -> bytes:
    """Return where the boat went as a GPX track, depths in a namespace of our own."""
    found = new_gpx()
    track = GPXTrack(name=trip.title)
    last = None
    for one in points:
        if last is None or (one.at - last.at).total_seconds() > PAUSE_S:
            track.segments.append(GPXTrackSegment())
        point = GPXTrackPoint(one.latitude_deg, one.longitude_deg, time=one.at)
        if one.depth_m is not None:
            extension = Element(DEPTH)
            extension.text = f"{one.depth_m:.2f}"
            point.extensions.append(extension)
        track.segments[-1].points.append(point)
        last = one
    found.tracks.append(track)
    return bytes(found.to_xml(version="1.1").encode())


def points_of_gpx(data: bytes, trip: TripRecord) -> list[BoatPoint]:
    """Return the track points of a GPX file's bytes as a trip's, thinned as a feed's are; those without a time follow the trip's beginning, a second apart.

    Raises DomainError for a file that is none, without a track, or with a point that cannot be.
    """
    found = parsed_gpx(data, most_bytes=MOST_BYTES)
    given = [point for track in found.tracks for segment in track.segments for point in segment.points]
    if not given:
        raise DomainError("file has no track: it must be GPX 1.1 with a trk element that has points")
    if len(given) > MOST_POINTS:
        raise DomainError(f"file has {len(given)} track points: it may have {MOST_POINTS} at most")
    return thinned([_point(number, one, trip) for number, one in enumerate(given)])


def thinned(points: Sequence[BoatPoint]) -> list[BoatPoint]:
    """Return the points of a track that are worth keeping: each so far from the last kept one, or so much later; the last of all too."""
    found: list[BoatPoint] = []
    for one in points:
        if not found or one is points[-1] or _is_news(found[-1], one):
            found.append(one)
    return found


def _is_news(last: BoatPoint, one: BoatPoint) -> bool:
    if abs((one.at - last.at).total_seconds()) >= STOOD_S:
        return True
    return bool(EARTH.inv(last.longitude_deg, last.latitude_deg, one.longitude_deg, one.latitude_deg)[2] >= MOVED_M)


def _point(number: int, given: GPXTrackPoint, trip: TripRecord) -> BoatPoint:
    require_place(f"track point {number}", given.longitude, given.latitude)
    at = trip.day + dt.timedelta(seconds=number) if given.time is None else given.time
    if at.tzinfo is None:
        at = at.replace(tzinfo=dt.UTC)
    if not EARLIEST_YEAR <= at.year < LATEST_YEAR:
        raise DomainError(f"track point {number}: time is {at.isoformat()}: it must be from {EARLIEST_YEAR} to {LATEST_YEAR - 1}")
    return BoatPoint(
        id=uuid.uuid4(),
        trip_id=trip.id,
        at=at.astimezone(dt.UTC),
        latitude_deg=given.latitude,
        longitude_deg=given.longitude,
        depth_m=_depth(number, given),
        origin="file",
    )


def _depth(number: int, given: GPXTrackPoint) -> float | None:
    text = next((one.text for one in given.extensions if one.tag == DEPTH), None)
    if text is None:
        return None
    try:
        depth = float(text)
    except ValueError:
        depth = -1.0
    if not 0.0 <= depth <= 12_000.0:
        raise DomainError(f"track point {number}: depth_m is {text[:20]}: it must be 0 to 12000")
    return depth


def soundings_geojson(points: Sequence[BoatPoint]) -> bytes:
    """Return the depths along a track as GeoJSON points; raise DomainError where nobody said any."""
    sounded = [one for one in points if one.depth_m is not None]
    if not sounded:
        raise DomainError("this trip has no soundings: the boat's instruments said no depth on it")
    features = [
        {
            "type": "Feature",
            "geometry": {"type": "Point", "coordinates": [one.longitude_deg, one.latitude_deg]},
            "properties": {"depth_m": one.depth_m},
        }
        for one in sounded
    ]
    return orjson.dumps({"type": "FeatureCollection", "features": features})
