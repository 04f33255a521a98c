"""The tables of the boat: packs, acts, casts, devices that are let in."""

import datetime as dt
import uuid
from typing import Any

from sqlalchemy import (
    Computed,
    Double,
    Index,
    Integer,
    String,
)
from sqlalchemy.dialects.postgresql import TSVECTOR
from sqlalchemy.orm import Mapped, mapped_column

from mudlamp.store.models.base import (
    Base,
    Key,
    Moment,
    Owned,
    Values,
    Words,
)


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


class LandingRow(Owned, Base):
    """Where a cast landed: how far it was aimed and went [m], how far to the right of the way aimed [rad]."""

    __tablename__ = "landing"
    __table_args__ = (Index("ix_landing_owner", "owner", "created_at"),)
    id: Mapped[uuid.UUID] = mapped_column(Key, primary_key=True)
    aimed_m: Mapped[float] = mapped_column(Double)
    landed_m: Mapped[float] = mapped_column(Double)
    off_rad: Mapped[float] = mapped_column(Double)
    created_at: Mapped[dt.datetime] = mapped_column(Moment)


class PairingRow(Base):
    """A device that is let in from another machine, and the angler that it acts as."""

    __tablename__ = "pairing"
    id: Mapped[uuid.UUID] = mapped_column(Key, primary_key=True)
    device: Mapped[uuid.UUID] = mapped_column(Key, unique=True)
    angler: Mapped[uuid.UUID] = mapped_column(Key, index=True)
    name: Mapped[str] = mapped_column(Words(60))
    paired_at: Mapped[dt.datetime] = mapped_column(Moment)
