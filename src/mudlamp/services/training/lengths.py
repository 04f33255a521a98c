"""Learning how long fish are, and judging it on waters that were left out."""

from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np

from mudlamp.core.arrays import BoolArray, FloatArray, IntArray
from mudlamp.core.tracking.classes import CLASS_TRAITS
from mudlamp.core.tracking.forest import Forest
from mudlamp.core.tracking.sizing import EDGES_M, STEPS, YOUNG_S, size_of
from mudlamp.core.tracking.traits import TRAITS
from mudlamp.services.training.grow import fitting_warmth, forest_of, grow
from mudlamp.services.training.samples import Samples

ROUNDS, LEAVES = 50, 12
_COLUMNS = [TRAITS.index(trait) for trait in CLASS_TRAITS]


@dataclass(frozen=True, slots=True, kw_only=True)
class LengthFigures:
    """How well lengths, learned on so many waters, are told of fish that showed their side: the median error as a share of the length, the share of fish given a length,

    and the share of all intervals that hold the true one.
    """

    waters: int
    samples: int
    median_error: float
    given: float
    held: float


def learn_lengths(learned: Sequence[Samples], aside: Sequence[Samples]) -> Forest:
    """Return the forest of lengths; `aside` are the waters that its temperature is set on."""
    traits, length_m, _ = _fish(learned)
    steps = steps_of(length_m)
    forest = forest_of(grow(traits, steps, _weights(steps), of=len(STEPS), rounds=ROUNDS, leaves=LEAVES))
    judged, true_m, _ = _fish(aside)
    return replace(forest, warmth=fitting_warmth(forest.sums(judged), steps_of(true_m), np.ones(len(true_m))))


def steps_of(length_m: FloatArray) -> IntArray:
    """Return the steps (N,) that lengths (N,) [m] lie in."""
    return np.clip(np.searchsorted(EDGES_M, length_m, side="right") - 1, 0, len(STEPS) - 1)


def length_figures(forest: Forest, waters: Sequence[Samples], *, learned_on: int) -> LengthFigures:
    """Return how well lengths are told on some waters, sample by sample."""
    traits, length_m, fair = _fish(waters)
    if not fair.any():
        return LengthFigures(waters=learned_on, samples=0, median_error=0.0, given=0.0, held=0.0)
    sizes = [size_of(row) for row in forest.odds(traits[fair])]
    true_m, told_m = length_m[fair], np.array([size.length_m for size in sizes])
    sure = np.array([size.sure for size in sizes])
    held = np.array([size.low_m <= true <= size.high_m for size, true in zip(sizes, true_m, strict=True)])
    error = np.abs(told_m - true_m) / true_m
    return LengthFigures(
        waters=learned_on,
        samples=len(true_m),
        median_error=round(float(np.median(error[sure])), 3) if sure.any() else 0.0,
        given=round(float(sure.mean()), 3),
        held=round(float(held.mean()), 3),
    )


def _weights(steps: IntArray) -> FloatArray:
    """Return weights (N,) that make rare lengths count more, though not as much as common ones."""
    counts = np.bincount(steps, minlength=len(STEPS))
    return np.asarray((len(steps) / np.maximum(counts, 1)[steps]) ** 0.3)


def _fish(waters: Sequence[Samples]) -> tuple[FloatArray, FloatArray, BoolArray]:
    """Return the fish of waters: traits (N, F), lengths (N,) [m], and which showed their side for a second (N,)."""
    traits = np.concatenate([one.traits for one in waters]).astype(np.float64)
    reaches = np.concatenate([one.reaches for one in waters]).astype(np.float64)
    length_m = np.concatenate([one.length_m for one in waters])
    fish = np.isfinite(length_m)
    side_on = np.concatenate([one.side_on for one in waters])[fish]
    old = traits[fish, TRAITS.index("age_s")] >= YOUNG_S
    return np.hstack((traits[fish][:, _COLUMNS], reaches[fish])), length_m[fish], side_on & old
