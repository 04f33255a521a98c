"""Queries of what phones in the boat bring home, and of the packs that they take along."""

import datetime as dt
import uuid
from collections.abc import Sequence

from sqlalchemy import Engine, delete, select, update
from sqlalchemy.dialects.postgresql import insert
from sqlalchemy.orm import Session

from mudlamp.core.records.boat import BoatEntry, KeptPack
from mudlamp.core.records.rigs import Json
from mudlamp.store.database import work
from mudlamp.store.models import BoatEntryRow, PackRow


def set_pack(engine: Engine, owner: uuid.UUID, content: Json, *, now: dt.datetime) -> KeptPack:
    """Keep an owner's pack, the only one of theirs."""
    with work(engine, owner) as session:
        session.execute(delete(PackRow))
        row = PackRow(id=uuid.uuid4(), owner=owner, made_at=now, content=dict(content))
        session.add(row)
        session.flush()
        return KeptPack(id=row.id, made_at=row.made_at, content=row.content)


def newest_pack(engine: Engine, owner: uuid.UUID) -> KeptPack | None:
    """Return the owner's pack, or None."""
    with work(engine, owner) as session:
        row = session.scalars(select(PackRow).order_by(PackRow.made_at.desc())).first()
        return None if row is None else KeptPack(id=row.id, made_at=row.made_at, content=row.content)


def key_of(owner: uuid.UUID, given: uuid.UUID, *, again: str = "") -> uuid.UUID:
    """Return the key that an entry of a phone's key is kept under; `again` tells apart those that clash."""
    return uuid.uuid5(owner, f"{given}{again}")


def add_entries(engine: Engine, owner: uuid.UUID, entries: Sequence[BoatEntry], clash_keys: Sequence[uuid.UUID]) -> list[BoatEntry]:
    """Keep entries in one transaction and return them as they are kept: what is there already stays as it is.

    One that came before under the same key and says something else is kept beside it, under its clash key.
    """
    with work(engine, owner) as session:
        found = []
        for entry, clash_key in zip(entries, clash_keys, strict=True):
            key = key_of(owner, entry.id)
            _insert(session, owner, key, entry, None)
            row = session.get_one(BoatEntryRow, key)
            if not _same(row, entry):
                _insert(session, owner, clash_key, entry, key)
                row = session.get_one(BoatEntryRow, clash_key)
            found.append(_entry(row))
        return found


def _insert(session: Session, owner: uuid.UUID, key: uuid.UUID, entry: BoatEntry, clash_of: uuid.UUID | None) -> None:
    session.execute(
        insert(BoatEntryRow)
        .values(
            id=key,
            owner=owner,
            given=entry.id,
            device=entry.device,
            number=entry.number,
            kind=entry.kind,
            at=entry.at,
            offset_s=entry.offset_s,
            received_at=entry.received_at,
            values=dict(entry.values),
            clash_of=clash_of,
        )
        .on_conflict_do_nothing(index_elements=[BoatEntryRow.id])
    )


def _same(row: BoatEntryRow, entry: BoatEntry) -> bool:
    return row.kind == entry.kind and row.at == entry.at and row.values == dict(entry.values)


def entries(engine: Engine, owner: uuid.UUID, *, limit: int) -> list[BoatEntry]:
    """Return the owner's newest entries, oldest first, each device's in its own order where times are equal."""
    with work(engine, owner) as session:
        in_order = (BoatEntryRow.at.desc(), BoatEntryRow.number.desc(), BoatEntryRow.clash_of.is_not(None).desc())
        newest = select(BoatEntryRow).order_by(*in_order).limit(limit)
        return [_entry(row) for row in reversed(session.scalars(newest).all())]


def settle_clash(engine: Engine, owner: uuid.UUID, key: uuid.UUID, *, keep_first: bool, keep_second: bool) -> bool:
    """Settle a clash by the second entry's key: keep one or both; return whether there was one."""
    with work(engine, owner) as session:
        row = session.scalars(select(BoatEntryRow).where(BoatEntryRow.id == key, BoatEntryRow.clash_of.is_not(None))).first()
        if row is None:
            return False
        first = row.clash_of
        if keep_second:
            session.execute(update(BoatEntryRow).where(BoatEntryRow.id == key).values(clash_of=None))
        else:
            session.execute(delete(BoatEntryRow).where(BoatEntryRow.id == key))
        if not keep_first:
            session.execute(delete(BoatEntryRow).where(BoatEntryRow.id == first))
        return True


def _entry(row: BoatEntryRow) -> BoatEntry:
    return BoatEntry(
        id=row.id,
        device=row.device,
        number=row.number,
        kind=row.kind,
        at=row.at,
        offset_s=row.offset_s,
        received_at=row.received_at,
        values=row.values,
        clash_of=row.clash_of,
    )
