"""From the console to the live fan: where to stop, where to look, what to silence."""

import math
from dataclasses import dataclass

from mudlamp.core.casting.solve import CastQuery, Mood, stand_off_m
from mudlamp.core.records.spots import Spot
from mudlamp.core.scene.reach import Reach
from mudlamp.core.searching.boat import Standing
from mudlamp.core.units import FOOT_M
from mudlamp.core.water.clarity import clarity_of

HEAD_KG = 0.00177
# A spot whose depth nobody knows is taken for fish in the middle of the column.
MIDDLE = 0.5


@dataclass(frozen=True, slots=True, kw_only=True)
class HandOff:
    """How to come to a spot: distance and turn from the bow now [m, rad, to the right positive], where to stop short [m] and the place [m], how well

    the spot is known there [m], and the heading that looks at it [rad].
    """

    away_m: float
    turn_rad: float
    stand_off_m: float
    stop_m: tuple[float, float]
    known_m: float
    heading_rad: float

    @property
    def is_there(self) -> bool:
        """Whether the boat need not come nearer."""
        return self.away_m <= self.stand_off_m + 1.5

    @property
    def away_ft(self) -> float:
        """How far it is [ft]."""
        return self.away_m / FOOT_M


def hand_off(spot: Spot, at: Standing, reach: Reach, mood: Mood = Mood.USUAL) -> HandOff:
    """Return how to come to a spot from where the boat is told to be, and how near, by the fish's depth and mood and the water."""
    dx, dy = spot.x_m - at.x_m, spot.y_m - at.y_m
    away = math.hypot(dx, dy)
    bearing = math.atan2(dx, dy)
    floor = reach.chart.depth_at(spot.x_m, spot.y_m)
    depth = max(MIDDLE * floor if spot.depth_m is None else min(spot.depth_m, floor), 0.5)
    off = stand_off_m(
        CastQuery(
            range_m=max(away, depth + 0.5),
            depth_m=depth,
            head_kg=HEAD_KG,
            temperature_degc=reach.water.temperature_degc,
            clarity=clarity_of(secchi_m=reach.water.secchi_m),
            mood=mood,
        )
    )
    share = max(away - off, 0.0) / max(away, 1e-6)
    return HandOff(
        away_m=away,
        turn_rad=math.remainder(bearing - at.heading_rad, 2.0 * math.pi),
        stand_off_m=off,
        stop_m=(at.x_m + share * dx, at.y_m + share * dy),
        known_m=math.sqrt(max(spot.xx_m2 + spot.yy_m2, 0.0)),
        heading_rad=bearing,
    )
