"""Learning the tracker's kinds on drawn waters, and judging what was learned on kinds of water that were left out."""

from collections.abc import Callable, Sequence
from concurrent.futures import ProcessPoolExecutor
from dataclasses import asdict, dataclass, replace
from functools import partial
from pathlib import Path

import numpy as np

from mudlamp.core.arrays import FloatArray, IntArray
from mudlamp.core.scene.draw import draw_water
from mudlamp.core.scene.kinds_of_water import NEVER_LEARNED
from mudlamp.core.tracking.classify import KINDS
from mudlamp.core.tracking.forest import Forest
from mudlamp.core.tracking.hand_watch import HAND_TRAITS
from mudlamp.core.tracking.track import Kind
from mudlamp.core.tracking.traits import TRAITS
from mudlamp.services.training.grow import fitting_warmth, forest_of, grow
from mudlamp.services.training.samples import Samples, code_digest, samples_of

# Seeds to learn on; those from 900 on are for judging alone.
SEEDS = range(1, 900)
# One learned water in so many is kept aside to set the odds' temperature on.
ASIDE = 8
# Of a water's cover no more samples than this: a weed bed must not outvote all fish.
MOST_COVER = 1500
BINS = 10


@dataclass(frozen=True, slots=True, kw_only=True)
class KindFigures:
    """How well a kind is told on waters of kinds never learned on: of those that are it, how many are called it; of those called it, how many are."""

    samples: int
    recall: float
    precision: float


@dataclass(frozen=True, slots=True, kw_only=True)
class Card:
    """What was learned on what, and how good it is: `error` is the expected calibration error of the likeliest kind."""

    code: str
    seconds: float
    learned_waters: int
    first_seed: int
    last_seed: int
    left_out: Sequence[str]
    judged_waters: int
    samples: dict[str, int]
    warmth: float
    kinds: dict[str, KindFigures]
    error: float


def learn(
    *, waters: int, seconds: float, folder: Path, workers: int, progress: Callable[[float], None] | None = None
) -> tuple[Forest, Card]:
    """Return the forest grown on the first drawn waters, and its card; the same for the same waters and code."""
    seeds = list(SEEDS[:waters])
    made: list[Samples] = []
    with ProcessPoolExecutor(workers) as pool:
        for one in pool.map(partial(samples_of, seconds=seconds, folder=folder), seeds):
            made.append(one)
            if progress is not None:
                progress(len(made) / len(seeds))
    never = [draw_water(seed).kind in NEVER_LEARNED for seed in seeds]
    known = [_thinned(one, seed) for one, seed, left_out in zip(made, seeds, never, strict=True) if not left_out and len(one)]
    traits, kinds = _joined([one for number, one in enumerate(known) if number % ASIDE])
    aside, aside_kinds = _joined([one for number, one in enumerate(known) if number % ASIDE == 0])
    forest = forest_of(grow(traits, kinds, np.ones(len(kinds))))
    forest = replace(forest, warmth=fitting_warmth(forest, aside, aside_kinds, np.ones(len(aside_kinds))))
    judged = [one for one, left_out in zip(made, never, strict=True) if left_out and len(one)]
    figures, error = _figures(forest, *_joined([_thinned(one, 0) for one in judged])) if judged else ({}, 0.0)
    counts = np.bincount(kinds, minlength=len(KINDS))
    card = Card(
        code=code_digest(),
        seconds=seconds,
        learned_waters=len(known),
        first_seed=seeds[0],
        last_seed=seeds[-1],
        left_out=sorted(str(kind) for kind in NEVER_LEARNED),
        judged_waters=len(judged),
        samples={kind.value: int(count) for kind, count in zip(KINDS, counts, strict=True)},
        warmth=forest.warmth,
        kinds=figures,
        error=error,
    )
    return forest, card


def as_json(card: Card) -> dict[str, object]:
    """Return a card as plain values."""
    return asdict(card)


def _thinned(samples: Samples, seed: int) -> Samples:
    """Return samples with no more cover than MOST_COVER, and the hand unknown in every second one."""
    rng = np.random.default_rng(seed)
    cover = samples.kinds == KINDS.index(Kind.COVER)
    kept = ~cover | (rng.random(len(samples)) < MOST_COVER / max(int(cover.sum()), 1))
    traits = samples.traits[kept].copy()
    unknown = rng.random(len(traits)) < 0.5
    first = TRAITS.index(HAND_TRAITS[0])
    traits[np.ix_(unknown, np.arange(first, first + len(HAND_TRAITS)))] = np.nan
    return Samples(traits=traits, kinds=samples.kinds[kept])


def _joined(many: Sequence[Samples]) -> tuple[FloatArray, IntArray]:
    return np.concatenate([one.traits for one in many]).astype(np.float64), np.concatenate([one.kinds for one in many])


def _figures(forest: Forest, traits: FloatArray, kinds: IntArray) -> tuple[dict[str, KindFigures], float]:
    """Return how well each kind is told, and the expected calibration error (Naeini and others 2015)."""
    odds = forest.odds(traits)
    called, sure = odds.argmax(axis=1), odds.max(axis=1)
    right = called == kinds
    figures = {
        kind.value: KindFigures(
            samples=int((kinds == number).sum()),
            recall=round(float(right[kinds == number].mean()) if (kinds == number).any() else 0.0, 3),
            precision=round(float(right[called == number].mean()) if (called == number).any() else 0.0, 3),
        )
        for number, kind in enumerate(KINDS)
    }
    bins = np.minimum((sure * BINS).astype(np.int64), BINS - 1)
    error = sum(abs(right[bins == i].mean() - sure[bins == i].mean()) * (bins == i).mean() for i in range(BINS) if (bins == i).any())
    return figures, round(float(error), 4)
