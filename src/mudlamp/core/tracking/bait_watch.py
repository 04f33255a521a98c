"""What a cloud of bait does: it draws together before a hunter, and bursts when one shoots through.

Its reach tells little of that: echoes come and go at its edge, and parts of it with the names of their tracks. What tells is how far the
same echoes are from one another now, by how far they were a moment ago.
"""

import math
from collections import deque
from collections.abc import Sequence
from dataclasses import dataclass
from enum import StrEnum

import numpy as np

from mudlamp.core.arrays import FloatArray
from mudlamp.core.plane import Place
from mudlamp.core.tracking.groups import Cloud, clouds_of
from mudlamp.core.tracking.views import TrackView

# Echoes are compared with themselves so long before [s]; nearer to one another than this, their own error tells [m].
BEFORE_S, APART_M = 1.75, 0.25
# A cloud tightens where the middle of its distances is so many times what it was, and bursts where it is so many times; so many echoes must
# say so, at so many pings within so long [s]. Neither is told twice within so long [s] of the same place [m] (ours).
TIGHTER, WIDER = 0.72, 1.55
LEAST_TIGHT, LEAST_BURST = 8, 5
PINGS, PINGS_WITHIN_S = 4, 1.0
AGAIN_S, SAME_M = 8.0, 2.0
# So long a cloud is said to do what it did.
SAID_S = 5.0


class BaitDoing(StrEnum):
    """What a cloud did."""

    TIGHTENS = "tightens"
    BURSTS = "bursts"


@dataclass(frozen=True, slots=True, kw_only=True)
class BaitEvent:
    """A cloud did something at a time [s]: where in the plane, and how far it reached before and after [m]."""

    time_s: float
    doing: BaitDoing
    place: Place
    before_m: float
    after_m: float


class BaitWatch:
    """Watches clouds; call it once a ping. `clouds` are those of the newest, each with what it has just done; `events` what it settled."""

    def __init__(self) -> None:
        self.clouds: list[tuple[Cloud, BaitDoing | None]] = []
        self.events: list[BaitEvent] = []
        # What was there by time: clouds, and the places of all tracks by number.
        self._past: deque[tuple[float, list[Cloud], dict[int, Place]]] = deque()
        self._seen: deque[BaitEvent] = deque()
        self._told: deque[BaitEvent] = deque()

    def update(self, tracks: Sequence[TrackView], time_s: float) -> None:
        """Take in the tracks of a ping."""
        clouds = clouds_of(tracks)
        places = {track.number: track.place for track in tracks if not track.coasting}
        _forget(self._seen, time_s - PINGS_WITHIN_S)
        _forget(self._told, time_s - AGAIN_S)
        while self._past and time_s - self._past[0][0] > BEFORE_S:
            before_s, were, stood = self._past.popleft()
            if time_s - before_s < 2.0 * BEFORE_S:
                self._seen.extend(one for cloud in were if (one := _done(cloud, stood, places, time_s)) is not None)
        self._past.append((time_s, clouds, places))
        self.events = self._settled()
        self._told.extend(self.events)
        self.clouds = [(cloud, self._doing(cloud, time_s)) for cloud in clouds]

    def _settled(self) -> list[BaitEvent]:
        """Return of what enough pings have seen what was not told yet."""
        found: list[BaitEvent] = []
        for one in reversed(self._seen):
            agreed = sum(_is_same(one, other) for other in self._seen)
            if agreed >= PINGS and not any(_is_same(one, other) for other in (*self._told, *found)):
                found.append(one)
        return found

    def _doing(self, cloud: Cloud, time_s: float) -> BaitDoing | None:
        for one in reversed(self._told):
            if time_s - one.time_s < SAID_S and math.dist(one.place, cloud.place) < SAME_M:
                return one.doing
        return None


def _forget(events: deque[BaitEvent], before_s: float) -> None:
    while events and events[0].time_s < before_s:
        events.popleft()


def _is_same(one: BaitEvent, other: BaitEvent) -> bool:
    return one.doing is other.doing and math.dist(one.place, other.place) < SAME_M


def _done(cloud: Cloud, stood: dict[int, Place], stand: dict[int, Place], time_s: float) -> BaitEvent | None:
    """Return what a cloud has done since its members stood where they did, or None."""
    same = [number for number in cloud.members if number in stood and number in stand]
    if len(same) < min(LEAST_TIGHT, LEAST_BURST):
        return None
    before, now = np.array([stood[number] for number in same]), np.array([stand[number] for number in same])
    wider = spread_ratio(before, now)
    if wider is None:
        return None
    if wider > WIDER and len(same) >= LEAST_BURST:
        doing = BaitDoing.BURSTS
    elif wider < TIGHTER and len(same) >= LEAST_TIGHT:
        doing = BaitDoing.TIGHTENS
    else:
        return None
    middle = np.median(now, axis=0)
    return BaitEvent(
        time_s=time_s,
        doing=doing,
        place=(float(middle[0]), float(middle[1])),
        before_m=cloud.radius_m,
        after_m=cloud.radius_m * wider,
    )


def spread_ratio(before: FloatArray, now: FloatArray) -> float | None:
    """Return by how much places (N, 2) [m] have spread since the same were elsewhere (N, 2): the middle of all distances' ratios.

    None where all stood so near to one another that their distances tell nothing.
    """
    first, second = np.triu_indices(len(before), 1)
    was = np.linalg.norm(before[first] - before[second], axis=1)
    tells = was > APART_M
    if int(tells.sum()) < len(before):
        return None
    return float(np.median(np.linalg.norm(now[first] - now[second], axis=1)[tells] / was[tells]))
