"""Reactions from tracks: the judge of core/judge, fed with smoothed tracks instead of true positions, and bites, which tracks hide."""

import math
from collections import deque
from collections.abc import Callable, Iterable
from dataclasses import dataclass, replace

import numpy as np

from mudlamp.core.fish_judge import FishState, flight_cause
from mudlamp.core.judge import Judge
from mudlamp.core.ping import Ping
from mudlamp.core.plane import GroundPlane, Place, Point
from mudlamp.core.reactions import Eye, Limits, Reaction, ReactionEvent
from mudlamp.core.tracking.biting import Strikes
from mudlamp.core.tracking.classes import FishClass
from mudlamp.core.tracking.track import FISH, LURE, Kind, Track, Tracks
from mudlamp.core.tracking.tracker import Tracker

# Reactions are judged this much behind the newest ping, so that places can be smoothed from both sides.
DELAY_S = 0.5
HALF_WINDOW_S = 0.6
# Where nobody tells of the hand, a shot has ended when its lure is not heard for so long [s], having been heard this near the boat at last [m].
SHOT_GAP_S, HOME_M = 3.0, 4.0
STEADY = 0.75
# A reaction is told of a mark that was as likely a fish as this over some so long [s], and, where no hand tells that a lure is out, of a lure
# as likely as this (chosen on drawn waters, some of them without a lure). A bite wants a lure as likely as the
# fish, be the hand told or not: what grew loud must be it.
LIKELY, LURE_LIKELY, LIKELY_S = 0.5, 0.4, 1.0
# These need no lure.
FLIGHTS = (Reaction.SPOOKED, Reaction.LEFT_WITH_SCHOOL)
# So long a fish that is taken for something else still counts as one: names flicker.
STILL_FISH_S = 1.0
LURE_SILENT_S = 1.0
# A lure that nobody sees is where the hand says it should be, as long as that is so sure [m]; how likely it then is there.
RECKONED_M, RECKONED_ODDS = 0.4, 0.5
JUMP_M_S = 2.0
# Tracks know a body's middle and a few centimeters of noise: what counts as near is widened by as much. A track's kind is a guess, and the
# water's clarity unknown: distances are those of middling water (ours). Smoothed tracks lag behind what fish do: a fish backs off and follows
# by less (chosen on drawn waters).
_OF_TRACKS = Limits(look_l=0.55, back_off_l=0.7, follow_share=0.4, spook_l_s=6.0)
TRACK_LIMITS = {
    Eye.PANFISH: replace(_OF_TRACKS, notice_m=0.90, follow_m=1.10),
    Eye.BASS: replace(_OF_TRACKS, notice_m=1.50, follow_m=1.90),
    Eye.OTHER: replace(_OF_TRACKS, notice_m=1.10, follow_m=1.30),
}
USUAL_LENGTH_M = 0.29

ShotAt = Callable[[float], int | None]


@dataclass(frozen=True, slots=True, kw_only=True)
class Reported:
    """A reaction as the tracker reports it; `confidence` is the odds that the track is a fish and the lure a lure."""

    event: ReactionEvent
    confidence: float


class ReactionWatch:
    """Watches a tracker's tracks; call it once a ping, after the tracker's update."""

    def __init__(self) -> None:
        self._judge = Judge()
        self._strikes = Strikes()
        self._shot = 0
        self._lure: int | None = None
        self._lure_last_s = -math.inf
        self._is_home = False
        self._fish_last_s: dict[int, float] = {}
        self._likely: dict[int, float] = {}
        self._lure_likely = 0.0
        self._last_s: float | None = None
        self._bitten: dict[int, float] = {}
        self._reckoned: deque[tuple[float, Place]] = deque()

    def update(self, tracker: Tracker, ping: Ping, *, shot_at: ShotAt | None = None) -> list[Reported]:
        """Return the reactions that the newest ping settles.

        `shot_at` tells which shot was out at a time [s], where somebody knows; else the hand does, where it is told, or shots are counted

        by the lure.
        """
        now_s, at_s = ping.time_s, ping.time_s - DELAY_S
        if shot_at is None and tracker.hand.known:
            shot_at = tracker.hand.shot_at
        plane = tracker.plane or GroundPlane.of(ping)
        lure = next(iter(tracker.tracks.of_kind(Kind.LURE)), None)
        self._note_lure(lure, plane, now_s)
        fish = self._fish(tracker.tracks, now_s)
        self._note_odds(fish, lure, now_s)
        reported = self._bites(fish, lure, now_s, shot_at)
        states, odds = [], {}
        for track in fish:
            place = track.fixes.smoothed(at_s=at_s, half_s=HALF_WINDOW_S)
            if place is None or track.score < STEADY or self._is_quiet(track.number, at_s) or _jumps(track, at_s):
                continue
            odds[str(track.number)] = track.odds[Kind.FISH]
            states.append(_state(track, plane, place))
        self._reckon(tracker, now_s)
        lure_place = None if lure is None or now_s - lure.own_s > LURE_SILENT_S else lure.fixes.smoothed(at_s=at_s, half_s=HALF_WINDOW_S)
        sure = RECKONED_ODDS if lure is None or lure_place is None else lure.odds[Kind.LURE]
        lure_place = lure_place or self._reckoned_at(at_s)
        point = None if lure_place is None else plane.point(lure_place)
        shot = self._shot_of(at_s, now_s, shot_at)
        self._flights(fish, point, plane, now_s, shot)
        for event in self._judge.update(time_s=at_s, fish=states, lure=point, boat=plane.boat, shot=shot):
            if event.token is Reaction.NOT_SHOWN and shot_at is None:
                if not self._is_home:
                    # A lure that was lost out there may have come to any fish since.
                    continue
                event = replace(event, time_s=self._lure_last_s)
            if event.fish in odds if event.token is Reaction.NOT_SHOWN else self._is_likely(event, alone=not tracker.hand.known):
                reported.append(
                    Reported(event=event, confidence=odds.get(event.fish, 0.5) * (sure if event.token is not Reaction.SPOOKED else 1.0))
                )
        return reported

    def _fish(self, tracks: Tracks, now_s: float) -> Tracks:
        """Return the tracks that are fish, or were just now."""
        number, kind = tracks.roster.number[tracks.rows], tracks.roster.kind[tracks.rows]
        is_fish = tracks.roster.confirmed[tracks.rows] & (kind == FISH)
        self._fish_last_s |= dict.fromkeys(number[is_fish].tolist(), now_s)
        self._fish_last_s = {one: last_s for one, last_s in self._fish_last_s.items() if now_s - last_s < STILL_FISH_S}
        return tracks.those(np.isin(number, list(self._fish_last_s)) & (kind != LURE))

    def _note_odds(self, fish: Tracks, lure: Track | None, now_s: float) -> None:
        """Note how likely each of the tracks that may be fish was one lately, and the lure a lure; what the angler calls so is so."""
        share = 1.0 if self._last_s is None else 1.0 - math.exp(-max(now_s - self._last_s, 0.0) / LIKELY_S)
        self._last_s = now_s
        roster, rows = fish.roster, fish.rows
        odds = np.where(roster.is_said[rows], 1.0, roster.odds[rows, FISH]).tolist()
        before, numbers = self._likely, roster.number[rows].tolist()
        self._likely = {one: before.get(one, now) + share * (now - before.get(one, now)) for one, now in zip(numbers, odds, strict=True)}
        lure_odds = 0.0 if lure is None else 1.0 if lure.said is not None else lure.odds[Kind.LURE]
        self._lure_likely += share * (lure_odds - self._lure_likely)

    def _is_likely(self, event: ReactionEvent, *, alone: bool) -> bool:
        """Return whether a reaction is of a likely fish and, where it is one to a lure of which no hand tells, of a likely lure."""
        needs_lure = alone and event.token not in FLIGHTS
        return self._likely.get(int(event.fish), 0.0) >= LIKELY and (not needs_lure or self._lure_likely >= LURE_LIKELY)

    def _reckon(self, tracker: Tracker, now_s: float) -> None:
        """Remember where the hand says that the lure should be, where that is sure enough."""
        at = tracker.line.place
        if at is not None and float(tracker.line.spread_m.max()) < RECKONED_M:
            self._reckoned.append((now_s, at))
        while self._reckoned and now_s - self._reckoned[0][0] > DELAY_S + HALF_WINDOW_S:
            self._reckoned.popleft()

    def _reckoned_at(self, at_s: float) -> Place | None:
        """Return where the lure should have been at a time, or None where nobody could say."""
        nearest = min(self._reckoned, key=lambda one: abs(one[0] - at_s), default=None)
        return None if nearest is None or abs(nearest[0] - at_s) > 0.5 * DELAY_S else nearest[1]

    def _shot_of(self, at_s: float, now_s: float, shot_at: ShotAt | None) -> int | None:
        if shot_at is not None:
            return shot_at(at_s)
        # A shot does not end with one lost echo.
        return self._shot if now_s - self._lure_last_s < SHOT_GAP_S else None

    def _is_quiet(self, number: int, time_s: float) -> bool:
        return time_s - self._bitten.get(number, -math.inf) < TRACK_LIMITS[Eye.OTHER].after_bite_s

    def _note_lure(self, lure: Track | None, plane: GroundPlane, time_s: float) -> None:
        if lure is None:
            return
        if lure.number != self._lure and time_s - self._lure_last_s >= SHOT_GAP_S:
            self._shot += 1
        self._lure = lure.number
        if lure.seen_s == time_s:
            self._lure_last_s, self._is_home = time_s, math.dist(lure.place, plane.origin) < HOME_M

    def _flights(self, fish: Tracks, lure: Point | None, plane: GroundPlane, now_s: float, shot: int | None) -> None:
        """Tell the judge of fish that have just darted off, too fast for smoothed places to show it."""
        for track in fish.those(fish.roster.bolted_s[fish.rows] == now_s):
            at, then = (
                plane.point(track.place),
                plane.point((track.place[0] + float(track.state[2]), track.place[1] + float(track.state[3]))),
            )
            cause = flight_cause((then[0] - at[0], then[1] - at[1], then[2] - at[2]), at, lure, plane.boat)
            if cause is not None:
                self._judge.flee(fish=str(track.number), time_s=now_s, place=at, cause=cause, shot=shot)

    def _bites(self, fish: Iterable[Track], lure: Track | None, time_s: float, shot_at: ShotAt | None) -> list[Reported]:
        reported = []
        for strike in self._strikes.update(fish, lure if self._lure_likely >= LIKELY else None, time_s):
            if self._is_quiet(strike.fish, time_s):
                continue
            self._bitten[strike.fish] = strike.time_s
            at_s = strike.time_s + TRACK_LIMITS[Eye.OTHER].bite_s
            event = self._judge.bite(fish=str(strike.fish), time_s=at_s, shot=self._shot if shot_at is None else shot_at(at_s))
            reported.append(Reported(event=event, confidence=0.7 * strike.odds))
        return reported


def _state(track: Track, plane: GroundPlane, place: Place) -> FishState:
    eye = _eye(track)
    return FishState(
        id=str(track.number),
        place=plane.point(place),
        length_m=_length(track),
        off_lure_rad=None,
        holds_lure=False,
        limits=TRACK_LIMITS[eye],
    )


def _eye(track: Track) -> Eye:
    name = None if track.identity is None else track.identity.name
    return Eye.BASS if name is FishClass.BASS else Eye.PANFISH if name is FishClass.PANFISH else Eye.OTHER


def _jumps(track: Track, at_s: float) -> bool:
    """Return whether the track's echoes jumped about a moment: two echoes taken for one say nothing of a fish's motion."""
    count, fastest_m_s = track.fixes.fast_steps(at_s=at_s, half_s=HALF_WINDOW_S, speed_m_s=JUMP_M_S)
    return count >= 2 or fastest_m_s > 2.0 * JUMP_M_S


def _length(track: Track) -> float:
    """Return a body length for the judge [m]: what was measured, where that is sure; else extents, which jitter, only lean on the usual length."""
    if track.size is not None and track.size.sure:
        return track.size.length_m
    return USUAL_LENGTH_M + 0.2 * (min(max(track.length_m, 0.15), 0.6) - USUAL_LENGTH_M)
