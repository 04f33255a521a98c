"""What a sheet brought: catches and trips, kept as an owner's, all or none."""

import uuid
from collections.abc import Sequence
from dataclasses import replace
from typing import Any

from sqlalchemy import Engine, select
from sqlalchemy.dialects.postgresql import insert
from sqlalchemy.orm import Session

from mudlamp.core.records.log import TripRecord
from mudlamp.core.records.trips import Catch
from mudlamp.store.database import work
from mudlamp.store.models import CatchRow, SessionRow, TripRow
from mudlamp.store.scope import EVERYBODY


def put_brought(engine: Engine, owner: uuid.UUID, records: Sequence[Catch | TripRecord]) -> int:
    """Keep records as an owner's in one transaction; return how many.

    One that the owner has already by its key is written anew; one whose key is somebody else's gets another, the same each time.
    """
    with work(engine, EVERYBODY) as session:
        row: Any = CatchRow if isinstance(records[0], Catch) else TripRow
        others = set(session.scalars(select(row.id).where(row.id.in_([one.id for one in records]), row.owner.is_distinct_from(owner))))
        theirs = _theirs(session, owner)
        for one in records:
            mended = replace(one, id=uuid.uuid5(owner, str(one.id))) if one.id in others else one
            values = _values(mended, theirs)
            fresh = {name: value for name, value in values.items() if name not in ("id", "owner")} | {"deleted_at": None}
            session.execute(insert(row).values(values).on_conflict_do_update(index_elements=["id"], set_=fresh, where=row.owner == owner))
        return len(records)


def _theirs(session: Session, owner: uuid.UUID) -> dict[str, set[uuid.UUID]]:
    """Return the keys that an owner's rows may point at."""
    return {
        "trip_id": set(session.scalars(select(TripRow.id).where(TripRow.owner == owner))),
        "session_id": set(session.scalars(select(SessionRow.id).where(SessionRow.owner == owner))),
    }


def _values(one: Catch | TripRecord, theirs: dict[str, set[uuid.UUID]]) -> dict[str, Any]:
    values = {name: getattr(one, name) for name in type(one).__dataclass_fields__}
    if isinstance(one, TripRecord):
        values["people"] = list(one.people)
    for name, keys in theirs.items():
        if name in values and values[name] not in keys:
            values[name] = None
    return values
