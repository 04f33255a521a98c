"""The recorded head: plays a recording's pings at their own times, over and over."""

from dataclasses import replace
from typing import Protocol

from mudlamp.core.ping import Ping, SonarSetup

# A pause before the recording starts anew [s].
PAUSE_S = 0.5


class Tape(Protocol):
    """What holds the pings: a recording's reader."""

    setup: SonarSetup

    @property
    def seconds(self) -> float:
        """How long it runs from its first ping to its last [s]."""

    def __len__(self) -> int: ...

    def time_s(self, number: int) -> float:
        """Return the time of a ping [s]."""

    def ping(self, number: int) -> Ping:
        """Return a ping by its number."""

    def close(self) -> None:
        """Let it go."""


class RecordedHead:
    """Pings of a tape. No chance, thread, clock or sleep of its own; what it was recorded with cannot be changed."""

    def __init__(self, tape: Tape, *, from_s: float = 0.0) -> None:
        """Begin at a time of the tape [s]."""
        self._tape = tape
        self.setup = tape.setup
        self.pings = len(tape)
        self.span_s = tape.seconds + PAUSE_S
        self._from_s = min(max(from_s, 0.0), tape.seconds)
        self._at = -1
        self._round = 0
        self._heard = 0

    def listen(self, time_s: float) -> Ping | None:
        """Return the newest ping that came by a time [s] since the start, numbered on over the rounds; None where none came since."""
        round_, within = divmod(time_s + self._from_s, self.span_s)
        if round_ != self._round:
            self._round, self._at = int(round_), -1
        first = self._tape.time_s(0)
        wanted = self._at
        while wanted + 1 < self.pings and self._tape.time_s(wanted + 1) - first <= within + 1e-9:
            wanted += 1
        if wanted == self._at or wanted < 0:
            return None
        self._at = wanted
        ping = replace(self._tape.ping(wanted), number=self._heard, time_s=time_s)
        self._heard += 1
        return ping

    def close(self) -> None:
        """Close the file."""
        self._tape.close()
