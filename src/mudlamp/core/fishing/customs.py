"""Customs: prompts of the trade by simple counts. They are habits, not findings, and each has its target, goal and season.

Source: common practice, no source.
"""

from collections.abc import Sequence
from dataclasses import dataclass

from mudlamp.core.fishing.answers import Presentation
from mudlamp.core.reactions import Reaction


@dataclass(frozen=True, slots=True, kw_only=True)
class Custom:
    """A prompt: what is said, and for whom it is meant."""

    said: str
    meant_for: str


NEVER_THERE = Custom(said="Three shots never got there: re-align, back onto its nose", meant_for="any fish; the lure is not to blame")
FIVE_SHOTS = Custom(said="Five shots, no take: change", meant_for="crappie to eat, cold water")
LOOK_AND_LEAVE = Custom(said="Three looked and left: change color, weight or style", meant_for="crappie, any season")
TAKES = Custom(said="Three takes in five: stay with it, write it down", meant_for="any fish")
LAST_FEW = 5


def customs(shots: Sequence[Presentation]) -> list[Custom]:
    """Return the customs that hold after a trip's last shots: those since what was presented changed last."""
    if not shots:
        return []
    now = shots[-1].factors
    since = []
    for shot in reversed(shots):
        if shot.factors != now:
            break
        since.append(shot)
    last = since[:LAST_FEW]
    takes = sum(Reaction.BIT in shot.reactions for shot in last)
    if takes >= 3:
        return [TAKES]
    found = []
    if len(since) >= 3 and all(shot.arrived is False for shot in since[:3]):
        found.append(NEVER_THERE)
    arrived = [shot for shot in since if shot.arrived]
    if len(arrived) >= LAST_FEW and not any(Reaction.BIT in shot.reactions for shot in arrived[:LAST_FEW]):
        found.append(FIVE_SHOTS)
    leaves = [shot for shot in arrived[:LAST_FEW] if Reaction.LOOKED in shot.reactions and Reaction.BIT not in shot.reactions]
    if len(leaves) >= 3:
        found.append(LOOK_AND_LEAVE)
    return found
