"""The tables of what was fished: anglers, sessions, set-ups, shots, reactions, tracks, and what bait did."""

import datetime as dt
import uuid
from typing import Any

from sqlalchemy import (
    ARRAY,
    CheckConstraint,
    Double,
    ForeignKey,
    Index,
    Integer,
    text,
)
from sqlalchemy.orm import Mapped, mapped_column

from mudlamp.store.models.base import (
    SOURCE_RULE,
    Base,
    Deletable,
    Key,
    ListOfValues,
    Moment,
    OfSession,
    Owned,
    Values,
    Words,
    searched,
)


class AnglerRow(Base):
    """Who fishes: a name or initials, no password; a device remembers who."""

    __tablename__ = "angler"
    id: Mapped[uuid.UUID] = mapped_column(Key, primary_key=True)
    name: Mapped[str] = mapped_column(Words(40), unique=True)
    created_at: Mapped[dt.datetime] = mapped_column(Moment)


class SessionRow(Owned, Deletable, Base):
    """One run of pings: from a simulated water, a recording or a head."""

    __tablename__ = "session"
    __table_args__ = (
        CheckConstraint(SOURCE_RULE, name="source"),
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
    words: Mapped[str] = searched("title")


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
        CheckConstraint(SOURCE_RULE, name="source"),
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
        CheckConstraint(SOURCE_RULE, name="source"),
        Index("ix_reaction_session", "session_id", "session_s"),
        Index("ix_reaction_shot", "shot_id"),
        # Narrowing shots by an answer: without it everybody's reactions were read.
        Index("ix_reaction_said", "session_id", text("coalesce(corrected, token)"), postgresql_include=["shot_id"]),
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
    __table_args__ = (CheckConstraint(SOURCE_RULE, name="source"), Index("ix_track_session", "session_id"))
    id: Mapped[uuid.UUID] = mapped_column(Key, primary_key=True)
    source: Mapped[str] = mapped_column(Words(10))
    number: Mapped[int] = mapped_column(Integer)
    first_s: Mapped[float] = mapped_column(Double)
    last_s: Mapped[float] = mapped_column(Double)
    kind: Mapped[str] = mapped_column(Words(10))
    odds: Mapped[dict[str, float]] = mapped_column(Values)
    length_m: Mapped[float | None] = mapped_column(Double)
    said: Mapped[str | None] = mapped_column(Words(20))
    guess_m: Mapped[float | None] = mapped_column(Double)
    path: Mapped[list[float]] = mapped_column(ARRAY(Double))
    looks: Mapped[list[dict[str, float | None]]] = mapped_column(ListOfValues, server_default=text("'[]'::jsonb"))


class BaitRow(OfSession, Base):
    """What a cloud of bait did."""

    __tablename__ = "bait_event"
    __table_args__ = (CheckConstraint(SOURCE_RULE, name="source"), Index("ix_bait_event_session", "session_id", "session_s"))
    id: Mapped[uuid.UUID] = mapped_column(Key, primary_key=True)
    source: Mapped[str] = mapped_column(Words(10))
    session_s: Mapped[float] = mapped_column(Double)
    doing: Mapped[str] = mapped_column(Words(10))
    ahead_m: Mapped[float] = mapped_column(Double)
    other_m: Mapped[float] = mapped_column(Double)
    before_m: Mapped[float] = mapped_column(Double)
    after_m: Mapped[float] = mapped_column(Double)
