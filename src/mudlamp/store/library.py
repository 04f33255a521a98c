"""Queries of what somebody keeps: recordings and named set-ups."""

import datetime as dt
import uuid
from collections.abc import Mapping, Sequence

from sqlalchemy import Engine, delete, func, select
from sqlalchemy.dialects.postgresql import insert

from mudlamp.core.controls import Value
from mudlamp.core.records.library import NamedSetup, Recording
from mudlamp.store.database import work
from mudlamp.store.models import NamedSetupRow, RecordingRow
from mudlamp.store.scope import EVERYBODY, Whose


def _recording(row: RecordingRow) -> Recording:
    return Recording(**{name: getattr(row, name) for name in Recording.__slots__})


def _setup(row: NamedSetupRow) -> NamedSetup:
    return NamedSetup(**{name: getattr(row, name) for name in NamedSetup.__slots__})


def add_recording(engine: Engine, recording: Recording) -> None:
    """Save a recording's row; one of the same key is left as it is."""
    values = {name: getattr(recording, name) for name in Recording.__slots__}
    with work(engine) as session:
        session.execute(insert(RecordingRow).values(**values).on_conflict_do_nothing(index_elements=["id"]))


def recordings(engine: Engine, owner: Whose) -> list[Recording]:
    """Return somebody's recordings, newest first."""
    with work(engine, owner) as session:
        rows = session.scalars(select(RecordingRow).order_by(RecordingRow.created_at.desc()))
        return [_recording(row) for row in rows]


def recordings_of(engine: Engine, owner: Whose, sessions: Sequence[uuid.UUID]) -> list[Recording]:
    """Return somebody's recordings of sessions, by when they begin."""
    if not sessions:
        return []
    with work(engine, owner) as session:
        rows = session.scalars(select(RecordingRow).where(RecordingRow.session_id.in_(sessions)).order_by(RecordingRow.begins_s))
        return [_recording(row) for row in rows]


def recording(engine: Engine, owner: Whose, key: uuid.UUID) -> Recording | None:
    """Return one of somebody's recordings, or None."""
    with work(engine, owner) as session:
        row = session.scalars(select(RecordingRow).where(RecordingRow.id == key)).first()
        return None if row is None else _recording(row)


def stored_bytes(engine: Engine, owner: Whose) -> int:
    """Return how much somebody's recordings take [bytes]."""
    with work(engine, owner) as session:
        return int(session.scalar(select(func.coalesce(func.sum(RecordingRow.size_bytes), 0))) or 0)


def set_expiry(engine: Engine, owner: Whose, key: uuid.UUID, expires_at: dt.datetime | None) -> Recording | None:
    """Keep a recording (None), or let it go at a time; return it, or None where there is none of that key."""
    with work(engine, owner) as session:
        row = session.scalars(select(RecordingRow).where(RecordingRow.id == key)).first()
        if row is None:
            return None
        row.expires_at = expires_at
        session.flush()
        return _recording(row)


def remove_recording(engine: Engine, owner: Whose, key: uuid.UUID) -> bool:
    """Delete a recording's row; return whether there was one."""
    with work(engine, owner) as session:
        done = session.execute(delete(RecordingRow).where(RecordingRow.id == key).returning(RecordingRow.id))
        return done.first() is not None


def expired(engine: Engine, now: dt.datetime) -> list[Recording]:
    """Return the recordings whose time is over."""
    with work(engine, EVERYBODY) as session:
        return [_recording(row) for row in session.scalars(select(RecordingRow).where(RecordingRow.expires_at < now))]


def save_setup(engine: Engine, owner: uuid.UUID, name: str, values: Mapping[str, Value], *, now: dt.datetime) -> NamedSetup:
    """Save a set-up under a name; the same name again takes the new values."""
    with work(engine, owner) as session:
        saved = insert(NamedSetupRow).values(id=uuid.uuid4(), owner=owner, name=name, values=dict(values), created_at=now)
        statement = saved.on_conflict_do_update(constraint="one_setup_name_an_owner", set_={"values": dict(values), "created_at": now})
        row = session.scalars(statement.returning(NamedSetupRow)).one()
        return _setup(row)


def setups(engine: Engine, owner: Whose) -> list[NamedSetup]:
    """Return somebody's named set-ups by name."""
    with work(engine, owner) as session:
        rows = session.scalars(select(NamedSetupRow).order_by(NamedSetupRow.name))
        return [_setup(row) for row in rows]


def remove_setup(engine: Engine, owner: Whose, key: uuid.UUID) -> bool:
    """Delete a named set-up; return whether there was one."""
    with work(engine, owner) as session:
        done = session.execute(delete(NamedSetupRow).where(NamedSetupRow.id == key).returning(NamedSetupRow.id))
        return done.first() is not None
