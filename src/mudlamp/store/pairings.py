"""Queries of which devices are let in from other machines."""

import uuid

from sqlalchemy import Engine, delete, select

from mudlamp.core.records.boat import Pairing
from mudlamp.store.database import work
from mudlamp.store.models import PairingRow


def add_pairing(engine: Engine, pairing: Pairing) -> None:
    """Let a device in, as one angler at a time."""
    with work(engine) as session:
        session.execute(delete(PairingRow).where(PairingRow.device == pairing.device))
        session.add(PairingRow(id=pairing.id, device=pairing.device, angler=pairing.angler, name=pairing.name, paired_at=pairing.paired_at))


def pairings(engine: Engine, angler: uuid.UUID | None) -> list[Pairing]:
    """Return the devices that are let in, as one angler or (None) as any, newest first."""
    with work(engine) as session:
        query = select(PairingRow).order_by(PairingRow.paired_at.desc())
        rows = session.scalars(query if angler is None else query.where(PairingRow.angler == angler)).all()
        return [Pairing(id=row.id, device=row.device, angler=row.angler, name=row.name, paired_at=row.paired_at) for row in rows]


def revoke(engine: Engine, angler: uuid.UUID, key: uuid.UUID) -> bool:
    """Turn one of an angler's devices away; return whether there was one."""
    with work(engine) as session:
        query = delete(PairingRow).where(PairingRow.id == key, PairingRow.angler == angler).returning(PairingRow.id)
        return session.execute(query).first() is not None
