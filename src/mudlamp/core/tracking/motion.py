"""How tracks moved lately, and at what beat their level swings: from their histories."""

from mudlamp.core.arrays import IntArray
from mudlamp.core.tracking import _kernels_history
from mudlamp.core.tracking.history import BEATS_HZ, HISTORY_S
from mudlamp.core.tracking.roster import WAYS_S, Roster

# How far a track roamed is told over so long [s], of which it was heard over so long at least; it has moved so far only where it was heard
# this steadily.
MOTION_S, LEAST_S, STEADY = 3.0, 0.5, 0.8
# Over how long a tail's beat is looked for, at every how manieth telling.
BEAT_S, BEAT_EVERY = 4.0, 4


def note_motion(roster: Roster, rows: IntArray, time_s: float) -> None:
    """Work out how far tracks (N,) roamed lately, how straight, how fast they sank, and, now and then, at what beat their level swings."""
    beaten = rows[roster.told[rows] % BEAT_EVERY == 0]
    history = roster.history
    _kernels_history.beats(beaten, history.time_s, history.level_db, history.first, history.last, time_s - BEAT_S, BEATS_HZ, roster.beat)
    _kernels_history.motion(
        rows, time_s, history.time_s, history.place, history.first, history.last, roster.score, STEADY, MOTION_S, LEAST_S, HISTORY_S, WAYS_S,
        roster.shift_m, roster.long_shift_m, roster.roam_m, roster.moved_m, roster.sink_m_s, roster.ways,
    )  # fmt: skip
