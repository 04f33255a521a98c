"""What tests share: scenes and pings made once, databases made from a template, the application in process."""

import os
import sys
import uuid
from pathlib import Path

import pytest
import structlog
from sqlalchemy import Engine, create_engine, event, text

ROOT = Path(__file__).resolve().parent.parent
sys.path.insert(0, str(ROOT))

from mudlamp.formats.scene.file import load_scene
from mudlamp.heads.simulated import SimulatedHead
from mudlamp.store.database import connect, migrate

# One template a worker: tests run side by side.
TEMPLATE = f"mudlamp_template_{os.environ.get('PYTEST_XDIST_WORKER', 'alone')}"

# The default renderer draws tracebacks with all their locals, which takes seconds.
structlog.configure(processors=[structlog.processors.format_exc_info, structlog.processors.KeyValueRenderer()])


@pytest.fixture(scope="session")
def admin_url() -> str:
    found = os.environ.get("MUDLAMP_TEST_ADMIN_URL")
    if not found:
        pytest.exit("the tests need their own database: run them by ./lamp test", returncode=2)
    return found


def _database(admin_url: str, name: str) -> str:
    # Beside other tests a connection may take longer than the application gives it.
    return admin_url.rpartition("/")[0] + f"/{name}?connect_timeout=60"


def _run(admin_url: str, *statements: str) -> None:
    engine = create_engine(admin_url, isolation_level="AUTOCOMMIT")
    with engine.connect() as connection:
        for statement in statements:
            connection.execute(text(statement))
    engine.dispose()


@pytest.fixture(scope="session")
def template(admin_url):
    _run(admin_url, f'drop database if exists "{TEMPLATE}" with (force)', f'create database "{TEMPLATE}"')
    engine = connect(_database(admin_url, TEMPLATE))
    migrate(engine)
    engine.dispose()
    return TEMPLATE


@pytest.fixture
def database_url(admin_url, template):
    name = f"t_{uuid.uuid4().hex[:12]}"
    _run(admin_url, f'create database "{name}" template "{template}"')
    yield _database(admin_url, name)
    _run(admin_url, f'drop database if exists "{name}" with (force)')


@pytest.fixture
def engine(database_url) -> Engine:
    found = connect(database_url)
    made = []
    event.listen(found, "connect", lambda connection, _record: made.append(connection))
    yield found
    found.dispose()
    # One that a thread of the application's still held when the pool was let go would warn whenever it is collected, in some other test.
    for connection in made:
        connection.close()


@pytest.fixture(scope="session")
def pear_tree():
    return load_scene("pear-tree")


@pytest.fixture(scope="session")
def pear_pings(pear_tree):
    """Twenty seconds of pear-tree at 15 pings a second: (ping, truth rows, true events)."""
    head = SimulatedHead(pear_tree, seed=5)
    found = []
    for number in range(300):
        ping = head.listen(number / 15.0)
        found.append((ping, *head.truth()))
    return found
