"""How far shots got: which stages a presentation passed, from the reactions to it.

*Never got there* and *ignored it* have opposite cures: a shot that never arrived says nothing of the lure.
"""

from collections.abc import Collection, Mapping, Sequence
from dataclasses import dataclass
from enum import StrEnum
from functools import lru_cache

from mudlamp.core.reactions import Reaction


class Stage(StrEnum):
    """What is asked of a shot, each of those that passed the one before."""

    ARRIVED = "arrived"
    ANSWERED = "answered"
    FOLLOWED = "followed"
    TOOK = "took"


_ANSWERS = frozenset(
    {Reaction.LOOKED, Reaction.FOLLOWED, Reaction.BIT, Reaction.HIT_WEIGHT, Reaction.BACKED_OFF, Reaction.REFUSED, Reaction.SPOOKED}
)
_ARRIVALS = _ANSWERS | {Reaction.NO_ANSWER, Reaction.LEFT_WITH_SCHOOL}
_TOKENS: Mapping[str, Reaction] = {one.value: one for one in Reaction}
_FOLLOWS = frozenset({Reaction.FOLLOWED, Reaction.REFUSED, Reaction.BIT})


@dataclass(frozen=True, slots=True, kw_only=True)
class Presentation:
    """A shot: what it was presented with (the factor's name to its value, such as "head": "1/16 oz"), and what the fish did."""

    factors: Mapping[str, str]
    reactions: frozenset[Reaction]

    @property
    def arrived(self) -> bool | None:
        """Whether the lure got to a fish; None where nobody noted anything."""
        return _arrived(self.reactions)

    def passed(self, stage: Stage) -> bool | None:
        """Return whether it passed a stage; None where it was never asked, or where nobody knows."""
        return _passed(self.reactions, stage)


# A season has many shots and few kinds of answers.
@lru_cache(maxsize=4096)
def _passed(reactions: frozenset[Reaction], stage: Stage) -> bool | None:
    arrived = _arrived(reactions)
    if stage is Stage.ARRIVED or not arrived:
        return arrived if stage is Stage.ARRIVED else None
    answered = bool(reactions & _ANSWERS)
    if stage is Stage.ANSWERED:
        return answered
    if stage is Stage.TOOK:
        # Of all that arrived: what an angler counts.
        return Reaction.BIT in reactions
    return bool(reactions & _FOLLOWS) if answered else None


def _arrived(reactions: frozenset[Reaction]) -> bool | None:
    if reactions & _ARRIVALS:
        return True
    return False if Reaction.NOT_SHOWN in reactions else None


@dataclass(frozen=True, slots=True, kw_only=True)
class Count:
    """How many of how many passed."""

    passed: int
    of: int


def count_of(shots: Sequence[Presentation], stage: Stage) -> Count:
    """Return how many shots passed a stage, of those that were asked."""
    return count_alike([(shot, 1) for shot in shots], stage)


def count_alike(shots: Sequence[tuple[Presentation, int]], stage: Stage) -> Count:
    """Return how many shots passed a stage, of those that were asked; those alike are told as one, with how many they are."""
    known = [(passed, count) for shot, count in shots if (passed := shot.passed(stage)) is not None]
    return Count(passed=sum(count for passed, count in known if passed), of=sum(count for _, count in known))


def presentation(factors: Mapping[str, str], tokens: Collection[str]) -> Presentation:
    """Return a shot of its factors and its reactions' tokens; what is no token is left out."""
    return Presentation(factors=factors, reactions=frozenset(_TOKENS[token] for token in tokens if token in _TOKENS))
