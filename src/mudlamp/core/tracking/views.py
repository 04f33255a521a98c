"""Tracks as others see them."""

from collections.abc import Sequence
from dataclasses import dataclass, field

import numpy as np

from mudlamp.core.arrays import FloatArray
from mudlamp.core.ping import Ping
from mudlamp.core.plane import GroundPlane
from mudlamp.core.tracking.bottom_line import BottomLine
from mudlamp.core.tracking.classes import FishClass, Identity
from mudlamp.core.tracking.side import Side
from mudlamp.core.tracking.sizing import Size
from mudlamp.core.tracking.track import Kind, Track


@dataclass(frozen=True, slots=True, kw_only=True)
class TrackView:
    """A confirmed track as others see it: world place [m] with across taken as zero, plane place, range, angle, odds, size, speed, TRAITS."""

    number: int
    kind: Kind
    odds: dict[Kind, float]
    place: tuple[float, float]
    world: tuple[float, float, float]
    range_m: float
    angle_rad: float
    velocity_m_s: tuple[float, float]
    length_m: float
    level_db: float
    coasting: bool
    age_s: float
    identity: Identity | None = None
    size: Size | None = None
    side: Side | None = None
    over_bottom_m: float | None = None
    said: FishClass | None = None
    # What the rest was told by: views are the same without it.
    traits: FloatArray | None = field(default=None, repr=False, compare=False)


def views_of(tracks: Sequence[Track], plane: GroundPlane, ping: Ping, bottom: BottomLine) -> list[TrackView]:
    """Return how tracks in a plane are seen at a ping, over the bottom as it is known."""
    if not tracks:
        return []
    # Others know the boat's place and not its way: to them places count from the world's origin.
    moved_m = 0.0 if plane.plane.is_flat else GroundPlane.of(ping).origin[0] - plane.origin[0]
    state = np.array([track.state for track in tracks])
    range_m, angle_rad = plane.polar(state[:, :2])
    seen = zip(tracks, state.tolist(), plane.world(state[:, :2]).tolist(), range_m.tolist(), angle_rad.tolist(), strict=True)
    return [
        TrackView(
            number=track.number,
            kind=track.kind,
            odds=track.odds,
            place=(first + moved_m, second),
            world=(x, y, z),
            range_m=away,
            angle_rad=angle,
            velocity_m_s=(speed_first, speed_second),
            length_m=track.length_m,
            level_db=track.level_db,
            coasting=track.seen_s < ping.time_s,
            age_s=ping.time_s - track.born_s,
            identity=track.identity,
            size=track.size,
            side=track.side,
            over_bottom_m=_over_bottom_m(track, plane, bottom),
            said=track.said,
            traits=track.traits,
        )
        for track, (first, second, speed_first, speed_second), (x, y, z), away, angle in seen
    ]


def _over_bottom_m(track: Track, plane: GroundPlane, bottom: BottomLine) -> float | None:
    if track.kind not in (Kind.FISH, Kind.LURE) or plane.plane.is_flat:
        return None
    floor = bottom.depth_m(track.place[0])
    return None if floor is None else max(floor - track.place[1], 0.0)
