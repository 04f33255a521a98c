"""Who listens to a session: texts go to all at once, pictures when a processor as slow as the water's would have them."""

import threading
import time
from collections import deque

from mudlamp.services.live.roles import Listener
from mudlamp.services.live.told import Message, text_of


class Audience:
    """The listeners of one session, or of the web process to it; used from any thread."""

    def __init__(self) -> None:
        self._listeners: list[Listener] = []
        self._lock = threading.Lock()
        self._late: deque[tuple[float, list[bytes]]] = deque()
        self._state: str | None = None

    def __len__(self) -> int:
        return len(self._listeners)

    def join(self, listener: Listener) -> None:
        """Let one listen, and tell it how things stand; one that listens already stays."""
        with self._lock:
            if listener not in self._listeners:
                self._listeners.append(listener)
                if self._state is not None:
                    listener.put_text("state", self._state)

    def remind(self, listener: Listener) -> None:
        """Tell one, and nobody else, again how things stand."""
        with self._lock:
            if self._state is not None:
                listener.put_text("state", self._state)

    def leave(self, listener: Listener) -> None:
        """One listens no more."""
        with self._lock:
            if listener in self._listeners:
                self._listeners.remove(listener)

    @property
    def dropped(self) -> int:
        """How many frames the present listeners did not fetch."""
        with self._lock:
            return sum(listener.dropped for listener in self._listeners)

    def tell(self, message: Message) -> None:
        """Tell all of them something."""
        self.pass_text(message.type, text_of(message))

    def tell_latest(self, message: Message) -> None:
        """Tell all of them something of which only the newest counts."""
        self.pass_latest(message.type, text_of(message))

    def pass_text(self, kind: str, message: str) -> None:
        """Pass a text on to all of them; how things stand is kept for those who come later."""
        with self._lock:
            if kind == "state":
                self._state = message
            for listener in self._listeners:
                listener.put_text(kind, message)

    def pass_latest(self, kind: str, message: str) -> None:
        """Pass a text on of which only the newest counts."""
        with self._lock:
            for listener in self._listeners:
                listener.put_latest(kind, message)

    def pass_frame(self, data: bytes, side: int) -> None:
        """Pass a frame of a side on."""
        with self._lock:
            for listener in self._listeners:
                listener.put_frame(data, side)

    def close(self) -> None:
        """Nothing more comes: say so to all of them."""
        with self._lock:
            for listener in self._listeners:
                listener.close()

    def show(self, pictures: list[bytes], *, lag_s: float) -> None:
        """Show the pictures of a ping, side by side, so long after [s]; what is due by now goes out. One thread shows."""
        self._late.append((time.monotonic() + lag_s, pictures))
        while self._late and self._late[0][0] <= time.monotonic():
            for side, one in enumerate(self._late.popleft()[1]):
                self.pass_frame(one, side)
