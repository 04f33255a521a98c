"""The sun's height at a place and time, by a library."""

import datetime as dt
import math
from dataclasses import dataclass

from astral import Observer
from astral.sun import dawn, dusk, elevation, sunrise, sunset


def sun_height_rad(*, latitude_deg: float, longitude_deg: float, at: dt.datetime) -> float:
    """Return how high the sun stands [rad] at a place [deg] and a time, refraction included; negative under the horizon.

    Source: astral. Check values: tests/reference/rig.toml.
    """
    return math.radians(elevation(Observer(latitude_deg, longitude_deg, 0.0), at.astimezone(dt.UTC)))


@dataclass(frozen=True, slots=True, kw_only=True)
class SunTimes:
    """The day's sun times, in the order of the day: what happens, and when, on the angler's clock."""

    lines: tuple[tuple[str, str], ...]


def sun_times(*, latitude_deg: float, longitude_deg: float, now: dt.datetime) -> SunTimes:
    """Return the sun times of a day at a place [deg], `now` being on the angler's clock; those that do not come that day are left out.

    Source: astral.
    """
    place, zone = Observer(latitude_deg, longitude_deg, 0.0), now.tzinfo or dt.UTC
    found = []
    for name, when in (("First light", dawn), ("Sunrise", sunrise), ("Sunset", sunset), ("Dark", dusk)):
        try:
            at = when(place, date=now.date(), tzinfo=zone)
        except ValueError:
            # Near the poles.
            continue
        found.append((name, at.strftime("%-I:%M %p")))
    return SunTimes(lines=tuple(found))
