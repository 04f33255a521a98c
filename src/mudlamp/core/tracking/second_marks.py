"""Second marks: a long fish may be heard at both its ends, as two echoes. A mark that keeps within the measured length of a fish, with the

picture lit between them, is none of its own.
"""

import numpy as np

from mudlamp.core.arrays import Float32Array, FloatArray, IntArray
from mudlamp.core.ping import SonarSetup
from mudlamp.core.plane import GroundPlane
from mudlamp.core.tracking.roster import Roster
from mudlamp.core.tracking.track import COVER, FISH, Tracks

# Fish so long [m] have two ends to be heard, so much of their length apart at most; with more other fish than this so near [m] they are a
# school, in which marks lie as near as that anyway. Between the ends it is no darker than this against the fainter one [dB], over time (ours,
# chosen on drawn waters, stock scenes and some of other make).
LONG_M, WITHIN, MOST_NEAR, NEAR_M, LIT_DB = 0.44, 0.8, 4, 1.2, -6.0
# What was a second mark for so much of the last tellings is one, and stays one for so much; how much the newest counts.
IS_SECOND, STAYS, NEWEST = 0.6, 0.4, 0.1
# Where on the way from one to the other it is looked, and which of those places lie between; so many cells about an end belong to it.
SHARES = np.linspace(0.0, 1.0, 13)
BETWEEN = slice(3, 10)
END_BINS, END_BEAMS = 3, 1


def note(due: Tracks, everyone: Tracks, gap: FloatArray, *, power: Float32Array, setup: SonarSetup, plane: GroundPlane) -> None:
    """Note of the tracks that are due how lately each kept within the length of an older fish, by how far each lies from everyone (N, M) [m]

    and by the ping's power (beam, range_bin). Without sizes nothing is a second mark.
    """
    roster, rows, others = due.roster, due.rows, everyone.rows
    swims = goes_as(roster, others) == FISH
    fish, near = others[swims], gap[:, swims]
    longer = np.fmax(_lengths_m(due)[:, None], _lengths_m(everyone.those(swims))[None, :])
    older = (roster.born_s[fish][None, :] < roster.born_s[rows][:, None]) & ~roster.is_second[fish][None, :]
    # The older one is no crowd.
    alone = (near < NEAR_M).sum(axis=1) - 1 <= MOST_NEAR
    within = alone[:, None] & older & (longer > LONG_M) & (near <= WITHIN * longer)
    at = np.flatnonzero(within.any(axis=1))
    lit = np.full(len(rows), np.nan)
    if len(at):
        first = fish[np.where(within, near, np.inf)[at].argmin(axis=1)]
        newest = lit_between_db(power, setup, plane, roster.state[first, :2], roster.state[rows[at], :2])
        before = roster.lit_db[rows[at]]
        lit[at] = np.where(np.isnan(before), newest, before + NEWEST * (newest - before))
    roster.lit_db[rows] = lit
    told = roster.told[rows]
    roster.second[rows] += np.maximum(NEWEST, 1.0 / (told + 1.0)) * ((lit > LIT_DB) - roster.second[rows])


def called(roster: Roster, rows: IntArray, named: IntArray) -> IntArray:
    """Return what to call tracks (N,) that are named (N,) by their odds alone: second marks of a fish are no fish, and noted as

    what they are, but for those that the angler named. To be called a fish again one has to be as likely as any that was not called so yet.
    """
    limit = np.where(roster.is_second[rows], STAYS, IS_SECOND)
    roster.is_second[rows] = (named == FISH) & (roster.second[rows] > limit) & ~roster.is_said[rows]
    return np.where(roster.is_second[rows], COVER, named)


def goes_as(roster: Roster, rows: IntArray) -> IntArray:
    """Return what tracks (N,) move and are heard as: second marks as the fish that they are of, unless they were named the lure since."""
    return np.where(roster.is_second[rows] & (roster.kind[rows] == COVER), FISH, roster.kind[rows])


def lit_between_db(power: Float32Array, setup: SonarSetup, plane: GroundPlane, first: FloatArray, second: FloatArray) -> FloatArray:
    """Return the darkest cell's power (N,) between places in the plane (N, 2) [m] and (N, 2), against that of the fainter of the two [dB].

    What lies outside the picture counts as its rim.
    """
    places = first[:, None] + SHARES[None, :, None] * (second - first)[:, None]
    range_m, angle_rad = (polar.reshape(len(first), -1) for polar in plane.polar(places.reshape(-1, 2)))
    beam = np.rint((angle_rad - float(setup.beam_angle_rad[0])) / setup.beam_step_rad).astype(np.int64)
    column = np.rint((range_m - float(setup.range_m[0])) / setup.bin_m).astype(np.int64)
    between = _brightest(power, beam[:, BETWEEN], column[:, BETWEEN], beams=0, bins=1).min(axis=1)
    ends = _brightest(power, beam[:, [0, -1]], column[:, [0, -1]], beams=END_BEAMS, bins=END_BINS).min(axis=1)
    found: FloatArray = 10.0 * np.log10(np.maximum(between, 1e-30) / np.maximum(ends, 1e-30))
    return found


def _brightest(power: Float32Array, beam: IntArray, column: IntArray, *, beams: int, bins: int) -> FloatArray:
    """Return the most power about cells (N, P), so many beams and range cells each way."""
    beam, column = beam[..., None, None], column[..., None, None]
    beam = beam + np.arange(-beams, beams + 1)[:, None]
    column = column + np.arange(-bins, bins + 1)[None, :]
    about = power[np.clip(beam, 0, power.shape[0] - 1), np.clip(column, 0, power.shape[1] - 1)]
    return about.max(axis=(-2, -1)).astype(np.float64)


def _lengths_m(tracks: Tracks) -> FloatArray:
    """Return the measured lengths (N,) [m] of tracks, not a number where there is none."""
    return np.array([np.nan if track.size is None else track.size.length_m for track in tracks], dtype=np.float64)
