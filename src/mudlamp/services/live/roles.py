"""The roles about a session: who listens to it, and where its rows go."""

from typing import Any, Protocol


class Listener(Protocol):
    """The role: a viewer, or the line to all of them."""

    dropped: int

    def put_text(self, message: str) -> None:
        """Leave a text."""

    def put_latest(self, kind: str, message: str) -> None:
        """Leave a text of which only the newest counts."""

    def put_frame(self, data: bytes, side: int = 0) -> None:
        """Leave a frame of a side."""


class Rows(Protocol):
    """The role: where rows for the log go."""

    @property
    def waiting(self) -> int:
        """How many rows are not committed yet."""

    away: bool

    def session(self, **values: Any) -> None:
        """Queue a session row, or what later settles of it."""

    def setup(self, **values: Any) -> None:
        """Queue a change of set-up."""

    def shot(self, **values: Any) -> None:
        """Queue a shot, or what later settles of it."""

    def reaction(self, **values: Any) -> None:
        """Queue a reaction."""

    def track(self, **values: Any) -> None:
        """Queue a track's summary."""

    def close(self) -> None:
        """Write what waits and stop."""
