"""Times as the angler's clock shows them: the browser says its zone in a cookie; until it has, the machine's own zone counts."""

import datetime as dt
from contextvars import ContextVar
from zoneinfo import ZoneInfo, ZoneInfoNotFoundError

COOKIE = "lamp_zone"
LONGEST = 64
_ZONE: ContextVar[dt.tzinfo | None] = ContextVar("zone", default=None)


def use_zone(name: str) -> None:
    """Let a request's times be those of a zone, such as America/Chicago; of the machine's where there is none of that name."""
    try:
        zone = ZoneInfo(name) if 0 < len(name) <= LONGEST else None
    except (ZoneInfoNotFoundError, ValueError, OSError):
        zone = None
    _ZONE.set(zone)


def zone() -> dt.tzinfo | None:
    """Return the angler's time zone; None for the machine's own."""
    return _ZONE.get()


def local(at: dt.datetime) -> dt.datetime:
    """Return a moment on the angler's clock."""
    return at.astimezone(_ZONE.get())


def time_of_day(at: dt.datetime) -> str:
    """Return a moment's time of day in words: 7:10 AM."""
    # By hand: strftime takes seven times as long, and a timeline says hundreds of times.
    here = local(at)
    return f"{here.hour % 12 or 12}:{here.minute:02d} {'AM' if here.hour < 12 else 'PM'}"


def when(at: dt.datetime) -> str:
    """Return a moment in words: Oct 23, 7:10 AM."""
    return local(at).strftime("%b %-d, %-I:%M %p")


def when_with_year(at: dt.datetime) -> str:
    """Return a moment in words, with its year: Oct 23, 2026, 7:10 AM."""
    return local(at).strftime("%b %-d, %Y, %-I:%M %p")
