"""What was noted in the boat, day by day, for the Log page; and two entries that came under one key."""

import itertools
from collections.abc import Sequence
from dataclasses import dataclass

from mudlamp.core.records.boat import BoatEntry
from mudlamp.services.boat.desk import Told
from mudlamp.services.words.boat import counted, entry_line
from mudlamp.web.times import local

# Clocks that are off by less are as good as right [s].
RIGHT_CLOCK_S = 90.0


@dataclass(frozen=True, slots=True, kw_only=True)
class BoatLine:
    """One act: when, what; `clock` is how far the phone's clock was off, where it was."""

    at: str
    text: str
    clock: str


@dataclass(frozen=True, slots=True, kw_only=True)
class BoatDay:
    """A day in the boat: its counts and its acts."""

    day: str
    tally: str
    lines: Sequence[BoatLine]


@dataclass(frozen=True, slots=True, kw_only=True)
class ClashView:
    """Two acts that came under one key and say different things."""

    key: str
    first: str
    second: str


@dataclass(frozen=True, slots=True, kw_only=True)
class BoatLogView:
    """What was noted in the boat."""

    days: Sequence[BoatDay]
    clashes: Sequence[ClashView]


def boat_log_view(told: Sequence[Told]) -> BoatLogView:
    """Return acts, oldest first, as days with the newest first, each on the angler's clock; clashes apart."""
    plain = [one for one in told if one.clash_of is None]
    days = [(day, list(group)) for day, group in itertools.groupby(plain, key=lambda one: local(one.entry.at).date())]
    return BoatLogView(
        days=[
            BoatDay(
                day=f"{day:%b} {day.day}, {day.year}",
                tally=counted([one.entry.values for one in group if one.entry.kind == "outcome"]),
                lines=[_line(one) for one in group],
            )
            for day, group in reversed(days)
        ],
        clashes=[
            ClashView(key=str(one.entry.id), first=_text(one.clash_of), second=_text(one.entry)) for one in told if one.clash_of is not None
        ],
    )


def _line(one: Told) -> BoatLine:
    off = one.entry.offset_s
    late = abs(off) > RIGHT_CLOCK_S
    return BoatLine(
        at=local(one.entry.at).strftime("%-I:%M %p"),
        text=entry_line(one.entry.kind, one.entry.values),
        clock=f"the phone's clock was {abs(off) / 60.0:.0f} min {'slow' if off > 0 else 'fast'} when it was sent" if late else "",
    )


def _text(entry: BoatEntry) -> str:
    return f"{local(entry.at):%-I:%M:%S %p}: {entry_line(entry.kind, entry.values)}"
