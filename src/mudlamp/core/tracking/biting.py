"""Bites as tracks show them: a fish beside the lure dashes at it, too fast to be followed; its own echo is gone, and the lure's grows loud.

In a school the others hide it: there no bite is told.
"""

import math
from collections.abc import Iterable
from dataclasses import dataclass

from mudlamp.core.tracking.track import Kind, Track

# How near the lure a fish must have been to strike it [m].
NEAR_M = 0.7
# So long a fish must be silent before a strike is told [s]; later than this it is no strike any more.
SILENT_S, LATE_S = 0.45, 1.0
# How much louder the lure's echo must be than before [dB], or how like the fish's [dB].
LOUDER_DB, ALIKE_DB = 8.0, 3.0
BEFORE_S = 1.6
AFTER_S = 0.3
# A fish must have been followed so well, and for so long, before it strikes.
STEADY, OLD_S = 0.5, 1.0
# One fish has the lure: until so long after its strike no other strikes [s].
ALONE_S = 4.0
# Where more others than this were so near the lure [m] within so long [s], any of them may hide fish and lure: nobody can say who struck,
# nor whether (chosen on drawn waters).
OTHERS, CROWD_M, CROWD_S = 1, 1.0, 1.0


@dataclass(frozen=True, slots=True, kw_only=True)
class Strike:
    """A fish's strike: when [s], whose track, how likely that is a fish."""

    time_s: float
    fish: int
    odds: float


@dataclass(slots=True, kw_only=True)
class _Steady:
    """A fish that was followed well: when last, where, how loud, how likely a fish."""

    time_s: float
    place: tuple[float, float]
    level_db: float
    odds: float


class Strikes:
    """Watches fish beside the lure; call it once a ping."""

    def __init__(self) -> None:
        self._steady: dict[int, _Steady] = {}
        self._lure_at: tuple[float, tuple[float, float]] | None = None
        self._struck_s = -math.inf
        self._beside_s: dict[int, float] = {}

    def update(self, fish: Iterable[Track], lure: Track | None, time_s: float) -> list[Strike]:
        """Return the strikes that the newest ping settles."""
        if lure is not None and time_s - lure.own_s < 0.15:
            self._lure_at = (lure.own_s, lure.place)
        fish = list(fish)
        self._note_company(fish, time_s)
        strikes, numbers = [], set()
        for track in fish:
            numbers.add(track.number)
            strike = self._strike(track, lure, time_s)
            if strike is not None:
                strikes.append(strike)
            if time_s - track.own_s < 0.1 and track.score >= STEADY and time_s - track.born_s > OLD_S:
                self._steady[track.number] = _Steady(
                    time_s=track.own_s, place=track.place, level_db=float(track.means[0]), odds=track.odds[Kind.FISH]
                )
        self._steady = {number: one for number, one in self._steady.items() if number in numbers}
        return strikes

    def _note_company(self, fish: Iterable[Track], time_s: float) -> None:
        """Note which fish are, or lately were, near the lure."""
        if self._lure_at is not None:
            self._beside_s |= {one.number: time_s for one in fish if math.dist(one.place, self._lure_at[1]) < CROWD_M}
        self._beside_s = {number: beside_s for number, beside_s in self._beside_s.items() if time_s - beside_s < CROWD_S}

    def _strike(self, track: Track, lure: Track | None, time_s: float) -> Strike | None:
        was = self._steady.get(track.number)
        if was is None or self._lure_at is None or time_s - self._struck_s < ALONE_S:
            return None
        silent_s = time_s - was.time_s
        if not SILENT_S <= silent_s <= LATE_S or math.dist(was.place, self._lure_at[1]) > NEAR_M:
            return None
        if len(self._beside_s.keys() - {track.number}) > OTHERS or lure is None or not self._is_loud(lure, was, time_s):
            return None
        del self._steady[track.number]
        self._struck_s = time_s
        return Strike(time_s=was.time_s + 0.1, fish=track.number, odds=was.odds)

    def _is_loud(self, lure: Track, fish: _Steady, time_s: float) -> bool:
        """Return whether the lure's echo became loud, as a fish on it makes it."""
        before = lure.fixes.level_db(since_s=fish.time_s - BEFORE_S, until_s=fish.time_s - AFTER_S)
        after = lure.fixes.level_db(since_s=time_s - AFTER_S, until_s=time_s + 1e-6)
        if before is None or after is None:
            return False
        return after - before > LOUDER_DB and after > fish.level_db - ALIKE_DB
