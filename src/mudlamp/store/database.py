"""The connection: engine, sessions of work, migrations, and what to say when the database is away."""

import contextlib
from collections.abc import Iterator
from contextvars import ContextVar
from importlib import resources

from sqlalchemy import Connection, Engine, create_engine, event, make_url, text
from sqlalchemy.exc import DBAPIError, OperationalError
from sqlalchemy.exc import TimeoutError as PoolTimeoutError
from sqlalchemy.orm import ORMExecuteState, Session

from mudlamp.core.errors import UnavailableError
from mudlamp.store import pulse
from mudlamp.store.scope import Whose, lay_over

POOL = 6
# The connection whose transaction all work in a block shares.
_BEGUN: ContextVar[Connection | None] = ContextVar("begun", default=None)
MIGRATIONS = resources.files("mudlamp.store").joinpath("migrations")
# A revision's file begins with its number.
NEWEST = max(path.name[:4] for path in MIGRATIONS.joinpath("versions").iterdir() if path.name[:4].isdigit())


def connect(url: str) -> Engine:
    """Return an engine for a PostgreSQL address; connections that died are noticed before they are used.

    Each query is planned for what it asks for: a plan for any owner's rows took twice as long over those of one who has many. Rows lie in
    memory or on a solid disk: taken for a turning one, everybody's reactions were read to find an owner's few.
    """
    patience_s = pulse.patience_s(make_url(url))
    engine = create_engine(
        url,
        pool_pre_ping=True,
        pool_size=POOL,
        max_overflow=4,
        pool_timeout=patience_s,
        connect_args={
            "connect_timeout": patience_s,
            "options": "-c statement_timeout=15000 -c plan_cache_mode=force_custom_plan -c random_page_cost=1.1",
        },
    )
    pulse.follow(engine)
    return engine


def ensure_database(url: str) -> None:
    """Make the database of `url` where it is not there yet."""
    wanted = make_url(url)
    server = create_engine(wanted.set(database="postgres"), isolation_level="AUTOCOMMIT")
    try:
        with server.connect() as connection:
            there = connection.execute(text("select 1 from pg_database where datname = :name"), {"name": wanted.database}).scalar()
            if not there:
                quoted = str(wanted.database).replace('"', '""')
                connection.execute(text(f'create database "{quoted}"'))
    finally:
        server.dispose()


def _revision(engine: Engine) -> str | None:
    """Return the revision of the schema that is there, or None."""
    with engine.connect() as connection:
        if not connection.execute(text("select to_regclass('alembic_version')")).scalar():
            return None
        found = connection.execute(text("select version_num from alembic_version")).scalar()
    return None if found is None else str(found)


def migrate(engine: Engine) -> None:
    """Bring the schema to the newest revision."""
    if _revision(engine) == NEWEST:
        return
    # Imported here: on most starts there is nothing to do, and the first page need not wait for it.
    from alembic import command
    from alembic.config import Config

    config = Config()
    # Alembic reads a percent sign as the start of a name.
    config.set_main_option("script_location", str(MIGRATIONS).replace("%", "%%"))
    with engine.begin() as connection:
        config.attributes["connection"] = connection
        command.upgrade(config, "head")


@contextlib.contextmanager
def work(engine: Engine, whose: Whose | None = None, *, and_nobodys: bool = False, and_deleted: bool = False) -> Iterator[Session]:
    """One transaction on somebody's things (with what they deleted, where asked for): committed when the block ends, rolled back when it raises.

    Raises UnavailableError where the database is away, busy or full; LookupError where things that have an owner are asked for without one.
    """
    if pulse.is_away(engine):
        raise UnavailableError(pulse.AWAY)
    with _as_unavailable(), Session(_begun(engine) or engine) as session, session.begin():
        lay_over(session, whose, and_nobodys=and_nobodys, and_deleted=and_deleted)
        _keep_from_writing(session, pulse.why_full(engine))
        yield session


@contextlib.contextmanager
def _as_unavailable() -> Iterator[None]:
    """Say in words that the database is away, busy or down."""
    try:
        yield
    except PoolTimeoutError as error:
        raise UnavailableError("the database is busy; nothing was saved") from error
    except OperationalError as error:
        raise UnavailableError("the database is down; nothing was saved") from error
    except DBAPIError as error:
        if error.connection_invalidated:
            raise UnavailableError("the database went down; nothing was saved") from error
        raise


@contextlib.contextmanager
def in_one(engine: Engine) -> Iterator[None]:
    """One transaction for every `work` in the block: a page that asks a dozen times begins one, and sees one state of things."""
    if pulse.is_away(engine) or _begun(engine) is not None:
        yield
        return
    with _as_unavailable(), engine.connect() as connection, connection.begin():
        token = _BEGUN.set(connection)
        try:
            yield
        finally:
            _BEGUN.reset(token)


def _begun(engine: Engine) -> Connection | None:
    """Return the connection whose transaction is shared here, or None."""
    found = _BEGUN.get()
    return found if found is not None and found.engine is engine else None


def _keep_from_writing(session: Session, why: str | None) -> None:
    """Refuse whatever would take room; reading, and deleting what makes some, go on."""
    if why is None:
        return

    @event.listens_for(session, "do_orm_execute")
    def before_statement(state: ORMExecuteState) -> None:
        if state.is_insert or state.is_update:
            raise UnavailableError(why)

    @event.listens_for(session, "before_flush")
    def before_flush(flushed: Session, _context: object, _instances: object) -> None:
        if flushed.new or flushed.dirty:
            raise UnavailableError(why)


def is_up(engine: Engine) -> bool:
    """Return whether the database answers."""
    if pulse.is_away(engine):
        return False
    try:
        with engine.connect() as connection:
            connection.execute(text("select 1"))
    except (DBAPIError, PoolTimeoutError):
        return False
    return True
