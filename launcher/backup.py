"""The whole database as one file, and back: PostgreSQL's own pg_dump and pg_restore."""

import contextlib
import fcntl
import os
import subprocess
import sys
import time
from collections.abc import Iterator
from pathlib import Path

from launcher import cluster, debian
from launcher.cluster import ENVIRON, Cluster
from launcher.debian import POSTGRES_BIN
from launcher.places import ROOT, RUN, Trouble

DATABASE = "mudlamp"
# What is restored is made beside what is there, and takes its place only when it is whole; what was there is kept until the next time.
COMING, BEFORE = "mudlamp_coming", "mudlamp_before"
KEPT = 3
MAGIC = b"PGDMP"
VERSIONS = ROOT / "src" / "mudlamp" / "store" / "migrations" / "versions"


def backup(path: Path) -> int:
    """Write the database into a file, whole or not at all; `up` may go on meanwhile."""
    if path.exists() and not path.is_file():
        raise Trouble(f"the file is {str(path)[:80]}: it must be a file, or not be there yet")
    if not path.absolute().parent.is_dir():
        raise Trouble(f"the file is {str(path)[:80]}: its folder must exist")
    debian.ensure(debian.FOR_SERVING)
    with running() as private:
        if not has_database(private):
            raise Trouble("there is nothing to back up yet: run ./lamp up once")
        dump(private, path)
    print(f"{path}: {path.stat().st_size / 1e6:.1f} MB", file=sys.stderr)
    return 0


def restore(path: Path) -> int:
    """Put a backup in the place of the database; where it is no whole backup, what is there stays."""
    try:
        with path.open("rb") as file:
            if file.read(len(MAGIC)) != MAGIC:
                raise Trouble(f"the file is {str(path)[:80]}: it must be a backup that ./lamp backup wrote")
    except OSError:
        raise Trouble(f"the file is {str(path)[:80]}: it cannot be read") from None
    debian.ensure(debian.FOR_SERVING)
    with _alone(), running() as private:
        _sql(private, f"drop database if exists {COMING} with (force)", f"create database {COMING}")
        with path.open("rb") as file:
            done = _program(private, "pg_restore", "--exit-on-error", "--no-owner", "--dbname", COMING, stdin=file)
        if done.returncode or not _asked(private, COMING, "select count(*) from alembic_version").strip().isdigit():
            _sql(private, f"drop database if exists {COMING} with (force)")
            raise Trouble(
                f"{path} is no whole backup: nothing was changed ({' '.join(done.stderr.decode(errors='replace').split())[:160]})"
            )
        _sql(private, f"drop database if exists {BEFORE} with (force)")
        if has_database(private):
            _sql(private, f"alter database {DATABASE} rename to {BEFORE}")
        _sql(private, f"alter database {COMING} rename to {DATABASE}")
    print(f"restored from {path}; what was there before is kept as {BEFORE} until the next restore", file=sys.stderr)
    return 0


def before_migrating(private: Cluster) -> None:
    """Dump the database where a newer release is about to change its tables; the last three dumps are kept."""
    newest = max((path.name[:4] for path in VERSIONS.glob("[0-9]*.py")), default="")
    if not has_database(private):
        return
    now = _asked(private, DATABASE, "select version_num from alembic_version").strip()
    if not now or now == newest:
        return
    folder = RUN / "backup"
    folder.mkdir(mode=0o700, exist_ok=True)
    dump(private, folder / f"before-{newest}-{time.strftime('%Y%m%d-%H%M%S')}.dump")
    for old in sorted(folder.glob("before-*.dump"), key=lambda path: path.stat().st_mtime)[:-KEPT]:
        old.unlink()


def dump(private: Cluster, path: Path) -> None:
    """Write a dump of the database into a file, whole or not at all."""
    part = path.with_name(path.name + ".part")
    try:
        # For its owner's eyes alone: it holds all that anybody here ever noted.
        with os.fdopen(os.open(part, os.O_WRONLY | os.O_CREAT | os.O_TRUNC, 0o600), "wb") as file:
            done = _program(private, "pg_dump", "--format=custom", "--no-owner", "--dbname", DATABASE, stdout=file)
        if done.returncode:
            raise Trouble(f"pg_dump failed: {' '.join(done.stderr.decode(errors='replace').split())[:200]}")
        part.replace(path)
    except OSError as error:
        raise Trouble(f"{path} cannot be written ({error.strerror})") from None
    finally:
        part.unlink(missing_ok=True)


def has_database(private: Cluster) -> bool:
    """Return whether the application's database is there."""
    return _asked(private, "postgres", "select datname from pg_database").split().count(DATABASE) == 1


@contextlib.contextmanager
def running() -> Iterator[Cluster]:
    """Have the cluster run for the block; stop it where it was not running before."""
    private = cluster.at(RUN / "pg")
    started = cluster.ensure_running(private)
    try:
        yield private
    finally:
        if started:
            cluster.stop(private)


@contextlib.contextmanager
def _alone() -> Iterator[None]:
    """Keep `up` from starting for the block; raise Trouble where it runs."""
    RUN.mkdir(parents=True, exist_ok=True)
    with (RUN / "up.lock").open("a+") as file:
        try:
            fcntl.flock(file, fcntl.LOCK_EX | fcntl.LOCK_NB)
        except BlockingIOError:
            raise Trouble("'./lamp up' is running here: stop it first, then restore") from None
        yield


def _program(private: Cluster, name: str, *arguments: str, **streams: object) -> subprocess.CompletedProcess:
    words = [str(POSTGRES_BIN / name), "-h", "127.0.0.1", "-p", str(private.port), "-U", cluster.ROLE, "-w", *arguments]
    environ = ENVIRON | {"PGPASSWORD": private.password}
    given = {"stdin": subprocess.DEVNULL, "stdout": subprocess.PIPE} | streams
    return subprocess.run(words, env=environ, stderr=subprocess.PIPE, start_new_session=True, check=False, **given)


def _asked(private: Cluster, database: str, query: str) -> str:
    return _program(private, "psql", "-X", "-tA", "-d", database, "-c", query).stdout.decode(errors="replace")


def _sql(private: Cluster, *statements: str) -> None:
    for statement in statements:
        done = _program(private, "psql", "-X", "-q", "-v", "ON_ERROR_STOP=1", "-d", "postgres", "-c", statement)
        if done.returncode:
            raise Trouble(f"the database refused: {' '.join(done.stderr.decode(errors='replace').split())[:200]}")
