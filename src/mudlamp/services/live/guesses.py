"""The angler's guesses of fish's lengths in a session, beside what is measured of the same fish."""

from collections.abc import Sequence

from mudlamp.core.fishing.guessing import Guessing, guessing
from mudlamp.core.tracking.sizing import Size
from mudlamp.core.tracking.views import TrackView


class Guesses:
    """By the track's number: what was guessed, and what was measured of it last."""

    def __init__(self) -> None:
        self._guessed: dict[int, float] = {}
        self._measured: dict[int, Size] = {}

    def note(self, track: int, length_m: float) -> None:
        """Take in a guess [m]; a second one of the same fish takes the place of the first."""
        self._guessed[track] = length_m

    def look_at(self, tracks: Sequence[TrackView]) -> None:
        """Take in what is measured now of the fish that were guessed."""
        for track in tracks:
            if track.number in self._guessed and track.size is not None and track.size.sure:
                self._measured[track.number] = track.size

    def of(self, track: int) -> float | None:
        """Return what was guessed of a track [m], or None."""
        return self._guessed.get(track)

    def said(self) -> Guessing:
        """Return how the session's guesses run."""
        return guessing([(self._guessed[number], size.length_m) for number, size in self._measured.items()])
