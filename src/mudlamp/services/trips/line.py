"""A trip as a picture: all its sessions, fish, moves and weather along the clock."""

import datetime as dt
import math
from collections.abc import Callable
from functools import partial

from mudlamp.core.records.boat import BoatEntry
from mudlamp.core.records.trips import Catch, Condition, Move
from mudlamp.core.units import degf_from_degc, feet
from mudlamp.services.cards.questions import MPH
from mudlamp.services.edge.forms import INCHES, INCHES_OF_MERCURY
from mudlamp.services.log.timeline import Happened, Timeline, Words, happenings, length_of, line_up
from mudlamp.services.trips.desk import OpenTrip
from mudlamp.services.words.boat import entry_line

# So much of the picture is left free at its end.
ROOM, LEAST_S = 1.02, 600.0


def trip_line(one: OpenTrip, *, told: Callable[[dt.datetime], str]) -> Timeline | None:
    """Return a trip's timeline, `told` saying a moment on the angler's clock; None where nothing happened yet."""
    moments = _moments(one)
    if not moments:
        return None
    start, end = min(moments), max(moments)

    def told_at(seconds: float) -> str:
        return told(start + dt.timedelta(seconds=seconds))

    def at(moment: dt.datetime) -> float:
        return (moment - start).total_seconds()

    found: list[Happened] = []
    for session in one.sessions:
        page = f"/log/{session.summary.id}"
        found += happenings(session, offset_s=at(session.summary.started_at), page=page, recordings=one.recordings)
    found += [Happened("caught", at(each.at), partial(_caught, each)) for each in one.catches]
    found += [Happened("moved", at(each.at), partial(_moved, each)) for each in one.moves]
    found += [Happened("conditions", at(each.at), partial(_conditions, each)) for each in one.conditions]
    found += [Happened("in the boat", at(each.at), partial(_acted, each)) for each in one.acts]
    return line_up(found, length_s=max(at(end) * ROOM, LEAST_S), told=told_at)


def _caught(one: Catch) -> Words:
    return Words(caught_words(one), f"#catch-{one.id}")


def _moved(one: Move) -> Words:
    return Words(move_words(one), "#moves")


def _conditions(one: Condition) -> Words:
    return Words(", ".join(condition_words(one)), "#conditions")


def _acted(one: BoatEntry) -> Words:
    return Words(entry_line(one.kind, one.values))


def _moments(one: OpenTrip) -> list[dt.datetime]:
    """Return all moments that the picture must hold."""
    found = [each.at for part in (one.catches, one.moves, one.conditions, one.acts) for each in part]
    for session in one.sessions:
        begun = session.summary.started_at
        found += [begun, begun + dt.timedelta(seconds=length_of(session))]
    return found


def condition_words(one: Condition) -> list[str]:
    """Return the weather and the water of a moment in words."""
    parts = (
        one.sky,
        None if one.wind_m_s is None else f"wind {MPH.from_core(one.wind_m_s):.0f} mph{_from(one.wind_from_rad)}",
        None if one.air_degc is None else f"air {degf_from_degc(one.air_degc):.0f}°F",
        None if one.water_degc is None else f"water {degf_from_degc(one.water_degc):.0f}°F",
        one.clarity,
        None if one.pressure_pa is None else f"{INCHES_OF_MERCURY.from_core(one.pressure_pa):.2f} inHg",
    )
    return [part for part in parts if part]


def _from(angle_rad: float | None) -> str:
    """Return where wind comes from, as one of eight winds."""
    if angle_rad is None:
        return ""
    names = ("north", "northeast", "east", "southeast", "south", "southwest", "west", "northwest")
    return f" from the {names[round(angle_rad / (math.pi / 4.0)) % 8]}"


def move_words(one: Move) -> str:
    """Return a move in words."""
    parts = (
        one.place,
        None if one.depth_m is None else f"{feet(one.depth_m):.0f} ft",
        None if one.saw_fish is None else "fish there" if one.saw_fish else "no fish",
    )
    return ", ".join(part for part in parts if part)


def caught_words(one: Catch) -> str:
    """Return a fish in few words."""
    return one.species if one.length_m is None else f"{one.species}, {INCHES.from_core(one.length_m):.1f} in"
