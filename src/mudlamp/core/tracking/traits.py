"""Traits of a track: what was measured of it lately, in figures that tell fish from lure, bait and cover."""

import numpy as np

from mudlamp.core.arrays import FloatArray, IntArray
from mudlamp.core.ping import SonarSetup
from mudlamp.core.plane import GroundPlane
from mudlamp.core.tracking import _kernels_company, _kernels_surrounds
from mudlamp.core.tracking.clutter import RUNS, SILENT_DB, ClutterMap
from mudlamp.core.tracking.detect import Detections, Detector
from mudlamp.core.tracking.hand_watch import HAND_TRAITS, HandWatch
from mudlamp.core.tracking.roster import CHANGES, MEANS, STEPS, WAYS_S, Roster
from mudlamp.core.tracking.sway import Sway
from mudlamp.core.tracking.track import Tracks

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
    due: Tracks,
    everyone: Tracks,
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
    roster, rows, others = due.roster, due.rows, everyone.rows
    places = roster.state[rows, :2]
    means = roster.means[rows]
    level = means[:, 0]
    range_m, _ = plane.polar(places)
    flat = plane.plane.is_flat
    depth = np.full(len(due), np.nan) if flat else places[:, 1]
    floor = [None if flat else detector.bottom.depth_m(ahead) for ahead in places[:, 0].tolist()]
    over = np.array([np.nan if under is None else under for under in floor]) - depth
    usual, swing, around = clutter.levels_db(places).T
    own = np.column_stack(
        (
            roster.score[rows],
            np.minimum(time_s - roster.born_s[rows], OLDEST_S),
            roster.roam_m[rows],
            roster.moved_m[rows],
            np.hypot(*roster.state[rows, 2:].T),
            roster.sink_m_s[rows],
            np.hypot(*roster.long_shift_m[rows].T),
            roster.length_m[rows],
        )
    )
    swung = np.sqrt(np.maximum(means[:, 1] - level**2, 0.0))
    return np.column_stack(
        (
            means,
            roster.steps[rows],
            swung,
            own,
            depth,
            over,
            range_m,
            usual - level,
            swing,
            around - level,
            *_company(roster, rows, found),
            *_neighbors(roster, rows, others, gap),
            *_surrounds(places, detector, setup, plane).T,
            *clutter.runs_db(places).T,
            np.full(len(due), float(flat)),
            roster.beat[rows],
            _born_over_map(roster, rows, level - usual),
            _ways(roster, rows, plane),
            np.full(len(due), sway.swing_rad_s),
            np.full(len(due), sway.glide_m_s),
            np.full(len(due), step_s),
            *_changes(roster, rows, others, gap),
            hand.traits(places, roster.born_s[rows], time_s=time_s, is_flat=flat),
        )
    )


def _born_over_map(roster: Roster, rows: IntArray, over_db: FloatArray) -> FloatArray:
    """Return how each track stood over what always echoes there when it was first described [dB]: what swam in stands out."""
    born = roster.born_over_map_db[rows]
    born = np.where(np.isnan(born), over_db, born)
    roster.born_over_map_db[rows] = born
    return born


def _ways(roster: Roster, rows: IntArray, plane: GroundPlane) -> FloatArray:
    """Return how fast tracks (N,) came straight toward the boat and fell lately [m/s], and how far off straight they

    were [m], over each of WAYS_S: (N, 3 * len(WAYS_S)). A flat fan shows no fall.
    """
    ways = roster.ways[rows]
    out = roster.state[rows, :2] - np.array(plane.origin)
    away = out / np.maximum(np.hypot(out[:, 0], out[:, 1]), 0.1)[:, None]
    closes = -np.einsum("nsa,na->ns", ways[:, :, :2], away)
    falls = np.full_like(closes, np.nan) if plane.plane.is_flat else ways[:, :, 1]
    return np.stack((closes, falls, ways[:, :, 2]), axis=2).reshape(len(rows), -1)


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


def _company(roster: Roster, rows: IntArray, found: Detections) -> tuple[FloatArray, FloatArray]:
    """Return how many small echoes, and how many echoes, are about each track (N,) lately; the roster remembers."""
    if len(found):
        about = np.empty((len(rows), 2))
        _kernels_company.echoes_about(
            roster.state[rows, :2], np.ascontiguousarray(found.place), found.level_db, SMALL_DB, CROWD_M, COMPANY_M, about
        )
        roster.crowd[rows] += 0.22 * (about[:, 0] - roster.crowd[rows])
        roster.company[rows] += 0.115 * (about[:, 1] - roster.company[rows])
    return roster.crowd[rows], roster.company[rows]


def _neighbors(roster: Roster, rows: IntArray, others: IntArray, gap: FloatArray) -> tuple[FloatArray, ...]:
    """Return how far the nearest of other tracks (M,) is from each track (N,), how much louder, how many are near, how fast each moves against

    those about it, ABOUT, and how each shifted against those about it, lately and for longer, by how far each lies from the others (N, M) [m].
    """
    next_to, near = np.empty(len(rows), np.int64), np.empty(len(rows), np.int64)
    _kernels_company.nearest(gap, NEAR_M, next_to, near)
    away = gap[np.arange(len(rows)), next_to]
    level = roster.means[:, 0]
    louder = np.where(np.isfinite(away), level[others[next_to]] - level[rows], np.nan)
    speed = roster.state[rows, 2:] - _means_about(gap, roster.state[others, 2:], SHOAL_M)
    looks, shifts = _looks(roster, others), _shifts(roster, others)
    shift = _shifts(roster, rows) - _means_about(gap, shifts, ABOUT_M)
    return (
        np.minimum(away, FAR_M),
        louder,
        near.astype(np.float64),
        np.hypot(speed[:, 0], speed[:, 1]),
        *(_means_about(gap, looks, ABOUT_M) - _looks(roster, rows)).T,
        np.hypot(shift[:, 0], shift[:, 1]),
        np.hypot(shift[:, 2], shift[:, 3]),
    )


def _changes(roster: Roster, rows: IntArray, others: IntArray, gap: FloatArray) -> tuple[FloatArray, FloatArray]:
    """Return how tracks changed (N, len(CHANGES)), and how those about each did against that, by how far each lies from the others (N, M) [m]."""
    own = roster.changes[rows]
    return own, _means_about(gap, roster.changes[others], ABOUT_M) - own


def gaps_to(everyone: Tracks, due: Tracks) -> FloatArray:
    """Return how far the tracks that are due lie from all tracks (N, M) [m], infinity from themselves."""
    state = due.roster.state
    out = np.empty((len(due), len(everyone)))
    _kernels_company.gaps(state[due.rows, :2], state[everyone.rows, :2], ITSELF_M, out)
    return out


def _looks(roster: Roster, rows: IntArray) -> FloatArray:
    """Return what ABOUT compares (N, 6) of tracks."""
    return np.column_stack((roster.means[rows, 0], roster.means[rows, 2], roster.steps[rows], roster.roam_m[rows]))


def _shifts(roster: Roster, rows: IntArray) -> FloatArray:
    """Return tracks' shifts (N, 4), lately and for longer."""
    return np.hstack((roster.shift_m[rows], roster.long_shift_m[rows]))


def _means_about(gap: FloatArray, values: FloatArray, radius_m: float) -> FloatArray:
    """Return the means (N, K) of the values (M, K) of what lies nearer than a radius, by how far all lie (N, M) [m]; not a number where none is known."""
    out = np.empty((len(gap), values.shape[1]))
    _kernels_company.means_about(gap, values, radius_m, out)
    return out
