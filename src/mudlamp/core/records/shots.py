"""Shots in a list: one line each, and what a list may be narrowed to."""

import datetime as dt
import uuid
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from enum import StrEnum

from mudlamp.core.controls import Value
from mudlamp.core.reactions import Reaction


def with_bite(tokens: Sequence[str], outcome: str | None) -> list[str]:
    """Return the tokens of what a shot's fish did, a bite among them where it is known how one ended: tracks hardly ever show it."""
    bit = Reaction.BIT.value
    return [*tokens] if outcome is None or bit in tokens else [*tokens, bit]


class ShotOrder(StrEnum):
    """What a list of shots may be sorted by."""

    AT = "at"
    OUT = "out"
    HEAD = "head"
    LASTED = "lasted"
    OUTCOME = "outcome"
    WATER = "water"


@dataclass(frozen=True, slots=True, kw_only=True)
class ShotWanted:
    """What a list of shots is narrowed to (None or empty: no matter), and how it is sorted."""

    source: str = ""
    text: str = ""
    token: str = ""
    outcome: str = ""
    since: dt.datetime | None = None
    until: dt.datetime | None = None
    least_m: float | None = None
    most_m: float | None = None
    least_kg: float | None = None
    most_kg: float | None = None
    order: ShotOrder = ShotOrder.AT
    up: bool = False


@dataclass(frozen=True, slots=True, kw_only=True)
class ShotLine:
    """A shot in the list: one of a session's, by its number, or (`session_id` None) one noted in the boat with what was tied on; None: not known."""

    id: uuid.UUID
    session_id: uuid.UUID | None
    title: str
    source: str
    number: int
    at: dt.datetime
    ahead_m: float | None
    head_kg: float
    lasted_s: float | None
    outcome: str | None
    tokens: Sequence[str]
    known: Mapping[str, Value]


@dataclass(frozen=True, slots=True, kw_only=True)
class FoundText:
    """Something of the log in which a text was found."""

    kind: str
    id: uuid.UUID
    name: str
    more: str
    at: dt.datetime
