"""Copies to be shown to others: no place, no names of people, of waters or of spots, unless they are asked for."""

import io
import math
import uuid
import zipfile
from dataclasses import replace
from pathlib import Path

from mudlamp.core.records.log import TripRecord
from mudlamp.formats.recording import RecordingReader, RecordingWriter
from mudlamp.formats.tables import Column, Table, csv_bytes, json_bytes
from mudlamp.services.trips.desk import OpenTrip
from mudlamp.services.trips.photos import Photos

SOMEWHERE = "a water"
ABOUT = (
    "A copy to be shown: it says nowhere where this was. Places, spots, the names of who was aboard{left} are left out;"
    " photos were made anew and hold only the picture.\n"
)


def _columns(**types: type) -> list[Column]:
    return [Column(name=name, type=kind) for name, kind in types.items()]


def shared_trip(one: OpenTrip, photos: Photos, *, owner: uuid.UUID, with_words: bool) -> bytes:
    """Return a trip as a zip of tables and photos without any place; `with_words` adds the water's name, the title and the notes."""
    begin = one.trip.day
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as archive:
        archive.writestr("README.txt", ABOUT.format(left="" if with_words else ", titles and notes"))
        archive.writestr("trip.json", json_bytes(Table(kind="trip", columns=_TRIP, rows=[_trip(one.trip, with_words=with_words)])))
        catches = [
            {
                "at_s": (each.at - begin).total_seconds(),
                "species": each.species,
                "length_m": each.length_m,
                "weight_kg": each.weight_kg,
                "guess_m": each.guess_m,
                "kept": each.kept,
                "lure": each.lure,
                "presentation": each.presentation,
                "depth_m": each.depth_m,
                "note": each.note if with_words else "",
            }
            for each in one.catches
        ]
        archive.writestr("catches.csv", csv_bytes(Table(kind="catches", columns=_CATCH, rows=catches)))
        archive.writestr("conditions.csv", csv_bytes(Table(kind="conditions", columns=_CONDITION, rows=_conditions(one))))
        archive.writestr("shots.csv", csv_bytes(Table(kind="shots", columns=_SHOT, rows=_shots(one))))
        archive.writestr("reactions.csv", csv_bytes(Table(kind="reactions", columns=_REACTION, rows=_reactions(one))))
        for number, photo in enumerate(one.photos.values(), start=1):
            archive.writestr(f"photos/{number}.jpg", photos.read(owner, photo.id))
    return out.getvalue()


_TRIP = _columns(source=str, title=str, water=str, notes=str, goal=str, month=str, hour=int)
_CATCH = _columns(
    at_s=float, species=str, length_m=float, weight_kg=float, guess_m=float, kept=bool, lure=str, presentation=str, depth_m=float, note=str
)
_CONDITION = _columns(
    at_s=float, sky=str, wind_m_s=float, wind_from_rad=float, air_degc=float, water_degc=float, clarity=str, pressure_pa=float
)
_SHOT = _columns(session=int, number=int, at_s=float, lasted_s=float, out_m=float, head_kg=float, outcome=str)
_REACTION = _columns(session=int, shot=int, session_s=float, track=str, token=str, corrected=str, cause=str, confidence=float)


def _trip(trip: TripRecord, *, with_words: bool) -> dict[str, object]:
    return {
        "source": trip.source,
        "title": trip.title if with_words else "",
        "water": trip.water if with_words else SOMEWHERE,
        "notes": trip.notes if with_words else "",
        "goal": trip.goal,
        # The day itself, with what was caught, can be matched to who was where.
        "month": f"{trip.day:%Y-%m}",
        "hour": trip.day.hour,
    }


def _conditions(one: OpenTrip) -> list[dict[str, object]]:
    names = [column.name for column in _CONDITION if column.name != "at_s"]
    return [{"at_s": (each.at - one.trip.day).total_seconds()} | {name: getattr(each, name) for name in names} for each in one.conditions]


def _shots(one: OpenTrip) -> list[dict[str, object]]:
    return [
        {
            "session": number,
            "number": shot.number,
            "at_s": (shot.at - one.trip.day).total_seconds(),
            "lasted_s": None if shot.end_s is None else shot.end_s - shot.start_s,
            "out_m": shot.ahead_m,
            "head_kg": shot.head_kg,
            "outcome": shot.outcome,
        }
        for number, session in enumerate(one.sessions, start=1)
        for shot in session.shots
    ]


def _reactions(one: OpenTrip) -> list[dict[str, object]]:
    return [
        {"session": number, "shot": shot.number}
        | {name: getattr(each, name) for name in ("session_s", "track", "token", "corrected", "cause", "confidence")}
        for number, session in enumerate(one.sessions, start=1)
        for shot in session.shots
        for each in shot.reactions
    ]


def share_recording(source: Path, target: Path) -> None:
    """Write a recording anew without its place: the boat begins at the middle of its own map, heading north.

    What the fan saw is the same to the last echo.
    """
    reader = RecordingReader(source)
    try:
        first = reader.ping(0).pose
        turn = -first.heading_rad
        with RecordingWriter(target, reader.setup, compress=True) as writer:
            for ping in reader:
                pose = ping.pose
                east, north = pose.x_m - first.x_m, pose.y_m - first.y_m
                moved = replace(
                    pose,
                    x_m=east * math.cos(turn) + north * math.sin(turn),
                    y_m=-east * math.sin(turn) + north * math.cos(turn),
                    heading_rad=math.remainder(pose.heading_rad + turn, 2.0 * math.pi),
                )
                writer.write(replace(ping, time_s=ping.time_s - reader.time_s(0), pose=moved))
    finally:
        reader.close()
