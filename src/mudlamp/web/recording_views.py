"""Recordings as pages list them."""

from collections.abc import Sequence
from dataclasses import dataclass

from mudlamp.core.records.library import Recording
from mudlamp.services.words.log import SOURCE_WORDS


@dataclass(frozen=True, slots=True, kw_only=True)
class RecordingView:
    """A recording in the list: what it is, how long, how large, whether it is kept or when it expires."""

    id: str
    name: str
    facts: str
    kept: bool
    until: str
    play: str


@dataclass(frozen=True, slots=True, kw_only=True)
class RecordingsView:
    """This browser's recordings."""

    recordings: Sequence[RecordingView]


def recordings_view(recordings: Sequence[Recording]) -> RecordingsView:
    """Return the list of recordings."""
    return RecordingsView(recordings=tuple(_recording(one) for one in recordings))


def _recording(one: Recording) -> RecordingView:
    length = f"{one.seconds:.0f} s, {one.pings} pings"
    return RecordingView(
        id=str(one.id),
        name=one.name,
        facts=f"{SOURCE_WORDS.get(one.source, one.source)} · {one.fan} · {length} · {one.size_bytes / 1e6:.0f} MB",
        kept=one.expires_at is None,
        play=f"/?recording={one.id}",
        until="" if one.expires_at is None else f"expires {one.expires_at:%b %-d}",
    )
