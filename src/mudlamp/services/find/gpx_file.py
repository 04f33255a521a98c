"""Spots and the boat's track as GPX 1.1, and spots back; what GPX has no element for stands in a namespace of our own."""

from collections.abc import Mapping, Sequence
from types import MappingProxyType
from typing import Any
from xml.etree.ElementTree import Element

import gpxpy
import numpy as np
import orjson
from gpxpy.gpx import GPX, GPXException, GPXTrack, GPXTrackPoint, GPXTrackSegment, GPXWaypoint

from mudlamp.core.errors import DomainError
from mudlamp.core.records.spots import MOST_SPOTS, SPOT_KINDS, Spot
from mudlamp.core.scene.model import Origin
from mudlamp.services.find.spots_file import MOST_BYTES, spots_geojson
from mudlamp.services.find.waters import to_earth

NAMESPACE = "urn:mudlamp:spot:1"
# A GPX file says so within its first bytes.
HEAD_BYTES = 4000
# What of a spot's properties travels in our own namespace.
OWN = ("id", "depth_ft", "covariance_m2", "looks")


def new_gpx() -> GPX:
    """Return an empty file of ours."""
    found = GPX()
    found.creator = "Mud Lamp"
    found.nsmap = {"mudlamp": NAMESPACE}
    return found


def spots_gpx(spots: Sequence[Spot], origins: Mapping[str, Origin] = MappingProxyType({})) -> bytes:
    """Return spots as waypoints: name, note as description, kind as type; depth, covariance, looks and key as extensions."""
    found = new_gpx()
    for number, one in enumerate(spots_geojson(spots, origins)["features"], start=1):
        longitude, latitude = one["geometry"]["coordinates"]
        properties = one["properties"]
        point = GPXWaypoint(
            latitude=latitude,
            longitude=longitude,
            name=f"{number} {properties['kind']}",
            description=properties["note"],
            type=properties["kind"],
        )
        for name in OWN:
            if properties[name] is not None:
                extension = Element(f"{{{NAMESPACE}}}{name}")
                extension.text = orjson.dumps(properties[name]).decode()
                point.extensions.append(extension)
        found.waypoints.append(point)
    return bytes(found.to_xml(version="1.1").encode())


def track_gpx(track: np.ndarray) -> bytes:
    """Return where a boat was told to be, rows of x and y [m], as a track."""
    found, segment = new_gpx(), GPXTrackSegment()
    if len(track):
        longitudes, latitudes = to_earth(track[:, 0], track[:, 1])
        segment.points = [GPXTrackPoint(float(b), float(a)) for a, b in zip(longitudes, latitudes, strict=True)]
    found.tracks.append(GPXTrack(name="Search"))
    found.tracks[0].segments.append(segment)
    return bytes(found.to_xml(version="1.1").encode())


def geojson_of_gpx(data: bytes) -> bytes:
    """Return the waypoints of a GPX file's bytes as GeoJSON spots; a kind that is none of ours is `other`, its word kept in the note.

    Raises DomainError for a file that is none, that declares types of its own, or that has too many waypoints.
    """
    found = parsed_gpx(data, most_bytes=MOST_BYTES)
    if len(found.waypoints) > MOST_SPOTS:
        raise DomainError(f"file has {len(found.waypoints)} waypoints: it may have {MOST_SPOTS} at most")
    return orjson.dumps({"type": "FeatureCollection", "features": [_feature(i, one) for i, one in enumerate(found.waypoints)]})


def parsed_gpx(data: bytes, *, most_bytes: int) -> GPX:
    """Return a GPX file's bytes as it stands in them; raise DomainError for one that is none, too long, or declares types of its own."""
    if len(data) > most_bytes:
        raise DomainError(f"the file has {len(data)} bytes: it may have {most_bytes} at most")
    if b"<!DOCTYPE" in data or b"<!ENTITY" in data:
        raise DomainError("file: it declares a type or entities of its own; it must be plain GPX 1.1")
    if b"<gpx" not in data[:HEAD_BYTES]:
        raise DomainError("file: it does not begin as GPX does; it must be GPX 1.1")
    try:
        return gpxpy.parse(data.decode("utf-8"))
    except (GPXException, UnicodeDecodeError, ValueError) as error:
        raise DomainError(f"file: {' '.join(str(error).split())[:120]}; it must be GPX 1.1") from None


def _feature(number: int, point: GPXWaypoint) -> dict[str, Any]:
    word, note = (point.type or point.symbol or "").strip().lower(), (point.description or point.comment or point.name or "").strip()
    properties: dict[str, Any] = {"kind": word if word in SPOT_KINDS else "other", "note": note}
    if word and word not in SPOT_KINDS:
        properties["note"] = f"{word}: {note}"[:400]
    for extension in point.extensions:
        name = str(extension.tag).removeprefix(f"{{{NAMESPACE}}}")
        if name in OWN:
            try:
                properties[name] = orjson.loads(extension.text or "null")
            except orjson.JSONDecodeError:
                raise DomainError(f"waypoint {number}: {name} is {str(extension.text)[:40]}: it must be as it was written") from None
    return {"type": "Feature", "geometry": {"type": "Point", "coordinates": [point.longitude, point.latitude]}, "properties": properties}
