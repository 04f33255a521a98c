"""The tables. Keys are UUIDs made where the record is born; times are UTC; units are SI; every row of fishing has its source."""

import datetime as dt
import uuid
from collections.abc import Mapping
from typing import Any

from sqlalchemy import (
    ARRAY,
    BigInteger,
    Boolean,
    CheckConstraint,
    Computed,
    Date,
    DateTime,
    Dialect,
    Double,
    ForeignKey,
    Index,
    Integer,
    String,
    Text,
    TypeDecorator,
    UniqueConstraint,
    text,
)
from sqlalchemy.dialects.postgresql import JSONB, TSVECTOR, UUID
from sqlalchemy.orm import DeclarativeBase, Mapped, mapped_column

from mudlamp.core.texts import mended

_SOURCE_RULE = "source in ('demo', 'simulated', 'recorded', 'real')"

Key = UUID(as_uuid=True)
Moment = DateTime(timezone=True)


class Words(TypeDecorator[str]):
    """A text that somebody may have typed: mended on its way in, so that the database never refuses it."""

    impl = String
    cache_ok = True

    def process_bind_param(self, value: str | None, dialect: Dialect) -> str | None:
        """Mend a text."""
        return None if value is None else mended(value)


class Notes(Words):
    """A text of any length."""

    impl = Text
    cache_ok = True


class Values(TypeDecorator[Any]):
    """A JSON object, all texts in it mended."""

    impl = JSONB
    cache_ok = True

    def process_bind_param(self, value: Any, dialect: Dialect) -> Any:
        """Mend all texts."""
        return _all_mended(value)


def _all_mended(value: Any) -> Any:
    if isinstance(value, str):
        return mended(value)
    if isinstance(value, Mapping):
        return {mended(name): _all_mended(one) for name, one in value.items()}
    return [_all_mended(one) for one in value] if isinstance(value, list | tuple) else value


class Base(DeclarativeBase):
    """The root of all tables."""


class Owned:
    """A row with an owner (who fishes, or the browser while nobody said); None for nobody's: the demo's."""

    owner: Mapped[uuid.UUID | None] = mapped_column(Key)


class OfTrip:
    """A row that belongs to a trip, and to its owner."""

    trip_id: Mapped[uuid.UUID] = mapped_column(ForeignKey("trip.id", ondelete="CASCADE"))


class Deletable:
    """A row that can be deleted and, for a while, brought back: with `deleted_at` no query sees it that does not ask for what is deleted."""

    deleted_at: Mapped[dt.datetime | None] = mapped_column(Moment)


def _searched(*texts: str) -> Mapped[str]:
    """Return a column of the words of texts (SQL expressions), which the database keeps by itself."""
    joined = " || ' ' || ".join(texts)
    return mapped_column(TSVECTOR, Computed(f"to_tsvector('english', {joined})", persisted=True), deferred=True)


class OfSession:
    """A row that belongs to a session, and to its owner."""

    session_id: Mapped[uuid.UUID] = mapped_column(ForeignKey("session.id", ondelete="CASCADE"))


class OfRig:
    """A row that belongs to a rig, and to its owner."""

    rig_id: Mapped[uuid.UUID] = mapped_column(ForeignKey("rig.id", ondelete="CASCADE"))


class AnglerRow(Base):
    """Who fishes: a name or initials, no password; a device remembers who."""

    __tablename__ = "angler"
    id: Mapped[uuid.UUID] = mapped_column(Key, primary_key=True)
    name: Mapped[str] = mapped_column(Words(40), unique=True)
    created_at: Mapped[dt.datetime] = mapped_column(Moment)


class TripRow(Owned, Deletable, Base):
    """A day on a water: who was aboard (first names or initials), what for, with which rig; under way from `started_at` to `ended_at`."""

    __tablename__ = "trip"
    __table_args__ = (
        CheckConstraint(_SOURCE_RULE, name="source"),
        Index("ix_trip_owner", "owner", "day"),
        Index("ix_trip_words", "words", postgresql_using="gin"),
    )
    id: Mapped[uuid.UUID] = mapped_column(Key, primary_key=True)
    source: Mapped[str] = mapped_column(Words(10))
    title: Mapped[str] = mapped_column(Words(120))
    water: Mapped[str] = mapped_column(Words(80))
    day: Mapped[dt.datetime] = mapped_column(Moment)
    notes: Mapped[str] = mapped_column(Notes)
    people: Mapped[list[str]] = mapped_column(ARRAY(Notes), server_default="{}")
    goal: Mapped[str] = mapped_column(Words(20), server_default="")
    rig_id: Mapped[uuid.UUID | None] = mapped_column(ForeignKey("rig.id", ondelete="SET NULL"))
    started_at: Mapped[dt.datetime | None] = mapped_column(Moment)
    ended_at: Mapped[dt.datetime | None] = mapped_column(Moment)
    latitude_deg: Mapped[float | None] = mapped_column(Double)
    longitude_deg: Mapped[float | None] = mapped_column(Double)
    words: Mapped[str] = _searched("title", "water", "notes")


class ConditionRow(OfTrip, Base):
    """The weather and the water at a moment of a trip, as far as somebody or a feed said."""

    __tablename__ = "condition"
    __table_args__ = (Index("ix_condition_trip", "trip_id", "at"),)
    id: Mapped[uuid.UUID] = mapped_column(Key, primary_key=True)
    at: Mapped[dt.datetime] = mapped_column(Moment)
    sky: Mapped[str | None] = mapped_column(Words(10))
    wind_m_s: Mapped[float | None] = mapped_column(Double)
    wind_from_rad: Mapped[float | None] = mapped_column(Double)
    air_degc: Mapped[float | None] = mapped_column(Double)
    water_degc: Mapped[float | None] = mapped_column(Double)
    clarity: Mapped[str | None] = mapped_column(Words(10))
    pressure_pa: Mapped[float | None] = mapped_column(Double)
    origin: Mapped[str] = mapped_column(Words(10))


class MoveRow(OfTrip, Base):
    """A move to another place."""

    __tablename__ = "move"
    __table_args__ = (Index("ix_move_trip", "trip_id", "at"),)
    id: Mapped[uuid.UUID] = mapped_column(Key, primary_key=True)
    at: Mapped[dt.datetime] = mapped_column(Moment)
    place: Mapped[str] = mapped_column(Words(80))
    spot_id: Mapped[uuid.UUID | None] = mapped_column(ForeignKey("spot.id", ondelete="SET NULL"))
    depth_m: Mapped[float | None] = mapped_column(Double)
    saw_fish: Mapped[bool | None] = mapped_column(Boolean)
    note: Mapped[str] = mapped_column(Notes)


class BoatPointRow(OfTrip, Base):
    """Where the boat was at a moment of a trip, and how deep it was there."""

    __tablename__ = "boat_point"
    __table_args__ = (Index("ix_boat_point_trip", "trip_id", "at"),)
    id: Mapped[uuid.UUID] = mapped_column(Key, primary_key=True)
    at: Mapped[dt.datetime] = mapped_column(Moment)
    latitude_deg: Mapped[float] = mapped_column(Double)
    longitude_deg: Mapped[float] = mapped_column(Double)
    depth_m: Mapped[float | None] = mapped_column(Double)
    origin: Mapped[str] = mapped_column(Words(10))


class CatchRow(Owned, Deletable, Base):
    """A fish in the boat: what, how long and heavy, guessed how long before; with what it was caught; which track and moment of a session it was."""

    __tablename__ = "catch"
    __table_args__ = (
        CheckConstraint(_SOURCE_RULE, name="source"),
        Index("ix_catch_owner", "owner", "at"),
        Index("ix_catch_words", "words", postgresql_using="gin"),
    )
    id: Mapped[uuid.UUID] = mapped_column(Key, primary_key=True)
    trip_id: Mapped[uuid.UUID | None] = mapped_column(ForeignKey("trip.id", ondelete="SET NULL"))
    session_id: Mapped[uuid.UUID | None] = mapped_column(ForeignKey("session.id", ondelete="SET NULL"))
    source: Mapped[str] = mapped_column(Words(10))
    at: Mapped[dt.datetime] = mapped_column(Moment)
    species: Mapped[str] = mapped_column(Words(20))
    length_m: Mapped[float | None] = mapped_column(Double)
    weight_kg: Mapped[float | None] = mapped_column(Double)
    guess_m: Mapped[float | None] = mapped_column(Double)
    kept: Mapped[bool] = mapped_column(Boolean)
    lure: Mapped[str] = mapped_column(Words(80))
    rod: Mapped[str] = mapped_column(Words(60))
    presentation: Mapped[str] = mapped_column(Words(20))
    depth_m: Mapped[float | None] = mapped_column(Double)
    track: Mapped[str] = mapped_column(Words(20))
    session_s: Mapped[float | None] = mapped_column(Double)
    note: Mapped[str] = mapped_column(Notes)
    words: Mapped[str] = _searched("species", "lure", "rod", "note")


class PhotoRow(Owned, Base):
    """A photo of a catch: its file is `<id>.jpg` in the photos folder, made anew so that it says nothing of where it was taken."""

    __tablename__ = "photo"
    __table_args__ = (UniqueConstraint("owner", "digest", name="one_photo_an_owner"),)
    id: Mapped[uuid.UUID] = mapped_column(Key, primary_key=True)
    catch_id: Mapped[uuid.UUID | None] = mapped_column(ForeignKey("catch.id", ondelete="CASCADE"))
    digest: Mapped[str] = mapped_column(Words(64))
    size_bytes: Mapped[int] = mapped_column(BigInteger)
    width: Mapped[int] = mapped_column(Integer)
    height: Mapped[int] = mapped_column(Integer)
    taken_at: Mapped[dt.datetime] = mapped_column(Moment)
    created_at: Mapped[dt.datetime] = mapped_column(Moment)


class BagRuleRow(Owned, Base):
    """An angler's own entry of how many of a species they may keep, how long those must be, and how many they want."""

    __tablename__ = "bag_rule"
    __table_args__ = (UniqueConstraint("owner", "species", name="one_bag_rule_a_species"),)
    id: Mapped[uuid.UUID] = mapped_column(Key, primary_key=True)
    species: Mapped[str] = mapped_column(Words(20))
    most: Mapped[int] = mapped_column(Integer)
    wanted: Mapped[int | None] = mapped_column(Integer)
    least_m: Mapped[float | None] = mapped_column(Double)


class SessionRow(Owned, Deletable, Base):
    """One run of pings: from a simulated water, a recording or a head."""

    __tablename__ = "session"
    __table_args__ = (
        CheckConstraint(_SOURCE_RULE, name="source"),
        CheckConstraint("state in ('running', 'ended', 'interrupted')", name="state"),
        Index("ix_session_started", "started_at"),
        Index("ix_session_owner", "owner", "started_at"),
        Index("ix_session_words", "words", postgresql_using="gin"),
    )
    id: Mapped[uuid.UUID] = mapped_column(Key, primary_key=True)
    source: Mapped[str] = mapped_column(Words(10))
    trip_id: Mapped[uuid.UUID | None] = mapped_column(ForeignKey("trip.id", ondelete="CASCADE"))
    angler_id: Mapped[uuid.UUID | None] = mapped_column(ForeignKey("angler.id", ondelete="SET NULL"))
    device: Mapped[uuid.UUID | None] = mapped_column(Key)
    scene: Mapped[str] = mapped_column(Words(40))
    title: Mapped[str] = mapped_column(Words(120))
    seed: Mapped[int | None] = mapped_column(Integer)
    state: Mapped[str] = mapped_column(Words(12))
    started_at: Mapped[dt.datetime] = mapped_column(Moment)
    ended_at: Mapped[dt.datetime | None] = mapped_column(Moment)
    # What was known of the water and the tackle: temperature, clarity, lure, color and the like, for the review.
    known: Mapped[dict[str, Any]] = mapped_column(Values, server_default="{}")
    words: Mapped[str] = _searched("title")


class SetupChangeRow(OfSession, Base):
    """The set-up from a moment on: all controls by their core names, in SI."""

    __tablename__ = "setup_change"
    __table_args__ = (Index("ix_setup_change_session", "session_id", "session_s"),)
    id: Mapped[uuid.UUID] = mapped_column(Key, primary_key=True)
    session_s: Mapped[float] = mapped_column(Double)
    values: Mapped[dict[str, Any]] = mapped_column(Values)


class ShotRow(OfSession, Base):
    """One presentation of a lure."""

    __tablename__ = "shot"
    __table_args__ = (
        CheckConstraint(_SOURCE_RULE, name="source"),
        Index("ix_shot_session", "session_id", "number"),
        Index("ix_shot_at", "at", "id"),
    )
    id: Mapped[uuid.UUID] = mapped_column(Key, primary_key=True)
    source: Mapped[str] = mapped_column(Words(10))
    number: Mapped[int] = mapped_column(Integer)
    start_s: Mapped[float] = mapped_column(Double)
    end_s: Mapped[float | None] = mapped_column(Double)
    at: Mapped[dt.datetime] = mapped_column(Moment)
    ahead_m: Mapped[float] = mapped_column(Double)
    head_kg: Mapped[float] = mapped_column(Double)
    outcome: Mapped[str | None] = mapped_column(Words(12))


class ReactionRow(OfSession, Base):
    """What a fish did: the machine's token, and the angler's correction where there is one."""

    __tablename__ = "reaction"
    __table_args__ = (
        CheckConstraint(_SOURCE_RULE, name="source"),
        Index("ix_reaction_session", "session_id", "session_s"),
        Index("ix_reaction_shot", "shot_id"),
    )
    id: Mapped[uuid.UUID] = mapped_column(Key, primary_key=True)
    shot_id: Mapped[uuid.UUID | None] = mapped_column(ForeignKey("shot.id", ondelete="SET NULL"))
    source: Mapped[str] = mapped_column(Words(10))
    track: Mapped[str] = mapped_column(Words(20))
    session_s: Mapped[float] = mapped_column(Double)
    token: Mapped[str] = mapped_column(Words(20))
    corrected: Mapped[str | None] = mapped_column(Words(20))
    cause: Mapped[str] = mapped_column(Words(10))
    confidence: Mapped[float] = mapped_column(Double)


class TrackRow(OfSession, Base):
    """A track in short: when, what, how long; a thinned path of (time, ahead, down), never pings."""

    __tablename__ = "track"
    __table_args__ = (CheckConstraint(_SOURCE_RULE, name="source"), Index("ix_track_session", "session_id"))
    id: Mapped[uuid.UUID] = mapped_column(Key, primary_key=True)
    source: Mapped[str] = mapped_column(Words(10))
    number: Mapped[int] = mapped_column(Integer)
    first_s: Mapped[float] = mapped_column(Double)
    last_s: Mapped[float] = mapped_column(Double)
    kind: Mapped[str] = mapped_column(Words(10))
    odds: Mapped[dict[str, float]] = mapped_column(Values)
    length_m: Mapped[float | None] = mapped_column(Double)
    said: Mapped[str | None] = mapped_column(Words(20))
    path: Mapped[list[float]] = mapped_column(ARRAY(Double))


class RecordingRow(Owned, Base):
    """A recording in the library: its file is `<id>.nc` in the recordings folder. Without `expires_at` it is kept."""

    __tablename__ = "recording"
    __table_args__ = (CheckConstraint(_SOURCE_RULE, name="source"), Index("ix_recording_owner", "owner", "created_at"))
    id: Mapped[uuid.UUID] = mapped_column(Key, primary_key=True)
    source: Mapped[str] = mapped_column(Words(10))
    name: Mapped[str] = mapped_column(Words(80))
    digest: Mapped[str] = mapped_column(Words(64))
    size_bytes: Mapped[int] = mapped_column(BigInteger)
    pings: Mapped[int] = mapped_column(Integer)
    seconds: Mapped[float] = mapped_column(Double)
    fan: Mapped[str] = mapped_column(Words(6))
    created_at: Mapped[dt.datetime] = mapped_column(Moment)
    expires_at: Mapped[dt.datetime | None] = mapped_column(Moment)
    session_id: Mapped[uuid.UUID | None] = mapped_column(Key)
    begins_s: Mapped[float | None] = mapped_column(Double)


class NamedSetupRow(Owned, Base):
    """A set-up that somebody gave a name: the receiver's controls by their core names, in SI."""

    __tablename__ = "named_setup"
    __table_args__ = (UniqueConstraint("owner", "name", name="one_setup_name_an_owner"),)
    id: Mapped[uuid.UUID] = mapped_column(Key, primary_key=True)
    name: Mapped[str] = mapped_column(Words(60))
    values: Mapped[dict[str, Any]] = mapped_column(Values)
    created_at: Mapped[dt.datetime] = mapped_column(Moment)


class RigRow(Owned, Base):
    """A rig: its parts in SI. One of an owner's is active."""

    __tablename__ = "rig"
    __table_args__ = (
        UniqueConstraint("owner", "name", name="one_rig_name_an_owner"),
        Index("ix_rig_one_active", "owner", unique=True, postgresql_where=text("active")),
    )
    id: Mapped[uuid.UUID] = mapped_column(Key, primary_key=True)
    name: Mapped[str] = mapped_column(Words(60))
    active: Mapped[bool] = mapped_column(Boolean)
    version: Mapped[int] = mapped_column(Integer)
    values: Mapped[dict[str, Any]] = mapped_column(Values)
    created_at: Mapped[dt.datetime] = mapped_column(Moment)
    changed_at: Mapped[dt.datetime] = mapped_column(Moment)


class LureRow(OfRig, Base):
    """A lure of a rig's box."""

    __tablename__ = "lure"
    __table_args__ = (Index("ix_lure_rig", "rig_id", "created_at"),)
    id: Mapped[uuid.UUID] = mapped_column(Key, primary_key=True)
    kind: Mapped[str] = mapped_column(Words(20))
    head_kg: Mapped[float] = mapped_column(Double)
    material: Mapped[str] = mapped_column(Words(20))
    color: Mapped[str] = mapped_column(Words(40))
    finish: Mapped[str] = mapped_column(Words(40))
    trailer: Mapped[str] = mapped_column(Words(60))
    weight_kg: Mapped[float] = mapped_column(Double)
    recipe: Mapped[str] = mapped_column(Words(400))
    created_at: Mapped[dt.datetime] = mapped_column(Moment)


class RodRow(OfRig, Base):
    """A rod of a rig: its line, and the lure that is on it; `in_hand` marks the one fished with."""

    __tablename__ = "rod"
    __table_args__ = (Index("ix_rod_rig", "rig_id", "created_at"),)
    id: Mapped[uuid.UUID] = mapped_column(Key, primary_key=True)
    name: Mapped[str] = mapped_column(Words(60))
    length_m: Mapped[float] = mapped_column(Double)
    line: Mapped[str] = mapped_column(Words(20))
    line_n: Mapped[float | None] = mapped_column(Double)
    lure_id: Mapped[uuid.UUID | None] = mapped_column(ForeignKey("lure.id", ondelete="SET NULL"))
    in_hand: Mapped[bool] = mapped_column(Boolean)
    created_at: Mapped[dt.datetime] = mapped_column(Moment)


class CardRow(Owned, Base):
    """A set-up card: the answers as they were typed, the plan they made, the values that are set; measured costs and auto-tune's find when they are there.

    With a name it is a baseline; cards of one name are its history. `parent_id` is the card that was set before a move.
    """

    __tablename__ = "card"
    __table_args__ = (Index("ix_card_owner", "owner", "created_at"),)
    id: Mapped[uuid.UUID] = mapped_column(Key, primary_key=True)
    rig_id: Mapped[uuid.UUID | None] = mapped_column(ForeignKey("rig.id", ondelete="SET NULL"))
    parent_id: Mapped[uuid.UUID | None] = mapped_column(ForeignKey("card.id", ondelete="SET NULL"))
    name: Mapped[str | None] = mapped_column(Words(60))
    style: Mapped[str] = mapped_column(Words(10))
    answers: Mapped[dict[str, Any]] = mapped_column(Values)
    plan: Mapped[dict[str, Any] | None] = mapped_column(Values)
    values: Mapped[dict[str, Any]] = mapped_column(Values)
    costs: Mapped[dict[str, Any] | None] = mapped_column(Values)
    tuned: Mapped[dict[str, Any] | None] = mapped_column(Values)
    created_at: Mapped[dt.datetime] = mapped_column(Moment)
    noticed_at: Mapped[dt.datetime | None] = mapped_column(Moment)


class LandingRow(Owned, Base):
    """Where a cast landed: how far it was aimed and went [m], how far to the right of the way aimed [rad]."""

    __tablename__ = "landing"
    __table_args__ = (Index("ix_landing_owner", "owner", "created_at"),)
    id: Mapped[uuid.UUID] = mapped_column(Key, primary_key=True)
    aimed_m: Mapped[float] = mapped_column(Double)
    landed_m: Mapped[float] = mapped_column(Double)
    off_rad: Mapped[float] = mapped_column(Double)
    created_at: Mapped[dt.datetime] = mapped_column(Moment)


class EndedRow(Owned, Base):
    """Where an angler ended with a control: so many steps over our start, with the kind of water and the day."""

    __tablename__ = "ended"
    __table_args__ = (Index("ix_ended_owner", "owner", "created_at"),)
    id: Mapped[uuid.UUID] = mapped_column(Key, primary_key=True)
    control: Mapped[str] = mapped_column(String(40))
    over: Mapped[float] = mapped_column(Double)
    clarity: Mapped[str] = mapped_column(String(20))
    technique: Mapped[str] = mapped_column(String(20))
    light: Mapped[str] = mapped_column(String(20))
    day: Mapped[dt.date] = mapped_column(Date)
    created_at: Mapped[dt.datetime] = mapped_column(Moment)


class PackRow(Owned, Base):
    """A trip pack."""

    __tablename__ = "pack"
    __table_args__ = (Index("ix_pack_owner", "owner", "made_at"),)
    id: Mapped[uuid.UUID] = mapped_column(Key, primary_key=True)
    made_at: Mapped[dt.datetime] = mapped_column(Moment)
    content: Mapped[dict[str, Any]] = mapped_column(Values)


class BoatEntryRow(Owned, Base):
    """An act in the boat: its own key is made of the owner's and the one that the phone gave it, so that it arrives once."""

    __tablename__ = "boat_entry"
    __table_args__ = (Index("ix_boat_entry_owner", "owner", "at"), Index("ix_boat_entry_words", "words", postgresql_using="gin"))
    id: Mapped[uuid.UUID] = mapped_column(Key, primary_key=True)
    given: Mapped[uuid.UUID] = mapped_column(Key)
    device: Mapped[uuid.UUID] = mapped_column(Key)
    number: Mapped[int] = mapped_column(Integer)
    kind: Mapped[str] = mapped_column(String(20))
    at: Mapped[dt.datetime] = mapped_column(Moment)
    offset_s: Mapped[float] = mapped_column(Double)
    received_at: Mapped[dt.datetime] = mapped_column(Moment)
    values: Mapped[dict[str, Any]] = mapped_column(Values)
    clash_of: Mapped[uuid.UUID | None] = mapped_column(Key)
    words: Mapped[str] = mapped_column(
        TSVECTOR, Computed("jsonb_to_tsvector('english', \"values\", '[\"string\"]')", persisted=True), deferred=True
    )


class SpotRow(Owned, Deletable, Base):
    """A spot: a place on a water, how well it is known, what it is."""

    __tablename__ = "spot"
    __table_args__ = (
        CheckConstraint(_SOURCE_RULE, name="spot_source"),
        Index("ix_spot_owner", "owner", "water"),
        Index("ix_spot_words", "words", postgresql_using="gin"),
    )
    id: Mapped[uuid.UUID] = mapped_column(Key, primary_key=True)
    water: Mapped[str] = mapped_column(String(60))
    kind: Mapped[str] = mapped_column(String(20))
    note: Mapped[str] = mapped_column(Notes)
    x_m: Mapped[float] = mapped_column(Double)
    y_m: Mapped[float] = mapped_column(Double)
    depth_m: Mapped[float | None] = mapped_column(Double)
    xx_m2: Mapped[float] = mapped_column(Double)
    xy_m2: Mapped[float] = mapped_column(Double)
    yy_m2: Mapped[float] = mapped_column(Double)
    looks: Mapped[int] = mapped_column(Integer)
    source: Mapped[str] = mapped_column(String(12))
    created_at: Mapped[dt.datetime] = mapped_column(Moment)
    bearing_rad: Mapped[float | None] = mapped_column(Double)
    away_m: Mapped[float | None] = mapped_column(Double)
    words: Mapped[str] = _searched("kind", "note")


class ChartRow(Owned, Base):
    """An angler's own chart of a water: depths at places, flat: longitude, latitude [deg], depth [m]."""

    __tablename__ = "own_chart"
    __table_args__ = (UniqueConstraint("owner", "name", name="one_chart_a_water"),)
    id: Mapped[uuid.UUID] = mapped_column(Key, primary_key=True)
    name: Mapped[str] = mapped_column(Words(60))
    latitude_deg: Mapped[float] = mapped_column(Double)
    longitude_deg: Mapped[float] = mapped_column(Double)
    soundings: Mapped[list[float]] = mapped_column(ARRAY(Double))
    created_at: Mapped[dt.datetime] = mapped_column(Moment)


class LaunchRow(Owned, Base):
    """A list before launch, and what of it is done on a day."""

    __tablename__ = "launch_list"
    __table_args__ = (Index("ix_launch_list_owner", "owner", "changed_at"),)
    id: Mapped[uuid.UUID] = mapped_column(Key, primary_key=True)
    items: Mapped[list[str]] = mapped_column(ARRAY(Notes))
    done: Mapped[list[str]] = mapped_column(ARRAY(Notes))
    day: Mapped[dt.date | None] = mapped_column(Date)
    changed_at: Mapped[dt.datetime] = mapped_column(Moment)


class PairingRow(Base):
    """A device that is let in from another machine, and the angler that it acts as."""

    __tablename__ = "pairing"
    id: Mapped[uuid.UUID] = mapped_column(Key, primary_key=True)
    device: Mapped[uuid.UUID] = mapped_column(Key, unique=True)
    angler: Mapped[uuid.UUID] = mapped_column(Key, index=True)
    name: Mapped[str] = mapped_column(Words(60))
    paired_at: Mapped[dt.datetime] = mapped_column(Moment)
