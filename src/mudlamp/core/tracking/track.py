"""A track: a filtered place on the ground, what it looked like, how long it has lived."""

import math
from dataclasses import dataclass, field
from enum import StrEnum
from typing import TYPE_CHECKING

import numpy as np

from mudlamp.core.arrays import FloatArray
from mudlamp.core.tracking import _kernels_tracks
from mudlamp.core.tracking.cuts import Cuts

if TYPE_CHECKING:
    from mudlamp.core.tracking.classes import FishClass, Identity
    from mudlamp.core.tracking.side import Side
    from mudlamp.core.tracking.sizing import Size


class Kind(StrEnum):
    """What a track may be."""

    FISH = "fish"
    LURE = "lure"
    BAIT = "bait"
    COVER = "cover"


# What is averaged over a track's echoes, in the order of `Track.means`: levels [dB], lengths and spreads [m], echoes' cells, misses.
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
# How two tracks were heard: of the moments at which either was, the shares of both, of the one alone and of the other alone; where both
# were, how far apart they were and how much that swayed [m], and how much louder the other was [dB].
TOGETHER = ("both", "one_alone", "other_alone", "apart_m", "sways_m", "louder_db")
HISTORY_S = 6.0
# A straight way is told over so long [s]: a lure sinks and is reeled straight on, a fish hardly ever goes so.
WAYS_S = (2.0, HISTORY_S)
# Between a hanging fish's fins and a fast tail [Hz].
BEATS_HZ = np.linspace(0.5, 3.8, 12)
# Traits are averaged over some so many echoes.
SLOW_HITS = 20
SLOW_SHARE = 1.0 / SLOW_HITS
# Room for a history at 30 pings a second, twice over: what is forgotten is closed up only now and then.
ROOM = 360


class Fixes:
    """The measured moments of a track, oldest first: times [s] and places in the plane [m]."""

    __slots__ = ("_aim", "_first", "_last", "_level", "_out", "_place", "_time")

    def __init__(self) -> None:
        self._time = np.empty(ROOM)
        self._place = np.empty((ROOM, 2))
        self._level = np.empty(ROOM)
        self._aim = np.empty(ROOM)
        self._out = np.empty(len(TOGETHER))
        self._first = self._last = 0

    def __len__(self) -> int:
        return self._last - self._first

    def add(self, time_s: float, place: tuple[float, float], level_db: float, aim_rad: float = 0.0) -> None:
        """Remember a moment, and where the fan looked then; forget what is older than HISTORY_S."""
        while self._first < self._last and time_s - self._time[self._first] > HISTORY_S:
            self._first += 1
        if self._last == ROOM:
            # At more pings a second than there is room for, the oldest go before their time.
            self._first = max(self._first, ROOM // 2)
            kept = len(self)
            self._time[:kept] = self._time[self._first : self._last]
            self._place[:kept] = self._place[self._first : self._last]
            self._level[:kept] = self._level[self._first : self._last]
            self._aim[:kept] = self._aim[self._first : self._last]
            self._first, self._last = 0, kept
        self._time[self._last] = time_s
        self._place[self._last] = place
        self._level[self._last] = level_db
        self._aim[self._last] = aim_rad
        self._last += 1

    def time_s(self, before: int) -> float:
        """Return when the moment was that lies so many before the newest [s]."""
        return float(self._time[self._last - 1 - before])

    def place(self, before: int) -> tuple[float, float]:
        """Return the place in the plane [m] at the moment that lies so many before the newest."""
        at = self._place[self._last - 1 - before]
        return float(at[0]), float(at[1])

    def sweep(self, *, since_s: float) -> tuple[FloatArray, FloatArray]:
        """Return where the fan looked (N,) [rad] and the levels (N,) [dB] since a time."""
        first = self._first + int(np.searchsorted(self._time[self._first : self._last], since_s))
        return self._aim[first : self._last], self._level[first : self._last]

    def level_db(self, *, since_s: float, until_s: float) -> float | None:
        """Return the mean level [dB] between two times, or None without a moment there."""
        first, last = self._first + np.searchsorted(self._time[self._first : self._last], (since_s, until_s))
        return float(self._level[first:last].mean()) if last > first else None

    def beat(self, *, since_s: float) -> tuple[float, float]:
        """Return at which frequency [Hz] the level swings most since a time, and that swing's share of all; not numbers with under 20 moments."""
        if not _kernels_tracks.beat(self._time, self._level, self._first, self._last, since_s, BEATS_HZ, self._out):
            return math.nan, math.nan
        return float(self._out[0]), float(self._out[1])

    def smoothed(self, *, at_s: float, half_s: float) -> tuple[float, float] | None:
        """Return the place at a time by a straight-line fit to the moments within `half_s` of it, or None with under four of them."""
        count = _kernels_tracks.line_fit(self._time, self._place, self._first, self._last, at_s, half_s, self._out)
        return None if count < 4 else (float(self._out[0]), float(self._out[1]))

    def travel(self, *, since_s: float) -> tuple[float, float, float] | None:
        """Return how far along the plane's two axes [m] it went since a time, from first to last quarter, and in how long [s]; None with under six."""
        span = _kernels_tracks.travel(self._time, self._place, self._first, self._last, since_s, self._out)
        if span <= 0.0:
            return None
        return float(self._out[0]), float(self._out[1]), span

    def straight(self, *, since_s: float) -> tuple[float, float, float] | None:
        """Return how fast it went straight on along the plane's two axes [m/s] since a time, and how far off that line it was [m]; None with under eight."""
        count = _kernels_tracks.straight(self._time, self._place, self._first, self._last, since_s, self._out)
        return None if count < 8 else (float(self._out[0]), float(self._out[1]), float(self._out[2]))

    def together(self, other: "Fixes", *, since_s: float) -> tuple[float, ...]:
        """Return how it and another were heard since a time, in the order of TOGETHER; not numbers where there is nothing to tell by."""
        _kernels_tracks.heard_together(
            self._time,
            self._place,
            self._level,
            self._first,
            self._last,
            other._time,
            other._place,
            other._level,
            other._first,
            other._last,
            since_s,
            self._out,
        )
        return tuple(self._out.tolist())

    def fast_steps(self, *, at_s: float, half_s: float, speed_m_s: float) -> tuple[int, float]:
        """Return how many steps within `half_s` of a time were faster than a speed [m/s], and the fastest step [m/s]."""
        count = _kernels_tracks.fast_steps(self._time, self._place, self._first, self._last, at_s, half_s, speed_m_s, self._out)
        return int(count), float(self._out[0])


def gathered(before: FloatArray | None, newest: FloatArray, *, told: int, share: float) -> FloatArray:
    """Return evidence (K,) with the newest in: the mean of all that was told `told` times, later the newest by its share."""
    return newest if before is None else before + max(1.0 / told, share) * (newest - before)


@dataclass(slots=True, kw_only=True)
class Track:
    """The state of one track; `state` is (place, place, speed, speed) in the plane, `covariance` (4, 4)."""

    number: int
    born_s: float
    first: tuple[float, float]
    state: FloatArray
    covariance: FloatArray
    level_db: float
    length_m: float
    seen_s: float
    own_s: float = -math.inf
    hits: int = 1
    score: float = 1.0
    confirmed: bool = False
    odds: dict[Kind, float] = field(default_factory=dict)
    kind: Kind = Kind.FISH
    fixes: Fixes = field(default_factory=Fixes)
    traits: FloatArray | None = None
    sums: FloatArray | None = None
    told: int = 0
    lead: float = math.nan
    leads: FloatArray = field(default_factory=lambda: np.full(4, math.nan))
    context: FloatArray | None = None
    context_sums: FloatArray | None = None
    lure_lead: float = -math.inf
    lure_context: FloatArray | None = None
    class_sums: FloatArray | None = None
    class_told: int = 0
    identity: "Identity | None" = None
    said_s: float = -math.inf
    cuts: Cuts | None = None
    size_sums: FloatArray | None = None
    size_told: int = 0
    size: "Size | None" = None
    side: "Side | None" = None
    said: "FishClass | None" = None
    means: FloatArray = field(default_factory=lambda: np.zeros(len(MEANS)))
    steps: list[float] = field(default_factory=lambda: [0.0] * len(STEPS))
    newest: tuple[float, float, float, float] | None = None
    changes: FloatArray = field(default_factory=lambda: np.full(len(CHANGES), np.nan))
    crowd: float = 0.0
    company: float = 0.0
    roam_m: float = 0.0
    shift_m: tuple[float, float] = (math.nan, math.nan)
    long_shift_m: tuple[float, float] = (math.nan, math.nan)
    ways: FloatArray = field(default_factory=lambda: np.full((len(WAYS_S), 3), np.nan))
    moved_m: float = 0.0
    sink_m_s: float = 0.0
    beat: tuple[float, float] = (math.nan, math.nan)
    born_over_map_db: float = math.nan

    @property
    def place(self) -> tuple[float, float]:
        """Where it is in the plane [m]."""
        return (float(self.state[0]), float(self.state[1]))

    @property
    def speed_m_s(self) -> float:
        """How fast it moves in the plane [m/s]."""
        return float(math.hypot(self.state[2], self.state[3]))

    def note(
        self, *, place: tuple[float, float], level_db: float, length_m: float, time_s: float, measured: FloatArray, aim_rad: float = 0.0
    ) -> None:
        """Take in what was measured; `measured` is in the order of MEANS."""
        share = 0.12 if self.hits > 8 else 1.0 / (self.hits + 1.0)
        slow = SLOW_SHARE if self.hits > SLOW_HITS else 1.0 / (self.hits + 1.0)
        self.means += slow * (measured - self.means)
        now = (level_db, length_m, *place)
        if self.newest is not None:
            before, steps = self.newest, self.steps
            share_of_steps = SLOW_SHARE if self.hits > SLOW_HITS else 1.0 / self.hits
            moved = math.hypot(place[0] - before[2], place[1] - before[3])
            for i, step in enumerate((abs(level_db - before[0]), abs(length_m - before[1]), moved)):
                steps[i] += share_of_steps * (step - steps[i])
        self.newest = now
        self.level_db += share * (level_db - self.level_db)
        # A body turned away looks short: the length leans to the longest that was seen.
        grows = length_m > self.length_m
        self.length_m += (share if grows or self.hits < 8 else 0.15 * share) * (length_m - self.length_m)
        self.fixes.add(time_s, place, level_db, aim_rad)
        self.hits += 1
        self.seen_s = self.own_s = time_s
