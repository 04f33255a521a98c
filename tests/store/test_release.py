import gzip
import os
import re
import subprocess
import uuid
from collections import Counter
from pathlib import Path

import pytest
from sqlalchemy import create_engine, make_url, text

from mudlamp.core.controls import CONTROLS
from mudlamp.store import log as store
from mudlamp.store.database import connect, migrate
from mudlamp.store.models import Base
from mudlamp.store.scope import EVERYBODY
from mudlamp.store.shots import search

DUMPS = sorted((Path(__file__).resolve().parents[1] / "data").glob("release-*.sql.gz"))
PSQL = "/usr/lib/postgresql/15/bin/psql"


@pytest.mark.parametrize("dump", DUMPS, ids=lambda path: path.name)
def test_a_released_log_is_restored_migrated_and_whole(dump, admin_url):
    from alembic.autogenerate import compare_metadata
    from alembic.migration import MigrationContext

    name = f"r_{uuid.uuid4().hex[:12]}"
    admin = create_engine(admin_url, isolation_level="AUTOCOMMIT")
    with admin.connect() as connection:
        connection.execute(text(f'create database "{name}"'))
    try:
        url = make_url(admin_url).set(database=name)
        sql = gzip.decompress(dump.read_bytes())
        command = [PSQL, "-q", "-v", "ON_ERROR_STOP=1", "-h", url.host, "-p", str(url.port), "-U", url.username, name]
        subprocess.run(command, input=sql, env=os.environ | {"PGPASSWORD": url.password}, check=True, stdout=subprocess.DEVNULL)
        engine = connect(url.render_as_string(hide_password=False))
        migrate(engine)
        with engine.connect() as connection:
            assert compare_metadata(MigrationContext.configure(connection, opts={"compare_type": True}), Base.metadata) == []
            said = Counter(re.findall(rb"INSERT INTO public\.(\w+) VALUES", sql))
            assert said[b"shot"] > 0
            for table, count in said.items():
                if table != b"alembic_version":
                    assert connection.execute(text(f"select count(*) from {table.decode()}")).scalar_one() == count, table
        shown = store.sessions(engine, EVERYBODY, with_demo=True)
        assert len(shown) == 2
        # Set-ups stood in feet and degrees at first; they stand in SI now, and mean the same.
        for summary in shown:
            for one in store.session_detail(engine, EVERYBODY, summary.id, with_demo=True).setups:
                assert set(one.values) <= set(CONTROLS)
                for control, value in one.values.items():
                    assert CONTROLS[control].checked(value) == value
                assert 2.0 < one.values["reach_m"] < 36.6
        # The words of what was there before words could be searched are found.
        if b"boat_entry" in said:
            assert [one.kind for one in search(engine, uuid.UUID(int=501), "marabou", most=5)] == ["boat"]
        engine.dispose()
    finally:
        with admin.connect() as connection:
            connection.execute(text(f'drop database "{name}" with (force)'))
        admin.dispose()
