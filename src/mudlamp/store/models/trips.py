"""The tables of trips: the day, its weather, moves and way, fish, photos, own limits, the list before launch."""

import datetime as dt
import uuid

from sqlalchemy import (
    ARRAY,
    BigInteger,
    Boolean,
    CheckConstraint,
    Date,
    Double,
    ForeignKey,
    Index,
    Integer,
    UniqueConstraint,
)
from sqlalchemy.orm import Mapped, mapped_column

from mudlamp.store.models.base import (
    SOURCE_RULE,
    Base,
    Deletable,
    Key,
    Moment,
    Notes,
    OfTrip,
    Owned,
    Words,
    searched,
)


class TripRow(Owned, Deletable, Base):
    """A day on a water: who was aboard (first names or initials), what for, with which rig; under way from `started_at` to `ended_at`."""

    __tablename__ = "trip"
    __table_args__ = (
        CheckConstraint(SOURCE_RULE, name="source"),
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
    words: Mapped[str] = searched("title", "water", "notes")


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
        CheckConstraint(SOURCE_RULE, name="source"),
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
    words: Mapped[str] = searched("species", "lure", "rod", "note")


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


class LaunchRow(Owned, Base):
    """A list before launch, and what of it is done on a day."""

    __tablename__ = "launch_list"
    __table_args__ = (Index("ix_launch_list_owner", "owner", "changed_at"),)
    id: Mapped[uuid.UUID] = mapped_column(Key, primary_key=True)
    items: Mapped[list[str]] = mapped_column(ARRAY(Notes))
    done: Mapped[list[str]] = mapped_column(ARRAY(Notes))
    day: Mapped[dt.date | None] = mapped_column(Date)
    changed_at: Mapped[dt.datetime] = mapped_column(Moment)
