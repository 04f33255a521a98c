"""The one score of reactions: same fish, same token, within a second; F1 by token, and its mean over tokens."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

import numpy as np

WITHIN_S = 1.0
LEAST_CASES = 20
APART = ("not_shown", "no_answer")


@dataclass(frozen=True, slots=True, kw_only=True)
class Happened:
    """A true reaction: when [s], whose, which token; whether a perfect picture shows it, whether fish and lure could be seen meanwhile, and

    whether both were followed.
    """

    time_s: float
    fish: str
    token: str
    visible: bool = True
    fair: bool = True
    tracked: bool = True


@dataclass(frozen=True, slots=True, kw_only=True)
class Claim:
    """A reaction that was told: when it is said to have been [s], whose (the fish's true name), which token, how late it was told [s];

    `fair`: whether it counts where it is wrong, for what could not be seen cannot be held against anyone.
    """

    time_s: float
    fish: str
    token: str
    told_s: float
    fair: bool = True


@dataclass(frozen=True, slots=True, kw_only=True)
class TokenScore:
    """How well one token is judged: claims and right ones; true cases (`full`), those a perfect picture shows (`visible`), and those of them

    whose fish and lure were followed (`tracked`), each with how many were found; time errors and delays [s] of what was found.
    """

    claims: int = 0
    right: int = 0
    full: int = 0
    full_found: int = 0
    visible: int = 0
    visible_found: int = 0
    tracked: int = 0
    tracked_found: int = 0
    errors_s: tuple[float, ...] = ()
    delays_s: tuple[float, ...] = ()

    @property
    def precision(self) -> float:
        """Share of claims that are right; 0 without any."""
        return self.right / self.claims if self.claims else 0.0

    def f1(self, of: str) -> float:
        """Return the harmonic mean of precision and of the share found, of the `full`, `visible` or `tracked` cases."""
        cases, found = getattr(self, of), getattr(self, f"{of}_found")
        recall = found / cases if cases else 0.0
        both = self.precision + recall
        return 2.0 * self.precision * recall / both if both else 0.0

    def __add__(self, other: "TokenScore") -> "TokenScore":
        return TokenScore(**{name: getattr(self, name) + getattr(other, name) for name in self.__dataclass_fields__})


def score_reactions(truth: Sequence[Happened], told: Sequence[Claim]) -> Mapping[str, TokenScore]:
    """Return the score of each token that occurs: each claim settles at most one true reaction, nearest first.

    A claim that matches any true reaction is right, be it visible or not. Only fair reactions are asked for.
    """
    pairs = sorted(
        (abs(true.time_s - one.time_s), i, j)
        for i, true in enumerate(truth)
        for j, one in enumerate(told)
        if true.token == one.token and true.fish == one.fish and abs(true.time_s - one.time_s) <= WITHIN_S
    )
    settled: dict[int, int] = {}
    for _, i, j in pairs:
        if i not in settled and j not in settled.values():
            settled[i] = j
    right = set(settled.values())
    scores: dict[str, TokenScore] = {}
    for i, true in enumerate(truth):
        if true.fair:
            claim = told[settled[i]] if i in settled else None
            scores[true.token] = scores.get(true.token, TokenScore()) + _of_case(true, claim)
    for j, one in enumerate(told):
        if one.fair or j in right:
            scores[one.token] = scores.get(one.token, TokenScore()) + TokenScore(claims=1, right=int(j in right))
    return scores


def _of_case(true: Happened, claim: Claim | None) -> TokenScore:
    found, shown, followed = claim is not None, true.visible, true.visible and true.tracked
    return TokenScore(
        full=1,
        full_found=int(found),
        visible=int(shown),
        visible_found=int(shown and found),
        tracked=int(followed),
        tracked_found=int(followed and found),
        errors_s=() if claim is None else (abs(claim.time_s - true.time_s),),
        delays_s=() if claim is None else (claim.told_s - true.time_s,),
    )


def macro_f1(scores: Mapping[str, TokenScore], of: str, *, least_cases: int = LEAST_CASES) -> float | None:
    """Return the mean F1 over tokens with enough true cases, those of no answer apart; None where no token has enough."""
    counted = [score.f1(of) for token, score in scores.items() if token not in APART and getattr(score, of) >= least_cases]
    return float(np.mean(counted)) if counted else None
