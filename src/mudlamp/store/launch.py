"""Queries of the list before launch: one an owner."""

import datetime as dt
import uuid

from sqlalchemy import Engine, delete, select

from mudlamp.core.records.launch import LaunchList
from mudlamp.store.database import work
from mudlamp.store.models import LaunchRow


def launch_list(engine: Engine, owner: uuid.UUID) -> LaunchList | None:
    """Return the owner's list, or None before they made one."""
    with work(engine, owner) as session:
        row = session.scalars(select(LaunchRow).order_by(LaunchRow.changed_at.desc())).first()
        return None if row is None else LaunchList(items=tuple(row.items), done=tuple(row.done), day=row.day)


def put_launch_list(engine: Engine, owner: uuid.UUID, found: LaunchList, *, now: dt.datetime) -> None:
    """Keep the owner's list in the place of the one before."""
    with work(engine, owner) as session:
        session.execute(delete(LaunchRow), execution_options={"synchronize_session": False})
        session.add(LaunchRow(id=uuid.uuid4(), owner=owner, items=list(found.items), done=list(found.done), day=found.day, changed_at=now))
