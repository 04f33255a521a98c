"""The roles about a session: who listens to it, and where its records go."""

from typing import Protocol

from mudlamp.core.records.log import Record


class Listener(Protocol):
    """The role: a viewer, or the line to all of them."""

    dropped: int

    def put_text(self, kind: str, message: str) -> None:
        """Leave a text, and say what it is."""

    def put_latest(self, kind: str, message: str) -> None:
        """Leave a text of which only the newest counts."""

    def put_frame(self, data: bytes, side: int = 0) -> None:
        """Leave a frame of a side."""

    def close(self) -> None:
        """Nothing more comes."""


class Records(Protocol):
    """The role: where records for the log go."""

    away: bool

    @property
    def waiting(self) -> int:
        """How many records are not committed yet."""

    def put(self, record: Record) -> None:
        """Queue a record, or what later settles of it."""

    def close(self) -> None:
        """Write what waits and stop."""
