"""Queries of set-up cards: the newest is the one that is set; those with a name are baselines, and one name's cards are its history."""

import datetime as dt
import uuid
from collections.abc import Mapping

from sqlalchemy import Engine, delete, select, update

from mudlamp.core.controls import Value
from mudlamp.core.records.cards import KeptCard
from mudlamp.core.records.rigs import Json
from mudlamp.store.database import work
from mudlamp.store.models import CardRow

# A copy must not pass for the card that is set.
JUST_BEFORE = dt.timedelta(milliseconds=1)


def _card(row: CardRow) -> KeptCard:
    return KeptCard(**{name: getattr(row, name) for name in KeptCard.__slots__})


def add_card(
    engine: Engine,
    owner: uuid.UUID,
    *,
    rig_id: uuid.UUID | None,
    parent_id: uuid.UUID | None,
    style: str,
    answers: Json,
    plan: Json,
    values: Mapping[str, Value],
    now: dt.datetime,
) -> KeptCard:
    """Save a new card."""
    with work(engine, owner) as session:
        row = CardRow(
            id=uuid.uuid4(), owner=owner, rig_id=rig_id, parent_id=parent_id, name=None, style=style, answers=dict(answers),
            plan=dict(plan), values=dict(values), costs=None, tuned=None, created_at=now, noticed_at=None,
        )  # fmt: skip
        session.add(row)
        session.flush()
        return _card(row)


def card(engine: Engine, owner: uuid.UUID, key: uuid.UUID) -> KeptCard | None:
    """Return one of the owner's cards, or None."""
    with work(engine, owner) as session:
        row = session.scalars(select(CardRow).where(CardRow.id == key)).first()
        return None if row is None else _card(row)


def newest_card(engine: Engine, owner: uuid.UUID) -> KeptCard | None:
    """Return the owner's newest card, or None."""
    with work(engine, owner) as session:
        row = session.scalars(select(CardRow).order_by(CardRow.created_at.desc()).limit(1)).first()
        return None if row is None else _card(row)


def baselines(engine: Engine, owner: uuid.UUID) -> list[KeptCard]:
    """Return the owner's named cards by name, each name's newest first."""
    with work(engine, owner) as session:
        query = select(CardRow).where(CardRow.name.is_not(None))
        return [_card(row) for row in session.scalars(query.order_by(CardRow.name, CardRow.created_at.desc()))]


def set_name(engine: Engine, owner: uuid.UUID, key: uuid.UUID, name: str | None) -> KeptCard | None:
    """Name a card (or take its name away); return it, or None where there is none of that key."""
    return _change(engine, owner, key, name=name)


def set_values(engine: Engine, owner: uuid.UUID, key: uuid.UUID, values: Mapping[str, Value]) -> KeptCard | None:
    """Keep other values as those that are set."""
    return _change(engine, owner, key, values=dict(values))


def set_costs(engine: Engine, owner: uuid.UUID, key: uuid.UUID, costs: Json) -> KeptCard | None:
    """Keep a card's measured costs."""
    return _change(engine, owner, key, costs=dict(costs))


def set_tuned(engine: Engine, owner: uuid.UUID, key: uuid.UUID, tuned: Json) -> KeptCard | None:
    """Keep what auto-tune found for a card."""
    return _change(engine, owner, key, tuned=dict(tuned))


def set_noticed(engine: Engine, owner: uuid.UUID, key: uuid.UUID, at: dt.datetime) -> KeptCard | None:
    """Note that the angler was shown that a card has grown stale."""
    return _change(engine, owner, key, noticed_at=at)


def _change(engine: Engine, owner: uuid.UUID, key: uuid.UUID, **values: object) -> KeptCard | None:
    with work(engine, owner) as session:
        query = update(CardRow).where(CardRow.id == key).values(**values).returning(CardRow)
        row = session.scalars(query).first()
        return None if row is None else _card(row)


def copy_card(engine: Engine, owner: uuid.UUID, key: uuid.UUID, name: str) -> KeptCard | None:
    """Save a copy of a card under a name, as old as the card itself; return it, or None where there is none of that key."""
    with work(engine, owner) as session:
        row = session.scalars(select(CardRow).where(CardRow.id == key)).first()
        if row is None:
            return None
        values = {one.name: getattr(row, one.name) for one in CardRow.__table__.columns}
        copy = CardRow(**(values | {"id": uuid.uuid4(), "name": name, "created_at": row.created_at - JUST_BEFORE, "noticed_at": None}))
        session.add(copy)
        session.flush()
        return _card(copy)


def remove_card(engine: Engine, owner: uuid.UUID, key: uuid.UUID) -> bool:
    """Delete a card; return whether there was one."""
    with work(engine, owner) as session:
        return session.execute(delete(CardRow).where(CardRow.id == key).returning(CardRow.id)).first() is not None
