"""What all tables share: kinds of columns, and what makes a row somebody's, a trip's, a session's, a rig's, deletable."""

import datetime as dt
import uuid
from collections.abc import Mapping
from typing import Any

from sqlalchemy import (
    Computed,
    DateTime,
    Dialect,
    ForeignKey,
    String,
    Text,
    TypeDecorator,
)
from sqlalchemy.dialects.postgresql import JSONB, TSVECTOR, UUID
from sqlalchemy.orm import DeclarativeBase, Mapped, mapped_column

from mudlamp.core.texts import mended

SOURCE_RULE = "source in ('demo', 'simulated', 'recorded', 'real')"

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


class ListOfValues(Values):
    """A JSON list of objects, all texts in it mended."""

    cache_ok = True


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


def searched(*texts: str) -> Mapped[str]:
    """Return a column of the words of texts (SQL expressions), which the database keeps by itself."""
    joined = " || ' ' || ".join(texts)
    return mapped_column(TSVECTOR, Computed(f"to_tsvector('english', {joined})", persisted=True), deferred=True)


class OfSession:
    """A row that belongs to a session, and to its owner."""

    session_id: Mapped[uuid.UUID] = mapped_column(ForeignKey("session.id", ondelete="CASCADE"))


class OfRig:
    """A row that belongs to a rig, and to its owner."""

    rig_id: Mapped[uuid.UUID] = mapped_column(ForeignKey("rig.id", ondelete="CASCADE"))
