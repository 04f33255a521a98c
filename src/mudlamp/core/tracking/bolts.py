"""Bolts: a fish that darts off is past its gate from one ping to the next; four echoes in a line that begins where it was are it again."""

from collections import deque
from dataclasses import dataclass

import numpy as np

from mudlamp.core.arrays import FloatArray, IntArray
from mudlamp.core.tracking.detect import Detections
from mudlamp.core.tracking.roster import Roster

# How fast a fish may dart [m/s], how long after its last own echo it is looked for [s], by how many echoes (ours; fish of a foot reach some ten lengths a second).
SLOWEST_M_S, FASTEST_M_S, LATEST_S, ECHOES = 1.2, 6.0, 0.7, 4
# So far off the way from the first echo to the last the others may lie, and the line off where the fish was [m]; so unlike its own the level may be [dB].
# Of several lines the straightest counts, and each m/s of haste against it as so many meters of bend [s].
BENT_M, ASIDE_M, ALIKE_DB, HASTE_S = 0.15, 0.25, 9.0, 0.05
# So steadily it must have been followed before, for so long [s].
STEADY, OLD_S = 0.5, 1.0
# How sure place [m] and speed [m/s] of a fish are that was found again: 0.1 and 1.0.
DOUBT: FloatArray = np.diag((0.1**2, 0.1**2, 1.0, 1.0))


@dataclass(frozen=True, slots=True, kw_only=True)
class Bolt:
    """A fish found again: its row, which detection it is now, its velocity (2,) [m/s]."""

    row: int
    column: int
    velocity: FloatArray


@dataclass(frozen=True, slots=True, kw_only=True)
class _Loose:
    """What no confirmed track took of a ping: which detections, where (N, 2) [m], how loud (N,) [dB]."""

    time_s: float
    columns: IntArray
    place: FloatArray
    level_db: FloatArray


class Bolts:
    """Remembers what nobody took of the last pings; call it once a ping."""

    def __init__(self) -> None:
        self._loose: deque[_Loose] = deque(maxlen=ECHOES)

    def look_for(self, roster: Roster, silent: IntArray, found: Detections, columns: IntArray, time_s: float) -> list[Bolt]:
        """Return which of the fish that got no echo (rows) are found again among the detections that no confirmed track took."""
        self._loose.append(_Loose(time_s=time_s, columns=columns, place=found.place[columns], level_db=found.level_db[columns]))
        if len(self._loose) < ECHOES or not all(len(one.columns) for one in self._loose):
            return []
        bolts, taken = [], set[int]()
        for row in silent[np.argsort(-roster.score[silent])].tolist():
            bolt = self._of(roster, row)
            if bolt is not None and bolt.column not in taken:
                bolts.append(bolt)
                taken.add(bolt.column)
        return bolts

    def _of(self, roster: Roster, row: int) -> Bolt | None:
        first, *between, last = self._loose
        was_s, was, level_db = float(roster.own_s[row]), roster.newest[row, 2:4], float(roster.level_db[row])
        if not was_s < first.time_s < last.time_s <= was_s + LATEST_S:
            return None
        begin, end = (np.flatnonzero(np.abs(one.level_db - level_db) < ALIKE_DB) for one in (first, last))
        span_s = last.time_s - first.time_s
        ways = last.place[None, end] - first.place[begin, None]
        far_m = np.hypot(ways[..., 0], ways[..., 1])
        speed = far_m / span_s
        heading = ways / np.maximum(far_m, 1e-6)[..., None]
        since = first.place[begin] - was
        along = np.einsum("bk,bek->be", since, heading)
        aside = np.abs(since[:, None, 0] * heading[..., 1] - since[:, None, 1] * heading[..., 0])
        fits = (speed > SLOWEST_M_S) & (speed < FASTEST_M_S) & (aside < ASIDE_M)
        fits &= (along > -0.5 * ASIDE_M) & (along < speed * (first.time_s - was_s) + 0.5 * ASIDE_M)
        best: tuple[float, int, FloatArray] | None = None
        for b, e in np.argwhere(fits).tolist():
            begun, velocity = first.place[begin[b]], ways[b, e] / span_s
            bent_m = max(float(np.hypot(*(one.place - begun - velocity * (one.time_s - first.time_s)).T).min()) for one in between)
            # Among several the slower one: fish are rarely as fast as they can be.
            worse = bent_m + float(aside[b, e]) + HASTE_S * float(speed[b, e])
            if bent_m < BENT_M and (best is None or worse < best[0]):
                best = (worse, int(last.columns[end[e]]), velocity)
        return None if best is None else Bolt(row=row, column=best[1], velocity=best[2])


def may_bolt(roster: Roster, rows: IntArray, fish: int, time_s: float) -> IntArray:
    """Return those of some rows that are fish, were followed well, and have just got no echo of their own."""
    silent_s = time_s - roster.own_s[rows]
    known = roster.confirmed[rows] & (roster.kind[rows] == fish) & (roster.score[rows] > STEADY) & (time_s - roster.born_s[rows] > OLD_S)
    return rows[known & (silent_s > 0.0) & (silent_s <= LATEST_S)]
