"""The last minute of a session: pings as 8-bit levels, with what was told beside each, to be looked at again or kept."""

from collections import deque
from collections.abc import Iterator
from dataclasses import dataclass, replace

import numpy as np

from mudlamp.core.arrays import ByteArray, Float32Array
from mudlamp.core.ping import Ping, Pose, SonarSetup

SECONDS = 60.0
STEP_DB = 0.5
LOWEST_DB = -150.0


@dataclass(frozen=True, slots=True, kw_only=True)
class _Kept:
    number: int
    time_s: float
    pose: Pose
    setup: SonarSetup
    slot: int
    beside: str


class Minute:
    """A ring of the newest pings; a ping of another shape empties it. Levels are kept in steps of half a decibel from -150 dB."""

    def __init__(self, *, most: int) -> None:
        self._most = most
        self._ring: ByteArray | None = None
        self._kept: deque[_Kept] = deque(maxlen=most)
        self._next = 0
        self._scratch: Float32Array | None = None

    def __len__(self) -> int:
        return len(self._kept)

    @property
    def seconds(self) -> float:
        """How long what is kept runs [s]."""
        return self._kept[-1].time_s - self._kept[0].time_s if self._kept else 0.0

    def share_of(self, time_s: float) -> float | None:
        """Return where in what is kept a time is, as a share of it; None where it is not in it."""
        if not self._kept or not self._kept[0].time_s <= time_s <= self._kept[-1].time_s:
            return None
        return (time_s - self._kept[0].time_s) / max(self.seconds, 1e-9)

    def keep(self, ping: Ping, beside: str) -> None:
        """Take in a ping and the text that was told with it."""
        shape = ping.echo_level_db.shape
        if self._ring is None or self._scratch is None or self._ring.shape[1:] != shape:
            self._ring = np.empty((self._most, *shape), np.uint8)
            self._scratch = np.empty(shape, np.float32)
            self._kept.clear()
            self._next = 0
        scaled = np.multiply(ping.echo_level_db, np.float32(1.0 / STEP_DB), out=self._scratch)
        # Half a step more: the cast to whole steps cuts off what is behind the point.
        np.add(scaled, np.float32(0.5 - LOWEST_DB / STEP_DB), out=scaled)
        np.maximum(scaled, np.float32(0.0), out=scaled)
        np.minimum(scaled, np.float32(255.0), out=scaled)
        self._ring[self._next] = scaled
        self._kept.append(_Kept(number=ping.number, time_s=ping.time_s, pose=ping.pose, setup=ping.setup, slot=self._next, beside=beside))
        self._next = (self._next + 1) % self._most

    def ping(self, at: int) -> Ping:
        """Return a kept ping, 0 the oldest; raise IndexError where there is none."""
        kept = self._kept[at]
        if self._ring is None:
            raise IndexError(at)
        level = self._ring[kept.slot].astype(np.float32) * np.float32(STEP_DB) + np.float32(LOWEST_DB)
        return Ping(number=kept.number, time_s=kept.time_s, pose=kept.pose, setup=kept.setup, echo_level_db=level)

    def beside(self, at: int) -> str:
        """Return the text that was told with a kept ping, 0 the oldest."""
        return self._kept[at].beside

    def stretch(self) -> "Minute":
        """Return a copy of the newest pings that share one sonar set-up: what can be kept as a recording while the minute keeps filling."""
        first = len(self._kept)
        while first > 0 and self._kept[first - 1].setup is self._kept[-1].setup:
            first -= 1
        chosen = [self._kept[at] for at in range(first, len(self._kept))]
        copy = Minute(most=max(len(chosen), 1))
        if self._ring is not None:
            copy._ring = self._ring[[kept.slot for kept in chosen]]
        copy._kept.extend(replace(kept, slot=slot) for slot, kept in enumerate(chosen))
        return copy

    def __iter__(self) -> Iterator[Ping]:
        return (self.ping(at) for at in range(len(self)))
