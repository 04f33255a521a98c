"""Queries of rigs: the profiles, their lure boxes and rods. An owner is who fishes, or the browser while nobody said."""

import datetime as dt
import uuid
from collections.abc import Sequence
from dataclasses import fields
from typing import Any

from sqlalchemy import Engine, delete, func, select, update
from sqlalchemy.dialects.postgresql import insert
from sqlalchemy.exc import IntegrityError
from sqlalchemy.orm import Session

from mudlamp.core.errors import ConflictError, DomainError
from mudlamp.core.records.rigs import Json, KeptLure, KeptRig, KeptRod
from mudlamp.store.database import work
from mudlamp.store.models import CardRow, LureRow, RigRow, RodRow
from mudlamp.store.names import free_name
from mudlamp.store.scope import EVERYBODY, Whose

TAKEN = "you have a rig of that name already, it must be another"


def _rig(row: RigRow) -> KeptRig:
    return KeptRig(**{name: getattr(row, name) for name in KeptRig.__slots__})


def _lure(row: LureRow) -> KeptLure:
    return KeptLure(**{name: getattr(row, name) for name in KeptLure.__slots__})


def _rod(row: RodRow) -> KeptRod:
    return KeptRod(**{name: getattr(row, name) for name in KeptRod.__slots__})


def rigs(engine: Engine, owner: Whose) -> list[KeptRig]:
    """Return an owner's rigs by name."""
    with work(engine, owner) as session:
        return [_rig(row) for row in session.scalars(select(RigRow).order_by(RigRow.name))]


def active_rig(engine: Engine, owner: uuid.UUID) -> KeptRig | None:
    """Return the owner's active rig, or None."""
    with work(engine, owner) as session:
        row = session.scalars(select(RigRow).where(RigRow.active)).first()
        return None if row is None else _rig(row)


def rig(engine: Engine, owner: Whose, key: uuid.UUID) -> KeptRig | None:
    """Return one of the owner's rigs, or None."""
    with work(engine, owner) as session:
        row = _own(session, key)
        return None if row is None else _rig(row)


def _own(session: Session, key: uuid.UUID, *, lock: bool = False) -> RigRow | None:
    query = select(RigRow).where(RigRow.id == key)
    return session.scalars(query.with_for_update() if lock else query).first()


def add_rig(engine: Engine, owner: uuid.UUID, name: str, values: Json, *, now: dt.datetime) -> KeptRig:
    """Save a new rig and make it the active one; raise DomainError where the owner has one of that name."""
    try:
        with work(engine, owner) as session:
            session.execute(update(RigRow).values(active=False))
            row = RigRow(
                id=uuid.uuid4(), owner=owner, name=name, active=True, version=1, values=dict(values), created_at=now, changed_at=now
            )
            session.add(row)
            session.flush()
            return _rig(row)
    except IntegrityError:
        raise DomainError(f"name is {name}: {TAKEN}") from None


def copy_rig(engine: Engine, owner: uuid.UUID, source: uuid.UUID, name: str, *, now: dt.datetime) -> KeptRig | None:
    """Save a copy of one of the owner's rigs, or of nobody's, box and rods with it, as the active one; None where there is none of that key.

    Raises DomainError where the owner has one of that name.
    """
    with work(engine, owner, and_nobodys=True) as session:
        found = _own(session, source)
        if found is None:
            return None
        values = found.values
        lures = session.scalars(select(LureRow).where(LureRow.rig_id == source)).all()
        rods = session.scalars(select(RodRow).where(RodRow.rig_id == source)).all()
        boxed = [_columns(lure) for lure in lures]
        aboard = [_columns(rod) for rod in rods]
    try:
        with work(engine, owner) as session:
            session.execute(update(RigRow).values(active=False))
            made = RigRow(id=uuid.uuid4(), owner=owner, name=name, active=True, version=1, values=values, created_at=now, changed_at=now)
            session.add(made)
            session.flush()
            _add_box(session, made.id, boxed, aboard)
            return _rig(made)
    except IntegrityError:
        raise DomainError(f"name is {name}: {TAKEN}") from None


def _add_box(session: Session, rig_id: uuid.UUID, boxed: Sequence[dict[str, Any]], aboard: Sequence[dict[str, Any]]) -> None:
    """Add copies of lures and rods to a rig, each rod with its lure."""
    keys: dict[uuid.UUID | None, uuid.UUID | None] = {None: None}
    for lure in boxed:
        keys[lure["id"]] = uuid.uuid4()
        session.add(LureRow(**(lure | {"id": keys[lure["id"]], "rig_id": rig_id})))
    session.flush()
    for rod in aboard:
        session.add(RodRow(**(rod | {"id": uuid.uuid4(), "rig_id": rig_id, "lure_id": keys[rod["lure_id"]]})))


def _columns(row: LureRow | RodRow) -> dict[str, Any]:
    return {one.name: getattr(row, one.name) for one in row.__table__.columns}


def activate(engine: Engine, owner: uuid.UUID, key: uuid.UUID) -> KeptRig | None:
    """Make one of the owner's rigs the active one; return it, or None where there is none of that key."""
    with work(engine, owner) as session:
        row = _own(session, key, lock=True)
        if row is None:
            return None
        session.execute(update(RigRow).where(RigRow.id != key).values(active=False))
        row.active = True
        session.flush()
        return _rig(row)


def change_rig(engine: Engine, owner: uuid.UUID, key: uuid.UUID, values: Json, *, version: int | None, now: dt.datetime) -> KeptRig | None:
    """Save a rig's parts; None where there is none of that key. Raises ConflictError where another hand changed it since `version`."""
    with work(engine, owner) as session:
        row = _own(session, key, lock=True)
        if row is None:
            return None
        if version is not None and row.version != version:
            raise ConflictError("this rig was changed somewhere else: reload the page and make your change again")
        row.values, row.version, row.changed_at = dict(values), row.version + 1, now
        session.flush()
        return _rig(row)


def remove_rig(engine: Engine, owner: uuid.UUID, key: uuid.UUID) -> bool:
    """Delete a rig with its box and rods; where it was active the newest of the others becomes so. Return whether there was one."""
    with work(engine, owner) as session:
        row = _own(session, key, lock=True)
        if row is None:
            return False
        was_active = row.active
        session.delete(row)
        session.flush()
        heir = session.scalars(select(RigRow).order_by(RigRow.changed_at.desc()).limit(1)).first()
        if was_active and heir is not None:
            heir.active = True
        return True


def lures(engine: Engine, owner: Whose, rig_id: uuid.UUID) -> list[KeptLure]:
    """Return a rig's lure box, oldest first."""
    with work(engine, owner) as session:
        return [
            _lure(row) for row in session.scalars(select(LureRow).where(LureRow.rig_id == rig_id).order_by(LureRow.created_at, LureRow.id))
        ]


def add_lure(engine: Engine, owner: uuid.UUID, lure: KeptLure) -> None:
    """Put a lure into its rig's box; one of the same key is left as it is."""
    with work(engine, owner) as session:
        session.execute(insert(LureRow).values(**_fields(lure)).on_conflict_do_nothing(index_elements=["id"]))


def remove_lure(engine: Engine, owner: uuid.UUID, rig_id: uuid.UUID, key: uuid.UUID) -> bool:
    """Take a lure out of a rig's box; a rod that had it has none then. Return whether there was one."""
    with work(engine, owner) as session:
        return session.execute(delete(LureRow).where(LureRow.id == key, LureRow.rig_id == rig_id).returning(LureRow.id)).first() is not None


def rods(engine: Engine, owner: Whose, rig_id: uuid.UUID) -> list[KeptRod]:
    """Return a rig's rods, oldest first."""
    with work(engine, owner) as session:
        return [_rod(row) for row in session.scalars(select(RodRow).where(RodRow.rig_id == rig_id).order_by(RodRow.created_at, RodRow.id))]


def add_rod(engine: Engine, owner: uuid.UUID, rod: KeptRod) -> None:
    """Put a rod aboard its rig; the first is in hand. One of the same key is left as it is."""
    with work(engine, owner) as session:
        first = session.scalar(select(func.count()).select_from(RodRow).where(RodRow.rig_id == rod.rig_id)) == 0
        statement = insert(RodRow).values(**(_fields(rod) | {"in_hand": first}))
        session.execute(statement.on_conflict_do_nothing(index_elements=["id"]))


def _fields(record: KeptLure | KeptRod) -> dict[str, object]:
    return {one.name: getattr(record, one.name) for one in fields(record)}


def tie(engine: Engine, owner: uuid.UUID, rig_id: uuid.UUID, rod_id: uuid.UUID, lure_id: uuid.UUID | None) -> bool:
    """Tie a lure of the box on a rod, or none, and take that rod in hand; return whether there are such a rod and lure."""
    with work(engine, owner) as session:
        row = session.scalars(select(RodRow).where(RodRow.id == rod_id, RodRow.rig_id == rig_id)).first()
        if row is None:
            return False
        if lure_id is not None:
            found = session.scalars(select(LureRow).where(LureRow.id == lure_id, LureRow.rig_id == rig_id)).first()
            if found is None:
                return False
        session.execute(update(RodRow).where(RodRow.rig_id == rig_id).values(in_hand=False))
        row.lure_id, row.in_hand = lure_id, True
        return True


def remove_rod(engine: Engine, owner: uuid.UUID, rig_id: uuid.UUID, key: uuid.UUID) -> bool:
    """Take a rod off the boat; return whether there was one."""
    with work(engine, owner) as session:
        return session.execute(delete(RodRow).where(RodRow.id == key, RodRow.rig_id == rig_id).returning(RodRow.id)).first() is not None


def adopt(engine: Engine, device: uuid.UUID, angler: uuid.UUID) -> None:
    """Give what a browser made before anybody said who fishes to the angler: rigs (renamed where the name is taken) and cards."""
    with work(engine, EVERYBODY) as session:
        taken = set(session.scalars(select(RigRow.name).where(RigRow.owner == angler)))
        has_active = session.scalar(select(func.count()).select_from(RigRow).where(RigRow.owner == angler, RigRow.active)) or 0
        for row in session.scalars(select(RigRow).where(RigRow.owner == device)):
            row.active = row.active and not has_active
            row.name = free_name(row.name, taken)
            taken.add(row.name)
            row.owner = angler
        session.execute(update(CardRow).where(CardRow.owner == device).values(owner=angler))
