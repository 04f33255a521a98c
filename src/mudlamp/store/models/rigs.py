"""The tables of rigs, what is in the box, and cards with where their controls ended."""

import datetime as dt
import uuid
from typing import Any

from sqlalchemy import (
    Boolean,
    Date,
    Double,
    ForeignKey,
    Index,
    Integer,
    String,
    UniqueConstraint,
    text,
)
from sqlalchemy.orm import Mapped, mapped_column

from mudlamp.store.models.base import (
    Base,
    Key,
    Moment,
    OfRig,
    Owned,
    Values,
    Words,
)


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
