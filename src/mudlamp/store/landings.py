"""Queries of where an angler's casts landed."""

import datetime as dt
import uuid

from sqlalchemy import Engine, delete, select

from mudlamp.core.casting.habit import KEPT, Landing
from mudlamp.store.database import work
from mudlamp.store.models import LandingRow

MOST = 2000


def add_landing(engine: Engine, owner: uuid.UUID, landing: Landing, *, now: dt.datetime) -> None:
    """Keep where a cast landed: the newest MOST, which the review shows; a habit stands on fewer."""
    with work(engine, owner) as session:
        session.add(
            LandingRow(
                id=uuid.uuid4(),
                owner=owner,
                aimed_m=landing.aimed_m,
                landed_m=landing.landed_m,
                off_rad=landing.off_rad,
                created_at=now,
            )
        )
        session.flush()
        newest = select(LandingRow.id).order_by(LandingRow.created_at.desc()).limit(MOST)
        session.execute(delete(LandingRow).where(LandingRow.id.not_in(newest)), execution_options={"synchronize_session": False})


def newest_landings(engine: Engine, owner: uuid.UUID) -> list[Landing]:
    """Return where the owner's newest casts landed, newest last."""
    with work(engine, owner) as session:
        rows = session.scalars(select(LandingRow).order_by(LandingRow.created_at.desc()).limit(KEPT)).all()
        return [Landing(aimed_m=row.aimed_m, landed_m=row.landed_m, off_rad=row.off_rad) for row in reversed(rows)]


def forget_landings(engine: Engine, owner: uuid.UUID) -> None:
    """Delete where all of the owner's casts landed."""
    with work(engine, owner) as session:
        session.execute(delete(LandingRow))
