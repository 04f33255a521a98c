"""Reactions from tracks: the judge of core/reactions, fed with smoothed tracks instead of true positions."""

import math
from collections.abc import Callable
from dataclasses import dataclass

from mudlamp.core.ping import Ping
from mudlamp.core.plane import GroundPlane
from mudlamp.core.reactions import FishState, Judge, Limits, Reaction, ReactionEvent
from mudlamp.core.tracking.track import Kind, Track
from mudlamp.core.tracking.tracker import Tracker

# Reactions are judged this much behind the newest ping, so that places can be smoothed from both sides.
DELAY_S = 0.4
HALF_WINDOW_S = 0.45
TOUCH_M = 0.32
MERGED_S = 0.9
SHOT_GAP_S = 3.0
STEADY = 0.7
JUMP_M_S = 2.6
MOVED_TOGETHER_M = 0.25
# Tracks know a body's middle and a few centimeters of noise: what counts as near is widened by as much.
TRACK_LIMITS = Limits(look_l=0.55, follow_m=0.95, shown_m=0.66, spook_l_s=3.4)
USUAL_LENGTH_M = 0.29

ShotAt = Callable[[float], int | None]


@dataclass(frozen=True, slots=True, kw_only=True)
class Reported:
    """A reaction as the tracker reports it; `confidence` is the odds that the track is a fish and the lure a lure."""

    event: ReactionEvent
    confidence: float


@dataclass(slots=True, kw_only=True)
class _Contact:
    """A lure that vanished beside a fish: since when, which fish, where that was."""

    start_s: float
    fish: int
    place: tuple[float, float]


class ReactionWatch:
    """Watches a tracker's tracks; call it once a ping, after the tracker's update."""

    def __init__(self) -> None:
        self._judge = Judge(TRACK_LIMITS)
        self._shot = 0
        self._lure: int | None = None
        self._lure_last: tuple[float, tuple[float, float]] | None = None
        self._contact: _Contact | None = None
        self._bitten: dict[int, float] = {}

    def update(self, tracker: Tracker, ping: Ping, *, shot_at: ShotAt | None = None) -> list[Reported]:
        """Return the reactions that the newest ping settles.

        `shot_at` tells which shot was out at a time [s], where somebody knows what the hand did; else shots are counted by the lure.
        """
        at_s = ping.time_s - DELAY_S
        plane = GroundPlane.of(ping)
        lure = next((track for track in tracker.tracks if track.kind is Kind.LURE), None)
        self._note_lure(lure, ping.time_s)
        fish = [track for track in tracker.tracks if track.confirmed and track.kind is Kind.FISH]
        reported = self._bites(fish, lure, ping.time_s, shot_at)
        lure_place = None if lure is None or ping.time_s - lure.seen_s > 0.6 else lure.fixes.smoothed(at_s=at_s, half_s=HALF_WINDOW_S)
        states, odds = [], {}
        for track in fish:
            place = track.fixes.smoothed(at_s=at_s, half_s=HALF_WINDOW_S)
            if place is None or track.score < STEADY or self._is_quiet(track.number, at_s) or _jumps(track, at_s):
                continue
            odds[str(track.number)] = track.odds[Kind.FISH]
            states.append(
                FishState(id=str(track.number), place=plane.point(place), length_m=_length(track), off_lure_rad=None, holds_lure=False)
            )
        point = None if lure_place is None else plane.point(lure_place)
        sure = 1.0 if lure is None else lure.odds[Kind.LURE]
        for event in self._judge.update(
            time_s=at_s, fish=states, lure=point, boat=plane.boat, shot=self._shot_of(at_s, ping.time_s, shot_at)
        ):
            if event.token is not Reaction.NOT_SHOWN or event.fish in odds:
                reported.append(
                    Reported(event=event, confidence=odds.get(event.fish, 0.5) * (sure if event.token is not Reaction.SPOOKED else 1.0))
                )
        return reported

    def _shot_of(self, at_s: float, now_s: float, shot_at: ShotAt | None) -> int | None:
        if shot_at is not None:
            return shot_at(at_s)
        return self._shot if self._lure_lately(now_s) else None

    def _lure_lately(self, time_s: float) -> bool:
        """Return whether the lure was heard in the last seconds: a shot does not end with one lost echo."""
        return self._lure_last is not None and time_s - self._lure_last[0] < SHOT_GAP_S

    def _is_quiet(self, number: int, time_s: float) -> bool:
        return time_s - self._bitten.get(number, -math.inf) < TRACK_LIMITS.after_bite_s

    def _note_lure(self, lure: Track | None, time_s: float) -> None:
        if lure is None:
            return
        if lure.number != self._lure and not self._lure_lately(time_s):
            self._shot += 1
        self._lure = lure.number
        if lure.seen_s == time_s:
            self._lure_last = (time_s, lure.place)

    def _bites(self, fish: list[Track], lure: Track | None, time_s: float, shot_at: ShotAt | None) -> list[Reported]:
        """A bite: the lure's echo runs into a fish's and stays there while the fish moves off with it."""
        if self._lure_last is None:
            return []
        seen_s, place = self._lure_last
        if time_s - seen_s < 0.05:
            self._contact = None
            return []
        if self._contact is None:
            near = min(fish, key=lambda track: math.dist(track.place, place), default=None)
            if near is not None and math.dist(near.place, place) < TOUCH_M and time_s - seen_s < 0.4:
                self._contact = _Contact(start_s=seen_s, fish=near.number, place=near.place)
            return []
        contact = self._contact
        holder = next((track for track in fish if track.number == contact.fish), None)
        if holder is None or time_s - contact.start_s < MERGED_S or (contact.fish in self._bitten and self._is_quiet(contact.fish, time_s)):
            return []
        if math.dist(holder.place, contact.place) < MOVED_TOGETHER_M:
            return []
        self._bitten[contact.fish] = contact.start_s
        self._lure_last = None
        self._contact = None
        at_s = contact.start_s + TRACK_LIMITS.bite_s
        event = self._judge.bite(fish=str(holder.number), time_s=at_s, shot=self._shot if shot_at is None else shot_at(at_s))
        return [Reported(event=event, confidence=0.7 * holder.odds[Kind.FISH])]


def _jumps(track: Track, at_s: float) -> bool:
    """Return whether the track's echoes jumped about a moment: two echoes taken for one say nothing of a fish's motion."""
    count, fastest_m_s = track.fixes.fast_steps(at_s=at_s, half_s=HALF_WINDOW_S, speed_m_s=JUMP_M_S)
    return count >= 2 or fastest_m_s > 2.0 * JUMP_M_S


def _length(track: Track) -> float:
    """Return a body length for the judge [m]: extents jitter, so they only lean on the usual length."""
    return USUAL_LENGTH_M + 0.2 * (min(max(track.length_m, 0.15), 0.6) - USUAL_LENGTH_M)
