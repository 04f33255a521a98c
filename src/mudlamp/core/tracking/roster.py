"""The roster: what is known of tracks in figures, a column each, so that all tracks are brought up to date at once."""

from dataclasses import dataclass

import numpy as np

from mudlamp.core.arrays import BoolArray, FloatArray, IntArray
from mudlamp.core.tracking import _kernels_notes
from mudlamp.core.tracking.history import HISTORY_S, History

# What is averaged over a track's echoes, in the order of `Roster.means`: levels [dB], lengths and spreads [m], echoes' cells, misses.
MEANS = (
    "level_db",
    "level_db2",
    "length_m",
    "wide_m",
    "tall_m",
    "spread_range_m",
    "spread_beams_m",
    "log_cells",
    "fullness_db",
    "over_mean_db",
    "over_loudest_db",
    "miss",
)
# And how far it steps from one echo to the next: level [dB], length [m], place [m].
STEPS = ("level_step_db", "length_step_m", "place_step_m")
# How a mark changed against the ping before, a moment ago and a second ago: cells, power and peak [dB], shape (`_kernels_changes.py`).
CHANGES = tuple(f"{what}_{since}" for since in ("next", "soon", "later") for what in ("cells_db", "power_db", "peak_db", "shape"))
# A straight way is told over so long [s]: a lure sinks and is reeled straight on, a fish hardly ever goes so.
WAYS_S = np.array([2.0, HISTORY_S])
# Traits are averaged over some so many echoes.
SLOW_HITS = 20
# Room for so many tracks to begin with.
ROOM = 64


@dataclass(frozen=True, slots=True, kw_only=True)
class Column:
    """A column's shape for one track, and what stands in it before anything is known."""

    shape: tuple[int, ...] = ()
    fill: float = 0.0
    dtype: type = np.float64

    def of(self, rows: int) -> np.ndarray:
        """Return the column for so many tracks."""
        return np.full((rows, *self.shape), self.fill, self.dtype)


_UNKNOWN = float("nan")
COLUMNS = {
    "number": Column(dtype=np.int64),
    "kind": Column(dtype=np.int64),
    "is_said": Column(dtype=np.bool_),
    "confirmed": Column(dtype=np.bool_),
    "hits": Column(fill=1, dtype=np.int64),
    "told": Column(dtype=np.int64),
    "born_s": Column(),
    "seen_s": Column(),
    "own_s": Column(fill=-np.inf),
    "score": Column(fill=1.0),
    "state": Column(shape=(4,)),
    "covariance": Column(shape=(4, 4)),
    "level_db": Column(),
    "length_m": Column(),
    "means": Column(shape=(len(MEANS),)),
    "steps": Column(shape=(len(STEPS),)),
    "newest": Column(shape=(4,), fill=_UNKNOWN),
    "changes": Column(shape=(len(CHANGES),), fill=_UNKNOWN),
    "crowd": Column(),
    "company": Column(),
    "roam_m": Column(),
    "moved_m": Column(),
    "sink_m_s": Column(),
    "shift_m": Column(shape=(2,), fill=_UNKNOWN),
    "long_shift_m": Column(shape=(2,), fill=_UNKNOWN),
    "ways": Column(shape=(len(WAYS_S), 3), fill=_UNKNOWN),
    "beat": Column(shape=(2,), fill=_UNKNOWN),
    "born_over_map_db": Column(fill=_UNKNOWN),
    "odds": Column(shape=(4,)),
    "lead": Column(fill=_UNKNOWN),
    "leads": Column(shape=(4,), fill=_UNKNOWN),
    "lure_lead": Column(fill=-np.inf),
    "ghost": Column(),
    "lit_db": Column(fill=_UNKNOWN),
    "second": Column(),
    "is_second": Column(dtype=np.bool_),
    "bolted_s": Column(fill=-np.inf),
}


class Evidence:
    """What was said of R tracks, gathered: the mean of all that was said of each, later the newest by its share."""

    def __init__(self, rows: int) -> None:
        self._count = np.zeros(rows, np.int64)
        self._sums: FloatArray = np.empty((rows, 0))

    def clear(self, rows: IntArray) -> None:
        """Forget what was said of some rows (N,)."""
        self._count[rows] = 0

    def grow(self, rows: int) -> None:
        """Make room for more rows."""
        self._count = np.concatenate((self._count, np.zeros(rows, np.int64)))
        self._sums = np.concatenate((self._sums, np.empty((rows, self._sums.shape[1]))))

    def with_newest(self, rows: IntArray, newest: FloatArray, *, share: float) -> FloatArray:
        """Take in what was said last (N, K) of some rows (N,), which counts by `share` at least; return all that was said of them (N, K)."""
        if self._sums.shape[1] != newest.shape[1]:
            self._sums = np.zeros((len(self._count), newest.shape[1]))
        self._count[rows] += 1
        told = self._count[rows]
        before = np.where(told[:, None] == 1, newest, self._sums[rows])
        gathered: FloatArray = before + np.maximum(1.0 / told, share)[:, None] * (newest - before)
        self._sums[rows] = gathered
        return gathered


class Roster:
    """What is known of R tracks, each column (R, ...) a figure of all; of which row is whose the tracks know (`track.py`).

    `state` is (place, place, speed, speed) in the plane [m, m/s], `covariance` its error; `number` is 0 before a track is confirmed; `kind` is
    numbered as in `track.KINDS`, as `odds` are; `seen_s` is when it last had an echo, `own_s` one of its own [s]; `score` how steadily;
    `level_db` and `length_m` are smoothed, `newest` the last echo's level, length and place; the rest is described where it is written.
    """

    number: IntArray
    kind: IntArray
    is_said: BoolArray
    confirmed: BoolArray
    hits: IntArray
    told: IntArray
    born_s: FloatArray
    seen_s: FloatArray
    own_s: FloatArray
    score: FloatArray
    state: FloatArray
    covariance: FloatArray
    level_db: FloatArray
    length_m: FloatArray
    means: FloatArray
    steps: FloatArray
    newest: FloatArray
    changes: FloatArray
    crowd: FloatArray
    company: FloatArray
    roam_m: FloatArray
    moved_m: FloatArray
    sink_m_s: FloatArray
    shift_m: FloatArray
    long_shift_m: FloatArray
    ways: FloatArray
    beat: FloatArray
    born_over_map_db: FloatArray
    odds: FloatArray
    lead: FloatArray
    leads: FloatArray
    lure_lead: FloatArray
    ghost: FloatArray
    lit_db: FloatArray
    second: FloatArray
    is_second: BoolArray
    bolted_s: FloatArray

    def __init__(self) -> None:
        """Make a roster without tracks."""
        for name, column in COLUMNS.items():
            setattr(self, name, column.of(ROOM))
        self.history = History(ROOM)
        self.kind_sums, self.context_sums, self.class_sums, self.length_sums = (Evidence(ROOM) for _ in range(4))
        self._free = list(range(ROOM))

    def take(self, count: int) -> IntArray:
        """Return so many rows (N,) that nobody has, with nothing known in them."""
        if len(self._free) < count:
            self._grow(max(count, len(self.number)))
        rows = np.array(self._free[:count], dtype=np.int64)
        del self._free[:count]
        for name, column in COLUMNS.items():
            getattr(self, name)[rows] = column.fill
        for kept in self._kept():
            kept.clear(rows)
        return rows

    def give_back(self, rows: IntArray) -> None:
        """Let others have some rows (N,): their tracks are no more."""
        self._free += rows.tolist()

    def note(
        self,
        rows: IntArray,
        *,
        place: FloatArray,
        level_db: FloatArray,
        length_m: FloatArray,
        measured: FloatArray,
        time_s: float,
        aim_rad: float,
    ) -> None:
        """Let some rows (N,) take in what was measured of their echoes: places (N, 2), levels, lengths (N,), and MEANS (N, len(MEANS))."""
        _kernels_notes.note(
            rows, place, level_db, length_m, measured, time_s, SLOW_HITS, self.hits, self.means, self.steps, self.newest,
            self.level_db, self.length_m, self.seen_s, self.own_s,
        )  # fmt: skip
        self.history.add(rows, time_s=time_s, place=place, level_db=level_db, aim_rad=aim_rad)

    def _kept(self) -> tuple[History | Evidence, ...]:
        return self.history, self.kind_sums, self.context_sums, self.class_sums, self.length_sums

    def _grow(self, rows: int) -> None:
        self._free += range(len(self.number), len(self.number) + rows)
        for name, column in COLUMNS.items():
            setattr(self, name, np.concatenate((getattr(self, name), column.of(rows))))
        for kept in self._kept():
            kept.grow(rows)
