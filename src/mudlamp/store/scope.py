"""Whose things a query sees: one rule for everything that is kept, laid over every statement of a transaction.

What somebody made is theirs: who fishes, else the browser's own key. What belongs to nobody (the demo) may be read by those who ask for it,
and is changed by no request.
"""

import enum
import uuid

from sqlalchemy import ColumnElement, SQLColumnExpression, event, or_, select
from sqlalchemy.orm import ORMExecuteState, Session, with_loader_criteria
from sqlalchemy.sql.base import ExecutableOption

from mudlamp.store.models import OfRig, OfSession, Owned, RigRow, SessionRow


class Everybody(enum.Enum):
    """For the application's own chores: sweeping, the demo, what a crash left."""

    EVERYBODY = "everybody"


EVERYBODY = Everybody.EVERYBODY
Whose = uuid.UUID | Everybody


def lay_over(session: Session, whose: Whose | None, *, and_nobodys: bool = False) -> None:
    """Keep a transaction to somebody's things (with nobody's, where asked for); without a `whose` it must touch nothing that has an owner."""
    options = [] if whose is None or whose is EVERYBODY else _criteria(whose, and_nobodys=and_nobodys)

    def before(state: ORMExecuteState) -> None:
        if not (state.is_select or state.is_update or state.is_delete):
            return
        if whose is None and any(issubclass(mapper.class_, Owned | OfSession | OfRig) for mapper in state.all_mappers):
            raise LookupError("a query of things that have an owner must say whose it asks for")
        state.statement = state.statement.options(*options)

    event.listen(session, "do_orm_execute", before)


def _criteria(owner: uuid.UUID, *, and_nobodys: bool) -> list[ExecutableOption]:
    def is_theirs(column: SQLColumnExpression[uuid.UUID | None]) -> ColumnElement[bool]:
        return or_(column == owner, column.is_(None)) if and_nobodys else column == owner

    sessions, rigs = SessionRow.__table__.c, RigRow.__table__.c
    theirs_of_sessions = select(sessions.id).where(is_theirs(sessions.owner))
    theirs_of_rigs = select(rigs.id).where(is_theirs(rigs.owner))
    # Plain conditions on each table: one in a function would be kept with the owner it was first asked for.
    return [
        *(with_loader_criteria(row, is_theirs(row.owner), include_aliases=True) for row in Owned.__subclasses__()),
        *(with_loader_criteria(row, row.session_id.in_(theirs_of_sessions), include_aliases=True) for row in OfSession.__subclasses__()),
        *(with_loader_criteria(row, row.rig_id.in_(theirs_of_rigs), include_aliases=True) for row in OfRig.__subclasses__()),
    ]
