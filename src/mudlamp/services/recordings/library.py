"""The library of recordings: files in a folder, their rows in the database, a quota, and an end unless they are kept."""

import contextlib
import datetime as dt
import hashlib
import shutil
import time
import uuid
from collections.abc import Callable, Iterator
from dataclasses import replace
from pathlib import Path

from sqlalchemy import Engine

from mudlamp.core.errors import DomainError, MissingError, RecordingError, UnavailableError
from mudlamp.core.records.library import Recording
from mudlamp.formats.recording import RecordingReader, RecordingWriter
from mudlamp.services.quarantine.inspect import inspect_recording
from mudlamp.services.recordings.minute import Minute
from mudlamp.services.settings import Settings
from mudlamp.store import library as store

NAME_LENGTH = 80
NO_RECORDING = "There is no recording with that key of yours."


class Library:
    """The recordings of everybody."""

    def __init__(
        self, engine: Engine, settings: Settings, *, now: Callable[[], dt.datetime], monotonic: Callable[[], float] = time.monotonic
    ) -> None:
        self._engine = engine
        self._settings = settings
        self._now = now
        self._monotonic = monotonic
        self._folder = settings.run_dir / "recordings"
        self._receiving: set[str] = set()
        self._over_since: dict[uuid.UUID, float] = {}

    def _path(self, key: uuid.UUID) -> Path:
        return self._folder / f"{key}.nc"

    def room_for(self, owner: uuid.UUID, size_bytes: int, *, most_taken: float = 1.0) -> None:
        """Raise DomainError where a file of a size would break the owner's quota (or a share of it), UnavailableError where the disk is nearly full."""
        self._folder.mkdir(mode=0o700, parents=True, exist_ok=True)
        if shutil.disk_usage(self._folder).free - size_bytes < self._settings.least_free_bytes:
            raise UnavailableError(f"less than {self._settings.least_free_bytes / 1e9:g} GB would be free on the disk: nothing is recorded")
        taken = store.stored_bytes(self._engine, owner)
        if taken + size_bytes > most_taken * self._settings.quota_bytes:
            raise DomainError(
                f"the recording is {size_bytes / 1e6:.0f} MB and {taken / 1e6:.0f} MB are taken:"
                f" all together must be at most {self._settings.quota_bytes / 1e6:.0f} MB; delete one first"
            )

    @contextlib.contextmanager
    def receiving(self) -> Iterator[Path]:
        """Give a path for a file that is being received; what is still there at the end is deleted."""
        self._folder.mkdir(mode=0o700, parents=True, exist_ok=True)
        key = str(uuid.uuid4())
        part = self._folder / f"{key}.part"
        self._receiving.add(key)
        try:
            yield part
        finally:
            part.unlink(missing_ok=True)
            self._receiving.discard(key)

    def take(
        self,
        owner: uuid.UUID,
        part: Path,
        *,
        name: str,
        source: str,
        session_id: uuid.UUID | None = None,
        begins_s: float | None = None,
    ) -> Recording:
        """Check a received file and put it into the library; of one that is of a session, which, and at which of its seconds it begins.

        Raises RecordingError for a broken or foreign file, DomainError or UnavailableError where there is no room.
        """
        self.sweep()
        size = part.stat().st_size
        self.room_for(owner, size)
        described = self._described(owner, part, name=name, source=source, size=size)
        recording = replace(described, session_id=session_id, begins_s=begins_s)
        part.replace(self._path(recording.id))
        try:
            store.add_recording(self._engine, recording)
        except Exception:
            self._path(recording.id).unlink(missing_ok=True)
            raise
        return recording

    def _described(self, owner: uuid.UUID, part: Path, *, name: str, source: str, size: int) -> Recording:
        facts = inspect_recording(part, shown=name.strip()[:NAME_LENGTH] or "the file")
        now = self._now()
        return Recording(
            id=uuid.uuid4(),
            owner=owner,
            source=source,
            name=(name.strip() or "recording")[:NAME_LENGTH],
            digest=_digest(part),
            size_bytes=size,
            pings=facts.pings,
            seconds=facts.seconds,
            fan=facts.fan,
            created_at=now,
            expires_at=now + dt.timedelta(days=self._settings.recording_days),
        )

    def keep_minute(
        self,
        owner: uuid.UUID,
        minute: Minute,
        *,
        name: str,
        source: str,
        session_id: uuid.UUID | None = None,
        most_taken: float = 1.0,
        progress: Callable[[float], None],
    ) -> Recording:
        """Write a minute's pings as a recording of its session; `progress` is called with 0 to 1 and may raise to stop.

        `most_taken` is the share of the quota that may be taken then.
        """
        if not len(minute):
            raise DomainError("there is no minute to save yet: let it run for a moment")
        first = minute.ping(0)
        self.room_for(owner, len(minute) * first.echo_level_db.size * 2, most_taken=most_taken)
        with self.receiving() as part:
            with RecordingWriter(part, first.setup, compress=True) as writer:
                for count, ping in enumerate(minute, start=1):
                    writer.write(ping)
                    progress(0.98 * count / len(minute))
            return self.take(owner, part, name=name, source=source, session_id=session_id, begins_s=first.time_s)

    def all(self, owner: uuid.UUID) -> list[Recording]:
        """Return somebody's recordings, newest first, without those whose time is over."""
        now = self._now()
        return [one for one in store.recordings(self._engine, owner) if one.expires_at is None or one.expires_at > now]

    def find(self, owner: uuid.UUID, key: uuid.UUID) -> Recording:
        """Return one of somebody's recordings; raise MissingError where there is none of that key."""
        found = store.recording(self._engine, owner, key)
        if found is None:
            raise MissingError(NO_RECORDING)
        return found

    def path_of(self, recording: Recording) -> Path:
        """Return a recording's file; raise RecordingError where it is gone."""
        path = self._path(recording.id)
        if not path.is_file():
            raise RecordingError(f"the file of recording {recording.name} is missing: delete it")
        return path

    def open(self, recording: Recording) -> RecordingReader:
        """Return a reader of a recording."""
        return RecordingReader(self.path_of(recording))

    def set_kept(self, owner: uuid.UUID, key: uuid.UUID, kept: bool) -> Recording:
        """Keep a recording for good, or let it go after the usual days; raise MissingError where there is none of that key."""
        end = None if kept else self._now() + dt.timedelta(days=self._settings.recording_days)
        found = store.set_expiry(self._engine, owner, key, end)
        if found is None:
            raise MissingError(NO_RECORDING)
        return found

    def remove(self, owner: uuid.UUID, key: uuid.UUID) -> None:
        """Delete a recording, row and file; raise MissingError where there is none of that key."""
        if not store.remove_recording(self._engine, owner, key):
            raise MissingError(NO_RECORDING)
        self._path(key).unlink(missing_ok=True)

    def sweep(self) -> int:
        """Delete the recordings whose time is over, and what is left of uploads that never ended; return how many recordings."""
        for path in self._folder.glob("*.part"):
            if path.name.partition(".")[0] not in self._receiving:
                path.unlink(missing_ok=True)
        over = {one.id: one for one in store.expired(self._engine, self._now())}
        # A clock that jumps, and is set right a minute later, must delete nothing.
        self._over_since = {key: self._over_since.get(key, self._monotonic()) for key in over}
        gone = [key for key, since in self._over_since.items() if self._monotonic() - since >= self._settings.expiry_patience_s]
        for key in gone:
            self.remove(over[key].owner, key)
        return len(gone)


def _digest(path: Path) -> str:
    with path.open("rb") as file:
        return hashlib.file_digest(file, "sha256").hexdigest()
