"""Kinds of places in a large water, and who is there by season: common practice, no source; the shares are ours."""

from dataclasses import dataclass
from enum import StrEnum

from mudlamp.core.units import FOOT_M, degc_from_degf


class Season(StrEnum):
    """The seasons as fish keep them: by the water's temperature, and whether it is warming or cooling."""

    WINTER = "winter"
    SPRING = "spring"
    SUMMER = "summer"
    FALL = "fall"


# Colder than the first it is winter, warmer than the second summer; between, spring while it warms and fall while it cools.
WINTER_DEGC = degc_from_degf(50.0)
SUMMER_DEGC = degc_from_degf(75.0)


def season_of(temperature_degc: float, *, warming: bool) -> Season:
    """Return the season of a water temperature [degC]. Source: common practice."""
    if temperature_degc < WINTER_DEGC:
        return Season.WINTER
    if temperature_degc > SUMMER_DEGC:
        return Season.SUMMER
    return Season.SPRING if warming else Season.FALL


class PlaceKind(StrEnum):
    """Kinds of places that hold fish, or could."""

    BRIDGE = "bridge"
    BLUFF = "bluff"
    CHANNEL = "channel"
    POINT = "point"
    FLAT = "flat"
    WEEDS = "weeds"
    DOCK = "dock"
    BRUSH = "brush"
    VILLAGE = "village"
    ORCHARD = "orchard"


@dataclass(frozen=True, slots=True, kw_only=True)
class Place:
    """A place: its kind, middle [m], depth of the bottom [m], and how far it reaches [m]."""

    kind: PlaceKind
    x_m: float
    y_m: float
    depth_m: float
    radius_m: float


# Where schools are found, in shares of all, by season; the order within is the order to try.
SCHOOLS_AT: dict[Season, dict[PlaceKind, float]] = {
    Season.WINTER: {
        PlaceKind.BRIDGE: 0.22,
        PlaceKind.BLUFF: 0.2,
        PlaceKind.CHANNEL: 0.2,
        PlaceKind.ORCHARD: 0.14,
        PlaceKind.BRUSH: 0.12,
        PlaceKind.VILLAGE: 0.08,
        PlaceKind.POINT: 0.04,
    },
    Season.SPRING: {
        PlaceKind.FLAT: 0.34,
        PlaceKind.DOCK: 0.18,
        PlaceKind.WEEDS: 0.16,
        PlaceKind.BRUSH: 0.14,
        PlaceKind.POINT: 0.12,
        PlaceKind.ORCHARD: 0.06,
    },
    Season.SUMMER: {
        PlaceKind.CHANNEL: 0.26,
        PlaceKind.WEEDS: 0.18,
        PlaceKind.DOCK: 0.16,
        PlaceKind.BRIDGE: 0.14,
        PlaceKind.POINT: 0.12,
        PlaceKind.BRUSH: 0.08,
        PlaceKind.ORCHARD: 0.06,
    },
    Season.FALL: {
        PlaceKind.BRUSH: 0.24,
        PlaceKind.ORCHARD: 0.2,
        PlaceKind.POINT: 0.16,
        PlaceKind.CHANNEL: 0.16,
        PlaceKind.VILLAGE: 0.12,
        PlaceKind.DOCK: 0.08,
        PlaceKind.BRIDGE: 0.04,
    },
}
# The depth band of the bottom to search first [m].
BAND_M: dict[Season, tuple[float, float]] = {
    Season.WINTER: (12.0 * FOOT_M, 18.0 * FOOT_M),
    Season.SPRING: (5.0 * FOOT_M, 10.0 * FOOT_M),
    Season.SUMMER: (10.0 * FOOT_M, 20.0 * FOOT_M),
    Season.FALL: (9.0 * FOOT_M, 17.0 * FOOT_M),
}
