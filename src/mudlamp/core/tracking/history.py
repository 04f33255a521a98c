"""The measured moments of tracks over the last seconds: when, where, how loud, and where the fan looked then."""

import numpy as np

from mudlamp.core.arrays import FloatArray, IntArray
from mudlamp.core.tracking import _kernels_history

# How two tracks were heard: of the moments at which either was, the shares of both, of the one alone and of the other alone; where both
# were, how far apart they were and how much that swayed [m], and how much louder the other was [dB].
TOGETHER = ("both", "one_alone", "other_alone", "apart_m", "sways_m", "louder_db")
HISTORY_S = 6.0
# Between a hanging fish's fins and a fast tail [Hz].
BEATS_HZ = np.linspace(0.5, 3.8, 12)
# Room for a history at 30 pings a second, twice over: what is forgotten is closed up only now and then.
ROOM = 360


class History:
    """The moments of R tracks, a row each, oldest first: times [s] (R, ROOM), places in the plane [m] (R, ROOM, 2), levels [dB] and where the

    fan looked [rad] (R, ROOM), of which those from `first` (R,) up to `last` (R,) count.
    """

    __slots__ = ("aim_rad", "first", "last", "level_db", "place", "time_s")

    def __init__(self, rows: int) -> None:
        self.time_s = np.empty((rows, ROOM))
        self.place = np.empty((rows, ROOM, 2))
        self.level_db = np.empty((rows, ROOM))
        self.aim_rad = np.empty((rows, ROOM))
        self.first, self.last = np.zeros(rows, np.int64), np.zeros(rows, np.int64)

    def grow(self, rows: int) -> None:
        """Make room for more rows."""
        more = History(rows)
        for name in self.__slots__:
            setattr(self, name, np.concatenate((getattr(self, name), getattr(more, name))))

    def clear(self, rows: IntArray) -> None:
        """Forget the moments of some rows (N,)."""
        self.first[rows] = self.last[rows] = 0

    def add(self, rows: IntArray, *, time_s: float, place: FloatArray, level_db: FloatArray, aim_rad: float) -> None:
        """Remember a moment of some rows (N,), their places (N, 2) and levels (N,) then; forget what is older than HISTORY_S."""
        _kernels_history.add(
            rows, time_s, place, level_db, aim_rad, HISTORY_S, self.time_s, self.place, self.level_db, self.aim_rad, self.first, self.last
        )

    def together(self, rows: IntArray, others: IntArray, *, since_s: float) -> FloatArray:
        """Return how each of some rows (N,) and its other (N,) were heard since a time (N, len(TOGETHER)), not numbers where nothing tells."""
        out = np.empty((len(rows), len(TOGETHER)))
        _kernels_history.heard_together(rows, others, self.time_s, self.place, self.level_db, self.first, self.last, since_s, out)
        return out


class Fixes:
    """The measured moments of one track, oldest first: times [s] and places in the plane [m]; a row of a history, or a history of its own."""

    __slots__ = ("_history", "_out", "_row")

    def __init__(self, history: History | None = None, row: int = 0) -> None:
        self._history, self._row = history or History(1), row
        self._out = np.empty(len(TOGETHER))

    def __len__(self) -> int:
        return int(self._history.last[self._row] - self._history.first[self._row])

    def _timed(self) -> tuple[FloatArray, FloatArray, int, int]:
        """Return the row's times and places, and the first and last that counts."""
        history, row = self._history, self._row
        return history.time_s[row], history.place[row], int(history.first[row]), int(history.last[row])

    def add(self, time_s: float, place: tuple[float, float], level_db: float, aim_rad: float = 0.0) -> None:
        """Remember a moment, and where the fan looked then; forget what is older than HISTORY_S."""
        self._history.add(np.array([self._row]), time_s=time_s, place=np.array([place]), level_db=np.array([level_db]), aim_rad=aim_rad)

    def sweep(self, *, since_s: float) -> tuple[FloatArray, FloatArray]:
        """Return where the fan looked (N,) [rad] and the levels (N,) [dB] since a time."""
        time_s, _, first, last = self._timed()
        first += int(np.searchsorted(time_s[first:last], since_s))
        return self._history.aim_rad[self._row, first:last], self._history.level_db[self._row, first:last]

    def level_db(self, *, since_s: float, until_s: float) -> float | None:
        """Return the mean level [dB] between two times, or None without a moment there."""
        time_s, _, start, stop = self._timed()
        first, last = start + np.searchsorted(time_s[start:stop], (since_s, until_s))
        return float(self._history.level_db[self._row, first:last].mean()) if last > first else None

    def smoothed(self, *, at_s: float, half_s: float) -> tuple[float, float] | None:
        """Return the place at a time by a straight-line fit to the moments within `half_s` of it, or None with under four of them."""
        count = _kernels_history.line_fit(*self._timed(), at_s, half_s, self._out)
        return None if count < 4 else (float(self._out[0]), float(self._out[1]))

    def travel(self, *, since_s: float) -> tuple[float, float, float] | None:
        """Return how far along the plane's two axes [m] it went since a time, from first to last quarter, and in how long [s]; None with under six."""
        span = _kernels_history.travel(*self._timed(), since_s, self._out)
        if span <= 0.0:
            return None
        return float(self._out[0]), float(self._out[1]), span

    def fast_steps(self, *, at_s: float, half_s: float, speed_m_s: float) -> tuple[int, float]:
        """Return how many steps within `half_s` of a time were faster than a speed [m/s], and the fastest step [m/s]."""
        count = _kernels_history.fast_steps(*self._timed(), at_s, half_s, speed_m_s, self._out)
        return int(count), float(self._out[0])
