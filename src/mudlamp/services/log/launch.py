"""Before launch: a list of one's own, ticked off anew each day."""

import datetime as dt
import uuid
from collections.abc import Callable, Sequence
from dataclasses import replace

from sqlalchemy import Engine

from mudlamp.core.errors import DomainError
from mudlamp.core.records.launch import LaunchList
from mudlamp.core.texts import mended
from mudlamp.store import launch as store

MOST_ITEMS, LONGEST = 30, 120
# What stands there before somebody writes a list of their own. Common practice; the last asks for the rules of the place.
USUAL = (
    "Life jackets on, cut-off lanyard clipped",
    "Somebody ashore knows where and until when",
    "Unit and trolling batteries charged; fish scale too",
    "Line run through the fingers: no nicks",
    "Screen wiped, transducer and cable looked at",
    "Three or four rods rigged, different colors and weights",
    "Recording on",
    "Live sonar and phones allowed on this water, in this event, today?",
)


class LaunchDesk:
    """One's own list before launch."""

    def __init__(self, engine: Engine, *, now: Callable[[], dt.datetime]) -> None:
        self._engine = engine
        self._now = now

    def of(self, owner: uuid.UUID, today: dt.date) -> LaunchList:
        """Return the list with what is done today: the usual one before somebody wrote their own; what was done on another day is not done."""
        found = store.launch_list(self._engine, owner) or LaunchList(items=USUAL, done=(), day=None)
        return found if found.day == today else replace(found, done=(), day=today)

    def tick(self, owner: uuid.UUID, item: str, today: dt.date, *, done: bool) -> LaunchList:
        """Tick an item off for today, or take that back; raise DomainError for one that is not on the list."""
        now = self.of(owner, today)
        if item not in now.items:
            raise DomainError(f"item is {item[:40]}: it must be one of the list")
        ticked = [one for one in now.items if (one in now.done or one == item) and not (one == item and not done)]
        return self._kept(owner, replace(now, done=tuple(ticked)))

    def write(self, owner: uuid.UUID, lines: Sequence[str], today: dt.date) -> LaunchList:
        """Put other items in the place of the list's, in this order; what is done stays done. No line at all brings the usual list back.

        Raises DomainError for too many items, or one that is too long.
        """
        items = list(dict.fromkeys(text for line in lines if (text := " ".join(mended(line).split()))))
        if len(items) > MOST_ITEMS:
            raise DomainError(f"items are {len(items)}: there may be {MOST_ITEMS} at most")
        for text in items:
            if len(text) > LONGEST:
                raise DomainError(f"item is {text[:40]}...: it may have {LONGEST} letters at most")
        now = self.of(owner, today)
        wanted = tuple(items) or USUAL
        return self._kept(owner, LaunchList(items=wanted, done=tuple(one for one in now.done if one in wanted), day=today))

    def _kept(self, owner: uuid.UUID, found: LaunchList) -> LaunchList:
        store.put_launch_list(self._engine, owner, found, now=self._now())
        return found
