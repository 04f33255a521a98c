"""What happened: the records as they go into the log, under the keys they are born with, and as they come out of it."""

import datetime as dt
import uuid
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field

from mudlamp.core.controls import Value


@dataclass(frozen=True, slots=True, kw_only=True)
class AnglerRecord:
    """Who fishes."""

    id: uuid.UUID
    name: str
    created_at: dt.datetime


@dataclass(frozen=True, slots=True, kw_only=True)
class TripRecord:
    """A day on a water: `people` by first names or initials; under way from `started_at` to `ended_at`; its place [deg], for the sun alone."""

    id: uuid.UUID
    source: str
    title: str
    water: str
    day: dt.datetime
    notes: str
    owner: uuid.UUID | None = None
    people: Sequence[str] = ()
    goal: str = ""
    rig_id: uuid.UUID | None = None
    started_at: dt.datetime | None = None
    ended_at: dt.datetime | None = None
    latitude_deg: float | None = None
    longitude_deg: float | None = None


@dataclass(frozen=True, slots=True, kw_only=True)
class SessionRecord:
    """One run of pings; what its end settles is said again under the same key."""

    id: uuid.UUID
    source: str
    trip_id: uuid.UUID | None
    angler_id: uuid.UUID | None
    device: uuid.UUID | None
    owner: uuid.UUID | None
    scene: str
    title: str
    seed: int | None
    state: str
    started_at: dt.datetime
    ended_at: dt.datetime | None
    # What was known of water and tackle: temperature, clarity, lure, color and the like.
    known: Mapping[str, Value] = field(default_factory=dict)


@dataclass(frozen=True, slots=True, kw_only=True)
class SetupRecord:
    """The set-up from a moment of a session on: controls by their core names, in SI."""

    id: uuid.UUID
    session_id: uuid.UUID
    session_s: float
    values: Mapping[str, Value]


@dataclass(frozen=True, slots=True, kw_only=True)
class ShotRecord:
    """One presentation of a lure; its end and outcome are said again under the same key."""

    id: uuid.UUID
    session_id: uuid.UUID
    source: str
    number: int
    start_s: float
    end_s: float | None
    at: dt.datetime
    ahead_m: float
    head_kg: float
    outcome: str | None


@dataclass(frozen=True, slots=True, kw_only=True)
class ReactionRecord:
    """What a fish did: the machine's token; `corrected` is the angler's."""

    id: uuid.UUID
    session_id: uuid.UUID
    shot_id: uuid.UUID | None
    source: str
    track: str
    session_s: float
    token: str
    corrected: str | None
    cause: str
    confidence: float


@dataclass(frozen=True, slots=True, kw_only=True)
class TrackRecord:
    """A track in short, with a thinned path of (time, ahead, down); its length where that was sure, what the angler called it and guessed it.

    `looks` are its traits by name, now and then from when the angler said what it is: what there is to learn from.
    """

    id: uuid.UUID
    session_id: uuid.UUID
    source: str
    number: int
    first_s: float
    last_s: float
    kind: str
    odds: Mapping[str, float]
    length_m: float | None
    said: str | None
    path: Sequence[float]
    guess_m: float | None = None
    looks: Sequence[Mapping[str, float | None]] = ()


@dataclass(frozen=True, slots=True, kw_only=True)
class BaitRecord:
    """What a cloud of bait did, ahead of the boat and down (under a flat fan to the right) [m], and how far it reached before and after [m]."""

    id: uuid.UUID
    session_id: uuid.UUID
    source: str
    session_s: float
    doing: str
    ahead_m: float
    other_m: float
    before_m: float
    after_m: float


Record = AnglerRecord | TripRecord | SessionRecord | SetupRecord | ShotRecord | ReactionRecord | TrackRecord | BaitRecord


@dataclass(frozen=True, slots=True, kw_only=True)
class Angler:
    """Who fishes."""

    id: uuid.UUID
    name: str


@dataclass(frozen=True, slots=True, kw_only=True)
class SessionSummary:
    """A session in the list: when, where, what came of it."""

    id: uuid.UUID
    source: str
    title: str
    scene: str
    state: str
    angler: str | None
    started_at: dt.datetime
    ended_at: dt.datetime | None
    shots: int
    reactions: Mapping[str, int]


@dataclass(frozen=True, slots=True, kw_only=True)
class LoggedSetup:
    """A set-up from a moment of a session on: controls by their core names, in SI."""

    session_s: float
    values: Mapping[str, Value]


@dataclass(frozen=True, slots=True, kw_only=True)
class LoggedReaction:
    """A reaction; `token` is the machine's, `corrected` the angler's."""

    id: uuid.UUID
    shot_id: uuid.UUID | None
    track: str
    session_s: float
    token: str
    corrected: str | None
    cause: str
    confidence: float


@dataclass(frozen=True, slots=True, kw_only=True)
class LoggedBait:
    """What a cloud of bait did, when."""

    session_s: float
    doing: str
    ahead_m: float


@dataclass(frozen=True, slots=True, kw_only=True)
class LoggedShot:
    """A shot with its reactions."""

    id: uuid.UUID
    source: str
    number: int
    start_s: float
    end_s: float | None
    at: dt.datetime
    ahead_m: float
    head_kg: float
    outcome: str | None
    reactions: Sequence[LoggedReaction]


@dataclass(frozen=True, slots=True, kw_only=True)
class PastShot:
    """Shots of an earlier session, in short: whose session, how long that took [min], the head [kg], the tokens of what the fish did, how many."""

    session_id: uuid.UUID
    minutes: float
    head_kg: float
    tokens: Sequence[str]
    count: int = 1


@dataclass(frozen=True, slots=True, kw_only=True)
class SessionDetail:
    """A session, whole; `loose` are reactions outside any shot."""

    summary: SessionSummary
    setups: Sequence[LoggedSetup]
    shots: Sequence[LoggedShot]
    loose: Sequence[LoggedReaction]
    bait: Sequence[LoggedBait] = ()
    known: Mapping[str, Value] = field(default_factory=dict)
    trip_id: uuid.UUID | None = None
