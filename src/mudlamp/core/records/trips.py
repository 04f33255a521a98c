"""Trips as they are kept: the day, its weather, its moves, what was caught, the photos, an angler's own limits."""

import datetime as dt
import uuid
from dataclasses import dataclass


@dataclass(frozen=True, slots=True, kw_only=True)
class Condition:
    """The weather and the water at a moment of a trip (None: nobody said); `origin` is "typed" or "feed"."""

    id: uuid.UUID
    trip_id: uuid.UUID
    at: dt.datetime
    sky: str | None
    wind_m_s: float | None
    wind_from_rad: float | None
    air_degc: float | None
    water_degc: float | None
    clarity: str | None
    pressure_pa: float | None
    origin: str


@dataclass(frozen=True, slots=True, kw_only=True)
class Move:
    """A move to another place; whether fish were seen there (None: nobody said)."""

    id: uuid.UUID
    trip_id: uuid.UUID
    at: dt.datetime
    place: str
    spot_id: uuid.UUID | None
    depth_m: float | None
    saw_fish: bool | None
    note: str


@dataclass(frozen=True, slots=True, kw_only=True)
class BoatPoint:
    """Where the boat was at a moment of a trip [deg], and how deep it was there [m] (None: nobody said); `origin` is "feed" or "file"."""

    id: uuid.UUID
    trip_id: uuid.UUID
    at: dt.datetime
    latitude_deg: float
    longitude_deg: float
    depth_m: float | None
    origin: str


@dataclass(frozen=True, slots=True, kw_only=True)
class Catch:
    """A fish in the boat. `weight_kg` was weighed; `guess_m` is the length that was guessed before; `track` and `session_s` where it was followed."""

    id: uuid.UUID
    owner: uuid.UUID | None
    trip_id: uuid.UUID | None
    session_id: uuid.UUID | None
    source: str
    at: dt.datetime
    species: str
    length_m: float | None
    weight_kg: float | None
    guess_m: float | None
    kept: bool
    lure: str
    rod: str
    presentation: str
    depth_m: float | None
    track: str
    session_s: float | None
    note: str


@dataclass(frozen=True, slots=True, kw_only=True)
class Photo:
    """A photo of a catch."""

    id: uuid.UUID
    owner: uuid.UUID | None
    catch_id: uuid.UUID | None
    digest: str
    size_bytes: int
    width: int
    height: int
    taken_at: dt.datetime
    created_at: dt.datetime


@dataclass(frozen=True, slots=True, kw_only=True)
class BagRule:
    """An angler's own entry: how many of a species may be kept, how many are wanted, how long one must be [m]."""

    id: uuid.UUID
    owner: uuid.UUID | None
    species: str
    most: int
    wanted: int | None
    least_m: float | None


# What may be caught: the kinds the simulator knows, and what else bites.
CAUGHT = (
    "black crappie",
    "white crappie",
    "crappie",
    "largemouth",
    "smallmouth",
    "spotted bass",
    "bluegill",
    "perch",
    "walleye",
    "catfish",
    "carp",
    "drum",
    "gar",
    "other",
)
# What a day is fished with when it brings the best five in.
TOURNAMENT_FISH = 5
MOST_PEOPLE = 8
