"""What to do now, with the lure in the water: from what the fish just did, and where the lure is beside it.

Source: common practice, no source; the figures are starting values of our own.
"""

from dataclasses import dataclass
from enum import StrEnum

from mudlamp.core.reactions import Reaction


class Act(StrEnum):
    """What an angler does with the lure."""

    SET_HOOK = "set the hook"
    LET_FALL = "let it fall"
    STOP_LOWERING = "stop lowering"
    LIFT_AWAY = "lift it away"
    KEEP_MOVING = "keep it moving, slower"
    HOLD = "hold it"
    HOLD_OFF = "do not strike"
    REALIGN = "re-align"
    LEAVE = "leave it"
    WIDEN = "back off and find it again"


class Why(StrEnum):
    """The reason for it."""

    HAS_IT = "it has the jig"
    INTERESTED = "it turned to the jig"
    CURIOUS = "it comes along and does not take"
    TAKES_WEIGHT = "it mouths the weight, not the jig"
    NEGATIVE = "it edges away"
    REFUSED = "it followed and turned down"
    SPOOKED = "it bolted"
    UNDER_IT = "the jig is under it, and fish look up"
    NOT_DOWN = "it is not down to it yet"
    NOT_THERE = "the jig never reached it"
    NO_ANSWER = "no answer yet"
    LONG_ENOUGH = "no answer, and long enough"


@dataclass(frozen=True, slots=True, kw_only=True)
class Situation:
    """A shot as it stands: what the fish did last and how long ago [s]; how far the lure is from it, over it and beyond it [m]; whether it

    still sinks; for how long it hung within the fish's notice [s].
    """

    last: Reaction | None
    since_s: float
    gap_m: float
    above_m: float
    sinks: bool
    shown_s: float
    beyond_m: float

    @property
    def is_on_its_way(self) -> bool:
        """Whether the lure falls to where it can be drawn over the fish: not down yet, and over it or a little beyond."""
        return self.sinks and self.above_m > 0.0 and -SHORT_M <= self.beyond_m <= BEYOND_M


@dataclass(frozen=True, slots=True, kw_only=True)
class Call:
    """What to do, why, and for a hold how much longer [s]."""

    act: Act
    why: Why
    seconds: float | None = None


@dataclass(frozen=True, slots=True, kw_only=True)
class Patience:
    """How long a lure hangs before a fish that gives no answer is left [s], and how near it counts as shown [m]."""

    hold_s: float = 8.0
    notice_m: float = 1.2


# Common practice, no source: 20 s is cold-water crappie (cold: under so many deg C, ours); a bass gets a few seconds.
COLD_CRAPPIE = Patience(hold_s=20.0, notice_m=0.9)
COLD_DEGC = 13.0
USUAL = Patience()
# An answer is acted on for so long [s]; a bite for less.
ANSWER_S, BITE_S = 4.0, 2.0
# A lure that falls so far short of a fish, or so far beyond it, still comes to it [m].
SHORT_M, BEYOND_M = 0.5, 4.0
# A lure so far under the fish is under it [m].
UNDER_M = 0.15

_LEAVE = {
    Reaction.BACKED_OFF: Call(act=Act.LEAVE, why=Why.NEGATIVE),
    Reaction.REFUSED: Call(act=Act.LEAVE, why=Why.REFUSED),
    Reaction.SPOOKED: Call(act=Act.WIDEN, why=Why.SPOOKED),
    Reaction.LEFT_WITH_SCHOOL: Call(act=Act.WIDEN, why=Why.SPOOKED),
}


def acted_on_s(reaction: Reaction) -> float:
    """Return for how long a reaction is acted on [s]."""
    return BITE_S if reaction is Reaction.BIT else ANSWER_S


def call_now(now: Situation, patience: Patience = USUAL) -> Call:
    """Return what to do now."""
    lately = now.last if now.last is not None and now.since_s < acted_on_s(now.last) else None
    if lately is Reaction.BIT:
        return Call(act=Act.SET_HOOK, why=Why.HAS_IT)
    if lately is Reaction.HIT_WEIGHT:
        return Call(act=Act.HOLD_OFF, why=Why.TAKES_WEIGHT)
    if lately in _LEAVE:
        return _LEAVE[lately]
    if lately is Reaction.FOLLOWED:
        return Call(act=Act.KEEP_MOVING, why=Why.CURIOUS)
    if lately is Reaction.LOOKED:
        return Call(act=Act.STOP_LOWERING if now.sinks else Act.LIFT_AWAY, why=Why.INTERESTED)
    if now.gap_m <= patience.notice_m and now.above_m < -UNDER_M:
        return Call(act=Act.LIFT_AWAY, why=Why.UNDER_IT)
    if now.gap_m > patience.notice_m and now.is_on_its_way:
        return Call(act=Act.LET_FALL, why=Why.NOT_DOWN)
    if now.gap_m > patience.notice_m:
        return Call(act=Act.REALIGN, why=Why.NOT_THERE)
    left_s = patience.hold_s - now.shown_s
    if left_s > 0.0:
        return Call(act=Act.HOLD, why=Why.NO_ANSWER, seconds=left_s)
    return Call(act=Act.LEAVE, why=Why.LONG_ENOUGH)
