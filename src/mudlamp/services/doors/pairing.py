"""Pairing: a code that an angler shows lets one more device in, to act as that angler, until it is revoked."""

import datetime as dt
import hmac
import secrets
import threading
import uuid
from collections.abc import Callable, Sequence
from dataclasses import dataclass

import structlog
from sqlalchemy import Engine

from mudlamp.core.errors import DomainError, MissingError
from mudlamp.core.records.boat import Pairing
from mudlamp.store import pairings as store

VALID = dt.timedelta(minutes=10)
MOST_GUESSES = 5
# After so many wrong guesses in a row, whatever the code, nobody is let in for a while.
LOCKED_AFTER, LOCKED = 20, dt.timedelta(minutes=15)
# Without letters that look like digits.
LETTERS, LENGTH = "ACDEFGHJKMNPQRTUVWXY347", 8
WRONG = "code is not one that is open: show a new one on the machine that Mud Lamp runs on"


@dataclass(slots=True)
class _Open:
    text: str
    angler: uuid.UUID
    until: dt.datetime
    guesses: int = 0


class PairingDesk:
    """Who is let in from other machines. One code is open at a time; it is used once."""

    def __init__(self, engine: Engine, *, now: Callable[[], dt.datetime]) -> None:
        self._engine, self._now = engine, now
        self._lock = threading.Lock()
        self._code: _Open | None = None
        self._wrong = 0
        self._locked_until: dt.datetime | None = None
        self._known: dict[uuid.UUID, uuid.UUID] | None = None
        self._log = structlog.get_logger()

    def show(self, angler: uuid.UUID) -> str:
        """Return a new code of an angler's; the one before is over."""
        with self._lock:
            text = "".join(secrets.choice(LETTERS) for _ in range(LENGTH))
            self._code = _Open(text, angler, self._now() + VALID)
            return text

    def pair(self, typed: str, device: uuid.UUID, name: str) -> uuid.UUID:
        """Let a device in by a code, and return the angler it acts as; raise DomainError for any other code, which is used up soon."""
        with self._lock:
            angler = self._checked(typed)
            store.add_pairing(
                self._engine,
                Pairing(id=uuid.uuid4(), device=device, angler=angler, name=" ".join(name.split())[:60], paired_at=self._now()),
            )
            self._known = None
        self._log.info("paired", device=str(device))
        return angler

    def _checked(self, typed: str) -> uuid.UUID:
        now, code = self._now(), self._code
        if self._locked_until is not None and now < self._locked_until:
            raise DomainError("too many wrong codes: nobody is let in for a quarter of an hour")
        right = code is not None and now <= code.until and hmac.compare_digest(typed.strip().upper().encode(), code.text.encode())
        if code is not None and right:
            self._code, self._wrong = None, 0
            return code.angler
        self._wrong += 1
        if code is not None:
            code.guesses += 1
            if code.guesses >= MOST_GUESSES:
                self._code = None
        if self._wrong >= LOCKED_AFTER:
            self._code, self._wrong, self._locked_until = None, 0, now + LOCKED
        self._log.warning("pairing refused", wrong=self._wrong)
        raise DomainError(WRONG)

    def angler_of(self, device: uuid.UUID) -> uuid.UUID | None:
        """Return the angler that a device is paired as, or None."""
        with self._lock:
            if self._known is None:
                self._known = {one.device: one.angler for one in reversed(store.pairings(self._engine, None))}
            return self._known.get(device)

    def of(self, angler: uuid.UUID) -> Sequence[Pairing]:
        """Return the devices that are paired as an angler, newest first."""
        return store.pairings(self._engine, angler)

    def revoke(self, angler: uuid.UUID, key: uuid.UUID) -> None:
        """Turn a device away from now on; raise MissingError where the angler has none of that key."""
        with self._lock:
            if not store.revoke(self._engine, angler, key):
                raise MissingError("You have no device with that key.")
            self._known = None
