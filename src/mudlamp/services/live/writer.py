"""The one writer of a session: rows wait in a queue until the database has them; what is acknowledged is committed."""

import threading
import uuid
from collections import deque
from pathlib import Path

import structlog
from sqlalchemy import Engine
from sqlalchemy.exc import SQLAlchemyError

from mudlamp.core.errors import UnavailableError
from mudlamp.core.records.log import Record, TrackRecord
from mudlamp.services.live.owed import Owed
from mudlamp.store import log as store

MOST_TRACKS = 400
# Beyond so many, rows wait on the disk alone.
MOST_IN_MEMORY = 5000
BATCH = 50
RETRY_S = 0.5


class Writer:
    """Writes a session's rows in the order they came, on a thread of its own.

    Sessions, set-ups, shots and reactions are never dropped; tracks are, oldest first, when too many wait (counted).
    While the database is away everything waits, on the disk and, as far as there is room, in memory; rows carry their keys, so a
    row said twice is there once. A row that the database will not have is counted in `refused` and written to the log file.
    """

    def __init__(self, engine: Engine, session_id: uuid.UUID, *, folder: Path) -> None:
        """Begin; what is owed is noted in a file of `folder`."""
        self._engine = engine
        self._owed = Owed(folder / f"{session_id}.jsonl")
        self._on_disk_alone = 0
        self._waiting: deque[Record] = deque()
        self._tracks: deque[Record] = deque()
        self._wake = threading.Condition()
        self._closing = False
        self._log = structlog.get_logger().bind(session=str(session_id))
        self.dropped = 0
        self.refused = 0
        self.away = False
        self._thread = threading.Thread(target=self._run, name=f"writer-{session_id}", daemon=True)
        self._thread.start()

    def put(self, record: Record) -> None:
        """Queue a record, or what later settles of it; of tracks the oldest waiting one is dropped when too many wait."""
        with self._wake:
            if isinstance(record, TrackRecord) and len(self._tracks) >= MOST_TRACKS:
                self._tracks.popleft()
                self.dropped += 1
            self._owed.note(record)
            if isinstance(record, TrackRecord):
                self._tracks.append(record)
            elif self._on_disk_alone or len(self._waiting) >= MOST_IN_MEMORY:
                # In order: once one is on the disk alone, so are those after it.
                self._on_disk_alone += 1
            else:
                self._waiting.append(record)
            self._wake.notify()

    @property
    def waiting(self) -> int:
        """How many rows are not committed yet."""
        return len(self._waiting) + len(self._tracks) + self._on_disk_alone

    def close(self, timeout_s: float = 3.0) -> None:
        """Write what waits and stop; give up after a while if the database stays away."""
        with self._wake:
            self._closing = True
            self._wake.notify()
        self._thread.join(timeout_s)

    def _batch(self) -> list[Record] | None:
        with self._wake:
            while not self._waiting and not self._tracks:
                if self._on_disk_alone:
                    self._take_from_disk()
                    continue
                self._owed.settle()
                if self._closing:
                    return None
                self._wake.wait()
            rows = [self._waiting[i] for i in range(min(BATCH, len(self._waiting)))]
            return rows + [self._tracks[i] for i in range(min(BATCH, len(self._tracks)))]

    def _take_from_disk(self) -> None:
        """Take up what memory had no room for; what the database has already does no harm said again."""
        self._waiting.extend(record for record in self._owed.rows() if not isinstance(record, TrackRecord))
        self._on_disk_alone = 0

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

    def _write_singly(self, rows: list[Record]) -> None:
        """Write a batch that was refused row by row: the row at fault goes to the log file, whole, and holds nobody else up."""
        for row in rows:
            try:
                store.put(self._engine, [row])
            except UnavailableError:
                return
            except SQLAlchemyError:
                self.refused += 1
                self._log.exception("row refused", record=type(row).__name__, values=str(row))
            self._forget([row])

    def _forget(self, rows: list[Record]) -> None:
        with self._wake:
            for row in rows:
                queue = self._tracks if isinstance(row, TrackRecord) else self._waiting
                if queue and queue[0] is row:
                    queue.popleft()
