"""Photos of catches: taken in from a phone, made anew so that nothing in them says where they were taken, kept in a folder."""

import contextlib
import datetime as dt
import hashlib
import time
import uuid
from dataclasses import dataclass
from pathlib import Path

from sqlalchemy import Engine

from mudlamp.core.errors import DomainError, MissingError
from mudlamp.core.records.trips import Catch, Photo
from mudlamp.services.quarantine.inspect import inspect_photo
from mudlamp.services.settings import Settings
from mudlamp.store import catches as store

MOST_BYTES = 25_000_000
# A file without a row this old is nobody's [s].
SETTLED_S = 3600.0


@dataclass(frozen=True, slots=True, kw_only=True)
class Pictured:
    """A photo made anew: its bytes, how large it is, and when its camera says it was taken (None: it does not)."""

    data: bytes
    width: int
    height: int
    taken_at: dt.datetime | None


def pictured(data: bytes, *, name: str, zone: dt.tzinfo | None) -> Pictured:
    """Return a photo made anew by a process that can do nothing else: upright, not too large, without anything but the picture.

    A camera's time without a zone is in `zone`. Raises DomainError naming the file for one that is none, broken or too large.
    """
    shown = name.strip()[:60] or "the file"
    if len(data) > MOST_BYTES:
        raise DomainError(f"{shown} has {len(data)} bytes: it may have {MOST_BYTES} at most")
    if not data:
        raise DomainError(f"{shown} is empty: it must be a JPEG, PNG or WebP file")
    found = inspect_photo(data, shown=shown)
    return Pictured(data=found.data, width=found.width, height=found.height, taken_at=_moment(found.taken, found.offset, zone))


def _moment(taken: str, offset: str, zone: dt.tzinfo | None) -> dt.datetime | None:
    """Return a camera's time in UTC; None where it says none, or no date can be made of it."""
    with contextlib.suppress(ValueError, OverflowError):
        at = dt.datetime.strptime(taken, "%Y:%m:%d %H:%M:%S")
        if offset:
            return dt.datetime.strptime(f"{at:%Y-%m-%d %H:%M:%S}{offset}", "%Y-%m-%d %H:%M:%S%z").astimezone(dt.UTC)
        return (at.astimezone() if zone is None else at.replace(tzinfo=zone)).astimezone(dt.UTC)
    return None


class Photos:
    """The photos of everybody."""

    def __init__(self, engine: Engine, settings: Settings) -> None:
        self._engine, self._quota = engine, settings.quota_bytes
        self._folder = settings.run_dir / "photos"

    def _path(self, key: uuid.UUID) -> Path:
        return self._folder / f"{key}.jpg"

    def add(self, owner: uuid.UUID, one: Pictured, caught: Catch, *, now: dt.datetime) -> bool:
        """Keep a photo and the owner's catch it shows; return False, and keep neither, where the owner has that photo already.

        Raises DomainError where the owner's photos would take more room than they may.
        """
        if store.photo_bytes(self._engine, owner) + len(one.data) > self._quota:
            raise DomainError(f"your photos would take more than {self._quota / 1e6:.0f} MB: delete some first")
        photo = Photo(
            id=uuid.uuid4(),
            owner=owner,
            catch_id=caught.id,
            digest=hashlib.sha256(one.data).hexdigest(),
            size_bytes=len(one.data),
            width=one.width,
            height=one.height,
            taken_at=one.taken_at or caught.at,
            created_at=now,
        )
        self.put_file(photo.id, one.data)
        try:
            is_new = store.add_photo(self._engine, photo, caught)
        except Exception:
            self._path(photo.id).unlink(missing_ok=True)
            raise
        if not is_new:
            self._path(photo.id).unlink(missing_ok=True)
        return is_new

    def put_file(self, key: uuid.UUID, data: bytes) -> None:
        """Write a photo's file, whole or not at all."""
        self._folder.mkdir(mode=0o700, parents=True, exist_ok=True)
        part = self._folder / f"{key}.part"
        part.write_bytes(data)
        part.replace(self._path(key))

    def read(self, owner: uuid.UUID, key: uuid.UUID) -> bytes:
        """Return the bytes of one of the owner's photos; raise MissingError where there is none of that key."""
        found = store.find_photo(self._engine, owner, key)
        if found is None or not self._path(key).is_file():
            raise MissingError("You have no photo with that key.")
        return self._path(key).read_bytes()

    def sweep(self) -> None:
        """Delete the files of photos that are no more; one that is being taken in just now is left alone."""
        if self._folder.is_dir():
            there = {str(key) for key in store.photo_keys(self._engine)}
            for path in self._folder.iterdir():
                with contextlib.suppress(FileNotFoundError):
                    if path.stem not in there and time.time() - path.stat().st_mtime > SETTLED_S:
                        path.unlink(missing_ok=True)
