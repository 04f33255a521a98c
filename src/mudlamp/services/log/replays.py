"""The recording behind a moment of a session, and where it is played."""

import datetime as dt
import uuid
from collections.abc import Sequence

from sqlalchemy import Engine

from mudlamp.core.records.library import Recording
from mudlamp.store import library as store

# It is played from a little before the moment on [s].
BEFORE_S = 4.0


def recordings_of(engine: Engine, owner: uuid.UUID, sessions: Sequence[uuid.UUID], *, now: dt.datetime) -> list[Recording]:
    """Return an owner's recordings of sessions, by when they begin, without those whose time is over."""
    return [one for one in store.recordings_of(engine, owner, sessions) if one.expires_at is None or one.expires_at > now]


def behind(recordings: Sequence[Recording], session: uuid.UUID | None, session_s: float | None) -> Recording | None:
    """Return the recording that holds a moment of a session [s], the newest where several do; None where none does."""
    if session is None or session_s is None:
        return None
    held = [
        one
        for one in recordings
        if one.session_id == session and one.begins_s is not None and one.begins_s <= session_s <= one.begins_s + one.seconds
    ]
    return held[-1] if held else None


def played_at(one: Recording, session_s: float) -> str:
    """Return the address at which a recording is played from just before a moment of its session [s] on."""
    return f"/?recording={one.id}&at={max(session_s - (one.begins_s or 0.0) - BEFORE_S, 0.0):.0f}"


def replay(recordings: Sequence[Recording], session: uuid.UUID | None, session_s: float | None) -> str:
    """Return the address at which a moment of a session is played; empty where no recording holds it."""
    one = behind(recordings, session, session_s)
    return "" if one is None or session_s is None else played_at(one, session_s)
