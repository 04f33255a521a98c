"""Shots as a list to be paged, filtered and sorted; the words of the log searched."""

import datetime as dt
import uuid
from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from sqlalchemy import Engine

from mudlamp.core.records.shots import FoundText, ShotLine, ShotOrder, ShotWanted
from mudlamp.services.edge import forms
from mudlamp.services.edge.forms import FEET, OUNCES, Read
from mudlamp.services.words.log import SOURCE_WORDS, TOKEN_WORDS
from mudlamp.store import shots as store
from mudlamp.store.noted import OUTCOMES as NOTED_OUTCOMES

SIZE, MOST_FOUND, LONGEST_TEXT = 50, 20, 200
OUTCOMES = {name: name for name in NOTED_OUTCOMES}
ORDERS = {
    ShotOrder.AT.value: "time",
    ShotOrder.OUT.value: "distance",
    ShotOrder.HEAD.value: "head",
    ShotOrder.LASTED.value: "time in the water",
    ShotOrder.OUTCOME.value: "outcome",
    ShotOrder.WATER.value: "water",
}
FIELDS = (
    forms.words("text", "Water or session", longest=LONGEST_TEXT),
    forms.choice("source", "Source", SOURCE_WORDS, empty="any"),
    forms.choice("token", "What fish did", TOKEN_WORDS, empty="anything"),
    forms.choice("outcome", "Bite", OUTCOMES, empty="any"),
    forms.day("since", "From"),
    forms.day("until", "To"),
    forms.number("least_ft", "Out, at least", 0.0, 200.0, FEET, empty="any"),
    forms.number("most_ft", "at most", 0.0, 200.0, FEET, empty="any"),
    forms.number("least_oz", "Head, at least", 0.0, 4.0, OUNCES, empty="any"),
    forms.number("most_oz", "at most", 0.0, 4.0, OUNCES, empty="any"),
    forms.choice("order", "Sorted by", ORDERS, ShotOrder, empty="time"),
    forms.check("up", "smallest first"),
)


@dataclass(frozen=True, slots=True, kw_only=True)
class ShotPage:
    """A page of shots: which (from 0), of how many, how many shots on all; the form as it was read."""

    lines: Sequence[ShotLine]
    page: int
    pages: int
    count: int
    asked: Read


def shot_page(
    engine: Engine, owner: uuid.UUID, given: Mapping[str, object], *, page: int, zone: dt.tzinfo | None, with_demo: bool
) -> ShotPage:
    """Return a page of an owner's shots; a field that is wrong narrows nothing and has its message."""
    asked = forms.read(FIELDS, given)
    lines, count = store.shots(engine, owner, _wanted(asked, zone), page=page, size=SIZE, with_demo=with_demo)
    return ShotPage(lines=lines, page=page, pages=max(-(-count // SIZE), 1), count=count, asked=asked)


def _wanted(asked: Read, zone: dt.tzinfo | None) -> ShotWanted:
    order = asked.values["order"]
    return ShotWanted(
        source=asked.text("source"),
        text=asked.text("text"),
        token=asked.text("token"),
        outcome=asked.text("outcome"),
        since=_midnight(asked.values["since"], zone),
        until=_midnight(asked.values["until"], zone, days=1),
        least_m=asked.number("least_ft"),
        most_m=asked.number("most_ft"),
        least_kg=asked.number("least_oz"),
        most_kg=asked.number("most_oz"),
        order=order if isinstance(order, ShotOrder) else ShotOrder.AT,
        up=bool(asked.values["up"]),
    )


def _midnight(day: object, zone: dt.tzinfo | None, *, days: int = 0) -> dt.datetime | None:
    if not isinstance(day, dt.date):
        return None
    at = dt.datetime.combine(day + dt.timedelta(days=days), dt.time())
    return at.astimezone() if zone is None else at.replace(tzinfo=zone)


def search(engine: Engine, owner: uuid.UUID, text: str) -> Sequence[FoundText]:
    """Return what of an owner's log holds the words of a text; nothing for an empty one."""
    wanted = text.strip()[:LONGEST_TEXT]
    return store.search(engine, owner, wanted, most=MOST_FOUND) if wanted else ()
