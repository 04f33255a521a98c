"""What to do now while the lure is in the water: the fish beside it, what it did last, how long the lure has hung there."""

import math
from collections.abc import Sequence

from mudlamp.core.fishing.during import COLD_CRAPPIE, COLD_DEGC, USUAL, Patience, Situation, acted_on_s, call_now
from mudlamp.core.plane import GroundPlane
from mudlamp.core.reactions import Reaction
from mudlamp.core.tracking.classes import FishClass
from mudlamp.core.tracking.reacting import Reported
from mudlamp.core.tracking.track import Kind
from mudlamp.core.tracking.views import TrackView
from mudlamp.services.words.deciding import call_words

# A lure that goes down faster than this sinks [m/s].
SINKS_M_S = 0.12
# Farther from any fish than this nobody is being fished for [m].
FAR_M = 6.0
# Another fish is fished for once it is so much nearer to the lure than the one before [m]: of two alike the line would change with each ping.
NEARER_M = 0.5
# An answer counts before the nearest fish where the lure is still so near to who gave it [m].
STILL_BY_M = 1.5


class Decider:
    """Remembers what fish did and how long each was shown the lure."""

    def __init__(self, temperature_degc: float | None = None) -> None:
        """Make one for a water so warm [deg C], where that is known."""
        self._is_cold = temperature_degc is not None and temperature_degc < COLD_DEGC
        self._last: dict[int, tuple[Reaction, float]] = {}
        self._shown_s: dict[int, float] = {}
        self._before_s: float | None = None
        self._target: int | None = None

    def note(self, one: Reported) -> None:
        """Remember a reaction; one that only says that nothing happened decides nothing."""
        if one.event.token not in (Reaction.NOT_SHOWN, Reaction.NO_ANSWER):
            self._last[int(one.event.fish)] = (one.event.token, one.event.time_s)

    def call(self, tracks: Sequence[TrackView], plane: GroundPlane, time_s: float) -> tuple[int, str] | None:
        """Return which fish is fished for and what to do now, in words; None without a lure that is followed near a fish."""
        lure = next((track for track in tracks if track.kind is Kind.LURE), None)
        fish = [track for track in tracks if track.kind is Kind.FISH]
        if lure is None or not fish:
            self._shown_s, self._before_s, self._target = {}, None, None
            return None
        target = min(fish, key=lambda track: self._rank(track, lure, time_s))
        self._target = target.number
        gap_m = math.dist(target.place, lure.place)
        if gap_m > FAR_M:
            return None
        patience = self._patience(target)
        step_s = 0.0 if self._before_s is None else max(time_s - self._before_s, 0.0)
        self._before_s = time_s
        if gap_m <= patience.notice_m:
            self._shown_s[target.number] = self._shown_s.get(target.number, 0.0) + step_s
        flat = plane.plane.is_flat
        last, at_s = self._last.get(target.number, (None, -math.inf))
        situation = Situation(
            last=last,
            since_s=time_s - at_s,
            gap_m=gap_m,
            above_m=0.0 if flat else target.place[1] - lure.place[1],
            sinks=not flat and lure.velocity_m_s[1] > SINKS_M_S,
            shown_s=self._shown_s.get(target.number, 0.0),
            beyond_m=lure.place[0] - target.place[0],
        )
        return target.number, call_words(call_now(situation, patience))

    def _rank(self, track: TrackView, lure: TrackView, time_s: float) -> tuple[int, float]:
        """Return how far down the list a fish is: who has the jig first, then who just answered it, then the nearest, who was first staying so."""
        away = math.dist(track.place, lure.place)
        last, at_s = self._last.get(track.number, (None, -math.inf))
        if last is not None and away <= STILL_BY_M and time_s - at_s < acted_on_s(last):
            return (0 if last is Reaction.BIT else 1, away)
        return (2, away - (NEARER_M if track.number == self._target else 0.0))

    def _patience(self, target: TrackView) -> Patience:
        is_panfish = target.identity is not None and target.identity.name is FishClass.PANFISH
        return COLD_CRAPPIE if self._is_cold and is_panfish else USUAL
