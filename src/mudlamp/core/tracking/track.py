"""A track: a filtered place on the ground, what it looked like, how long it has lived."""

import math
from collections import deque
from dataclasses import dataclass, field
from enum import StrEnum

import numpy as np

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
        self.length_m += share * (detection.length_m - self.length_m)
        self.fixes.append(Fix(time_s=time_s, place=detection.place, level_db=detection.level_db))
        while time_s - self.fixes[0].time_s > HISTORY_S:
            self.fixes.popleft()
        self.hits += 1
        self.misses = 0
        self.seen_s = time_s


def smoothed_place(track: Track, *, at_s: float, half_s: float) -> tuple[float, float] | None:
    """Return the place at a time by a straight-line fit to the fixes within `half_s` of it, or None with under four fixes on hand."""
    near = [fix for fix in track.fixes if abs(fix.time_s - at_s) <= half_s]
    if len(near) < 4:
        return None
    t = np.array([fix.time_s - at_s for fix in near])
    place = np.array([fix.place for fix in near])
    weight = np.clip(1.0 - (np.abs(t) / (half_s * 1.01)) ** 3, 0.0, None) ** 3
    total = weight.sum()
    mean_t = float((weight * t).sum() / total)
    centered = t - mean_t
    spread = float((weight * centered**2).sum())
    middle = (weight[:, None] * place).sum(axis=0) / total
    if spread < 1e-9:
        return (float(middle[0]), float(middle[1]))
    slope = (weight[:, None] * centered[:, None] * place).sum(axis=0) / spread
    found = middle - slope * mean_t
    return (float(found[0]), float(found[1]))
