"""Backup and restore on a PostgreSQL of its own: to the last row and back, whole or not at all."""

import uuid

import pytest
from sqlalchemy import text

from launcher import backup, cluster, places
from mudlamp.core.records.log import AnglerRecord
from mudlamp.store import database
from mudlamp.store import log as store
from tests.services.live.test_writer import NOW, reaction_record, session_record, shot_record


@pytest.fixture(scope="module")
def run(tmp_path_factory):
    folder = tmp_path_factory.mktemp("run")
    for path in (folder, *folder.parents[:3]):
        path.chmod(0o755)
    private = cluster.at(folder / "pg")
    cluster.ensure_running(private)
    yield folder, private
    cluster.stop(private)


@pytest.fixture
def house(run, monkeypatch):
    """A migrated database with a session in it, the launcher's folders turned to it."""
    folder, private = run
    monkeypatch.setattr(backup, "RUN", folder)
    backup._sql(private, "drop database if exists mudlamp with (force)", "drop database if exists mudlamp_before with (force)")
    database.ensure_database(private.url("mudlamp"))
    engine = database.connect(private.url("mudlamp"))
    database.migrate(engine)
    logged = session_record(owner=uuid.uuid4())
    shot = shot_record(logged.id)
    store.put(engine, [logged, shot, reaction_record(logged.id, shot.id, "looked")])
    yield folder, private, engine
    engine.dispose()


def _rows(engine):
    with engine.connect() as connection:
        tables = connection.execute(text("select tablename from pg_tables where schemaname = 'public' order by 1")).scalars().all()
        return {name: sorted(map(str, connection.execute(text(f'select * from "{name}"')))) for name in tables}


def test_a_backup_restores_to_the_last_row_and_keeps_what_was_there(house, tmp_path, capsys):
    _, private, engine = house
    before = _rows(engine)
    file = tmp_path / "all.dump"
    assert backup.backup(file) == 0
    assert file.stat().st_mode & 0o777 == 0o600
    store.put(engine, [AnglerRecord(id=uuid.uuid4(), name="Later", created_at=NOW)])
    assert _rows(engine) != before
    engine.dispose()
    assert backup.restore(file) == 0
    assert _rows(engine) == before
    kept = database.connect(private.url("mudlamp_before"))
    assert any("Later" in row for row in _rows(kept)["angler"])
    kept.dispose()
    capsys.readouterr()


@pytest.mark.parametrize(
    "spoil", [lambda data: data[: len(data) // 2], lambda data: data[:200] + bytes(200) + data[400:], lambda data: b"PGDMP" + bytes(500)]
)
def test_a_broken_backup_changes_nothing(house, tmp_path, spoil):
    _, _, engine = house
    file = tmp_path / "all.dump"
    backup.backup(file)
    before = _rows(engine)
    file.write_bytes(spoil(file.read_bytes()))
    engine.dispose()
    with pytest.raises(places.Trouble, match="nothing was changed"):
        backup.restore(file)
    assert _rows(engine) == before


@pytest.mark.parametrize(("content", "said"), [(b"GIF89a", "must be a backup"), (None, "cannot be read")])
def test_what_is_no_backup_is_refused_by_name(house, tmp_path, content, said):
    file = tmp_path / "odd"
    if content is not None:
        file.write_bytes(content)
    with pytest.raises(places.Trouble, match=said):
        backup.restore(file)


def test_a_backup_that_cannot_be_written_leaves_nothing(house, tmp_path):
    with pytest.raises(places.Trouble, match="its folder must exist"):
        backup.backup(tmp_path / "nowhere" / "all.dump")
    with pytest.raises(places.Trouble, match="must be a file"):
        backup.backup(tmp_path)
    assert list(tmp_path.iterdir()) == []


def test_before_tables_change_the_database_is_dumped_and_three_dumps_are_kept(house):
    folder, private, engine = house
    backup.before_migrating(private)
    assert not (folder / "backup").exists()
    with engine.begin() as connection:
        connection.execute(text("update alembic_version set version_num = '0007'"))
    (folder / "backup").mkdir()
    for number in range(4):
        (folder / "backup" / f"before-0008-{number}.dump").write_bytes(b"old")
    backup.before_migrating(private)
    left = sorted(path.name for path in (folder / "backup").iterdir())
    assert len(left) == 3
    newest = max((folder / "backup").iterdir(), key=lambda path: path.stat().st_mtime)
    assert newest.read_bytes().startswith(backup.MAGIC)
