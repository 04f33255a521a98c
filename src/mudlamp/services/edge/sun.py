"""The sun's height at a place and time, by a library."""

import datetime as dt
import math

from astral import Observer
from astral.sun import elevation


def sun_height_rad(*, latitude_deg: float, longitude_deg: float, at: dt.datetime) -> float:
    """Return how high the sun stands [rad] at a place [deg] and a time, refraction included; negative under the horizon.

    Source: astral. Check values: tests/reference/rig.toml.
    """
    return math.radians(elevation(Observer(latitude_deg, longitude_deg, 0.0), at.astimezone(dt.UTC)))
