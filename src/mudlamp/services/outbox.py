"""What goes down a pipe: left by anybody, sent by a thread of its own, so that nobody waits for the other end while holding a lock."""

import itertools
import threading
import time
from collections.abc import Callable, Hashable
from multiprocessing.connection import Connection
from typing import Generic, TypeVar

M = TypeVar("M")

# Messages that wait in order; those of which only the newest counts come on top, one a slot.
MOST_WAITING = 256


class Outbox(Generic[M]):
    """Sends messages in order; of those with the same slot only the newest waits. `slot_of` gives a message's slot, None for none."""

    def __init__(self, connection: Connection, *, slot_of: Callable[[M], Hashable | None], name: str) -> None:
        self._connection = connection
        self._slot_of = slot_of
        self._waiting: dict[Hashable, M] = {}
        self._in_order = 0
        self._numbers = itertools.count()
        self._changed = threading.Condition()
        self._closing = False
        self._broken = False
        self._thread = threading.Thread(target=self._run, name=name, daemon=True)
        self._thread.start()

    def put(self, message: M, *, wait_s: float = 0.0) -> bool:
        """Leave a message; return False where too many wait and none goes within `wait_s`. Once the other end is gone, messages go nowhere."""
        slot = self._slot_of(message)
        until = time.monotonic() + wait_s
        with self._changed:
            if slot is None:
                while self._in_order >= MOST_WAITING and not self._broken:
                    left = until - time.monotonic()
                    if left <= 0.0 or not self._changed.wait(left):
                        return False
                self._in_order += 1
            if not self._broken:
                key: Hashable = ("in order", next(self._numbers)) if slot is None else slot
                self._waiting.pop(key, None)
                self._waiting[key] = message
                self._changed.notify_all()
        return True

    def close(self, timeout_s: float) -> None:
        """Send what waits, and stop; give up where the other end does not read."""
        with self._changed:
            self._closing = True
            self._changed.notify_all()
        self._thread.join(timeout_s)

    def _next(self) -> M | None:
        with self._changed:
            while not self._waiting:
                if self._closing:
                    return None
                self._changed.wait()
            key = next(iter(self._waiting))
            message = self._waiting.pop(key)
            if self._slot_of(message) is None:
                self._in_order -= 1
            self._changed.notify_all()
            return message

    def _run(self) -> None:
        try:
            while (message := self._next()) is not None:
                self._connection.send(message)
        except OSError:
            # The other end is gone; who reads from it finds out and says so.
            with self._changed:
                self._broken = True
                self._waiting.clear()
                self._changed.notify_all()
