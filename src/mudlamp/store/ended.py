"""Queries of where an angler ended with the controls of a card."""

import datetime as dt
import uuid

from sqlalchemy import Engine, delete, select

from mudlamp.core.advice.own_start import Ended, Kind
from mudlamp.core.controls import CONTROLS, Control
from mudlamp.store.database import work
from mudlamp.store.models import EndedRow

# The newest that count, of all controls.
KEPT = 200


def add_ended(engine: Engine, owner: uuid.UUID, ended: Ended, *, now: dt.datetime) -> None:
    """Keep where an angler ended with a control; of a day only the last, and no more than the newest that count."""
    name = ended.control.name
    with work(engine, owner) as session:
        session.execute(
            delete(EndedRow).where(EndedRow.control == name, EndedRow.day == ended.day), execution_options={"synchronize_session": False}
        )
        session.add(
            EndedRow(
                id=uuid.uuid4(),
                owner=owner,
                control=name,
                over=ended.over,
                clarity=ended.kind.clarity,
                technique=ended.kind.technique,
                light=ended.kind.light,
                day=ended.day,
                created_at=now,
            )
        )
        session.flush()
        newest = select(EndedRow.id).order_by(EndedRow.created_at.desc()).limit(KEPT)
        session.execute(delete(EndedRow).where(EndedRow.id.not_in(newest)), execution_options={"synchronize_session": False})


def ends(engine: Engine, owner: uuid.UUID) -> list[Ended]:
    """Return where an angler ended, oldest first."""
    with work(engine, owner) as session:
        rows = session.scalars(select(EndedRow).order_by(EndedRow.created_at)).all()
        return [
            Ended(
                control=CONTROLS[row.control],
                over=row.over,
                kind=Kind(clarity=row.clarity, technique=row.technique, light=row.light),
                day=row.day,
            )
            for row in rows
        ]


def forget_ends(engine: Engine, owner: uuid.UUID, control: Control) -> None:
    """Delete where an angler ended with a control."""
    with work(engine, owner) as session:
        session.execute(delete(EndedRow).where(EndedRow.control == control.name))
