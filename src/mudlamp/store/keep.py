"""All rows of an owner, table by table: for files that they take along, and for archives."""

import contextlib
import datetime as dt
import uuid
from collections.abc import Iterator, Mapping, Sequence
from typing import Any, cast

from sqlalchemy import ARRAY, Boolean, Column, Date, DateTime, Double, Engine, ForeignKey, Integer, Select, Table, select, text
from sqlalchemy.dialects.postgresql import JSONB, UUID, insert
from sqlalchemy.exc import DataError, IntegrityError
from sqlalchemy.orm import Session

from mudlamp.core.errors import DomainError
from mudlamp.store.database import NEWEST, work
from mudlamp.store.models import AnglerRow, Base, OfRig, OfSession, OfTrip, Owned, RigRow, SessionRow, TripRow
from mudlamp.store.models.base import ListOfValues
from mudlamp.store.scope import EVERYBODY

SCHEMA = NEWEST
MANY_ROWS = 1000
_PARENTS: Mapping[type, tuple[type[Base], str]] = {
    OfSession: (SessionRow, "session_id"),
    OfRig: (RigRow, "rig_id"),
    OfTrip: (TripRow, "trip_id"),
}
Values = dict[str, Any]


def _classes() -> dict[str, type[Base]]:
    """Return the mapped classes of an owner's tables by name, parents before children."""
    by_table = {mapper.local_table.name: mapper.class_ for mapper in Base.registry.mappers}  # type: ignore[attr-defined]
    order = [table.name for table in Base.metadata.sorted_tables]
    return {name: by_table[name] for name in order if issubclass(by_table[name], Owned | OfSession | OfRig | OfTrip)}


CLASSES = _classes()


def columns_of(name: str) -> list[Column[Any]]:
    """Return the columns of a table that are kept: all but what the database computes."""
    return [one for one in _table(name).columns if one.computed is None]


def _table(name: str) -> Table:
    return cast(Table, CLASSES[name].__table__)


def python_type(column: Column[Any]) -> type:
    """Return the Python type of a column's values."""
    for kind, found in ((UUID, uuid.UUID), (DateTime, dt.datetime), (Date, dt.date), (Boolean, bool), (Double, float), (Integer, int)):
        if isinstance(column.type, kind):
            return found
    return list if isinstance(column.type, ARRAY | ListOfValues) else dict if isinstance(_base(column), JSONB) else str


def _base(column: Column[Any]) -> Any:
    return getattr(column.type, "impl_instance", column.type)


def rows_of(engine: Engine, owner: uuid.UUID, name: str, *, and_deleted: bool) -> list[Values]:
    """Return an owner's rows of a table by key, as plain values by column."""
    with work(engine, EVERYBODY) as session:
        return list(_rows(session, owner, name, and_deleted=and_deleted))


def all_rows(engine: Engine, owner: uuid.UUID) -> Iterator[tuple[str, Values]]:
    """Yield all of an owner's rows with their table's name, parents before children, all of one moment."""
    with work(engine, EVERYBODY) as session:
        session.connection(execution_options={"isolation_level": "REPEATABLE READ"})
        for name in CLASSES:
            for values in _rows(session, owner, name, and_deleted=True):
                yield name, values


def _rows(session: Session, owner: uuid.UUID, name: str, *, and_deleted: bool) -> Iterator[Values]:
    columns = columns_of(name)
    query = _theirs(select(*columns), owner, name, and_deleted=and_deleted).order_by(_table(name).c.id)
    for row in session.execute(query.execution_options(yield_per=1000)):
        yield {column.name: value for column, value in zip(columns, row, strict=True)}


def _theirs(query: Select[Any], owner: uuid.UUID, name: str, *, and_deleted: bool) -> Select[Any]:
    row = CLASSES[name]
    columns = row.__table__.c
    if issubclass(row, Owned):
        query = query.where(columns.owner == owner)
        return query if and_deleted or "deleted_at" not in columns else query.where(columns.deleted_at.is_(None))
    parent, key = next(found for kind, found in _PARENTS.items() if issubclass(row, kind))
    above = parent.__table__.c
    theirs = select(above.id).where(above.owner == owner)
    if not and_deleted and "deleted_at" in above:
        theirs = theirs.where(above.deleted_at.is_(None))
    return query.where(columns[key].in_(theirs))


def angler_of(engine: Engine, owner: uuid.UUID) -> tuple[str, dt.datetime] | None:
    """Return the name of an owner who said who they are, and since when; None for a browser's own key."""
    with work(engine) as session:
        row = session.get(AnglerRow, owner)
        return None if row is None else (row.name, row.created_at)


def anglers(engine: Engine) -> dict[str, uuid.UUID]:
    """Return the keys of all anglers that somebody made by name; the demo's is nobody's account."""
    with work(engine) as session:
        return {row.name: row.id for row in session.scalars(select(AnglerRow))}


def put_all(
    engine: Engine, owner: uuid.UUID, tables: Mapping[str, Sequence[Values]], *, angler: tuple[str, dt.datetime] | None
) -> dict[str, int]:
    """Keep an archive's rows as an owner's, all in one transaction: a row whose key is there already is left as it is. Return how many are new.

    Raises DomainError where a row hangs on something that is not in the archive, or that is somebody else's here.
    """
    with _in_one(engine) as session:
        if angler is not None:
            name, since = angler
            session.execute(insert(AnglerRow).values(id=owner, name=name, created_at=since).on_conflict_do_nothing())
        keys = {name: {row["id"] for row in rows} for name, rows in tables.items()}
        keys["angler"] = {owner}
        found = {}
        for name, row in CLASSES.items():
            rows = [_adopted(row.__table__, values, owner, keys) for values in tables.get(name, ())]
            found[name] = _insert(session, row, rows)
            _check_theirs(session, owner, name, keys.get(name, set()))
        if sum(found.values()) > MANY_ROWS:
            # Else the database would plan for what was here before, until it looks by itself.
            session.execute(text("analyze " + ", ".join(f'"{name}"' for name in CLASSES)))
        return found


@contextlib.contextmanager
def _in_one(engine: Engine) -> Iterator[Session]:
    """One transaction; raise DomainError where what is there does not let a row in."""
    try:
        with work(engine, EVERYBODY) as session:
            yield session
    except IntegrityError as error:
        why = " ".join(str(error.orig).split())[:120]
        raise DomainError(f"the archive clashes with what is here ({why}): read it into a fresh installation") from None
    except DataError as error:
        raise DomainError(f"the archive holds a value that cannot be kept ({' '.join(str(error.orig).split())[:120]})") from None


def _adopted(table: Any, values: Values, owner: uuid.UUID, keys: Mapping[str, set[uuid.UUID]]) -> Values:
    """Return a row as the owner's, what it points at that is not in the archive forgotten; raise DomainError where it hangs on that."""
    mended = dict(values)
    if "owner" in table.c:
        mended["owner"] = owner
    for column in table.columns:
        for foreign in column.foreign_keys:
            _check_foreign(table, column, foreign, mended, keys)
    return mended


def _check_foreign(table: Table, column: Column[Any], foreign: ForeignKey, values: Values, keys: Mapping[str, set[uuid.UUID]]) -> None:
    there = keys.get(foreign.column.table.name, set())
    if values.get(column.name) is None or values[column.name] in there:
        return
    if not column.nullable:
        raise DomainError(f"{table.name} {values['id']}: {column.name} is {values[column.name]}: it must be in the archive")
    values[column.name] = None


def _insert(session: Session, row: type[Base], rows: Sequence[Values]) -> int:
    if not rows:
        return 0
    table = cast(Table, row.__table__)
    statement = insert(table).on_conflict_do_nothing().returning(table.c.id)
    return len(session.connection().execute(statement, list(rows)).all())


def _check_theirs(session: Session, owner: uuid.UUID, name: str, keys: set[uuid.UUID]) -> None:
    """Raise DomainError where one of the archive's rows is somebody else's here: nothing may be hung on it."""
    columns = _table(name).c
    theirs = _theirs(select(columns.id), owner, name, and_deleted=True)
    missing = keys - set(session.scalars(theirs))
    elsewhere = set(session.scalars(select(columns.id).where(columns.id.in_(missing)))) if missing else set()
    if elsewhere:
        raise DomainError(f"{name} {next(iter(elsewhere))} is somebody else's here: the archive cannot be read into this account")
