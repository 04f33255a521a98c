"""The desk of what goes out and comes in: tables, sheets, share copies, archives."""

import contextlib
import datetime as dt
import hashlib
import time
import uuid
from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, replace
from pathlib import Path

from sqlalchemy import Engine

from mudlamp.core.errors import DomainError, MissingError
from mudlamp.core.records.log import TripRecord
from mudlamp.core.records.trips import Catch
from mudlamp.services.jobs import Job, Jobs, JobState
from mudlamp.services.keep.archive import WAITING, Restored, read_archive, write_archive
from mudlamp.services.keep.kinds import written
from mudlamp.services.keep.share import share_recording, shared_trip
from mudlamp.services.keep.sheet_in import Looked, look
from mudlamp.services.recordings.library import Library
from mudlamp.services.settings import Settings
from mudlamp.services.trips.desk import TripDesk
from mudlamp.store import brought as store
from mudlamp.store import keep as keep_store

# An archive that was made waits so long to be taken [s].
WAITS_S = 86_400.0
# A sheet that was looked at waits so long for its mapping [s], and so many of them wait at once.
SHEET_WAITS_S, MOST_SHEETS = 3600.0, 20


@dataclass(frozen=True, slots=True, kw_only=True)
class _Waiting:
    """A sheet that was sent: whose, what kind, its bytes, since when."""

    owner: uuid.UUID
    kind: str
    data: bytes
    since_s: float


class KeepDesk:
    """What goes out and comes in, of all owners."""

    def __init__(
        self, engine: Engine, jobs: Jobs, trips: TripDesk, library: Library, settings: Settings, *, now: Callable[[], dt.datetime]
    ) -> None:
        self._engine, self._jobs, self._trips, self._library, self._now = engine, jobs, trips, library, now
        self._run_dir = settings.run_dir
        self._folder = settings.run_dir / WAITING
        self._sheets: dict[uuid.UUID, _Waiting] = {}

    # Out.

    def written(self, owner: uuid.UUID, kind: str, form: str) -> bytes:
        """Return an owner's rows of a kind as a file's bytes; raise DomainError for a kind or a format that is none."""
        return written(self._engine, owner, kind, form)

    def shared_trip(self, owner: uuid.UUID, key: uuid.UUID, *, with_words: bool) -> bytes:
        """Return a trip of the owner's as a copy to be shown; raise MissingError where there is none of that key."""
        self._trips.own(owner, key)
        return shared_trip(self._trips.open(owner, key), self._trips.photos, owner=owner, with_words=with_words)

    def shared_recording(self, owner: uuid.UUID, key: uuid.UUID) -> Path:
        """Return the path of a copy of a recording to be shown, made anew; raise MissingError where there is none of that key."""
        source = self._library.path_of(self._library.find(owner, key))
        target = self._made(f"{uuid.uuid4()}.nc")
        share_recording(source, target)
        return target

    def _made(self, name: str) -> Path:
        self.sweep()
        self._folder.mkdir(mode=0o700, parents=True, exist_ok=True)
        return self._folder / name

    def start_archive(self, device: uuid.UUID, owner: uuid.UUID) -> Job:
        """Start writing an owner's archive."""

        def work(job: Job) -> str:
            path = self._made(f"{job.id}.zip")
            try:
                write_archive(self._engine, owner, path, run_dir=self._run_dir, now=self._now(), progress=job.progress)
            except BaseException:
                path.unlink(missing_ok=True)
                raise
            return str(job.id)

        return self._jobs.start(device, "put everything into one archive", work, same=(owner, "archive"))

    def archive(self, device: uuid.UUID, job: uuid.UUID) -> Path:
        """Return the path of an archive that a browser's job made; raise MissingError where there is none."""
        found = self._jobs.find(device, job)
        path = self._folder / f"{job}.zip"
        if found is None or found.view().state is not JobState.DONE or not path.is_file():
            raise MissingError("That archive is not there any more: make it anew.")
        return path

    def sweep(self) -> None:
        """Delete what was made a day ago or before."""
        if self._folder.is_dir():
            for path in self._folder.iterdir():
                # What a job has just done with is gone between one look and the next.
                with contextlib.suppress(FileNotFoundError):
                    if time.time() - path.stat().st_mtime > WAITS_S:
                        path.unlink(missing_ok=True)

    # In.

    def read_archive(self, path: Path, *, owner: uuid.UUID | None, progress: Callable[[float], None] = lambda share: None) -> Restored:
        """Read an archive into an owner's account, or (None) into that of the angler who made it; all or nothing."""
        return read_archive(self._engine, path, run_dir=self._run_dir, owner=owner, progress=progress)

    def start_reading(self, device: uuid.UUID, owner: uuid.UUID, path: Path) -> Job:
        """Start reading an archive into an owner's account; its file is deleted when that is over. Raises DomainError where it has no room there."""
        self._library.room_for(owner, path.stat().st_size)

        def work(job: Job) -> str:
            try:
                found = self.read_archive(path, owner=owner, progress=job.progress)
            finally:
                path.unlink(missing_ok=True)
            return f"{found.new_rows} of {found.rows} rows were new, {found.files} files came along."

        return self._jobs.start(device, "read an archive", work)

    def receiving(self) -> Path:
        """Return a path for an archive that is being received; what is left there is deleted after a day."""
        return self._made(f"{uuid.uuid4()}.in")

    def look(self, owner: uuid.UUID, kind: str, data: bytes, zone: dt.tzinfo | None) -> tuple[uuid.UUID, Looked]:
        """Look at a sheet and keep it waiting for its mapping; return its key and what would come of it."""
        found = look(data, kind, None, owner=owner, zone=zone, now=self._now())
        self._sheets = {key: one for key, one in self._sheets.items() if time.monotonic() - one.since_s < SHEET_WAITS_S}
        for key in list(self._sheets)[: max(0, len(self._sheets) - MOST_SHEETS + 1)]:
            self._sheets.pop(key, None)
        key = uuid.uuid4()
        self._sheets[key] = _Waiting(owner=owner, kind=kind, data=data, since_s=time.monotonic())
        return key, found

    def look_again(self, owner: uuid.UUID, key: uuid.UUID, mapping: Mapping[str, str], zone: dt.tzinfo | None) -> Looked:
        """Look at a waiting sheet under another mapping; raise MissingError where it waits no more."""
        one = self._waiting(owner, key)
        return look(one.data, one.kind, mapping, owner=owner, zone=zone, now=self._now())

    def _waiting(self, owner: uuid.UUID, key: uuid.UUID) -> _Waiting:
        one = self._sheets.get(key)
        if one is None or one.owner != owner:
            raise MissingError("That sheet waits no more: choose it again.")
        return one

    def take(self, owner: uuid.UUID, key: uuid.UUID, mapping: Mapping[str, str], zone: dt.tzinfo | None) -> int:
        """Keep a waiting sheet's rows, all or none; return how many. Raises DomainError with the first row that is wrong."""
        one = self._waiting(owner, key)
        count = self.take_file(owner, one.kind, one.data, mapping, zone)
        self._sheets.pop(key, None)
        return count

    def take_file(self, owner: uuid.UUID, kind: str, data: bytes, mapping: Mapping[str, str] | None, zone: dt.tzinfo | None) -> int:
        """Keep a sheet's rows, all or none, without a look before; return how many."""
        return self._kept(owner, look(data, kind, mapping, owner=owner, zone=zone, now=self._now()), data)

    def _kept(self, owner: uuid.UUID, found: Looked, data: bytes) -> int:
        if found.problems:
            more = f" (and {len(found.problems) - 1} more)" if len(found.problems) > 1 else ""
            raise DomainError(f"{found.problems[0]}{more}; nothing was kept")
        if not found.records:
            raise DomainError("the file has no rows: nothing was kept")
        # The same file twice is the same fish twice: rows without a key of their own get one by their place in it.
        has_keys, seed = "id" in found.mapping.values(), hashlib.sha256(data).hexdigest()
        records: Sequence[Catch | TripRecord] = (
            found.records
            if has_keys
            else [replace(one, id=uuid.uuid5(owner, f"{seed}:{number}")) for number, one in enumerate(found.records)]
        )
        return store.put_brought(self._engine, owner, records)


def angler_named(engine: Engine, name: str | None) -> uuid.UUID:
    """Return the key of an angler by name, or of the only one (None).

    Raises DomainError where there is none of that name, or where there are several to choose from.
    """
    there = keep_store.anglers(engine)
    if name is not None:
        if name not in there:
            raise DomainError(
                f"--angler is {name[:40]}: it must be one of {', '.join(there) or 'nobody yet: say who fishes on the Log page'}"
            )
        return there[name]
    if len(there) != 1:
        raise DomainError(f"--angler is missing: it must be one of {', '.join(there) or 'nobody yet: say who fishes on the Log page'}")
    return next(iter(there.values()))
