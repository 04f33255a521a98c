"""The one score of reactions: same fish, same token, within a second; macro F1 over tokens."""

from collections import Counter
from collections.abc import Mapping, Sequence
from dataclasses import dataclass

WITHIN_S = 1.0
LEAST_CASES = 20
APART = ("not_shown", "no_answer")


@dataclass(frozen=True, slots=True, kw_only=True)
class Reacted:
    """A reaction to be scored: when [s], which fish (by its true name), which token."""

    time_s: float
    fish: str
    token: str


@dataclass(frozen=True, slots=True, kw_only=True)
class TokenScore:
    """How well one token is judged: right, false and missed cases."""

    right: int
    false: int
    missed: int

    @property
    def f1(self) -> float:
        """Harmonic mean of precision and recall; 0 without cases."""
        total = 2 * self.right + self.false + self.missed
        return 2.0 * self.right / total if total else 0.0


def score_reactions(truth: Sequence[Reacted], told: Sequence[Reacted]) -> Mapping[str, TokenScore]:
    """Return the score of each token that occurs: each told reaction matches at most one true one, nearest first."""
    pairs = sorted(
        (abs(true.time_s - one.time_s), i, j)
        for i, true in enumerate(truth)
        for j, one in enumerate(told)
        if true.token == one.token and true.fish == one.fish and abs(true.time_s - one.time_s) <= WITHIN_S
    )
    used_true: set[int] = set()
    used_told: set[int] = set()
    right: Counter[str] = Counter()
    for _, i, j in pairs:
        if i not in used_true and j not in used_told:
            used_true.add(i)
            used_told.add(j)
            right[truth[i].token] += 1
    of_truth, of_told = Counter(one.token for one in truth), Counter(one.token for one in told)
    return {
        token: TokenScore(right=right[token], false=of_told[token] - right[token], missed=of_truth[token] - right[token])
        for token in sorted(of_truth | of_told)
    }


def macro_f1(scores: Mapping[str, TokenScore], *, least_cases: int = LEAST_CASES) -> float | None:
    """Return the mean F1 over tokens with enough true cases, those of no answer apart; None where no token has enough."""
    counted = [score.f1 for token, score in scores.items() if token not in APART and score.right + score.missed >= least_cases]
    return sum(counted) / len(counted) if counted else None
