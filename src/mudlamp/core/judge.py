"""The judge of reactions: one judge a fish (`core/fish_judge.py`), schools that leave together, shots that end.

The simulator judges true positions with it, the tracker its tracks: by the same words.
"""

import math
from collections import deque
from collections.abc import Iterable, Sequence
from dataclasses import replace

from mudlamp.core.fish_judge import FishJudge, FishState
from mudlamp.core.plane import Point
from mudlamp.core.reactions import TRUTH_LIMITS, Limits, Reaction, ReactionCause, ReactionEvent

# How far apart two judges may call the same reaction.
SAME_S = 1.0


class Judge:
    """Judges all fish of a water: keeps one judge a fish, tells a school's leaving from single flights, closes shots."""

    def __init__(self, limits: Limits = TRUTH_LIMITS) -> None:
        """Make a judge; of `limits` those of schools count here, the others come with each fish."""
        self._limits = limits
        self._fish: dict[str, FishJudge] = {}
        self._flights: list[tuple[ReactionEvent, Point]] = []
        self._settled: set[ReactionEvent] = set()
        self._shot: int | None = None

    def update(
        self,
        *,
        time_s: float,
        fish: Iterable[FishState],
        lure: Point | None,
        boat: Point,
        shot: int | None,
        weight: Point | None = None,
    ) -> list[ReactionEvent]:
        """Take one moment in; return the events that it settles. A flight is settled only when its school had time to join."""
        events: list[ReactionEvent] = []
        if shot != self._shot:
            events += self._close_shot(time_s)
            self._shot = shot
        for state in fish:
            judge = self._fish.setdefault(state.id, FishJudge())
            for reaction, cause in judge.update(time_s=time_s, state=state, lure=lure, boat=boat, weight=weight):
                event = ReactionEvent(time_s=time_s, fish=state.id, token=reaction, cause=cause, shot=shot)
                if reaction is Reaction.SPOOKED:
                    self._flights.append((event, state.place))
                    continue
                if reaction is Reaction.BIT:
                    # A rush that ends in a bite was no flight.
                    self._flights = [one for one in self._flights if one[0].fish != state.id or one[0] in self._settled]
                events.append(event)
        return events + self._settle_flights(time_s)

    def bite(self, *, fish: str, time_s: float, shot: int | None) -> ReactionEvent:
        """Note a bite that was told from afterwards, and return its event: what the fish does next is no new reaction."""
        self._fish.setdefault(fish, FishJudge()).note_bite(time_s)
        return ReactionEvent(time_s=time_s, fish=fish, token=Reaction.BIT, cause=ReactionCause.LURE, shot=shot)

    def flee(self, *, fish: str, time_s: float, place: Point, cause: ReactionCause, shot: int | None) -> None:
        """Note a flight that somebody else saw; it is settled as any other is."""
        if self._fish.setdefault(fish, FishJudge()).may_flee(time_s):
            self._flights.append((ReactionEvent(time_s=time_s, fish=fish, token=Reaction.SPOOKED, cause=cause, shot=shot), place))

    def _close_shot(self, time_s: float) -> list[ReactionEvent]:
        closed = []
        if self._shot is not None:
            for name, judge in self._fish.items():
                if judge.passed_by:
                    closed.append(
                        ReactionEvent(time_s=time_s, fish=name, token=Reaction.NOT_SHOWN, cause=ReactionCause.UNKNOWN, shot=self._shot)
                    )
        for judge in self._fish.values():
            judge.start_shot()
        return closed

    def _settle_flights(self, time_s: float) -> list[ReactionEvent]:
        settled = []
        for event, place in self._flights:
            if event in self._settled or time_s - event.time_s < self._limits.school_s:
                continue
            self._settled.add(event)
            together = sum(
                abs(other.time_s - event.time_s) <= self._limits.school_s and math.dist(place, there) <= self._limits.school_m
                for other, there in self._flights
            )
            if together >= self._limits.school_count:
                event = ReactionEvent(
                    time_s=event.time_s, fish=event.fish, token=Reaction.LEFT_WITH_SCHOOL, cause=ReactionCause.SCHOOL, shot=event.shot
                )
            settled.append(event)
        # A settled flight stays a neighbor of later ones for as long again.
        self._flights = [flight for flight in self._flights if time_s - flight[0].time_s < 2.0 * self._limits.school_s]
        self._settled &= {event for event, _ in self._flights}
        return settled


class TruthJudge:
    """Judges what is really there, and says of each reaction whether a perfect picture shows it: the same judge, given only what such a

    picture holds (middles of bodies in the fan's plane, no headings), calls it too. A bite shows by the fish alone, for it hides the lure.
    """

    def __init__(self) -> None:
        self._all, self._shown = Judge(), Judge()
        self._waiting: deque[ReactionEvent] = deque()
        self._called: deque[ReactionEvent] = deque()

    def update(
        self,
        *,
        time_s: float,
        fish: Sequence[FishState],
        middles: Sequence[Point],
        lure: Point | None,
        boat: Point,
        shot: int | None,
        weight: Point | None = None,
    ) -> list[ReactionEvent]:
        """Take one moment in, `middles` (fish,) being where the bodies' middles are; return the events about which all is known by now."""
        self._waiting.extend(self._all.update(time_s=time_s, fish=fish, lure=lure, boat=boat, shot=shot, weight=weight))
        shown = [replace(one, place=place, off_lure_rad=None) for one, place in zip(fish, middles, strict=True)]
        self._called.extend(self._shown.update(time_s=time_s, fish=shown, lure=lure, boat=boat, shot=shot, weight=weight))
        # The plain judge settles a flight as late as the other, and may call a second later.
        return self._known(time_s - SAME_S - TRUTH_LIMITS.school_s - 0.1)

    def close(self) -> list[ReactionEvent]:
        """Return the events that still wait: the water ends."""
        return self._known(math.inf)

    def _known(self, before_s: float) -> list[ReactionEvent]:
        known = []
        while self._waiting and self._waiting[0].time_s <= before_s:
            event = self._waiting.popleft()
            known.append(replace(event, visible=event.token is Reaction.BIT or self._is_called(event)))
        while self._called and self._called[0].time_s < before_s - 2.0 * SAME_S:
            self._called.popleft()
        return known

    def _is_called(self, event: ReactionEvent) -> bool:
        return any(one.fish == event.fish and one.token is event.token and abs(one.time_s - event.time_s) <= SAME_S for one in self._called)
