"""Spots and the live fan: where a mark on the picture lies in the world, and which spots the fan looks at now.

Source: plain geometry; a standing fan does not say how far to a side of its middle an echo is, so a mark may be anywhere across it.
"""

import math
from collections.abc import Sequence
from dataclasses import dataclass

from mudlamp.core.ping import Pose
from mudlamp.core.records.spots import Spot
from mudlamp.core.searching.boat import FIX_SIGMA_M

# A spot stands in the picture while it may lie in the fan: so many standard deviations of its place.
DOUBTS = 1.0


@dataclass(frozen=True, slots=True, kw_only=True)
class Pictured:
    """A mark's place [m east, north], the covariance of it [m^2], its bearing [rad from north] and distance [m] from the boat."""

    x_m: float
    y_m: float
    xx_m2: float
    xy_m2: float
    yy_m2: float
    bearing_rad: float
    away_m: float


def pictured(pose: Pose, *, ahead_m: float, across_m: float, is_flat: bool, thickness_rad: float) -> Pictured:
    """Return the place of a mark so far ahead of the boat and to the right [m], heard in a fan of a thickness [rad].

    Under a standing fan `across_m` is where it was pointed at from above; it may be anywhere within the fan's width there.
    """
    sine, cosine = math.sin(pose.heading_rad), math.cos(pose.heading_rad)
    east, north = ahead_m * sine + across_m * cosine, ahead_m * cosine - across_m * sine
    # Even odds over the fan's width: a third of its half, squared.
    side = 0.0 if is_flat else (abs(ahead_m) * math.tan(0.5 * thickness_rad)) ** 2 / 3.0
    fix = FIX_SIGMA_M**2
    return Pictured(
        x_m=pose.x_m + east,
        y_m=pose.y_m + north,
        xx_m2=fix + side * cosine**2,
        xy_m2=-side * sine * cosine,
        yy_m2=fix + side * sine**2,
        bearing_rad=math.atan2(east, north) % (2.0 * math.pi),
        away_m=math.hypot(east, north),
    )


@dataclass(frozen=True, slots=True, kw_only=True)
class InFan:
    """A spot that the fan looks at: how far ahead of the boat and to the right [m], and how sure that is across [m]."""

    spot: Spot
    ahead_m: float
    across_m: float
    doubt_m: float


def in_fan(spots: Sequence[Spot], pose: Pose, *, is_flat: bool, thickness_rad: float, reach_m: float, back_m: float) -> list[InFan]:
    """Return the spots that may lie in the fan now, nearest first."""
    sine, cosine = math.sin(pose.heading_rad), math.cos(pose.heading_rad)
    found = []
    for one in spots:
        east, north = one.x_m - pose.x_m, one.y_m - pose.y_m
        ahead, across = east * sine + north * cosine, east * cosine - north * sine
        spread = one.xx_m2 * cosine**2 - 2.0 * one.xy_m2 * sine * cosine + one.yy_m2 * sine**2
        doubt = math.sqrt(max(spread, 0.0))
        half = reach_m if is_flat else max(ahead, 0.0) * math.tan(0.5 * thickness_rad) + DOUBTS * doubt
        if -back_m <= ahead <= reach_m and abs(across) <= half:
            found.append(InFan(spot=one, ahead_m=ahead, across_m=across, doubt_m=doubt))
    return sorted(found, key=lambda one: math.hypot(one.ahead_m, one.across_m))
