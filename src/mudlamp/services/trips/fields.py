"""The forms of a trip: the day, its weather, its moves, a fish in the boat, an own limit; and what is kept of each."""

import datetime as dt
import uuid
from collections.abc import Sequence
from dataclasses import replace

from mudlamp.core.advice.answers import Sky
from mudlamp.core.errors import DomainError
from mudlamp.core.records.log import TripRecord
from mudlamp.core.records.trips import CAUGHT, MOST_PEOPLE, BagRule, Catch, Condition, Move
from mudlamp.core.units import POUND_KG
from mudlamp.core.water.clarity import Clarity
from mudlamp.services.cards.questions import GOALS, MPH
from mudlamp.services.edge import forms
from mudlamp.services.edge.forms import DEGREES, FAHRENHEIT, FEET, INCHES, INCHES_OF_MERCURY, Read, Unit, multiple

POUNDS = multiple("lb", POUND_KG)
SOURCES = {"real": "on the water", "simulated": "practice on simulated water"}
PRESENTATIONS = {"vertical": "straight down", "pitch": "pitched", "cast": "cast", "trolled": "trolled"}
SPECIES = {name: name for name in CAUGHT}
SKIES = {Sky.BRIGHT.value: "bright", Sky.CLOUD.value: "cloud", Sky.DARK.value: "dark"}
CLARITIES = {one.value: one.value for one in Clarity}
SAW = {"yes": "fish there", "no": "no fish"}
LONG_NOTE, LONGEST_NAME, WHOLE_PAGE = 2000, 30, 12_000
PLACE = Unit(name="deg")
HALF_A_PLACE = "Latitude and Longitude go together: give both, or neither"

TRIP_FIELDS = (
    forms.words("title", "Trip", longest=120, required=True),
    forms.words("water", "Water", longest=80, required=True),
    forms.day("day", "Day", required=True),
    forms.time_of_day("starts", "Begins", hint="blank is 7:00"),
    forms.choice("source", "Where", SOURCES, required=True),
    forms.words("people", "Aboard", longest=200, hint="first names or initials, with commas"),
    forms.choice("goal", "What for", GOALS, empty="no matter"),
    forms.number("latitude", "Latitude", -90.0, 90.0, PLACE, step=0.01, empty="not noted", hint="for the sun's height in the review"),
    forms.number("longitude", "Longitude", -180.0, 180.0, PLACE, step=0.01, empty="not noted"),
    forms.note("notes", "Notes", longest=WHOLE_PAGE),
)
CONDITION_FIELDS = (
    forms.time_of_day("time", "At", hint="blank is now"),
    forms.choice("sky", "Sky", SKIES),
    forms.number("wind_mph", "Wind", 0.0, 60.0, MPH),
    forms.number("wind_from_deg", "Wind from", 0.0, 360.0, DEGREES, hint="0 is north, 90 is east"),
    forms.number("air_f", "Air", -40.0, 120.0, FAHRENHEIT),
    forms.number("water_f", "Water", 32.0, 104.0, FAHRENHEIT),
    forms.choice("clarity", "Clarity", CLARITIES),
    forms.number("pressure_inhg", "Pressure", 26.0, 32.0, INCHES_OF_MERCURY, step=0.01),
)
MOVE_FIELDS = (
    forms.time_of_day("time", "At", hint="blank is now"),
    forms.words("place", "To", longest=80, required=True),
    forms.number("depth_ft", "Depth", 0.5, 200.0, FEET),
    forms.choice("saw_fish", "Fish", SAW, empty="not looked"),
    forms.words("note", "Note", longest=LONG_NOTE),
)
CATCH_FIELDS = (
    forms.time_of_day("time", "At", hint="blank is now"),
    forms.choice("species", "Species", SPECIES, required=True),
    forms.number("length_in", "Length", 2.0, 70.0, INCHES, step=0.1, empty="not measured"),
    forms.number("weight_lb", "Weight", 0.02, 120.0, POUNDS, step=0.01, hint="blank: computed from the length"),
    forms.number("guess_in", "Guessed on the picture", 2.0, 70.0, INCHES, step=0.1, empty="no guess"),
    forms.check("kept", "Kept"),
    forms.words("lure", "Lure", longest=80),
    forms.words("rod", "Rod", longest=60),
    forms.choice("presentation", "Presented", PRESENTATIONS, empty="not noted"),
    forms.number("depth_ft", "Depth", 0.0, 200.0, FEET),
    forms.words("note", "Note", longest=LONG_NOTE),
)
RULE_FIELDS = (
    forms.choice("species", "Species", SPECIES, required=True),
    forms.number("most", "May keep", 0, 200, whole=True, required=True),
    forms.number("wanted", "Want", 0, 200, whole=True, hint="a meal"),
    forms.number("least_in", "At least", 0.0, 60.0, INCHES, step=0.25, empty="any"),
)
USUAL_START = dt.time(7, 0)


def moment(day: dt.date, time: object, zone: dt.tzinfo | None, *, instead: dt.datetime) -> dt.datetime:
    """Return a time of day on the angler's clock as a moment in UTC; where none was given, `instead`."""
    if not isinstance(time, dt.time):
        return instead
    at = dt.datetime.combine(day, time)
    return (at.astimezone() if zone is None else at.replace(tzinfo=zone)).astimezone(dt.UTC)


def trip_of(
    found: Read, *, owner: uuid.UUID, key: uuid.UUID, zone: dt.tzinfo | None, rig_id: uuid.UUID | None, was: TripRecord | None
) -> TripRecord:
    """Return a trip of a form without problems; raise DomainError where too many, or too long names are aboard."""
    people = tuple(name for part in found.text("people").split(",") if (name := " ".join(part.split())))
    if len(people) > MOST_PEOPLE:
        raise DomainError(f"Aboard is {len(people)} names: it must be {MOST_PEOPLE} at most")
    for name in people:
        if len(name) > LONGEST_NAME:
            raise DomainError(f"Aboard is {name[:LONGEST_NAME]}...: a name must be at most {LONGEST_NAME} characters")
    day = found.values["day"]
    if not isinstance(day, dt.date):
        raise DomainError("Day is empty: it must be given")
    starts = found.values["starts"]
    begun = moment(day, starts if starts is not None else USUAL_START, zone, instead=dt.datetime.now(dt.UTC))
    return TripRecord(
        id=key,
        source=found.text("source"),
        title=found.text("title"),
        water=found.text("water"),
        day=begun,
        notes=found.text("notes"),
        owner=owner,
        people=people,
        goal=found.text("goal"),
        rig_id=rig_id,
        started_at=None if was is None else was.started_at,
        ended_at=None if was is None else was.ended_at,
        latitude_deg=found.number("latitude"),
        longitude_deg=found.number("longitude"),
    )


def condition_of(found: Read, *, trip: uuid.UUID, at: dt.datetime) -> Condition:
    """Return a condition of a form without problems."""
    return Condition(
        id=uuid.uuid4(),
        trip_id=trip,
        at=at,
        sky=found.text("sky") or None,
        wind_m_s=found.told("wind_mph"),
        wind_from_rad=found.told("wind_from_deg"),
        air_degc=found.told("air_f"),
        water_degc=found.told("water_f"),
        clarity=found.text("clarity") or None,
        pressure_pa=found.told("pressure_inhg"),
        origin="typed",
    )


def move_of(found: Read, *, trip: uuid.UUID, at: dt.datetime) -> Move:
    """Return a move of a form without problems."""
    saw = found.text("saw_fish")
    return Move(
        id=uuid.uuid4(),
        trip_id=trip,
        at=at,
        place=found.text("place"),
        spot_id=None,
        depth_m=found.told("depth_ft"),
        saw_fish=None if not saw else saw == "yes",
        note=found.text("note"),
    )


def catch_of(found: Read, *, was: Catch, at: dt.datetime) -> Catch:
    """Return a catch of a form without problems, in the place of what it was."""
    return replace(
        was,
        at=at,
        species=found.text("species"),
        length_m=found.told("length_in"),
        weight_kg=found.told("weight_lb"),
        guess_m=found.told("guess_in"),
        kept=bool(found.values["kept"]),
        lure=found.text("lure"),
        rod=found.text("rod"),
        presentation=found.text("presentation"),
        depth_m=found.told("depth_ft"),
        note=found.text("note"),
    )


def new_catch(owner: uuid.UUID, trip: TripRecord | None, *, source: str, at: dt.datetime) -> Catch:
    """Return a catch of which nothing is known yet but when."""
    return Catch(
        id=uuid.uuid4(),
        owner=owner,
        trip_id=None if trip is None else trip.id,
        session_id=None,
        source=source,
        at=at,
        species="other",
        length_m=None,
        weight_kg=None,
        guess_m=None,
        kept=False,
        lure="",
        rod="",
        presentation="",
        depth_m=None,
        track="",
        session_s=None,
        note="",
    )


def rule_of(found: Read, *, owner: uuid.UUID) -> BagRule:
    """Return an own limit of a form without problems."""
    wanted = found.number("wanted")
    return BagRule(
        id=uuid.uuid4(),
        owner=owner,
        species=found.text("species"),
        most=int(found.number("most") or 0),
        wanted=None if wanted is None else int(wanted),
        least_m=found.told("least_in"),
    )


def trip_texts(trip: TripRecord, day: dt.datetime) -> dict[str, str]:
    """Return a trip as the texts of its form; `day` is its beginning on the angler's clock."""
    return {
        "title": trip.title,
        "water": trip.water,
        "day": day.date().isoformat(),
        "starts": day.strftime("%H:%M"),
        "source": trip.source,
        "people": ", ".join(trip.people),
        "goal": trip.goal,
        "notes": trip.notes,
        "latitude": "" if trip.latitude_deg is None else f"{trip.latitude_deg:g}",
        "longitude": "" if trip.longitude_deg is None else f"{trip.longitude_deg:g}",
    }


def catch_texts(one: Catch, at: dt.datetime) -> dict[str, str]:
    """Return a catch as the texts of its form; `at` is when, on the angler's clock."""
    known: Sequence[tuple[str, object]] = (
        ("species", one.species),
        ("length_in", one.length_m),
        ("weight_lb", one.weight_kg),
        ("guess_in", one.guess_m),
        ("kept", one.kept),
        ("lure", one.lure),
        ("rod", one.rod),
        ("presentation", one.presentation),
        ("depth_ft", one.depth_m),
        ("note", one.note),
    )
    return forms.texts_of(CATCH_FIELDS, dict(known)) | {"time": at.strftime("%H:%M")}
