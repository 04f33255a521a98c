"""Changes: how much a mark is other than a moment ago. A fish's tail and drift change what it returns; wood returns the same."""

from collections import deque

import numpy as np

from mudlamp.core.arrays import Float32Array, FloatArray, IntArray
from mudlamp.core.ping import Ping, SonarSetup
from mudlamp.core.plane import GroundPlane, cells_of
from mudlamp.core.tracking import _kernels_changes
from mudlamp.core.tracking.roster import CHANGES, Roster

# Against the last ping the mark is looked at where it was then; against these moments before [s], at the same place on the ground.
AGO_S = (0.3, 1.0)
# Pings are kept so long [s], a little longer than they are wanted: their times are not exact.
KEPT_S = 1.02
# A ping this far from the wanted moment will do, as a share of how long ago it is.
OFF_SHARE = 0.35
# How far about a mark is looked: beams, and along range [m].
HALF_BEAMS, HALF_M = 2, 0.12
# How much the newest counts, once there are ten: about two seconds of looks.
SHARE = 0.1


class Changes:
    """Remembers the pings of the last second, and keeps tracks' changes up to date."""

    def __init__(self) -> None:
        self._pings: deque[tuple[float, Float32Array, GroundPlane]] = deque()
        self._setup: SonarSetup | None = None

    def remember(self, ping: Ping, plane: GroundPlane) -> None:
        """Take in a ping, after its tracks were looked at; forget what is too old to compare with."""
        if self._setup is not ping.setup:
            self._setup = ping.setup
            self._pings.clear()
        self._pings.append((ping.time_s, ping.echo_level_db, plane))
        while ping.time_s - self._pings[0][0] > KEPT_S:
            self._pings.popleft()

    def look_at(self, roster: Roster, rows: IntArray, ping: Ping, plane: GroundPlane) -> None:
        """Lean the changes of those of some tracks (N,) that were just heard toward what this ping shows of them."""
        heard = rows[roster.own_s[rows] == ping.time_s]
        if not len(heard) or not self._pings or self._setup is not ping.setup:
            return
        history = roster.history
        newest = history.last[heard] - 1
        before_it = np.maximum(newest - 1, history.first[heard])
        places, earlier = history.place[heard, newest], history.place[heard, before_it]
        found = np.full((len(heard), len(CHANGES)), np.nan)
        last_s, level, before = self._pings[-1]
        # What was not heard in the last ping has nothing to be held against.
        follows = (before_it < newest) & (history.time_s[heard, before_it] == last_s)
        width = len(CHANGES) // (1 + len(AGO_S))
        found[:, :width] = np.where(follows[:, None], self._between(ping, plane, places, level, before, earlier), np.nan)
        for number, ago_s in enumerate(AGO_S, start=1):
            then_s, level, before = min(self._pings, key=lambda one: abs(ping.time_s - ago_s - one[0]))
            if abs(ping.time_s - ago_s - then_s) < OFF_SHARE * ago_s:
                found[:, number * width : (number + 1) * width] = self._between(ping, plane, places, level, before, places)
        share = np.maximum(SHARE, 1.0 / (roster.told[heard] + 1))
        roster.changes[heard] = gathered_known(roster.changes[heard], found, share=share[:, None])

    @staticmethod
    def _between(
        ping: Ping, plane: GroundPlane, places: FloatArray, level: Float32Array, before: GroundPlane, earlier: FloatArray
    ) -> FloatArray:
        """Return how this ping at `places` (N, 2) differs from an earlier one's level (beam, range_bin), in its plane, at `earlier` (N, 2): (N, 4)."""
        out = np.empty((len(places), 4))
        _kernels_changes.changes(
            ping.echo_level_db,
            level,
            *_cells(ping.setup, plane, places),
            *_cells(ping.setup, before, earlier),
            HALF_BEAMS,
            max(2, round(HALF_M / ping.setup.bin_m)),
            out,
        )
        return out


def _cells(setup: SonarSetup, plane: GroundPlane, places: FloatArray) -> tuple[IntArray, IntArray]:
    return cells_of(setup, *plane.polar(places))


def gathered_known(before: FloatArray, newest: FloatArray, *, share: FloatArray) -> FloatArray:
    """Return means (N, K) leaned by shares (N, 1) toward the newest figures, where those are known; what was never known starts with them."""
    leaned = np.where(np.isnan(before), newest, before + share * (newest - before))
    return np.where(np.isnan(newest), before, leaned)
