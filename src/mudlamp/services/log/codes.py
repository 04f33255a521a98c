"""Codes by which a browser becomes an angler who is known already: shown in the terminal that the application runs in, typed on the page."""

import hmac
import secrets
import sys
import threading
import time
import uuid
from dataclasses import dataclass

from mudlamp.core.errors import DomainError
from mudlamp.core.records.log import Angler

VALID_S, MOST_GUESSES = 600.0, 5
# Without letters that look like digits.
LETTERS = "ACDEFGHJKMNPQRTUVWXY347"
LENGTH = 8


@dataclass(slots=True)
class _Code:
    text: str
    until_s: float
    guesses: int = 0


class Codes:
    """The codes that are open: one an angler, for ten minutes and five guesses."""

    def __init__(self) -> None:
        self._open: dict[uuid.UUID, _Code] = {}
        self._lock = threading.Lock()

    def check(self, angler: Angler, typed: str) -> None:
        """Use up an angler's code where it was typed; else show one in the terminal, and raise DomainError saying so."""
        with self._lock:
            code = self._open.get(angler.id)
            if code is not None and time.monotonic() > code.until_s:
                code = None
            if code is not None and typed.strip():
                code.guesses += 1
                if code.guesses <= MOST_GUESSES and hmac.compare_digest(typed.strip().upper().encode(), code.text.encode()):
                    del self._open[angler.id]
                    return
                left = max(0, MOST_GUESSES - code.guesses)
                raise DomainError(f"code is not the one that the terminal shows: it must be, {left} more tries")
            if code is None:
                code = self._open[angler.id] = _Code("".join(secrets.choice(LETTERS) for _ in range(LENGTH)), time.monotonic() + VALID_S)
                # On the terminal alone: not even the log file holds it.
                print(
                    f"Mud Lamp: code {code.text} lets a browser act as {angler.name}, for {VALID_S / 60:.0f} minutes",
                    file=sys.stderr,
                    flush=True,
                )
        raise DomainError(
            f"name is {angler.name}: somebody goes by it already; if that is you, type the code that the terminal of Mud Lamp shows now, else choose another"
        )
