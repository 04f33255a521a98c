"""A track: a filtered place on the ground, what it looked like, how long it has lived."""

import math
from collections import deque
from dataclasses import dataclass, field
from enum import StrEnum

from mudlamp.core.arrays import FloatArray
from mudlamp.core.tracking.detect import Detection


class Kind(StrEnum):
    """What a track may be."""

    FISH = "fish"
    LURE = "lure"
    BAIT = "bait"
    COVER = "cover"


@dataclass(frozen=True, slots=True, kw_only=True)
class Fix:
    """One measured moment of a track: time [s], place in the plane [m], level [dB]."""

    time_s: float
    place: tuple[float, float]
    level_db: float


HISTORY_S = 6.0


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
    hits: int = 1
    misses: int = 0
    score: float = 1.0
    confirmed: bool = False
    odds: dict[Kind, float] = field(default_factory=dict)
    kind: Kind = Kind.FISH
    fixes: deque[Fix] = field(default_factory=deque)
    crowd: float = 0.0
    company: float = 0.0
    roam_m: float = 0.0
    moved_m: float = 0.0
    sink_m_s: float = 0.0

    @property
    def place(self) -> tuple[float, float]:
        """Where it is in the plane [m]."""
        return (float(self.state[0]), float(self.state[1]))

    @property
    def speed_m_s(self) -> float:
        """How fast it moves in the plane [m/s]."""
        return float(math.hypot(self.state[2], self.state[3]))

    def note(self, detection: Detection, time_s: float) -> None:
        """Remember what was measured; forget what is older than HISTORY_S."""
        share = 0.12 if self.hits > 8 else 1.0 / (self.hits + 1.0)
        self.level_db += share * (detection.level_db - self.level_db)
        # A body turned away looks short: the length leans to the longest that was seen.
        grows = detection.length_m > self.length_m
        self.length_m += (share if grows or self.hits < 8 else 0.15 * share) * (detection.length_m - self.length_m)
        self.fixes.append(Fix(time_s=time_s, place=detection.place, level_db=detection.level_db))
        while time_s - self.fixes[0].time_s > HISTORY_S:
            self.fixes.popleft()
        self.hits += 1
        self.misses = 0
        self.seen_s = time_s


def smoothed_place(track: Track, *, at_s: float, half_s: float) -> tuple[float, float] | None:
    """Return the place at a time by a straight-line fit to the fixes within `half_s` of it, or None with under four fixes on hand."""
    weights = total = sum_t = sum_x = sum_y = 0.0
    near = []
    for fix in track.fixes:
        t = fix.time_s - at_s
        if abs(t) <= half_s:
            weight = (1.0 - (abs(t) / (half_s * 1.01)) ** 3) ** 3
            near.append((t, fix.place, weight))
            total += weight
            sum_t += weight * t
            sum_x += weight * fix.place[0]
            sum_y += weight * fix.place[1]
    if len(near) < 4:
        return None
    mean_t, mean_x, mean_y = sum_t / total, sum_x / total, sum_y / total
    slope_x = slope_y = 0.0
    for t, place, weight in near:
        weights += weight * (t - mean_t) ** 2
        slope_x += weight * (t - mean_t) * place[0]
        slope_y += weight * (t - mean_t) * place[1]
    if weights < 1e-9:
        return (mean_x, mean_y)
    return (mean_x - slope_x / weights * mean_t, mean_y - slope_y / weights * mean_t)
