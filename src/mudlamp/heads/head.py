"""The role of a head: whoever hands over pings."""

from typing import Protocol

from mudlamp.core.ping import Ping


class Head(Protocol):
    """Hands over one ping after the other. Nothing downstream knows which kind it is."""

    def listen(self, time_s: float) -> Ping | None:
        """Return the ping heard at a time [s] of this head's own clock, or None after its last."""
