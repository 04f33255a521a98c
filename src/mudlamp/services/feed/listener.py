"""Listens to the boat's instruments over TCP: the newest of each reading, and how many sentences were good, bad or strange."""

import dataclasses
import datetime as dt
import socket
import threading
from collections.abc import Callable
from dataclasses import dataclass, replace

import structlog
from sqlalchemy import Engine

from mudlamp.core.errors import DomainError
from mudlamp.formats.nmea import LONGEST, Said, read_sentence
from mudlamp.services.feed.noting import TripNotes

# What was said so long ago is not so any more [s].
FRESH_S = 30.0
# A talker that says nothing for so long is dialed anew; how long until it is tried again [s].
SILENT_S, AGAIN_S = 20.0, 5.0


@dataclass(frozen=True, slots=True, kw_only=True)
class Heard:
    """How the feed stands: whether it is connected, the newest readings, since when, how many sentences were good, bad, of no use; the last fault."""

    connected: bool = False
    said: Said = dataclasses.field(default_factory=Said)
    at: dt.datetime | None = None
    good: int = 0
    bad: int = 0
    other: int = 0
    fault: str = ""


def address_of(text: str) -> tuple[str, int]:
    """Return the host and the port of HOST:PORT; raise DomainError for a text that is none."""
    host, colon, port = text.rpartition(":")
    if not (host and colon and port.isdecimal() and 1 <= int(port) <= 65535):
        raise DomainError(f"MUDLAMP_NMEA is {text[:60]}: it must be HOST:PORT, the port 1 to 65535")
    return host.strip("[]"), int(port)


class Listener:
    """One listener: a thread that dials, listens, and dials again."""

    def __init__(self, engine: Engine, address: str, *, now: Callable[[], dt.datetime]) -> None:
        self._now = now
        self._address = address_of(address)
        self._heard = Heard()
        self._notes = TripNotes(engine, now=now)
        self._over = threading.Event()
        self._log = structlog.get_logger()
        self._thread = threading.Thread(target=self._run, name="feed", daemon=True)

    def start(self) -> None:
        """Begin to listen."""
        self._thread.start()

    def stop(self) -> None:
        """Stop, and wait for it."""
        self._over.set()
        if self._thread.is_alive():
            self._thread.join(SILENT_S + AGAIN_S)

    def heard(self) -> Heard:
        """Return how the feed stands; readings that are not fresh any more are left out."""
        found = self._heard
        is_fresh = found.at is not None and (self._now() - found.at).total_seconds() <= FRESH_S
        return found if is_fresh else replace(found, said=Said())

    def _run(self) -> None:
        while not self._over.is_set():
            try:
                with socket.create_connection(self._address, timeout=AGAIN_S) as line:
                    line.settimeout(1.0)
                    self._heard = replace(self._heard, connected=True, fault="")
                    self._listen(line)
            except OSError as error:
                self._heard = replace(self._heard, fault=error.strerror or type(error).__name__)
            self._heard = replace(self._heard, connected=False)
            self._over.wait(AGAIN_S)

    def _listen(self, line: socket.socket) -> None:
        """Listen until it ends: what has no line's end within a sentence's length is thrown away."""
        rest, silent_s, is_skipping = b"", 0.0, False
        while not self._over.is_set() and silent_s < SILENT_S:
            try:
                piece = line.recv(4096)
            except TimeoutError:
                silent_s += 1.0
                continue
            if not piece:
                return
            silent_s = 0.0
            *sentences, rest = (rest + piece).split(b"\n")
            for one in sentences[1:] if is_skipping else sentences:
                if one.strip():
                    self._take(one)
            is_skipping = is_skipping and not sentences
            if len(rest) > LONGEST:
                if not is_skipping:
                    self._count(bad=1, fault=f"over {LONGEST} bytes without a line's end")
                rest, is_skipping = b"", True

    def _take(self, sentence: bytes) -> None:
        try:
            said = read_sentence(sentence + b"\n")
        except DomainError as error:
            self._count(bad=1, fault=str(error))
            return
        if said is None:
            self._count(other=1)
            return
        news = {name: value for name in Said.__slots__ if (value := getattr(said, name)) is not None}
        self._heard = replace(self._heard, said=replace(self.heard().said, **news), at=self._now(), good=self._heard.good + 1)
        self._notes.note(self.heard().said)

    def _count(self, *, bad: int = 0, other: int = 0, fault: str = "") -> None:
        self._heard = replace(self._heard, bad=self._heard.bad + bad, other=self._heard.other + other, fault=fault or self._heard.fault)
