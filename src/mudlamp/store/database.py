"""The connection: engine, sessions of work, migrations, and what to say when the database is away."""

import contextlib
from collections.abc import Iterator
from importlib import resources

from sqlalchemy import Engine, create_engine, make_url, text
from sqlalchemy.exc import DBAPIError, OperationalError
from sqlalchemy.orm import Session

from mudlamp.core.errors import UnavailableError

POOL = 6
MIGRATIONS = resources.files("mudlamp.store").joinpath("migrations")
# A revision's file begins with its number.
NEWEST = max(path.name[:4] for path in MIGRATIONS.joinpath("versions").iterdir() if path.name[:4].isdigit())


def connect(url: str) -> Engine:
    """Return an engine for a PostgreSQL address; connections that died are noticed before they are used."""
    return create_engine(
        url,
        pool_pre_ping=True,
        pool_size=POOL,
        max_overflow=4,
        pool_timeout=3,
        connect_args={"connect_timeout": 3, "options": "-c statement_timeout=15000"},
    )


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
    config.set_main_option("script_location", str(MIGRATIONS))
    with engine.begin() as connection:
        config.attributes["connection"] = connection
        command.upgrade(config, "head")


@contextlib.contextmanager
def work(engine: Engine) -> Iterator[Session]:
    """One transaction: committed when the block ends, rolled back when it raises; UnavailableError where the database is away."""
    try:
        with Session(engine) as session, session.begin():
            yield session
    except OperationalError as error:
        raise UnavailableError("the database is down; nothing was saved") from error
    except DBAPIError as error:
        if error.connection_invalidated:
            raise UnavailableError("the database went down; nothing was saved") from error
        raise


def is_up(engine: Engine) -> bool:
    """Return whether the database answers."""
    try:
        with engine.connect() as connection:
            connection.execute(text("select 1"))
    except DBAPIError:
        return False
    return True
