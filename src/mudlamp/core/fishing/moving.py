"""Stay or move: takes here against this angler's own record."""

from dataclasses import dataclass
from enum import StrEnum

from scipy import stats

# Takes and minutes that the record counts for before the first, where there is none: a take in half an hour (ours).
PRIOR_TAKES, PRIOR_MIN = 1.0, 30.0
# A spot whose rate is this sure to be under half of one's own is left; under so many minutes nobody can tell.
SURE, HALF = 0.8, 0.5
LEAST_MIN = 8.0
# On a trophy hunt an hour without a cast is normal (common practice, no source).
TROPHY_MIN = 60.0


class Verdict(StrEnum):
    """What to do about the spot."""

    TOO_EARLY = "too early to tell"
    STAY = "stay"
    MOVE = "move"


@dataclass(frozen=True, slots=True, kw_only=True)
class Spell:
    """Takes in so many minutes."""

    takes: int
    minutes: float


@dataclass(frozen=True, slots=True, kw_only=True)
class Advice:
    """Whether to move, and how likely it is that this spot gives under half of what the angler is used to."""

    verdict: Verdict
    slower: float


def stay_or_move(here: Spell, record: Spell, *, sees_fish: bool | None = None, is_trophy: bool = False) -> Advice:
    """Return whether to move, of takes here and over the angler's own record; `sees_fish` is the angler's word, where it was asked.

    Source: Poisson counts with Gamma priors; the record's rate is the prior's middle.
    """
    usual = (record.takes + PRIOR_TAKES) / (record.minutes + PRIOR_MIN)
    belief = stats.gamma(here.takes + PRIOR_TAKES, scale=1.0 / (here.minutes + PRIOR_TAKES / usual))
    slower = float(belief.cdf(HALF * usual))
    patience = TROPHY_MIN if is_trophy else LEAST_MIN
    if sees_fish is False and not is_trophy and here.minutes >= LEAST_MIN / 2.0:
        return Advice(verdict=Verdict.MOVE, slower=slower)
    if here.minutes < patience:
        return Advice(verdict=Verdict.TOO_EARLY, slower=slower)
    # Where fish are seen, one stays until it is surer.
    sure = min(SURE + (0.1 if sees_fish else 0.0), 0.95)
    return Advice(verdict=Verdict.MOVE if slower > sure else Verdict.STAY, slower=slower)
