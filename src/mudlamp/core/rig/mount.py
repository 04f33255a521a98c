"""Mount and aim: tilt in clicks, how far the center ray of a flat fan reaches, what to dial in after an aim check."""

import math
from dataclasses import dataclass
from enum import StrEnum

from mudlamp.core.errors import require_range

CLICK_RAD = (math.radians(0.5), math.radians(45.0))
FLAT_TILT_RAD = math.radians(80.0)
# Where the housing is turned over (one angler).
TURNED_TILT_RAD = math.radians(70.0)
# A motor stowed with its propeller inboard points the transducer wrong by so many clicks (common practice, for the left bow; the right
# bow is its mirror image, ours).
STOW_CLICKS = 2


class MountKind(StrEnum):
    """What carries the transducer."""

    MOTOR_SHAFT = "motor_shaft"
    MOTOR_HEAD = "motor_head"
    POLE = "pole"
    TURRET = "turret"
    STERN = "stern"
    ICE = "ice"


class StowSide(StrEnum):
    """On which bow a motor is stowed, if on any."""

    NONE = "none"
    LEFT = "left"
    RIGHT = "right"


RIDES_ON_MOTOR = (MountKind.MOTOR_SHAFT, MountKind.MOTOR_HEAD)


@dataclass(frozen=True, slots=True, kw_only=True)
class FlatTilt:
    """A tilt for Flat: what is wanted from plumb [rad], the whole clicks nearest to it, what those give [rad]."""

    wanted_rad: float
    clicks: int
    given_rad: float


def flat_tilt(*, click_rad: float, turned: bool) -> FlatTilt:
    """Return the starting tilt of a flat fan: 80 deg from plumb, 70 where the housing is turned over, in whole clicks of the mount, short of level.

    Raises DomainError for clicks outside 0.5 to 45 deg. Source: common practice (70 deg: one angler).
    """
    click = require_range("click_rad", click_rad, *CLICK_RAD, "rad")
    wanted = TURNED_TILT_RAD if turned else FLAT_TILT_RAD
    clicks = round(wanted / click)
    if clicks > 1 and clicks * click >= math.pi / 2.0:
        # Level or past it, the fan's center never meets the bottom.
        clicks -= 1
    return FlatTilt(wanted_rad=wanted, clicks=clicks, given_rad=clicks * click)


def center_reach_m(*, tilt_rad: float, over_bottom_m: float) -> float:
    """Return how far ahead the center ray of a fan meets the bottom [m], `over_bottom_m` under the transducer; infinite from level on.

    Source: plain geometry, height times the tangent of the tilt from plumb.
    """
    return math.inf if tilt_rad >= math.pi / 2.0 else over_bottom_m * math.tan(tilt_rad)


def lit_strip_m(*, tilt_rad: float, thickness_rad: float, over_bottom_m: float) -> tuple[float, float]:
    """Return from where to where ahead [m] the half-power thickness of a flat fan meets the bottom."""
    near, far = tilt_rad - thickness_rad / 2.0, tilt_rad + thickness_rad / 2.0
    return (
        center_reach_m(tilt_rad=max(near, 0.0), over_bottom_m=over_bottom_m),
        center_reach_m(tilt_rad=far, over_bottom_m=over_bottom_m),
    )


def aim_correction_rad(*, bearing_rad: float, shown_rad: float) -> float:
    """Return what to turn the aim by [rad], -pi to pi, clockwise positive: an object's bearing less where the picture shows it."""
    return math.remainder(bearing_rad - shown_rad, 2.0 * math.pi)


def stow_clicks(side: StowSide) -> int:
    """Return the clicks, clockwise positive, that right a transducer on a motor stowed with its propeller inboard."""
    return {StowSide.NONE: 0, StowSide.LEFT: -STOW_CLICKS, StowSide.RIGHT: STOW_CLICKS}[side]


def dead_zone_m(*, range_m: float, look_rad: float, beam_width_rad: float, pulse_m: float) -> float:
    """Return how high over the bottom a fish may lie and still be part of the bottom's echo [m], at a range, a beam so far from plumb.

    Source: plain geometry: the beam's width in the fan's plane, as far as it looks along the bottom, and half a pulse in water.
    """
    return range_m * beam_width_rad * math.sin(look_rad) + pulse_m
