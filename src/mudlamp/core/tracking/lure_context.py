"""What tells a lure beside its look: where it is and how it goes as seen from the boat, for how long nothing was heard of it, and what is about it."""

import numpy as np

from mudlamp.core.arrays import FloatArray
from mudlamp.core.plane import GroundPlane
from mudlamp.core.tracking.context import FAR_M, SUREST
from mudlamp.core.tracking.track import BAIT, COVER, FISH, LURE, Kind, Tracks
from mudlamp.core.tracking.traits import TRAITS

# A lure's lead is how likely it is by its look, as the logarithm of the odds; how far that is over the likeliest other track's, how many
# tracks are somewhat likely, and how likely each other kind is.
LEADS = ("lure_lead", "lure_lead_over", "lures_like", "fish_lead", "bait_lead", "cover_lead")
# How far before the boat, how deep, how fast away from the boat and down [m, m/s]; how old; how long since it had an echo, alone or shared
# with another, and one of its own [s].
GOES = ("ahead_m", "down_m", "ahead_m_s", "down_m_s", "age_s", "looks", "seen_ago_s", "heard_ago_s", "steadiness", "level_db", "length_m")
# How far the nearest likely fish is [m] and how fast it comes nearer [m/s], how far the nearest track, how many tracks there are.
ABOUT = ("fish_away_m", "fish_closes_m_s", "nearest_m", "tracks")
LOOKS = (
    "tall_m",
    "wide_m",
    "around_over_level_db",
    "map_over_level_db",
    "map_swing_db",
    "level_swing_db",
    "runs_one_way_db",
    "map_all_ways_db",
    "over_bottom_m",
    "swing_rad_s",
    "glide_m_s",
    "crowd",
    "company",
    "born_over_map_db",
    "closes_m_s_in_2_s",
    "falls_m_s_in_2_s",
    "strays_m_in_2_s",
    "closes_m_s_in_6_s",
    "falls_m_s_in_6_s",
    "strays_m_in_6_s",
    "hand_out_s",
)
LURE_CONTEXT = (*LEADS, *GOES, *ABOUT, *(f"look_{name}" for name in LOOKS))
# What its forest parts.
LURE_OR_NOT = ("none", Kind.LURE.value)
# From this lead on a track is somewhat likely; nothing closes in from nearer than this [m].
SOMEWHAT, LEAST_M = -1.0, 0.05
_OTHERS = [FISH, BAIT, COVER]
_COLUMNS = [TRAITS.index(trait) for trait in LOOKS]


def log_odds_of(odds: FloatArray) -> FloatArray:
    """Return the logarithms of odds (N, K) of each kind against all else, no surer than SUREST."""
    least = 1.0 / (1.0 + np.exp(SUREST))
    shares = np.clip(odds, least, 1.0 - least)
    leads: FloatArray = np.log(shares / (1.0 - shares))
    return leads


def lure_context_of(
    due: Tracks,
    everyone: Tracks,
    gap: FloatArray,
    *,
    traits: FloatArray,
    odds: FloatArray,
    plane: GroundPlane,
    time_s: float,
) -> FloatArray:
    """Return LURE_CONTEXT (N, len(LURE_CONTEXT)) of tracks that were told, whose lure leads they then keep, by how far each lies from everyone (N, M) [m]

    their traits (N, F) and their own odds (N, K), under a standing fan.
    """
    leads = log_odds_of(odds)
    roster, rows, others = due.roster, due.rows, everyone.rows
    roster.lure_lead[rows] = leads[:, LURE]
    state = roster.state[rows]
    return np.column_stack(
        (
            leads[:, LURE],
            *_among(leads[:, LURE], gap, roster.lure_lead[others]),
            leads[:, _OTHERS],
            state[:, 0] - plane.origin[0],
            state[:, 1:2],
            state[:, 2:],
            time_s - roster.born_s[rows],
            roster.told[rows],
            time_s - roster.seen_s[rows],
            time_s - roster.own_s[rows],
            roster.score[rows],
            roster.level_db[rows],
            roster.length_m[rows],
            *_fish(state, roster.state[others], np.where(roster.lead[others] > 0.0, gap, np.inf)),
            np.minimum(gap.min(axis=1), FAR_M),
            np.full(len(rows), float(len(others))),
            traits[:, _COLUMNS],
        )
    )


def with_lure(odds: FloatArray, lure: FloatArray) -> FloatArray:
    """Return odds (N, K) with the lure's share (N,) as it is now told, the rest parted as it was."""
    left = 1.0 - odds[:, [LURE]]
    found = odds * (1.0 - lure[:, None]) / np.maximum(left, 1e-9)
    found[:, LURE] = lure
    # Nothing was left to be parted: what is no lure is what cover mostly is.
    found[:, COVER] += 1.0 - found.sum(axis=1)
    return found


def _among(own: FloatArray, gap: FloatArray, leads: FloatArray) -> tuple[FloatArray, FloatArray]:
    """Return how far each track's lure lead (N,) is over the likeliest of all others' (M,), and how many of all tracks are somewhat likely."""
    others = np.maximum(np.where(np.isfinite(gap), leads, -SUREST).max(axis=1), -SUREST)
    return own - others, np.full(len(own), float((leads > SOMEWHAT).sum()))


def _fish(state: FloatArray, others: FloatArray, away: FloatArray) -> tuple[FloatArray, FloatArray]:
    """Return how far the nearest likely fish is and how fast it comes nearer, by states (N, 4) and (M, 4) and how far each fish lies (N, M) [m]."""
    nearest = away.argmin(axis=1)
    near = away[np.arange(len(state)), nearest]
    to = others[nearest] - state
    closes = -(to[:, :2] * to[:, 2:]).sum(axis=1) / np.maximum(near, LEAST_M)
    return np.minimum(near, FAR_M), np.where(near < FAR_M, closes, np.nan)
