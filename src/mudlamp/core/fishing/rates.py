"""Rates of few shots with honest doubt, and what may be claimed of a difference between two presentations.

A claim is looked at after every shot, so an ordinary test would find something in most trips where nothing is. An e-process does not: in a
world without a difference the chance that it ever exceeds 1 / alpha is at most alpha, whenever one looks (Ville 1939).
"""

import heapq
import math
from collections import deque
from collections.abc import Sequence
from dataclasses import dataclass, field
from functools import lru_cache

import numpy as np
from scipy import optimize, special

from mudlamp.core.arrays import FloatArray
from mudlamp.core.fishing.answers import Count, Presentation, Stage

# Jeffreys's prior: half a shot of either kind.
PLAIN = 0.5
INTERVAL = 0.9
# Earlier trips count for no more shots than this, however many there were: no two days are alike.
MOST_PRIOR_SHOTS = 20.0
LEAST_TRIPS = 3
# In a world where nothing matters so many whole trips may hold a finding.
FALSE_TRIPS = 0.05
# A claim is made of stages that an angler can act on.
CLAIMED = (Stage.ANSWERED, Stage.TOOK)


@dataclass(frozen=True, slots=True, kw_only=True)
class Prior:
    """A Beta prior: shots that passed and shots that did not, before the first."""

    passed: float = PLAIN
    failed: float = PLAIN


@dataclass(frozen=True, slots=True, kw_only=True)
class Rate:
    """A rate with the interval that holds it in nine cases of ten."""

    low: float
    middle: float
    high: float


PLAIN_PRIOR = Prior()


def rate_of(count: Count, prior: Prior = PLAIN_PRIOR) -> Rate:
    """Return the rate that a count stands for. Source: Beta-binomial posterior, equal tails."""
    tail = (1.0 - INTERVAL) / 2.0
    passed, failed = count.passed + prior.passed, count.of - count.passed + prior.failed
    low, middle, high = (float(special.betaincinv(passed, failed, share)) for share in (tail, 0.5, 1.0 - tail))
    return Rate(low=low, middle=middle, high=high)


def prior_of(trips: Sequence[Count]) -> Prior:
    """Return what earlier trips in like conditions say before the first shot (partial pooling); Jeffreys's prior with under LEAST_TRIPS.

    Source: empirical Bayes, the Beta-binomial fitted to the trips by maximum likelihood, its weight in shots bounded.
    """
    told = tuple(trip for trip in trips if trip.of > 0)
    return PLAIN_PRIOR if len(told) < LEAST_TRIPS else _fitted(told)


@lru_cache(maxsize=256)
def _fitted(told: tuple[Count, ...]) -> Prior:
    """Return the prior fitted to trips; the same trips are asked for whenever a page is looked at."""
    passed, of = np.array([trip.passed for trip in told]), np.array([trip.of for trip in told])

    def unlikely(at: FloatArray) -> float:
        share, shots = special.expit(at[0]), math.exp(at[1])
        a, b = share * shots, (1.0 - share) * shots
        return -float(np.sum(special.betaln(passed + a, of - passed + b) - special.betaln(a, b)))

    whole = (passed.sum() + PLAIN) / (of.sum() + 2.0 * PLAIN)
    found = optimize.minimize(unlikely, x0=[special.logit(whole), 2.0], bounds=[(-6.0, 6.0), (0.0, math.log(MOST_PRIOR_SHOTS))])
    share, shots = float(special.expit(found.x[0])), math.exp(float(found.x[1]))
    # However alike the trips were: the next shot may be the first of the other kind.
    return Prior(passed=max(share * shots, PLAIN), failed=max((1.0 - share) * shots, PLAIN))


@dataclass(frozen=True, slots=True, kw_only=True)
class Finding:
    """A claim: of a factor this value passes the stage more often than that one; `evidence` is how many times likelier than by chance."""

    factor: str
    better: str
    worse: str
    stage: Stage
    better_count: Count
    worse_count: Count
    evidence: float


@dataclass(slots=True)
class _Arm:
    passed: int = 0
    of: int = 0
    waiting: deque[bool] = field(default_factory=deque)

    @property
    def guess(self) -> float:
        return (self.passed + PLAIN) / (self.of + 2.0 * PLAIN)


class _Contest:
    """Two values of a factor against each other at a stage: shots pair up in the order they come, one of each, and each pair bets."""

    def __init__(self) -> None:
        self.arms = (_Arm(), _Arm())
        self.evidence = self.best = 1.0

    def add(self, arm: int, passed: bool) -> None:
        """Take in a shot with one of the two."""
        self.arms[arm].waiting.append(passed)
        while self.arms[0].waiting and self.arms[1].waiting:
            pair = [one.waiting.popleft() for one in self.arms]
            guesses = [one.guess for one in self.arms]
            self._bet(pair, guesses)
            for one, result in zip(self.arms, pair, strict=True):
                one.passed += result
                one.of += 1

    def _bet(self, pair: Sequence[bool], guesses: Sequence[float]) -> None:
        """Bet on a pair: how likely by the guesses made before it, against how likely were both the same.

        Source: E-variable for two proportions, one of each (Turner, Ly and Gruenwald 2024).
        """
        same = sum(guesses) / 2.0
        for result, guess in zip(pair, guesses, strict=True):
            self.evidence *= guess / same if result else (1.0 - guess) / (1.0 - same)
        self.best = max(self.best, self.evidence)


def findings(shots: Sequence[Presentation]) -> list[Finding]:
    """Return what may be claimed of a trip's shots, in their order: at most FALSE_TRIPS of trips hold any where nothing matters.

    The contests share what may go wrong: the j-th that was opened gets 1 / (j (j + 1)) of it.
    """
    contests: dict[tuple[str, str, str, Stage], _Contest] = {}
    seen: dict[str, list[str]] = {}
    for shot in shots:
        for factor, value in sorted(shot.factors.items()):
            values = seen.setdefault(factor, [])
            if value not in values:
                values.append(value)
                for other in values[:-1]:
                    contests |= {(factor, other, value, stage): _Contest() for stage in CLAIMED}
    passed = {stage: [shot.passed(stage) for shot in shots] for stage in CLAIMED}
    having: dict[tuple[str, str], list[int]] = {}
    for i, shot in enumerate(shots):
        for pair in shot.factors.items():
            having.setdefault(pair, []).append(i)
    found = []
    for number, (key, contest) in enumerate(contests.items(), start=1):
        factor, one, other, stage = key
        others = set(having[factor, other])
        for i in heapq.merge(having[factor, one], having[factor, other]):
            result = passed[stage][i]
            if result is not None:
                contest.add(int(i in others), result)
        if contest.best >= number * (number + 1) / FALSE_TRIPS:
            found.append(_finding(key, contest, shots))
    return found


def _finding(key: tuple[str, str, str, Stage], contest: _Contest, shots: Sequence[Presentation]) -> Finding:
    factor, one, other, stage = key
    counts = []
    for value in (one, other):
        known = [passed for shot in shots if shot.factors.get(factor) == value and (passed := shot.passed(stage)) is not None]
        counts.append(Count(passed=sum(known), of=len(known)))
    better = int(contest.arms[1].guess > contest.arms[0].guess)
    return Finding(
        factor=factor,
        better=(one, other)[better],
        worse=(one, other)[1 - better],
        stage=stage,
        better_count=counts[better],
        worse_count=counts[1 - better],
        evidence=contest.best,
    )
