"""How fast the lure really falls, as it was seen to: the angler's own drops correct what drag physics says."""

from collections import deque

import numpy as np

# A drop tells something from so long, and so deep, on [s, m]; a lure that loses less than this is lost sight of meanwhile [s].
LEAST_S, LEAST_M = 1.2, 0.4
LOST_S = 0.8
# The newest drops count, from so many on; a speed this many times the expected one was no drop of this lure.
KEPT, ENOUGH = 9, 2
STRANGE = 3.0


class Drops:
    """Watches the lure while the line runs free; `expected_m_s` is how fast it should fall."""

    def __init__(self) -> None:
        self._speeds: deque[float] = deque(maxlen=KEPT)
        self._falls: list[tuple[float, float]] = []

    @property
    def count(self) -> int:
        """How many drops the speed stands on; 0 while there are too few."""
        return len(self._speeds) if len(self._speeds) >= ENOUGH else 0

    def note(self, time_s: float, depth_m: float | None, *, expected_m_s: float) -> None:
        """Take in a moment: how deep a falling lure is [m], None where it does not fall or is not seen."""
        ended = self._falls and (depth_m is None or time_s - self._falls[-1][0] > LOST_S)
        if ended:
            self._close(expected_m_s)
        if depth_m is not None:
            self._falls.append((time_s, depth_m))

    def _close(self, expected_m_s: float) -> None:
        times, depths = np.array(self._falls).T
        self._falls = []
        if times[-1] - times[0] < LEAST_S or depths[-1] - depths[0] < LEAST_M:
            return
        speed = float(np.polyfit(times - times[0], depths, 1)[0])
        if expected_m_s / STRANGE < speed < STRANGE * expected_m_s:
            self._speeds.append(speed)

    def sink_m_s(self, expected_m_s: float) -> float:
        """Return how fast the lure falls [m/s]: the middle of the drops that were seen, or what is expected before there are enough."""
        return float(np.median(self._speeds)) if self.count else expected_m_s
