"""What the tracks about one are taken for, and what was at its place before: fish keep company with fish, limbs with limbs.

A second forest weighs a track's own traits together with this: what cannot be told of a track alone can often be told of it among others.
"""

import numpy as np

from mudlamp.core.arrays import FloatArray, IntArray
from mudlamp.core.tracking import _kernels_context
from mudlamp.core.tracking.classify import KINDS
from mudlamp.core.tracking.track import Kind
from mudlamp.core.tracking.traits import TRAITS

# How far off other tracks are asked [m].
WITHIN_M = np.array([0.6, 1.2, 2.5, 5.0])
# How it leans itself, to fish and to lure, and how much more to lure than any other: there is one at most. Of the tracks within each of the
# distances: how they lean on the mean, and those that lean most and least to fish; then how the whole picture leans; how what was lost at this
# very place leaned, for how long it was followed there (log [s]), and how what was lost about it leaned.
CONTEXT = (
    "lean",
    "lure_lean",
    "lure_over_others",
    *(f"{which}_within_{far_m:g}_m" for far_m in WITHIN_M for which in ("mean_lean", "most_lean", "least_lean")),
    "lean_of_all",
    "lean_before",
    "log_s_before",
    "lean_about_before",
)
# What a track is told by among others.
AMONG_TRAITS = (*TRAITS, *CONTEXT)
# A lost track is remembered for so long [s], no more than so many of them, and none counts for longer than this [s].
KEPT_S, MOST_KEPT, MOST_COUNTED_S = 20.0, 400, 8.0
# How near it must have been to have been here (a Gaussian's spread) and about here [m], and how much of it [s] says anything.
HERE_M, ABOUT_M, LEAST_HERE_S = 0.35, 1.2, 0.2
_OTHER = [KINDS.index(Kind.COVER), KINDS.index(Kind.BAIT)]
_OWN = 3


def leans(sums: FloatArray) -> FloatArray:
    """Return how tracks of the trees' sums (N, K) lean to fish and to lure, against cover or bait, whichever is likelier: log odds (N, 2)."""
    found: FloatArray = sums[:, [KINDS.index(Kind.FISH), KINDS.index(Kind.LURE)]] - sums[:, _OTHER].max(axis=1)[:, None]
    return found


class Context:
    """Remembers tracks from moment to moment, and those that were lost."""

    def __init__(self) -> None:
        self._born_s: dict[int, float] = {}
        self._last: dict[int, tuple[float, float, float]] = {}
        # Of each lost track its place, its lean, for how long it was followed, when it was lost.
        self._lost: FloatArray = np.empty((0, 5))

    def look_at(self, numbers: IntArray, places: FloatArray, leaning: FloatArray, *, asked: IntArray, time_s: float) -> FloatArray:
        """Take in all tracks of a moment: their numbers (N,), places (N, 2) and leans (N, 2); return CONTEXT (M, len(CONTEXT)) of those `asked` (M,), by place in N.

        Log odds and, where said, log [s]; not a number where there is nobody.
        """
        lean = np.ascontiguousarray(leaning[:, 0])
        self._remember(numbers, places, lean, time_s)
        out = np.empty((len(asked), len(CONTEXT)))
        if not len(asked):
            return out
        out[:, : _OWN - 1] = leaning[asked]
        out[:, _OWN - 1] = _over_others(leaning[:, 1])[asked]
        _kernels_context.among(places, lean, asked, WITHIN_M, out[:, _OWN:])
        out[:, -4] = lean.mean()
        _kernels_context.before(places, asked, self._lost, HERE_M, ABOUT_M, LEAST_HERE_S, out[:, -3:])
        return out

    def _remember(self, numbers: IntArray, places: FloatArray, lean: FloatArray, time_s: float) -> None:
        rows = dict(zip(numbers.tolist(), zip(*places.T.tolist(), lean.tolist(), strict=True), strict=True))
        gone = [
            (*self._last[number], min(time_s - self._born_s.pop(number), MOST_COUNTED_S), time_s)
            for number in self._last.keys() - rows.keys()
        ]
        if gone:
            self._lost = np.concatenate((self._lost, gone))[-MOST_KEPT:]
        self._lost = self._lost[time_s - self._lost[:, 4] < KEPT_S]
        for number in rows:
            self._born_s.setdefault(number, time_s)
        self._last = rows


def _over_others(lean: FloatArray) -> FloatArray:
    """Return how much more each leans than the one of the others that leans most (N,); not a number for one alone."""
    if len(lean) < 2:
        return np.full(len(lean), np.nan)
    second, first = np.partition(lean, -2)[-2:]
    found: FloatArray = lean - np.where(lean == first, second, first)
    return found
