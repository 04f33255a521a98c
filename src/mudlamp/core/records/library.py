"""Recordings and named set-ups as they are kept."""

import datetime as dt
import uuid
from collections.abc import Mapping
from dataclasses import dataclass

from mudlamp.core.controls import Value


@dataclass(frozen=True, slots=True, kw_only=True)
class Recording:
    """A recording in the library; of one that was saved from a session, which, and at which of its seconds it begins."""

    id: uuid.UUID
    owner: uuid.UUID
    source: str
    name: str
    digest: str
    size_bytes: int
    pings: int
    seconds: float
    fan: str
    created_at: dt.datetime
    expires_at: dt.datetime | None
    session_id: uuid.UUID | None = None
    begins_s: float | None = None


@dataclass(frozen=True, slots=True, kw_only=True)
class NamedSetup:
    """A set-up with a name: the receiver's controls by their core names, in SI."""

    id: uuid.UUID
    name: str
    values: Mapping[str, Value]
    created_at: dt.datetime
