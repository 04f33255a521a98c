"""The judge of one fish: from its places and the lure's, moment by moment, to the words of `core/reactions.py`.

All motion is the fish's own, on the ground.
"""

import math
from collections import deque
from dataclasses import dataclass

from mudlamp.core.plane import Point
from mudlamp.core.reactions import TRUTH_LIMITS, Limits, Reaction, ReactionCause


@dataclass(frozen=True, slots=True, kw_only=True)
class FishState:
    """A fish as judged at one moment: place of its head [m], length [m], how far its heading is off the lure [rad] where that is known,
    whether it and the lure move as one, and the limits that hold for its kind here.
    """

    id: str
    place: Point
    length_m: float
    off_lure_rad: float | None
    holds_lure: bool
    limits: Limits = TRUTH_LIMITS


# A lure so near is what a fish flees from, or a boat.
LURE_NEAR_M, BOAT_NEAR_M = 2.5, 8.0


@dataclass(slots=True, kw_only=True)
class _Visit:
    """A lure inside a fish's notice: since when, where the fish was, and whether each moved meanwhile."""

    time_s: float
    place: Point
    lure_moved: bool = False
    fish_moved: bool = False


@dataclass(slots=True, kw_only=True)
class _Sample:
    time_s: float
    fish: Point
    lure: Point | None
    gap_m: float
    off_lure_rad: float | None


def _minus(a: Point, b: Point) -> Point:
    return (a[0] - b[0], a[1] - b[1], a[2] - b[2])


def _dot(a: Point, b: Point) -> float:
    return a[0] * b[0] + a[1] * b[1] + a[2] * b[2]


class FishJudge:
    """Judges one fish from its recent positions and the lure's."""

    def __init__(self) -> None:
        self._limits = TRUTH_LIMITS
        self._recent: deque[_Sample] = deque()
        self._last: dict[Reaction, float] = {}
        self._length_m = 0.3
        self._follow_since: float | None = None
        self._follow_left: tuple[float, Point] | None = None
        self._near_since: tuple[float, Point] | None = None
        self._entered: _Visit | None = None
        self._held_last_s = -math.inf
        self._turned_since: float | None = None
        self._held_since: float | None = None
        self._told_bite = False
        self._at_weight_since: float | None = None
        self.nearest_m = math.inf

    def start_shot(self) -> None:
        """Forget what was of the last shot."""
        self.nearest_m = math.inf
        self._follow_since = self._follow_left = self._near_since = self._turned_since = self._entered = None

    @property
    def passed_by(self) -> bool:
        """Whether the lure came near in this shot, yet never so near that it takes notice."""
        return self._limits.notice_m <= self.nearest_m < self._limits.notice_m + self._limits.missed_by_m

    def note_bite(self, time_s: float) -> None:
        """Note that it bit at a time [s]."""
        self._last[Reaction.BIT] = time_s

    def may_flee(self, time_s: float) -> bool:
        """Return whether a flight at a time [s], seen by someone else, is a new reaction; if so, it is noted."""
        quiet = time_s - max(self._last.get(Reaction.BIT, -math.inf), self._held_last_s) < self._limits.after_bite_s
        return not quiet and bool(self._once(Reaction.SPOOKED, ReactionCause.UNKNOWN, time_s))

    def update(
        self, *, time_s: float, state: FishState, lure: Point | None, boat: Point, weight: Point | None = None
    ) -> list[tuple[Reaction, ReactionCause]]:
        """Take one moment in; return the reactions that it fulfills, with their causes. `weight` hangs above the lure, if one does."""
        gap = math.dist(state.place, lure) if lure is not None else math.inf
        self._limits = state.limits
        self._length_m = state.length_m
        self._recent.append(_Sample(time_s=time_s, fish=state.place, lure=lure, gap_m=gap, off_lure_rad=state.off_lure_rad))
        while time_s - self._recent[0].time_s > self._limits.look_s + 0.05:
            self._recent.popleft()
        self.nearest_m = min(self.nearest_m, gap)
        if self._bit(time_s, state.holds_lure):
            self._told_bite = True
            return self._once(Reaction.BIT, ReactionCause.LURE, time_s)
        if state.holds_lure:
            self._held_last_s = time_s
        if time_s - max(self._last.get(Reaction.BIT, -math.inf), self._held_last_s) < self._limits.after_bite_s:
            return []
        if self._hits_weight(time_s, state.place, gap, weight, boat):
            return self._once(Reaction.HIT_WEIGHT, ReactionCause.LURE, time_s)
        spook = self._spook_cause(lure, boat)
        if spook is not None:
            self._follow_since = self._follow_left = None
            return self._once(Reaction.SPOOKED, spook, time_s)
        if lure is None:
            return []
        found: list[tuple[Reaction, ReactionCause]] = []
        if self._looks(time_s) and not self._answered_lately(time_s):
            found += self._once(Reaction.LOOKED, ReactionCause.LURE, time_s)
        if self._follows(time_s):
            found += self._once(Reaction.FOLLOWED, ReactionCause.LURE, time_s)
        if self._refuses(time_s):
            found += self._once(Reaction.REFUSED, ReactionCause.LURE, time_s)
        elif self._backs_off(time_s):
            found += self._once(Reaction.BACKED_OFF, ReactionCause.LURE, time_s)
        if self._ignores(time_s):
            found += self._once(Reaction.NO_ANSWER, ReactionCause.LURE, time_s)
        return found

    def _answered_lately(self, time_s: float) -> bool:
        """Return whether the fish already said more than a look: what it does on its way out is not a new look."""
        more = (Reaction.FOLLOWED, Reaction.REFUSED, Reaction.BACKED_OFF)
        return time_s - max(self._last.get(reaction, -math.inf) for reaction in more) < self._limits.repeat_s

    def _once(self, reaction: Reaction, cause: ReactionCause, time_s: float) -> list[tuple[Reaction, ReactionCause]]:
        if time_s - self._last.get(reaction, -math.inf) < self._limits.repeat_s:
            return []
        self._last[reaction] = time_s
        return [(reaction, cause)]

    def _velocity(self, window_s: float) -> Point | None:
        """Return the mean velocity over the last `window_s` [m/s], or None before there is that much past."""
        now = self._recent[-1]
        for sample in reversed(self._recent):
            span = now.time_s - sample.time_s
            if span >= window_s - 1e-6:
                moved = _minus(now.fish, sample.fish)
                return (moved[0] / span, moved[1] / span, moved[2] / span)
        return None

    def _lure_velocity(self, window_s: float) -> Point | None:
        now = self._recent[-1]
        for sample in reversed(self._recent):
            span = now.time_s - sample.time_s
            if span >= window_s - 1e-6:
                if sample.lure is None or now.lure is None:
                    return None
                moved = _minus(now.lure, sample.lure)
                return (moved[0] / span, moved[1] / span, moved[2] / span)
        return None

    def _bit(self, time_s: float, holds: bool) -> bool:
        if not holds:
            self._held_since = None
            self._told_bite = False
            return False
        if self._held_since is None:
            self._held_since = time_s
        return not self._told_bite and time_s - self._held_since >= self._limits.bite_s - 1e-6

    def _hits_weight(self, time_s: float, place: Point, lure_gap_m: float, weight: Point | None, boat: Point) -> bool:
        """Return whether the fish has had the weight above the lure in its mouth for long enough: nearer to it than to the lure, and with it.

        Judged near the boat alone: farther out, weight and lure cannot be told apart.
        """
        near = weight is not None and math.dist(weight, boat) <= self._limits.weight_within_m
        gap = math.dist(place, weight) if weight is not None and near else math.inf
        if gap >= min(self._limits.touch_m, lure_gap_m):
            self._at_weight_since = None
            return False
        if self._at_weight_since is None:
            self._at_weight_since = time_s
        return time_s - self._at_weight_since >= self._limits.bite_s - 1e-6

    def _spook_cause(self, lure: Point | None, boat: Point) -> ReactionCause | None:
        velocity = self._velocity(self._limits.spook_s)
        if velocity is None:
            return None
        speed = math.sqrt(_dot(velocity, velocity))
        if speed < self._limits.spook_l_s * self._length_m:
            return None
        return flight_cause(velocity, self._recent[-1].fish, lure, boat)

    def _looks(self, time_s: float) -> bool:
        now = self._recent[-1]
        if now.lure is None or now.gap_m > self._limits.look_within_m:
            self._turned_since = None
            return False
        toward = _minus(now.lure, now.fish)
        needed = self._limits.look_l * self._length_m * max(now.gap_m, 1e-6)
        if any(_dot(_minus(now.fish, sample.fish), toward) >= needed for sample in self._recent if sample.lure is not None):
            return True
        return self._turned_to_lure(time_s)

    def _turned_to_lure(self, time_s: float) -> bool:
        now = self._recent[-1].off_lure_rad
        if now is None:
            return False
        before = max((sample.off_lure_rad for sample in self._recent if sample.off_lure_rad is not None), default=0.0)
        if before - now < self._limits.look_turn_rad:
            self._turned_since = None
            return False
        if self._turned_since is None:
            self._turned_since = time_s
        return time_s - self._turned_since >= self._limits.look_hold_s

    def _follows(self, time_s: float) -> bool:
        now = self._recent[-1]
        own, lure = self._velocity(0.4), self._lure_velocity(0.4)
        following = False
        if own is not None and lure is not None:
            speed2 = _dot(lure, lure)
            near = now.gap_m < self._limits.follow_m
            moves = speed2 > self._limits.lure_moves_m_s**2
            following = near and moves and _dot(own, lure) >= self._limits.follow_share * speed2
        if following:
            if self._follow_since is None:
                self._follow_since = time_s
            self._follow_left = None
            return time_s - self._follow_since >= self._limits.follow_s
        if self._follow_since is not None:
            long_enough = time_s - self._follow_since >= self._limits.follow_s
            self._follow_left = (time_s, now.fish) if long_enough else self._follow_left
            self._follow_since = None
        return False

    def _refuses(self, time_s: float) -> bool:
        now = self._recent[-1]
        if self._follow_left is None or now.lure is None:
            return False
        left_s, place = self._follow_left
        if time_s - left_s > self._limits.refuse_s:
            self._follow_left = None
            return False
        moved = _minus(now.fish, place)
        away = _minus(now.fish, now.lure)
        needed = self._limits.refuse_l * self._length_m
        refused = _dot(moved, away) >= needed * max(now.gap_m, 1e-6) or moved[2] >= needed
        if refused:
            self._follow_left = None
        return refused

    def _backs_off(self, time_s: float) -> bool:
        now = self._recent[-1]
        if (
            self._follow_since is not None
            or time_s - max(self._last.get(Reaction.FOLLOWED, -math.inf), self._last.get(Reaction.REFUSED, -math.inf)) < 4.0
        ):
            return False
        if now.lure is None:
            return False
        away = _minus(now.fish, now.lure)
        step = self._limits.back_off_l * self._length_m
        for sample in self._recent:
            near = sample.lure is not None and sample.gap_m < 1.5 * self._limits.follow_m
            if near and now.gap_m - sample.gap_m >= step and _dot(_minus(now.fish, sample.fish), away) >= 0.8 * step * now.gap_m:
                return self._fastest_since(sample.time_s) < self._limits.back_off_l_s * self._length_m
        return False

    def _fastest_since(self, time_s: float) -> float:
        fastest = 0.0
        behind = deque[_Sample]()
        for sample in self._recent:
            if sample.time_s < time_s:
                continue
            behind.append(sample)
            while sample.time_s - behind[0].time_s > 0.5:
                behind.popleft()
            span = sample.time_s - behind[0].time_s
            if span > 0.35:
                fastest = max(fastest, math.dist(sample.fish, behind[0].fish) / span)
        return fastest

    def _ignores(self, time_s: float) -> bool:
        """Return whether the fish left the lure unanswered: for long beside it, or when a moving lure had passed."""
        now = self._recent[-1]
        if now.gap_m >= self._limits.notice_m:
            passed, self._entered, self._near_since = self._entered, None, None
            return passed is not None and passed.lure_moved and not passed.fish_moved and not self._answered_since(passed.time_s)
        if self._entered is None:
            self._entered = _Visit(time_s=time_s, place=now.fish)
        velocity, step = self._lure_velocity(0.4), self._limits.no_answer_l * self._length_m
        self._entered.lure_moved |= velocity is not None and _dot(velocity, velocity) > self._limits.lure_moves_m_s**2
        self._entered.fish_moved |= math.dist(self._entered.place, now.fish) >= step
        if self._near_since is None or math.dist(self._near_since[1], now.fish) >= step:
            self._near_since = (time_s, now.fish)
        return time_s - self._near_since[0] >= self._limits.no_answer_s

    def _answered_since(self, time_s: float) -> bool:
        """Return whether the fish did anything about the lure since shortly before a time [s]."""
        return max(self._last.values(), default=-math.inf) > time_s - self._limits.look_s


def flight_cause(velocity: Point, place: Point, lure: Point | None, boat: Point) -> ReactionCause | None:
    """Return what a fish at a place [m] flees from that darts so fast [m/s]; None where it darts at the lure, or past it: that is no flight."""
    speed = math.sqrt(_dot(velocity, velocity))
    lure_is_near = lure is not None and math.dist(place, lure) < LURE_NEAR_M
    if lure is not None and lure_is_near:
        away = _minus(place, lure)
        along = _dot(velocity, away) / max(math.sqrt(_dot(away, away)), 1e-6)
        if along > 0.5 * speed:
            return ReactionCause.LURE
        if along < -0.5 * speed:
            return None
    away = (place[0] - boat[0], place[1] - boat[1], 0.0)
    distance = math.sqrt(_dot(away, away))
    if distance < BOAT_NEAR_M and _dot(velocity, away) / max(distance, 1e-6) > 0.5 * speed:
        return ReactionCause.BOAT
    # A burst past the lure is a strike that missed, not a flight.
    return None if lure_is_near else ReactionCause.UNKNOWN
