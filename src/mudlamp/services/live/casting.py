"""The cast for each fish that is followed: where to throw, how long to count, drawn on both views."""

import math
from collections.abc import Sequence

from mudlamp.core.casting.fall import arc
from mudlamp.core.casting.solve import Cast, CastQuery, solve
from mudlamp.core.errors import DomainError
from mudlamp.core.plane import GroundPlane
from mudlamp.core.tracking.track import Kind
from mudlamp.core.tracking.views import TrackView
from mudlamp.core.units import OUNCE_KG
from mudlamp.services.live.told import CastTold
from mudlamp.services.water.role import FanLook
from mudlamp.services.words.cast import drops_words, said

# The nearest fish are told; more than these nobody looks at one by one.
MOST_TOLD = 12
# Slower than this a fish is taken to hold still: the tracker's own error is of that size [m/s].
MOVES_M_S = 0.12
STEPS = 12
# The head where nobody said.
USUAL_HEAD_KG = OUNCE_KG / 16.0


def casts_told(
    tracks: Sequence[TrackView],
    plane: GroundPlane,
    look: FanLook,
    *,
    sink_m_s: float,
    drops: int = 0,
    rod_ahead_m: float,
    rod_up_m: float,
    spare_db: float | None = None,
    temperature_degc: float | None = None,
    head_kg: float = 0.0,
) -> list[CastTold]:
    """Return the casts for the nearest fish that can be thrown at; none under a fan that lies flat, which knows no depth.

    `sink_m_s` is how fast the lure falls, by so many of the angler's own `drops`; `spare_db` is how it stood over what hides it

    when it was last seen.
    """
    if plane.plane.is_flat:
        return []
    fish = sorted((track for track in tracks if track.kind is Kind.FISH), key=lambda track: track.range_m)
    found = []
    for track in fish[:MOST_TOLD]:
        ahead, depth = plane.from_boat(track.place)
        swims = plane.turned(track.velocity_m_s)[0]
        moves = abs(swims) > MOVES_M_S
        query = CastQuery(
            range_m=ahead - rod_ahead_m,
            depth_m=depth,
            is_slant=False,
            transducer_m=look.depth_m,
            thickness_rad=look.thickness_rad,
            head_kg=head_kg or USUAL_HEAD_KG,
            sink_m_s=sink_m_s,
            rod_tip_m=rod_up_m,
            # Thrown on Lamp it falls on an open bail.
            slack=True,
            spare_db=spare_db,
            temperature_degc=temperature_degc,
            speed_m_s=abs(swims) if moves else None,
            heading_rad=(0.0 if swims > 0.0 else math.pi) if moves else None,
        )
        try:
            cast = solve(query)
        except DomainError:
            # Too near, too far or too shallow to be thrown at.
            continue
        found.append(_told(track.number, query, cast, rod_ahead_m, drops))
    return found


def _told(number: int, query: CastQuery, cast: Cast, rod_ahead_m: float, drops: int) -> CastTold:
    path = arc(splash_m=cast.cast_m, toward_rod_m=cast.fall.toward_rod_m, depth_m=cast.down_m, rod_tip_m=query.rod_tip_m, steps=STEPS)
    return CastTold(
        id=number,
        said=f"{said(cast)} {drops_words(drops)}".strip(),
        splash_m=round(cast.cast_m + rod_ahead_m, 2),
        ring_m=round(cast.ring_m, 2),
        tolerance_m=round(cast.tolerance_m, 2),
        path=[(round(ahead + rod_ahead_m, 2), round(depth, 2)) for ahead, depth in path],
    )
