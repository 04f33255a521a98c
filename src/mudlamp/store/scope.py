"""Whose things a query sees: one rule for everything that is kept, laid over every statement of a transaction.

What somebody made is theirs: who fishes, else the browser's own key. What belongs to nobody (the demo) may be read by those who ask for it,
and is changed by no request. What was deleted is seen by those alone who ask for what can be brought back.
"""

import enum
import uuid
from collections.abc import Mapping
from functools import lru_cache
from typing import cast

from sqlalchemy import ClauseElement, ColumnElement, Executable, SQLColumnExpression, Table, and_, event, or_, select
from sqlalchemy.orm import ORMExecuteState, Session, class_mapper, with_loader_criteria
from sqlalchemy.sql import visitors
from sqlalchemy.sql.base import ExecutableOption

from mudlamp.store.models import OfRig, OfSession, OfTrip, Owned, RigRow, SessionRow, TripRow


class Everybody(enum.Enum):
    """For the application's own chores: sweeping, the demo, what a crash left."""

    EVERYBODY = "everybody"


EVERYBODY = Everybody.EVERYBODY
Whose = uuid.UUID | Everybody


def lay_over(session: Session, whose: Whose | None, *, and_nobodys: bool = False, and_deleted: bool = False) -> None:
    """Keep a transaction to somebody's things (with nobody's, where asked for); without a `whose` it must touch nothing that has an owner."""
    options = {} if whose is None or whose is EVERYBODY else _criteria(whose, and_nobodys=and_nobodys, and_deleted=and_deleted)

    def before(state: ORMExecuteState) -> None:
        if not (state.is_select or state.is_update or state.is_delete):
            return
        if whose is None and any(issubclass(mapper.class_, Owned | OfSession | OfRig | OfTrip) for mapper in state.all_mappers):
            raise LookupError("a query of things that have an owner must say whose it asks for")
        # Those alone that the statement touches: to weigh all of them took longer than most queries.
        state.statement = state.statement.options(*(options[name] for name in tables_in(state.statement) if name in options))

    event.listen(session, "do_orm_execute", before)


def tables_in(statement: Executable) -> list[str]:
    """Return the names of all tables that a statement touches, within selects of selects too, in their order."""
    return sorted({one.name for one in visitors.iterate(cast(ClauseElement, statement)) if isinstance(one, Table)})


def _table_of(row: type[object]) -> Table:
    return cast(Table, class_mapper(row).local_table)


# They never change, and making them anew took longer than most of the queries that they are laid over.
@lru_cache(maxsize=512)
def _criteria(owner: uuid.UUID, *, and_nobodys: bool, and_deleted: bool) -> Mapping[str, ExecutableOption]:
    """Return what is laid over a statement, by the table that it touches."""

    def is_theirs(column: SQLColumnExpression[uuid.UUID | None]) -> ColumnElement[bool]:
        return or_(column == owner, column.is_(None)) if and_nobodys else column == owner

    def is_there(row: Table | type[Owned]) -> ColumnElement[bool]:
        columns = row.c if isinstance(row, Table) else row
        theirs = is_theirs(columns.owner)
        return theirs if and_deleted or not hasattr(columns, "deleted_at") else and_(theirs, columns.deleted_at.is_(None))

    # Plain conditions on each table: one in a function would be kept with the owner it was first asked for.
    found: dict[str, ExecutableOption] = {
        _table_of(row).name: with_loader_criteria(row, is_there(row), include_aliases=True) for row in Owned.__subclasses__()
    }
    for kind, parent, name in ((OfSession, SessionRow, "session_id"), (OfRig, RigRow, "rig_id"), (OfTrip, TripRow, "trip_id")):
        table = _table_of(parent)
        theirs = select(table.c.id).where(is_there(table))
        for row in kind.__subclasses__():
            found[_table_of(row).name] = with_loader_criteria(row, getattr(row, name).in_(theirs), include_aliases=True)
    return found
