"""Which track is the lure: by what it looks like alone, or, where the hand tells, also by where the lure should be and how fast it should go.

There is one lure in the water, or none: the likeliest track gets the name, where it is likely enough, and who has it holds on to it a little.
"""

import math

import numpy as np

from mudlamp.core.arrays import FloatArray
from mudlamp.core.tracking.line_watch import LineWatch
from mudlamp.core.tracking.track import LURE, Track, Tracks

# After so many tellings a track may be called lure; by its look alone only one that was heard within so long [s].
TOLD, SILENT_S = 1, 1.0
# How likely a lure must be to be named and to keep its name, told in context or where the hand says that it is out, and by its look alone, as
# under a flat fan; what holding on adds.
NAMED, NAMED_ALONE, HELD = (0.3, 0.15), (0.45, 0.25), 0.3
# The same where the hand tells where it should be, as the logarithm of the odds; from what on the reckoning leans on it. Chosen on drawn
# waters with throws that land 0.4 m off and heads that weigh a third more or less than was said.
RECKONED_NAMED, RECKONED_KEEPS, RECKONED_SURE = -4.2, -5.0, -3.0
# A lure beside a fish is hidden for so long [s]; a mark's place in the plane is so sure [m], and farther off than this it is not asked [m].
HIDDEN_S, PLACE_M, FAR_M = 4.0, 0.2, 4.0
# A lure goes as fast as it should, give or take this and so much of its speed; all else goes about so fast [m/s] (ours).
ALIKE_M_S, ALIKE_SHARE, ABOUT_M_S = 0.12, 0.3, 0.25
# No mark is surer to be the lure, or not to be it, by its look alone.
SUREST, LEAST = 0.98, 0.01


def by_look(tracks: Tracks, *, before: int | None, is_out: bool, time_s: float) -> Track | None:
    """Return the track that looks likeliest the lure, or None; `before` had the name, `is_out` says that the hand knows of a lure in the water."""

    asked = _asked(tracks, time_s, SILENT_S)
    if not len(asked):
        return None
    roster, rows = asked.roster, asked.rows
    lure = roster.odds[rows, LURE]
    number = int((lure + HELD * (roster.number[rows] == before)).argmax())
    chosen = asked[number]
    named, keeps = NAMED if is_out or chosen.lure_context is not None else NAMED_ALONE
    return chosen if lure[number] > (keeps if chosen.number == before else named) else None


def by_line(tracks: Tracks, line: LineWatch, *, before: int | None, time_s: float) -> tuple[Track | None, bool]:
    """Return the track that is likeliest the lure by look, place and speed, or None, and whether that is sure; `line` knows where it should be."""
    at = line.place
    if at is None:
        return None, False
    asked = _asked(tracks, time_s, HIDDEN_S)
    near = asked.those(np.hypot(*(asked.roster.state[asked.rows, :2] - np.array(at)).T) < FAR_M)
    if not len(near):
        return None, False
    claims = _claims(near, line)
    held = claims + (RECKONED_NAMED - RECKONED_KEEPS) * (near.roster.number[near.rows] == before)
    chosen = int(held.argmax())
    return (near[chosen], bool(claims[chosen] > RECKONED_SURE)) if held[chosen] > RECKONED_NAMED else (None, False)


def _asked(tracks: Tracks, time_s: float, silent_s: float) -> Tracks:
    roster, rows = tracks.roster, tracks.rows
    return tracks.those(
        roster.confirmed[rows] & ~roster.is_said[rows] & (roster.told[rows] >= TOLD) & (time_s - roster.seen_s[rows] < silent_s)
    )


def _claims(tracks: Tracks, line: LineWatch) -> FloatArray:
    """Return the logarithms of the odds (N,) that each is the lure: of other marks there is one a square meter. Source: Bayes, with Gaussian spreads."""
    roster, rows = tracks.roster, tracks.rows
    looks = np.clip(roster.odds[rows, LURE], LEAST, SUREST)
    state = roster.state[rows]
    doubt = roster.covariance[rows][:, [2, 3], [2, 3]]
    spread = line.spread_m**2 + PLACE_M**2
    place = -0.5 * ((state[:, :2] - np.array(line.place)) ** 2 / spread + np.log(math.tau * spread))
    goes, should = state[:, 2:], line.speed_m_s
    alike, about = doubt + ALIKE_M_S**2 + (ALIKE_SHARE * should) ** 2, doubt + ABOUT_M_S**2
    speed = 0.5 * (goes**2 / about - (goes - should) ** 2 / alike + np.log(about / alike))
    claims: FloatArray = np.log(looks / (1.0 - looks)) + (place + speed).sum(axis=1)
    return claims
