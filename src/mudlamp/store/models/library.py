"""The tables of what somebody keeps: recordings, named set-ups."""

import datetime as dt
import uuid
from typing import Any

from sqlalchemy import (
    BigInteger,
    CheckConstraint,
    Double,
    Index,
    Integer,
    UniqueConstraint,
)
from sqlalchemy.orm import Mapped, mapped_column

from mudlamp.store.models.base import (
    SOURCE_RULE,
    Base,
    Key,
    Moment,
    Owned,
    Values,
    Words,
)


class RecordingRow(Owned, Base):
    """A recording in the library: its file is `<id>.nc` in the recordings folder. Without `expires_at` it is kept."""

    __tablename__ = "recording"
    __table_args__ = (CheckConstraint(SOURCE_RULE, name="source"), Index("ix_recording_owner", "owner", "created_at"))
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
