"""CSV in: which column is what, a look at what would come of it, errors by row, and then all of it or nothing."""

import datetime as dt
import uuid
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace

from mudlamp.core.errors import DomainError
from mudlamp.core.records.log import TripRecord
from mudlamp.core.records.trips import MOST_PEOPLE, Catch
from mudlamp.formats.tables import Sheet, read_csv
from mudlamp.services.cards.questions import GOALS
from mudlamp.services.edge import forms
from mudlamp.services.edge.forms import FEET, INCHES, Field, Read, multiple
from mudlamp.services.trips.fields import (
    HALF_A_PLACE,
    LONG_NOTE,
    LONGEST_NAME,
    PLACE,
    POUNDS,
    PRESENTATIONS,
    SPECIES,
    USUAL_START,
    WHOLE_PAGE,
    moment,
    new_catch,
)
from mudlamp.services.words.log import SOURCE_WORDS

MOST_ROWS, MOST_BYTES, MOST_SHOWN = 20_000, 4_000_000, 12
METERS, KILOGRAMS = multiple("m", 1.0), multiple("kg", 1.0)
OWN_SOURCES = {name: words for name, words in SOURCE_WORDS.items() if name != "demo"}


@dataclass(frozen=True, slots=True, kw_only=True)
class SheetField:
    """What a column can be: its form field, and by which other names it is known."""

    field: Field
    also: Sequence[str] = ()


def _can_be(field: Field, *also: str) -> SheetField:
    return SheetField(field=field, also=also)


_WHEN = (
    _can_be(forms.words("at", "Day and time, ISO 8601", longest=40), "datetime", "timestamp", "caught_at"),
    _can_be(forms.day("day", "Day"), "date"),
    _can_be(forms.time_of_day("time", "Time of day"), "hour", "clock"),
)
CATCH_SHEET = (
    *_WHEN,
    _can_be(forms.words("id", "Key", longest=40), "key"),
    _can_be(forms.choice("species", "Species", SPECIES, required=True), "fish", "kind"),
    _can_be(forms.number("length_m", "Length", 0.05, 1.8, METERS)),
    _can_be(forms.number("length_in", "Length", 2.0, 70.0, INCHES), "length", "inches"),
    _can_be(forms.number("weight_kg", "Weight", 0.01, 55.0, KILOGRAMS)),
    _can_be(forms.number("weight_lb", "Weight", 0.02, 120.0, POUNDS), "weight", "pounds", "lbs"),
    _can_be(forms.number("guess_m", "Guess", 0.05, 1.8, METERS)),
    _can_be(forms.number("guess_in", "Guess", 2.0, 70.0, INCHES), "guess"),
    _can_be(forms.check("kept", "Kept"), "harvested"),
    _can_be(forms.words("lure", "Lure", longest=80), "bait"),
    _can_be(forms.words("rod", "Rod", longest=60)),
    _can_be(forms.choice("presentation", "Presented", PRESENTATIONS), "technique"),
    _can_be(forms.number("depth_m", "Depth", 0.0, 61.0, METERS)),
    _can_be(forms.number("depth_ft", "Depth", 0.0, 200.0, FEET), "depth"),
    _can_be(forms.words("note", "Note", longest=LONG_NOTE), "notes", "comment", "remarks"),
    _can_be(forms.choice("source", "Source", OWN_SOURCES)),
    _can_be(forms.words("track", "Track", longest=20)),
    _can_be(forms.words("trip_id", "Trip's key", longest=40)),
    _can_be(forms.words("session_id", "Session's key", longest=40)),
    _can_be(forms.number("session_s", "Second of the session", 0.0, 1e6)),
)
TRIP_SHEET = (
    _can_be(forms.words("at", "Day and time, ISO 8601", longest=40), "datetime", "timestamp", "begins"),
    _can_be(forms.words("day", "Day", longest=40), "date"),
    _can_be(forms.words("id", "Key", longest=40), "key"),
    _can_be(forms.words("title", "Trip", longest=120), "name", "trip"),
    _can_be(forms.words("water", "Water", longest=80, required=True), "lake", "river", "where"),
    _can_be(forms.words("people", "Aboard", longest=400), "aboard", "anglers", "with"),
    _can_be(forms.choice("goal", "What for", GOALS)),
    _can_be(forms.number("latitude_deg", "Latitude", -90.0, 90.0, PLACE), "latitude", "lat"),
    _can_be(forms.number("longitude_deg", "Longitude", -180.0, 180.0, PLACE), "longitude", "lon", "lng"),
    _can_be(forms.note("notes", "Notes", longest=WHOLE_PAGE), "note", "comment", "remarks"),
    _can_be(forms.choice("source", "Source", OWN_SOURCES)),
    _can_be(forms.words("started_at", "Started", longest=40)),
    _can_be(forms.words("ended_at", "Ended", longest=40)),
)
SHEETS: Mapping[str, Sequence[SheetField]] = {"catches": CATCH_SHEET, "trips": TRIP_SHEET}


@dataclass(frozen=True, slots=True, kw_only=True)
class Looked:
    """A sheet as it would come in: its columns, which field each is taken as, its first rows, what is wrong by row, how many rows are right."""

    kind: str
    columns: Sequence[str]
    mapping: Mapping[str, str]
    first: Sequence[Sequence[str]]
    problems: Sequence[str]
    rows: int
    records: Sequence[Catch | TripRecord]


def require_kind(kind: str) -> Sequence[SheetField]:
    """Return what the columns of a kind's sheet can be; raise DomainError for a kind that has none."""
    if kind not in SHEETS:
        raise DomainError(f"kind is {kind[:40]}: a sheet must be one of {', '.join(SHEETS)}")
    return SHEETS[kind]


def _bare(name: str) -> str:
    return "".join(letter for letter in name.lower().replace(" ", "_") if letter.isalnum() or letter == "_")


def guessed(kind: str, columns: Sequence[str]) -> dict[str, str]:
    """Return the field that each column seems to be, by its name; empty for one that is none."""
    taken: set[str] = set()
    found = {}
    for column in columns:
        bare = _bare(column)
        name = next((one.field.name for one in SHEETS[kind] if bare in (one.field.name, *one.also) and one.field.name not in taken), "")
        taken.add(name)
        found[column] = name
    return found


def look(
    data: bytes, kind: str, mapping: Mapping[str, str] | None, *, owner: uuid.UUID, zone: dt.tzinfo | None, now: dt.datetime
) -> Looked:
    """Return what would come of a CSV file's bytes under a mapping of its columns (None: as guessed).

    Raises DomainError for a file that is no CSV, or a mapping that cannot be.
    """
    fields = require_kind(kind)
    sheet = read_csv(data, most_rows=MOST_ROWS, most_bytes=MOST_BYTES)
    wanted = guessed(kind, sheet.columns) if mapping is None else _checked(fields, sheet, mapping)
    records: list[Catch | TripRecord] = []
    problems = []
    by_name = {one.field.name: one.field for one in fields}
    for number, row in enumerate(sheet.rows, start=2):
        given = {wanted[column]: cell.strip() for column, cell in zip(sheet.columns, row, strict=True) if wanted[column]}
        found = forms.read(list(by_name.values()), given)
        wrong = list(found.problems.values())
        if not wrong:
            try:
                make = _catch if kind == "catches" else _trip
                records.append(make(found, owner=owner, zone=zone, now=now))
            except DomainError as error:
                wrong = [str(error)]
        problems += [f"row {number}: {one}" for one in wrong]
    return Looked(
        kind=kind,
        columns=sheet.columns,
        mapping=wanted,
        first=sheet.rows[:MOST_SHOWN],
        problems=problems,
        rows=len(sheet.rows),
        records=records,
    )


def _checked(fields: Sequence[SheetField], sheet: Sheet, mapping: Mapping[str, str]) -> dict[str, str]:
    known = {one.field.name for one in fields}
    found = {column: mapping.get(column, "") for column in sheet.columns}
    for column, name in found.items():
        if name and name not in known:
            raise DomainError(f"column {column[:40]!r} is taken as {name[:40]}: it must be one of {', '.join(sorted(known))}")
    twice = next((name for name in found.values() if name and list(found.values()).count(name) > 1), None)
    if twice is not None:
        raise DomainError(f"two columns are taken as {twice}: one must be")
    return found


def _iso(text: str, label: str, zone: dt.tzinfo | None) -> dt.datetime | None:
    """Return the moment of an ISO text, in UTC; without a zone of its own it is the angler's."""
    if not text:
        return None
    try:
        at = dt.datetime.fromisoformat(text)
        if not forms.EARLIEST_YEAR <= at.year < forms.LATEST_YEAR:
            raise ValueError
        return at.astimezone(dt.UTC) if at.tzinfo or zone is None else at.replace(tzinfo=zone).astimezone(dt.UTC)
    except (ValueError, OverflowError):
        raise DomainError(
            f"{label} is {text[:40]}: it must be a day and time as 2026-10-24T07:30, from {forms.EARLIEST_YEAR} to {forms.LATEST_YEAR - 1}"
        ) from None


def _key(text: str, label: str) -> uuid.UUID | None:
    if not text:
        return None
    try:
        return uuid.UUID(text)
    except ValueError:
        raise DomainError(f"{label} is {text[:40]}: it must be a key as it was written here") from None


def _catch(found: Read, *, owner: uuid.UUID, zone: dt.tzinfo | None, now: dt.datetime) -> Catch:
    at = _iso(found.text("at"), "Day and time", zone)
    day = found.values["day"]
    if at is None:
        if not isinstance(day, dt.date):
            raise DomainError("Day is empty: each fish must have a day, or a day and time")
        time = found.values["time"]
        at = moment(day, time if time is not None else USUAL_START, zone, instead=now)
    return replace(
        new_catch(owner, None, source=found.text("source") or "real", at=at),
        id=_key(found.text("id"), "Key") or uuid.uuid4(),
        trip_id=_key(found.text("trip_id"), "Trip's key"),
        session_id=_key(found.text("session_id"), "Session's key"),
        species=found.text("species"),
        length_m=_either(found, "length_m", "length_in"),
        weight_kg=_either(found, "weight_kg", "weight_lb"),
        guess_m=_either(found, "guess_m", "guess_in"),
        kept=bool(found.values["kept"]),
        lure=found.text("lure"),
        rod=found.text("rod"),
        presentation=found.text("presentation"),
        depth_m=_either(found, "depth_m", "depth_ft"),
        track=found.text("track"),
        session_s=found.number("session_s"),
        note=found.text("note"),
    )


def _either(found: Read, *names: str) -> float | None:
    return next((value for name in names if (value := found.told(name)) is not None), None)


def _trip(found: Read, *, owner: uuid.UUID, zone: dt.tzinfo | None, now: dt.datetime) -> TripRecord:
    at = _iso(found.text("at") or found.text("day"), "Day", zone)
    if at is None:
        raise DomainError("Day is empty: each trip must have a day")
    text = found.text("people")
    people = [name for part in text.strip("[]").replace('"', "").split(",") if (name := " ".join(part.split()))]
    if len(people) > MOST_PEOPLE or any(len(name) > LONGEST_NAME for name in people):
        raise DomainError(f"Aboard is {text[:40]}: it must be {MOST_PEOPLE} names at most, {LONGEST_NAME} letters each")
    place = found.number("latitude_deg"), found.number("longitude_deg")
    if (place[0] is None) != (place[1] is None):
        raise DomainError(HALF_A_PLACE)
    return TripRecord(
        id=_key(found.text("id"), "Key") or uuid.uuid4(),
        source=found.text("source") or "real",
        title=found.text("title") or found.text("water"),
        water=found.text("water"),
        day=at,
        notes=found.text("notes"),
        owner=owner,
        people=tuple(people),
        goal=found.text("goal"),
        started_at=_iso(found.text("started_at"), "Started", zone),
        ended_at=_iso(found.text("ended_at"), "Ended", zone),
        latitude_deg=place[0],
        longitude_deg=place[1],
    )
