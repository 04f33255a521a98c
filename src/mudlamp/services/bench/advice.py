"""The benchmark of what cards promise: whether printed costs, auto-tune's gain and the start hold on waters that were not seen."""

from collections.abc import Sequence
from dataclasses import dataclass, fields, replace

import numpy as np

from mudlamp.core.advice.answers import clashes
from mudlamp.core.advice.autotune import Batch, autotune, measured
from mudlamp.core.advice.planner import Card, mid_band
from mudlamp.core.controls import CONTROLS, Part
from mudlamp.core.setup import ReceiverSetup, with_control
from mudlamp.services.bench.askers import drawn_answers
from mudlamp.services.bench.cues import followed
from mudlamp.services.bench.symptoms import named_first
from mudlamp.services.cards.advising import (
    TUNED_WATERS,
    WATERS,
    Cost,
    batches_of,
    card_of,
    costs_of,
    hard_rules,
    objective_for,
    readings_of,
    tuned,
)
from mudlamp.services.crew import Crew
from mudlamp.services.water.aboard import Aboard

# Fresh waters have seeds this far from those that a card was measured on.
FRESH = 70_000
# A printed figure is right where its sign is, and it is off by no more than this (in its own unit) or half of itself.
RIGHT_WITHIN, RIGHT_SHARE = 1.0, 0.5
WORSE_POINTS = 2.0
# A difference that should be printed [dB]; what a search must find to be worth having [points].
LARGE_DB, WORTH_FINDING = 2.0, 2.0


@dataclass(frozen=True, slots=True, kw_only=True)
class Promise:
    """One card: how its cost figures hold, auto-tune's claim, what is there of it, what a search there finds, the start over the mid-band.

    All but the counts in points of 100.
    """

    costs: "CostCount"
    claimed: float
    gained: float
    there: float
    start_over_mid: float


@dataclass(frozen=True, slots=True, kw_only=True)
class CostCount:
    """How many cost figures are printed, how many of them hold; how many are 2 dB or more in truth, how many of those are printed."""

    printed: int = 0
    right: int = 0
    large: int = 0
    large_printed: int = 0

    def __add__(self, other: "CostCount") -> "CostCount":
        return CostCount(**{one.name: getattr(self, one.name) + getattr(other, one.name) for one in fields(CostCount)})


@dataclass(frozen=True, slots=True, kw_only=True)
class AdviceBench:
    """What cards promise and what is there on fresh waters. Shares, and points of 100; what following a cue loses: the middle, and nine in ten."""

    cards: int
    printed_right: float
    printed: int
    large_printed: float
    large: int
    half_found: float
    found: int
    faults_first: float
    claim_off_median: float
    claim_off_most: float
    worse_than_start: float
    gained_mean: float
    start_over_mid_mean: float
    start_over_mid_least: float
    cues: int
    cues_in_band: float
    cue_lost_median: float
    cue_lost_nine_in_ten: float


def bench_advice(seeds: Sequence[int], *, cluster: str | None = None) -> AdviceBench:
    """Return how the cards of drawn answers keep what they promise; answers that cannot be true are left out."""
    with Crew(cluster=cluster) as crew:
        found = [one for one in crew.each(promise, list(seeds)) if one is not None]
        cues = [one for of_card in crew.each(followed, list(seeds)) for one in of_card]
    costs = sum((one.costs for one in found), CostCount())
    # Where a search on the fresh waters finds something, half of it should be gained.
    worth = [one for one in found if one.there >= WORTH_FINDING]
    off = np.array([abs(one.claimed - one.gained) for one in found])
    over_mid = [one.start_over_mid for one in found]
    return AdviceBench(
        cards=len(found),
        printed_right=round(costs.right / max(costs.printed, 1), 3),
        printed=costs.printed,
        large_printed=round(costs.large_printed / max(costs.large, 1), 3),
        large=costs.large,
        half_found=round(sum(one.gained >= 0.5 * one.there for one in worth) / max(len(worth), 1), 3),
        found=len(worth),
        faults_first=round(float(np.mean(list(named_first(seeds).values()))), 3),
        claim_off_median=round(float(np.median(off)), 2),
        claim_off_most=round(float(off.max()), 2),
        worse_than_start=round(float(np.mean([one.gained < -WORSE_POINTS for one in found])), 3),
        gained_mean=round(float(np.mean([one.gained for one in found])), 2),
        start_over_mid_mean=round(float(np.mean(over_mid)), 2),
        start_over_mid_least=round(float(min(over_mid)), 2),
        cues=len(cues),
        cues_in_band=round(float(np.mean([one.in_band for one in cues])), 3),
        cue_lost_median=round(float(np.median([one.lost for one in cues])), 2),
        cue_lost_nine_in_ten=round(float(np.quantile([one.lost for one in cues], 0.9)), 2),
    )


def promise(seed: int) -> Promise | None:
    """Return what the card of a seed's answers promises and what is there; None for answers that cannot be true together."""
    answers = drawn_answers(seed)
    if clashes(answers):
        return None
    aboard = Aboard()
    card = card_of(answers, aboard)
    seen = batches_of(card, aboard, seed=seed, count=TUNED_WATERS)
    fresh = batches_of(card, aboard, seed=seed + FRESH)
    found = tuned(card, seen, seed=seed)
    there = autotune(fresh, objective_for(card), card.setup, judges=fresh, allowed=hard_rules(card), seed=seed)
    start = _points(card, card.setup, fresh)
    middle = replace(mid_band(card.here), punch=card.setup.punch, ink=card.setup.ink)
    return Promise(
        costs=_costs(card, seen[:WATERS], fresh),
        claimed=found.score - found.start_score,
        gained=_points(card, found.setup, fresh) - start,
        there=there.score - there.start_score,
        start_over_mid=start - _points(card, middle, fresh),
    )


def _points(card: Card, setup: ReceiverSetup, batches: Sequence[Batch]) -> float:
    return float(np.mean([measured(setup, batch, objective_for(card))[1] for batch in batches]))


def _costs(card: Card, seen: Sequence[Batch], fresh: Sequence[Batch]) -> CostCount:
    """Return how a card's cost figures hold on fresh waters."""
    costs, count = costs_of(card, seen), CostCount()
    start = [readings_of(card.setup, card, batch) for batch in fresh]
    for row in card.rows:
        if isinstance(row.start, str) or CONTROLS[row.control].part is Part.WINDOW:
            continue
        for value in {float(each) for each in row.styles.values()} - {float(row.start)}:
            style = next(style for style, each in row.styles.items() if each == value)
            there = [readings_of(with_control(card.setup, row.control, value), card, batch) for batch in fresh]
            for one in fields(Cost):
                pairs = [(getattr(a, one.name), getattr(b, one.name)) for a, b in zip(there, start, strict=True)]
                known = [a - b for a, b in pairs if a is not None and b is not None]
                if known:
                    count += _counted(one.name, getattr(costs[row.control][style], one.name), float(np.mean(known)))
    return count


def _counted(name: str, said: float | None, there: float) -> CostCount:
    is_large = name.endswith("_db") and abs(there) >= LARGE_DB
    is_said = bool(said)
    return CostCount(printed=is_said, right=is_said and _holds(said or 0.0, there), large=is_large, large_printed=is_large and is_said)


def _holds(said: float, there: float) -> bool:
    return said * there > 0.0 and abs(said - there) <= max(RIGHT_WITHIN, RIGHT_SHARE * abs(there))
