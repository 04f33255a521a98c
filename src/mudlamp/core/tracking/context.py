"""Context: what the trees say of a track, beside what they said of it before and of the tracks about it. Fish keep company; wood stands in wood."""

import numpy as np

from mudlamp.core.arrays import FloatArray, IntArray
from mudlamp.core.plane import GroundPlane
from mudlamp.core.tracking import _kernels_company
from mudlamp.core.tracking.beside import BESIDE, beside_of
from mudlamp.core.tracking.roster import Roster
from mudlamp.core.tracking.track import FISH, KINDS, LURE, Kind, Tracks
from mudlamp.core.tracking.traits import TRAITS

# A track's lead is how much likelier a fish it is than anything else, as the logarithm of the odds: from all that was said of it lately,
# from the newest look alone, and how that went over time; `looks` is how often it was told, and nothing was heard of it for so long [s].
OWN = (
    "lead",
    "lure_odds",
    "bait_odds",
    "cover_odds",
    "newest_lead",
    "mean_lead",
    "lead_spread",
    "most_lead",
    "least_lead",
    "looks",
    "seen_ago_s",
    "heard_ago_s",
)
# So far about a track [m] the others' leads count: their mean and most, how many there are, and the own lead against the mean.
ABOUT_M = (0.4, 1.0, 2.5, 5.0)
ABOUT = tuple(f"about_{radius:g}_m_{what}" for radius in ABOUT_M for what in ("mean", "most", "count", "over"))
# And of the nearest told one: its lead, how much older it is [s], how far before or behind and over or under the track it lies [m].
NEXT = ("next_lead", "next_older_s", "next_ahead_m", "next_down_m")
LOOKS = (
    "range_m",
    "depth_m",
    "over_bottom_m",
    "level_db",
    "runs_one_way_db",
    "tall_m",
    "length_m",
    "age_s",
    "steadiness",
    "tracks_near",
    "nearest_m",
    "nearest_over_level_db",
    "company",
    "map_all_ways_db",
    "swing_rad_s",
)
CONTEXT = (*OWN, *ABOUT, "fish_away_m", *NEXT, *BESIDE, *LOOKS)
# The lure has a context of its own (`lure_context.py`): this one parts the rest.
PARTED = (Kind.FISH, Kind.BAIT, Kind.COVER)
# No lead is surer than this, one in ten thousand.
SUREST = 9.2
# How much the newest counts in a track's mean, once there are many; and how fast the most and least come back from what was long ago.
SHARE, BACK = 0.02, 0.02
# A fish or a neighbor farther off than this is none [m].
FAR_M = 9.0
_OTHERS = [number for number in range(len(KINDS)) if number != FISH]
_PARTED = [KINDS.index(kind) for kind in PARTED]
_COLUMNS = [TRAITS.index(trait) for trait in LOOKS]


def leads_of(logs: FloatArray) -> FloatArray:
    """Return the log odds (N,) of fish against all else from logs (N, K), no surer than SUREST."""
    others = logs[:, _OTHERS]
    top = others.max(axis=1)
    leads: FloatArray = logs[:, FISH] - top - np.log(np.exp(others - top[:, None]).sum(axis=1))
    return np.clip(leads, -SUREST, SUREST)


def remember(roster: Roster, rows: IntArray, leads: FloatArray, newest: FloatArray) -> None:
    """Take in the leads (N,) of tracks (N,) that were told, and those of the newest look alone (N,)."""
    told = roster.told[rows]
    before = roster.leads[rows]
    fresh = told <= 1
    share = np.maximum(SHARE, 1.0 / np.maximum(told, 1))
    mean = np.where(fresh, newest, before[:, 0] + share * (newest - before[:, 0]))
    square = np.where(fresh, newest**2, before[:, 1] + share * (newest**2 - before[:, 1]))
    most = np.where(fresh, leads, np.maximum(leads, before[:, 2] + BACK * (leads - before[:, 2])))
    least = np.where(fresh, leads, np.minimum(leads, before[:, 3] + BACK * (leads - before[:, 3])))
    roster.lead[rows] = leads
    roster.leads[rows] = np.column_stack((mean, square, most, least))


def context_of(
    due: Tracks,
    everyone: Tracks,
    gap: FloatArray,
    *,
    traits: FloatArray,
    odds: FloatArray,
    newest: FloatArray,
    plane: GroundPlane,
    beam_width_rad: float,
    time_s: float,
) -> FloatArray:
    """Return the context (N, len(CONTEXT)) of tracks that were told and remembered, by how far each lies from everyone (N, M) [m],

    their traits (N, F), their own odds (N, K) and the leads of their newest look (N,). Under a flat fan depths are not known.
    """
    roster, rows, others = due.roster, due.rows, everyone.rows
    lead = roster.lead[rows]
    mean, square, most, least = roster.leads[rows].T
    leads = roster.lead[others]
    known = np.isfinite(leads)
    leads = np.where(known, leads, -np.inf)
    about = np.empty((len(rows), len(ABOUT_M), len(ABOUT) // len(ABOUT_M)))
    _kernels_company.leads_about(lead, gap, leads, np.array(ABOUT_M), about)
    away = np.where(leads > 0.0, gap, FAR_M).min(axis=1)
    return np.column_stack(
        (
            lead,
            odds[:, _OTHERS],
            newest,
            mean,
            np.sqrt(np.maximum(square - mean**2, 0.0)),
            most,
            least,
            roster.told[rows],
            time_s - roster.seen_s[rows],
            time_s - roster.own_s[rows],
            about.reshape(len(rows), -1),
            np.minimum(away, FAR_M),
            _next(roster, rows, others, np.where(known, gap, np.inf), leads),
            beside_of(due, everyone, gap, leads, plane=plane, beam_width_rad=beam_width_rad, time_s=time_s),
            traits[:, _COLUMNS],
        )
    )


def weighed(odds: FloatArray, parted: FloatArray) -> FloatArray:
    """Return odds (N, K) whose share beside the lure's is parted anew (N, len(PARTED))."""
    found = np.empty_like(odds)
    found[:, LURE] = odds[:, LURE]
    found[:, _PARTED] = (1.0 - odds[:, [LURE]]) * parted
    return found


def _next(roster: Roster, rows: IntArray, others: IntArray, gap: FloatArray, leads: FloatArray) -> FloatArray:
    """Return NEXT (N, 4) of tracks by how far each lies from those that were told (N, M) [m], not numbers where there is none within FAR_M."""
    nearest = gap.argmin(axis=1)
    who = others[nearest]
    older_s = roster.born_s[rows] - roster.born_s[who]
    found: FloatArray = np.column_stack((leads[nearest], older_s, roster.state[who, :2] - roster.state[rows, :2]))
    return np.where((gap[np.arange(len(rows)), nearest] > FAR_M)[:, None], np.nan, found)
