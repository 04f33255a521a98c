"""Traits of a track: what was measured of it lately, in figures that tell fish from lure, bait and cover."""

import math
from collections.abc import Sequence

import numpy as np

from mudlamp.core.arrays import BoolArray, FloatArray
from mudlamp.core.ping import SonarSetup
from mudlamp.core.plane import GroundPlane
from mudlamp.core.tracking import _kernels_surrounds
from mudlamp.core.tracking.clutter import RUNS, SILENT_DB, ClutterMap
from mudlamp.core.tracking.detect import Detections, Detector
from mudlamp.core.tracking.hand_watch import HAND_TRAITS, HandWatch
from mudlamp.core.tracking.sway import Sway
from mudlamp.core.tracking.track import CHANGES, MEANS, STEPS, WAYS_S, Track

# Against the mean of the tracks about it: what a tree's limbs share a fish among them does not.
ABOUT = ("about_level_db", "about_length_m", "about_level_step_db", "about_length_step_m", "about_place_step_m", "about_roam_m")
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
    "long_shift_m",
    "longest_m",
    "depth_m",
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
    *ABOUT,
    "shift_apart_m",
    "long_shift_apart_m",
    *RUNS,
    *(f"map_{name}" for name in RUNS),
    "is_flat",
    "beat_hz",
    "beat_share",
    "born_over_map_db",
    *(f"{what}_in_{span:g}_s" for span in WAYS_S for what in ("closes_m_s", "falls_m_s", "strays_m")),
    "swing_rad_s",
    "glide_m_s",
    "step_s",
    *(f"changed_{name}" for name in CHANGES),
    *(f"about_changed_{name}" for name in CHANGES),
    *HAND_TRAITS,
)
CROWD_M, COMPANY_M, NEAR_M, SHOAL_M, ABOUT_M = 0.8, 0.6, 1.0, 4.0, 2.5
SMALL_DB = -42.0
# What is nearer than this is the track itself [m].
ITSELF_M = 1e-9
OLDEST_S = 10.0
# How far off, in how many directions, and how near to a place [m] its surrounds are looked at.
RAY_STEPS_M, RAYS, RAY_HALF_M = np.array([0.25, 0.5, 0.85]), 16, 0.07
FAR_M = 5.0


def traits_of(
    due: Sequence[Track],
    everyone: Sequence[Track],
    found: Detections,
    gap: FloatArray,
    *,
    plane: GroundPlane,
    clutter: ClutterMap,
    detector: Detector,
    setup: SonarSetup,
    hand: HandWatch,
    time_s: float,
    step_s: float,
    sway: Sway,
) -> FloatArray:
    """Return the traits (N, len(TRAITS)) of the tracks that are `due`, among all tracks and echoes of the ping, `step_s` after the one before,

    by how far each lies from everyone (N, M) [m].
    """
    state = np.array([track.state for track in due])
    places = np.ascontiguousarray(state[:, :2])
    means = np.array([track.means for track in due])
    level = means[:, 0]
    range_m, _ = plane.polar(places)
    flat = plane.plane.is_flat
    depth = np.full(len(due), np.nan) if flat else places[:, 1]
    floor = [None if flat else detector.bottom.depth_m(float(ahead)) for ahead in places[:, 0]]
    over = np.array([np.nan if under is None else under for under in floor]) - depth
    usual, swing, around = clutter.levels_db(places).T
    own = np.array(
        [
            (
                track.score,
                time_s - track.born_s,
                track.roam_m,
                track.moved_m,
                track.speed_m_s,
                track.sink_m_s,
                math.hypot(*track.long_shift_m),
                track.length_m,
            )
            for track in due
        ]
    )
    own[:, 1] = np.minimum(own[:, 1], OLDEST_S)
    swung = np.sqrt(np.maximum(means[:, 1] - level**2, 0.0))
    return np.column_stack(
        (
            means,
            [track.steps for track in due],
            swung,
            own,
            depth,
            over,
            range_m,
            usual - level,
            swing,
            around - level,
            *_company(due, places, found),
            *_neighbors(due, everyone, gap),
            *_surrounds(places, detector, setup, plane).T,
            *clutter.runs_db(places).T,
            np.full(len(due), float(flat)),
            [track.beat for track in due],
            _born_over_map(due, level - usual),
            _ways(due, places, plane),
            np.full(len(due), sway.swing_rad_s),
            np.full(len(due), sway.glide_m_s),
            np.full(len(due), step_s),
            *_changes(due, everyone, gap),
            hand.traits(places, np.array([track.born_s for track in due]), time_s=time_s, is_flat=flat),
        )
    )


def _born_over_map(due: Sequence[Track], over_db: FloatArray) -> FloatArray:
    """Return how each track stood over what always echoes there when it was first described [dB]: what swam in stands out."""
    for track, over in zip(due, over_db.tolist(), strict=True):
        if math.isnan(track.born_over_map_db):
            track.born_over_map_db = over
    return np.array([track.born_over_map_db for track in due])


def _ways(due: Sequence[Track], places: FloatArray, plane: GroundPlane) -> FloatArray:
    """Return how fast tracks at places in the plane (N, 2) came straight toward the boat and fell lately [m/s], and how far off straight they

    were [m], over each of WAYS_S: (N, 3 * len(WAYS_S)). A flat fan shows no fall.
    """
    ways = np.array([track.ways for track in due])
    out = places - np.array(plane.origin)
    away = out / np.maximum(np.hypot(out[:, 0], out[:, 1]), 0.1)[:, None]
    closes = -np.einsum("nsa,na->ns", ways[:, :, :2], away)
    falls = np.full_like(closes, np.nan) if plane.plane.is_flat else ways[:, :, 1]
    return np.stack((closes, falls, ways[:, :, 2]), axis=2).reshape(len(due), -1)


def _surrounds(places: FloatArray, detector: Detector, setup: SonarSetup, plane: GroundPlane) -> FloatArray:
    """Return of places in the plane (N, 2) how what was heard lately runs on from them (N, 6) [dB]."""
    range_m, angle_rad = plane.polar(places)
    out = np.empty((len(places), len(RUNS)))
    _kernels_surrounds.surrounds(
        detector.power,
        True,
        (angle_rad - float(setup.beam_angle_rad[0])) / setup.beam_step_rad,
        (range_m - float(setup.range_m[0])) / setup.bin_m,
        np.zeros(len(places)) if plane.plane.is_flat else plane.plane.tilt_rad - angle_rad,
        np.maximum(range_m, 0.1) * setup.beam_step_rad,
        setup.bin_m,
        RAY_HALF_M,
        RAY_STEPS_M,
        SILENT_DB,
        np.empty((2, RAYS)),
        out,
    )
    return out


def _company(due: Sequence[Track], places: FloatArray, found: Detections) -> tuple[FloatArray, FloatArray]:
    """Return how many small echoes, and how many echoes, are about each track lately; each track remembers."""
    if len(found):
        gap = _gaps_m(places, found.place)
        near = np.count_nonzero((gap < CROWD_M) & (found.level_db < SMALL_DB), axis=1)
        around = np.maximum(np.count_nonzero(gap < COMPANY_M, axis=1) - 1, 0)
        for track, many, company in zip(due, near.tolist(), around.tolist(), strict=True):
            track.crowd += 0.22 * (many - track.crowd)
            track.company += 0.115 * (company - track.company)
    return np.array([track.crowd for track in due]), np.array([track.company for track in due])


def _neighbors(due: Sequence[Track], everyone: Sequence[Track], gap: FloatArray) -> tuple[FloatArray, ...]:
    """Return how far the nearest track is, how much louder, how many are near, how fast each moves against those about it, ABOUT, and

    how each shifted against those about it, lately and for longer, by how far each lies from everyone (N, M) [m].
    """
    state, looks, shifts = _told(everyone)
    own, own_looks, own_shifts = _told(due)
    nearest = gap.argmin(axis=1)
    away = gap[np.arange(len(due)), nearest]
    louder = np.where(np.isfinite(away), looks[nearest, 0] - own_looks[:, 0], np.nan)
    velocity = _mean_of(gap < SHOAL_M, state[:, 2:])
    about = gap < ABOUT_M
    shift = own_shifts - _mean_of(about, shifts)
    return (
        np.minimum(away, FAR_M),
        louder,
        (gap < NEAR_M).sum(axis=1),
        np.hypot(*(own[:, 2:] - velocity).T),
        *(_mean_of(about, looks) - own_looks).T,
        np.hypot(shift[:, 0], shift[:, 1]),
        np.hypot(shift[:, 2], shift[:, 3]),
    )


def _changes(due: Sequence[Track], everyone: Sequence[Track], gap: FloatArray) -> tuple[FloatArray, FloatArray]:
    """Return how tracks changed (N, len(CHANGES)), and how the tracks about each did against that, by how far each lies from everyone (N, M) [m]."""
    own = np.array([track.changes for track in due])
    return own, _mean_of(gap < ABOUT_M, np.array([track.changes for track in everyone])) - own


def gaps_to(everyone: Sequence[Track], due: Sequence[Track]) -> FloatArray:
    """Return how far the tracks that are due lie from all tracks (N, M) [m], infinity from themselves."""
    places, others = (np.array([track.state for track in tracks])[:, :2] for tracks in (due, everyone))
    gap = _gaps_m(places, others)
    gap[gap < ITSELF_M] = np.inf
    return gap


def _gaps_m(first: FloatArray, second: FloatArray) -> FloatArray:
    """Return how far places (N, 2) lie from places (M, 2): (N, M) [m]."""
    ahead, other = first[:, 0, None] - second[None, :, 0], first[:, 1, None] - second[None, :, 1]
    gaps: FloatArray = np.sqrt(ahead * ahead + other * other)
    return gaps


def _told(tracks: Sequence[Track]) -> tuple[FloatArray, FloatArray, FloatArray]:
    """Return tracks' states (N, 4), what ABOUT compares (N, 6), and their shifts (N, 4)."""
    looks = [(track.means[0], track.means[2], *track.steps, track.roam_m) for track in tracks]
    shifts = [(*track.shift_m, *track.long_shift_m) for track in tracks]
    return np.array([track.state for track in tracks]), np.array(looks), np.array(shifts)


def _mean_of(chosen: BoolArray, values: FloatArray) -> FloatArray:
    """Return the means (N, K) of the chosen (N, M) of values (M, K), not a number where none is known."""
    known = np.isfinite(values)
    count = chosen.astype(np.float64) @ known
    total = chosen.astype(np.float64) @ np.where(known, values, 0.0)
    mean: FloatArray = np.where(count > 0, total / np.maximum(count, 1.0), np.nan)
    return mean
