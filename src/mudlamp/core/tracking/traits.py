"""Traits of a track: what was measured of it lately, in figures that tell fish from lure, bait and cover."""

from collections.abc import Sequence

import numpy as np

from mudlamp.core.arrays import FloatArray
from mudlamp.core.plane import GroundPlane
from mudlamp.core.tracking.bottom_line import BottomLine
from mudlamp.core.tracking.clutter import ClutterMap
from mudlamp.core.tracking.detect import Detections
from mudlamp.core.tracking.hand_watch import HAND_TRAITS, HandWatch
from mudlamp.core.tracking.track import MEANS, STEPS, Track

# In the order of the columns. Lengths [m], levels [dB], speeds [m/s], times [s], angles [rad]; what is not known is not a number.
TRAITS = (
    *MEANS,
    *STEPS,
    "level_swing_db",
    "steadiness",
    "age_s",
    "roam_m",
    "moved_m",
    "speed_m_s",
    "sink_m_s",
    "over_bottom_m",
    "range_m",
    "map_over_level_db",
    "map_swing_db",
    "around_over_level_db",
    "crowd",
    "company",
    "nearest_m",
    "nearest_over_level_db",
    "tracks_near",
    "apart_m_s",
    "is_flat",
    *HAND_TRAITS,
)
CROWD_M, COMPANY_M, NEAR_M, SHOAL_M = 0.8, 0.6, 1.0, 4.0
SMALL_DB = -42.0
OLDEST_S = 10.0
FAR_M = 5.0


def traits_of(
    due: Sequence[Track],
    everyone: Sequence[Track],
    found: Detections,
    *,
    plane: GroundPlane,
    clutter: ClutterMap,
    bottom: BottomLine,
    hand: HandWatch,
    time_s: float,
) -> FloatArray:
    """Return the traits (N, len(TRAITS)) of the tracks that are `due`, among all tracks and echoes of the ping."""
    state = np.array([track.state for track in due])
    places = np.ascontiguousarray(state[:, :2])
    means = np.array([track.means for track in due])
    level = means[:, 0]
    range_m, _ = plane.polar(places)
    flat = plane.plane.is_flat
    depth = np.full(len(due), np.nan) if flat else places[:, 1]
    floor = [None if flat else bottom.depth_m(float(ahead)) for ahead in places[:, 0]]
    over = np.array([np.nan if under is None else under for under in floor]) - depth
    usual, swing, around = clutter.levels_db(places).T
    own = np.array([(track.score, time_s - track.born_s, track.roam_m, track.moved_m, track.speed_m_s, track.sink_m_s) for track in due])
    own[:, 1] = np.minimum(own[:, 1], OLDEST_S)
    swung = np.sqrt(np.maximum(means[:, 1] - level**2, 0.0))
    return np.column_stack(
        (
            means,
            [track.steps for track in due],
            swung,
            own,
            over,
            range_m,
            usual - level,
            swing,
            around - level,
            *_company(due, places, found),
            *_neighbors(due, everyone, places, state[:, 2:], level),
            np.full(len(due), float(flat)),
            hand.traits(places, own[:, 5], np.array([track.born_s for track in due]), time_s=time_s, is_flat=flat),
        )
    )


def _company(due: Sequence[Track], places: FloatArray, found: Detections) -> tuple[FloatArray, FloatArray]:
    """Return how many small echoes, and how many echoes, are about each track lately; each track remembers."""
    if len(found):
        gap2 = ((places[:, None, :] - found.place[None, :, :]) ** 2).sum(axis=2)
        near = np.count_nonzero((gap2 < CROWD_M**2) & (found.level_db < SMALL_DB), axis=1)
        around = np.maximum(np.count_nonzero(gap2 < COMPANY_M**2, axis=1) - 1, 0)
        for track, many, company in zip(due, near.tolist(), around.tolist(), strict=True):
            track.crowd += 0.22 * (many - track.crowd)
            track.company += 0.115 * (company - track.company)
    return np.array([track.crowd for track in due]), np.array([track.company for track in due])


def _neighbors(
    due: Sequence[Track], everyone: Sequence[Track], places: FloatArray, velocity: FloatArray, level: FloatArray
) -> tuple[FloatArray, FloatArray, FloatArray, FloatArray]:
    """Return how far the nearest track is, how much louder, how many are near, and how fast each moves against those about it."""
    others = np.array([track.state for track in everyone])
    levels = np.array([track.means[0] for track in everyone])
    gap = np.sqrt(((places[:, None, :] - others[None, :, :2]) ** 2).sum(axis=2))
    gap[gap < 1e-9] = np.inf
    nearest = gap.argmin(axis=1)
    away = gap[np.arange(len(due)), nearest]
    lonely = ~np.isfinite(away)
    about = gap < SHOAL_M
    count = about.sum(axis=1)
    mean = (about[:, :, None] * others[None, :, 2:]).sum(axis=1) / np.maximum(count, 1)[:, None]
    apart = np.where(count > 0, np.hypot(*(velocity - mean).T), np.nan)
    return np.minimum(away, FAR_M), np.where(lonely, np.nan, levels[nearest] - level), (gap < NEAR_M).sum(axis=1), apart
