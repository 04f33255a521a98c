"""The one writer of a session: rows wait in a queue until the database has them; what is acknowledged is committed."""

import threading
import uuid
from collections import deque
from collections.abc import Mapping
from typing import Any

import structlog
from sqlalchemy import Engine
from sqlalchemy.exc import SQLAlchemyError

from mudlamp.core.errors import UnavailableError
from mudlamp.store import log as store
from mudlamp.store.models import Base, ReactionRow, SessionRow, SetupChangeRow, ShotRow, TrackRow

MOST_TRACKS = 400
BATCH = 50
RETRY_S = 0.5

Row = tuple[type[Base], Mapping[str, Any]]


class Writer:
    """Writes a session's rows in the order they came, on a thread of its own.

    Sessions, set-ups, shots and reactions are never dropped; tracks are, oldest first, when too many wait (counted).
    While the database is away everything waits; rows carry their keys, so a row said twice is there once. A row that the
    database will not have is counted in `refused` and written to the log file.
    """

    def __init__(self, engine: Engine, session_id: uuid.UUID) -> None:
        self._engine = engine
        self._waiting: deque[Row] = deque()
        self._tracks: deque[Row] = deque()
        self._wake = threading.Condition()
        self._closing = False
        self._log = structlog.get_logger().bind(session=str(session_id))
        self.dropped = 0
        self.refused = 0
        self.away = False
        self._thread = threading.Thread(target=self._run, name=f"writer-{session_id}", daemon=True)
        self._thread.start()

    def _add(self, row: Row) -> None:
        with self._wake:
            self._waiting.append(row)
            self._wake.notify()

    def session(self, **values: Any) -> None:
        """Queue a session row, or what later settles of it."""
        self._add((SessionRow, values))

    def setup(self, **values: Any) -> None:
        """Queue a change of set-up."""
        self._add((SetupChangeRow, values))

    def shot(self, **values: Any) -> None:
        """Queue a shot, or what later settles of it."""
        self._add((ShotRow, values))

    def reaction(self, **values: Any) -> None:
        """Queue a reaction."""
        self._add((ReactionRow, values))

    def track(self, **values: Any) -> None:
        """Queue a track's summary; the oldest waiting one is dropped when too many wait."""
        with self._wake:
            if len(self._tracks) >= MOST_TRACKS:
                self._tracks.popleft()
                self.dropped += 1
            self._tracks.append((TrackRow, values))
            self._wake.notify()

    @property
    def waiting(self) -> int:
        """How many rows are not committed yet."""
        return len(self._waiting) + len(self._tracks)

    def close(self, timeout_s: float = 3.0) -> None:
        """Write what waits and stop; give up after a while if the database stays away."""
        with self._wake:
            self._closing = True
            self._wake.notify()
        self._thread.join(timeout_s)

    def _batch(self) -> list[Row] | None:
        with self._wake:
            while not self._waiting and not self._tracks:
                if self._closing:
                    return None
                self._wake.wait()
            rows = [self._waiting[i] for i in range(min(BATCH, len(self._waiting)))]
            return rows + [self._tracks[i] for i in range(min(BATCH, len(self._tracks)))]

    def _run(self) -> None:
        while (rows := self._batch()) is not None:
            try:
                store.put(self._engine, rows)
            except UnavailableError:
                if not self.away:
                    self._log.warning("database away", waiting=self.waiting)
                self.away = True
                threading.Event().wait(RETRY_S)
                continue
            except SQLAlchemyError:
                self._write_singly(rows)
                continue
            if self.away:
                self._log.info("database back", waiting=self.waiting)
            self.away = False
            self._forget(rows)

    def _write_singly(self, rows: list[Row]) -> None:
        """Write a batch that was refused row by row: the row at fault goes to the log file, whole, and holds nobody else up."""
        for row in rows:
            try:
                store.put(self._engine, [row])
            except UnavailableError:
                return
            except SQLAlchemyError:
                self.refused += 1
                self._log.exception("row refused", table=row[0].__tablename__, values={name: str(value) for name, value in row[1].items()})
            self._forget([row])

    def _forget(self, rows: list[Row]) -> None:
        with self._wake:
            for row in rows:
                queue = self._tracks if row[0] is TrackRow else self._waiting
                if queue and queue[0] is row:
                    queue.popleft()
