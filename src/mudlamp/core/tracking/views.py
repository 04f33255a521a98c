"""Tracks as others see them."""

from dataclasses import dataclass, field

from mudlamp.core.arrays import FloatArray
from mudlamp.core.ping import Ping
from mudlamp.core.plane import GroundPlane
from mudlamp.core.tracking.bottom_line import BottomLine
from mudlamp.core.tracking.classes import FishClass, Identity
from mudlamp.core.tracking.ghosts import are_ghosts
from mudlamp.core.tracking.side import Side
from mudlamp.core.tracking.sizing import Size
from mudlamp.core.tracking.track import FISH, KINDS, LURE, Kind, Tracks

# Of these it is told how far over the bottom they are.
_SWIMS = (FISH, LURE)


@dataclass(frozen=True, slots=True, kw_only=True)
class TrackView:
    """A confirmed track as others see it: world place [m] with across taken as zero, plane place, range, angle, odds, size, speed, TRAITS.

    `apparent` says that nothing is there but an echo of something else: a ghost, or a fish's second mark.
    """

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
    apparent: bool = False
    # What the rest was told by: views are the same without it.
    traits: FloatArray | None = field(default=None, repr=False, compare=False)


def views_of(tracks: Tracks, plane: GroundPlane, ping: Ping, bottom: BottomLine) -> list[TrackView]:
    """Return how tracks in a plane are seen at a ping, over the bottom as it is known."""
    if not len(tracks):
        return []
    # Others know the boat's place and not its way: to them places count from the world's origin.
    flat = plane.plane.is_flat
    moved_m = 0.0 if flat else GroundPlane.of(ping).origin[0] - plane.origin[0]
    roster, rows = tracks.roster, tracks.rows
    state = roster.state[rows]
    range_m, angle_rad = plane.polar(state[:, :2])
    seen = zip(
        tracks,
        roster.number[rows].tolist(),
        roster.kind[rows].tolist(),
        state.tolist(),
        plane.world(state[:, :2]).tolist(),
        range_m.tolist(),
        angle_rad.tolist(),
        roster.length_m[rows].tolist(),
        roster.level_db[rows].tolist(),
        (roster.seen_s[rows] < ping.time_s).tolist(),
        (ping.time_s - roster.born_s[rows]).tolist(),
        (are_ghosts(roster.ghost[rows]) | roster.is_second[rows]).tolist(),
        strict=True,
    )
    return [
        TrackView(
            number=number,
            kind=KINDS[kind],
            odds=track.odds,
            place=(first + moved_m, second),
            world=(x, y, z),
            range_m=away,
            angle_rad=angle,
            velocity_m_s=(speed_first, speed_second),
            length_m=length_m,
            level_db=level_db,
            coasting=coasting,
            age_s=age_s,
            identity=track.identity,
            size=track.size,
            side=track.side,
            over_bottom_m=None if flat or kind not in _SWIMS else _over_bottom_m((first, second), bottom),
            said=track.said,
            apparent=apparent,
            traits=track.traits,
        )
        for track, number, kind, (first, second, speed_first, speed_second), (
            x,
            y,
            z,
        ), away, angle, length_m, level_db, coasting, age_s, apparent in seen
    ]


def _over_bottom_m(place: tuple[float, float], bottom: BottomLine) -> float | None:
    floor = bottom.depth_m(place[0])
    return None if floor is None else max(floor - place[1], 0.0)
