"""How a session's time goes: running, slow, frozen, or the last minute again; and what a ping costs."""

import time
from dataclasses import dataclass, field
from enum import StrEnum

SLOWEST_HZ = 12.0
SLOW_MOTION = 4
FROZEN_POLL_S = 0.02


class Pace(StrEnum):
    """How a session's time goes."""

    RUN = "run"
    SLOW = "slow"
    FROZEN = "frozen"
    REPLAY = "replay"


@dataclass(slots=True, kw_only=True)
class StageTimes:
    """Running means of what a ping costs, by stage [ms], and how many pings came late."""

    mean_ms: dict[str, float] = field(default_factory=dict)
    late: int = 0

    def note(self, stage: str, seconds: float) -> None:
        """Take in one time [s]."""
        before = self.mean_ms.get(stage, seconds * 1000.0)
        self.mean_ms[stage] = before + 0.05 * (seconds * 1000.0 - before)


class Pacing:
    """Waits for the next ping's time. `step` asks for one ping of frozen water; `at` is the place in the last minute."""

    def __init__(self, ping_hz: float) -> None:
        self.ping_hz = ping_hz
        self.pace = Pace.RUN
        self.step = False
        self.at = 0
        self.stages = StageTimes()
        self._due = time.monotonic()

    @property
    def is_frozen(self) -> bool:
        """Whether the water stands still and no ping of it is asked for."""
        return self.pace is Pace.FROZEN and not self.step

    def restart(self) -> None:
        """Count from now: nothing was due meanwhile."""
        self._due = time.monotonic()

    def wait(self) -> float:
        """Wait until the next ping is due; return how much of the water's own time it takes [s].

        Under load the water slows to what can be worked out, never under SLOWEST_HZ of its own time.
        """
        interval = (SLOW_MOTION if self.pace is Pace.SLOW else 1) / self.ping_hz
        left = self._due - time.monotonic()
        if left > 0.0:
            time.sleep(left)
        elif left < -interval:
            self.stages.late += 1
            interval = min(interval - left, 1.0 / SLOWEST_HZ)
            self.restart()
        self._due += interval
        return min(interval, 1.0 / SLOWEST_HZ) if self.pace is Pace.RUN else 1.0 / self.ping_hz
