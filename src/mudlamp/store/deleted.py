"""Deleting, which can be undone for thirty days, and then really deletes."""

import datetime as dt
import uuid
from collections.abc import Mapping
from dataclasses import dataclass

from sqlalchemy import Engine, delete, select, update
from sqlalchemy.orm import Session

from mudlamp.store.database import work
from mudlamp.store.models import CatchRow, SessionRow, SpotRow, TripRow
from mudlamp.store.scope import EVERYBODY

KEPT = dt.timedelta(days=30)
Row = type[TripRow] | type[SessionRow] | type[SpotRow] | type[CatchRow]
ROWS: Mapping[str, Row] = {"trip": TripRow, "session": SessionRow, "catch": CatchRow, "spot": SpotRow}
_QUIET = {"synchronize_session": False}


@dataclass(frozen=True, slots=True, kw_only=True)
class Deleted:
    """Something that was deleted: what kind, its name, when; what went along with it is not told by itself."""

    kind: str
    id: uuid.UUID
    name: str
    deleted_at: dt.datetime


def put_away(engine: Engine, owner: uuid.UUID, kind: str, key: uuid.UUID, *, now: dt.datetime) -> bool:
    """Delete something of the owner's for now, a trip with its sessions and catches; return whether there was such a thing."""
    row = ROWS[kind]
    with work(engine, owner) as session:
        found = session.execute(update(row).where(row.id == key, row.owner == owner).values(deleted_at=now), execution_options=_QUIET)
        if not found.rowcount:  # type: ignore[attr-defined]
            return False
        for along in (SessionRow, CatchRow) if kind == "trip" else ():
            session.execute(update(along).where(along.trip_id == key).values(deleted_at=now), execution_options=_QUIET)
        return True


def bring_back(engine: Engine, owner: uuid.UUID, kind: str, key: uuid.UUID) -> bool:
    """Bring something of the owner's back, a trip with what went along with it; return whether there was such a thing."""
    row = ROWS[kind]
    with work(engine, owner, and_deleted=True) as session:
        at = session.scalars(select(row.deleted_at).where(row.id == key, row.deleted_at.is_not(None))).first()
        if at is None:
            return False
        session.execute(update(row).where(row.id == key).values(deleted_at=None), execution_options=_QUIET)
        for along in (SessionRow, CatchRow) if kind == "trip" else ():
            session.execute(
                update(along).where(along.trip_id == key, along.deleted_at == at).values(deleted_at=None), execution_options=_QUIET
            )
        return True


def deleted(engine: Engine, owner: uuid.UUID) -> list[Deleted]:
    """Return what of the owner's can be brought back, the newest first; what went along with a trip comes back with it."""
    with work(engine, owner, and_deleted=True) as session:
        found = [one for kind in ROWS for one in _deleted(session, kind)]
    return sorted(found, key=lambda one: one.deleted_at, reverse=True)


def _deleted(session: Session, kind: str) -> list[Deleted]:
    row = ROWS[kind]
    query = select(row).where(row.deleted_at.is_not(None))
    if row is SessionRow or row is CatchRow:
        gone_trips = select(TripRow.id).where(TripRow.deleted_at == row.deleted_at, TripRow.id == row.trip_id)
        query = query.where(~gone_trips.exists())
    found = [one for one in session.scalars(query) if isinstance(one, TripRow | SessionRow | SpotRow | CatchRow)]
    return [Deleted(kind=kind, id=one.id, name=_name(one), deleted_at=one.deleted_at) for one in found if one.deleted_at is not None]


def _name(one: TripRow | SessionRow | SpotRow | CatchRow) -> str:
    if isinstance(one, SpotRow):
        return f"{one.kind} {one.note}".strip()
    return one.species if isinstance(one, CatchRow) else one.title


def purge(engine: Engine, *, now: dt.datetime) -> int:
    """Really delete what was deleted thirty days ago or before; return how many rows of those kinds."""
    with work(engine, EVERYBODY) as session:
        return sum(
            session.execute(delete(row).where(row.deleted_at <= now - KEPT), execution_options=_QUIET).rowcount  # type: ignore[attr-defined]
            for row in ROWS.values()
        )
