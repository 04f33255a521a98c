"""What goes wrong with pings, so that the tracker starts anew where it must and the page can say so."""

import math
from enum import StrEnum

import numpy as np

from mudlamp.core.ping import Ping


class Trouble(StrEnum):
    """What may be wrong."""

    LOST_PINGS = "lost pings"
    SILENT = "silent"
    FROZEN = "frozen"
    HEADING = "heading"
    SNAGGED = "lure"


# So much longer than usual between two pings means that some were lost; longer than LOST_S and tracks start anew.
LONG_GAP = 2.5
LOST_S = 1.3
# No boat swings faster than this: the compass jumped.
JUMP_RAD, JUMP_RAD_S = math.radians(6.0), math.radians(90.0)
# So many same pictures in a row: the head hangs.
SAME_PINGS = 3
# A head that hears nothing at all: not even noise comes over this [dB re source level].
NOTHING_DB = -170.0
# Trouble stays told for so long after it was last seen [s].
TOLD_S = 3.0
# A lure that stays within so much [m] for so long [s] on an open bail or a turning reel hangs.
HANGS_M, HANGS_S = 0.15, 6.0


class PingWatch:
    """Looks at pings one by one. `fresh` says after each whether tracks must start anew, `usable` whether the ping tells anything."""

    def __init__(self) -> None:
        self.fresh = False
        self.usable = True
        self._last: Ping | None = None
        self._usual_s: float | None = None
        self._same = 0
        self._seen: dict[Trouble, float] = {}

    def look_at(self, ping: Ping) -> None:
        """Take in a ping."""
        last, self._last = self._last, ping
        self.fresh, self.usable = False, True
        if last is None:
            return
        self._look_at_time(ping, last)
        self._look_at_heading(ping, last)
        alike = ping.echo_level_db.shape == last.echo_level_db.shape and np.array_equal(ping.echo_level_db, last.echo_level_db)
        self._same = self._same + 1 if alike else 0
        if float(ping.echo_level_db.max()) < NOTHING_DB:
            self.note(Trouble.SILENT, ping.time_s)
        elif self._same >= SAME_PINGS:
            self.note(Trouble.FROZEN, ping.time_s)
        elif not alike:
            return
        self.usable = False

    def _look_at_time(self, ping: Ping, last: Ping) -> None:
        gap_s = ping.time_s - last.time_s
        if self._usual_s is not None and gap_s > LONG_GAP * self._usual_s:
            self.note(Trouble.LOST_PINGS, ping.time_s)
            self.fresh = gap_s > LOST_S
        else:
            self._usual_s = gap_s if self._usual_s is None else self._usual_s + 0.1 * (gap_s - self._usual_s)

    def _look_at_heading(self, ping: Ping, last: Ping) -> None:
        turned = abs(math.remainder(ping.pose.heading_rad - last.pose.heading_rad, math.tau))
        if turned > max(JUMP_RAD, JUMP_RAD_S * (ping.time_s - last.time_s)):
            self.note(Trouble.HEADING, ping.time_s)
            self.fresh = True

    def note(self, trouble: Trouble, time_s: float) -> None:
        """Remember that something was wrong at a time [s]."""
        self._seen[trouble] = time_s

    def troubles(self, time_s: float) -> tuple[Trouble, ...]:
        """Return what was wrong lately, the newest first."""
        lately = [trouble for trouble, seen_s in self._seen.items() if time_s - seen_s < TOLD_S]
        return tuple(sorted(lately, key=lambda trouble: -self._seen[trouble]))
