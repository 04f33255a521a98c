"""Whether the database answers, and whether the disk has room for it: felt every second, so that no request has to find out by waiting."""

import contextlib
import os
import shutil
import socket
import threading
import weakref
from pathlib import Path
from typing import Any

import psycopg
import structlog
from sqlalchemy import URL, Engine, event

BEAT_S, AWAY_BEAT_S = 1.0, 0.2
AWAY = "the database does not answer; nothing was saved"
# Whose database does not answer, and who may write nothing (and why).
_away: weakref.WeakSet[Engine] = weakref.WeakSet()
_full: weakref.WeakKeyDictionary[Engine, str] = weakref.WeakKeyDictionary()
# Each engine's connections.
_open: weakref.WeakKeyDictionary[Engine, weakref.WeakSet[Any]] = weakref.WeakKeyDictionary()


def patience_s(address: URL) -> int:
    """Return how long [s] a database may take to let one in before it counts as away: three seconds, or the address's own `connect_timeout`."""
    return int(str(address.query.get("connect_timeout", 3)))


def follow(engine: Engine) -> None:
    """Note an engine's connections from the first on."""
    connections = _open[engine] = weakref.WeakSet()
    event.listen(engine, "connect", lambda connection, _record: connections.add(connection))
    known = weakref.ref(engine)

    @event.listens_for(engine, "do_connect")
    def before_connecting(*_words: object) -> None:
        # Whoever lost a connection tries a new one at once: not while there is nobody to answer.
        if known() in _away:
            raise psycopg.OperationalError(AWAY)


def is_away(engine: Engine) -> bool:
    """Return whether an engine's database is known not to answer."""
    return engine in _away


def why_full(engine: Engine) -> str | None:
    """Return why nothing may be written now; None where it may."""
    return _full.get(engine)


class Pulse:
    """Feels one engine's database on a thread of its own. While it is away, whoever waits for it is let go, and whoever comes is told at once."""

    def __init__(self, engine: Engine, *, folder: Path, least_free_bytes: int) -> None:
        self._engine = engine
        self._folder = folder
        self._least_free_bytes = least_free_bytes
        self._stop = threading.Event()
        self._log = structlog.get_logger()
        self._thread = threading.Thread(target=self._beat, name="pulse", daemon=True)
        self._thread.start()

    def stop(self) -> None:
        """Stop."""
        self._stop.set()
        self._thread.join(patience_s(self._engine.url) + BEAT_S)

    def _beat(self) -> None:
        """Knock until told to stop: to be let in takes a living server, and how long that may take can be bounded."""
        address = self._engine.url.set(drivername="postgresql").render_as_string(hide_password=False)
        while True:
            self._look_at_disk()
            try:
                psycopg.connect(address, connect_timeout=patience_s(self._engine.url)).close()
                self._answers()
            except psycopg.Error as error:
                self._lost(error)
            if self._stop.wait(AWAY_BEAT_S if self._engine in _away else BEAT_S):
                return

    def _answers(self) -> None:
        if self._engine in _away:
            _away.discard(self._engine)
            self._log.info("database back")

    def _lost(self, error: psycopg.Error) -> None:
        if self._engine not in _away:
            _away.add(self._engine)
            self._log.warning("database away", why=str(error)[:200])
        self._let_go()

    def _let_go(self) -> None:
        """Shut all connections: who waits on one gets an error now, and not when the database thaws; the others are made anew."""
        for connection in list(_open.get(self._engine, ())):
            with contextlib.suppress(psycopg.Error, OSError), socket.socket(fileno=os.dup(connection.fileno())) as wire:
                wire.shutdown(socket.SHUT_RDWR)

    def _look_at_disk(self) -> None:
        free = shutil.disk_usage(self._folder).free
        if free >= self._least_free_bytes:
            if _full.pop(self._engine, None) is not None:
                self._log.info("disk has room again", free_mb=free // 1_000_000)
        elif self._engine not in _full:
            _full[self._engine] = (
                f"the disk has {free / 1e6:.0f} MB left, and {self._least_free_bytes / 1e6:.0f} MB are kept for the database: nothing was saved; free some"
            )
            self._log.error("disk full", free_mb=free // 1_000_000)
