"""Learning which class of fish a track is, and judging it on fish that showed their side."""

from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np

from mudlamp.core.arrays import BoolArray, FloatArray, IntArray
from mudlamp.core.scene.species import Species
from mudlamp.core.tracking.classes import CLASS_TRAITS, FAR_M, OF_FISH, YOUNG_S, ClassForest, FishClass, Priors
from mudlamp.core.tracking.traits import TRAITS
from mudlamp.services.training.grow import calibration_error, fitting_warmth, forest_of, grow
from mudlamp.services.training.samples import SPECIES, Samples

CLASS_OF = {
    Species.CRAPPIE: FishClass.PANFISH,
    Species.BLUEGILL: FishClass.PANFISH,
    Species.LARGEMOUTH: FishClass.BASS,
    Species.CARP: FishClass.ROUGH,
    Species.DRUM: FishClass.ROUGH,
    Species.GAR: FishClass.GAR,
    Species.CATFISH: FishClass.CATFISH,
}
_NUMBERS = np.array([OF_FISH.index(CLASS_OF[Species(name)]) for name in SPECIES])
ROUNDS, LEAVES = 60, 12


@dataclass(frozen=True, slots=True, kw_only=True)
class ClassFigures:
    """How well classes are told of fish that showed their side within 40 ft for 3 s: F1 by class, their mean, and the calibration error."""

    samples: int
    f1: dict[str, float]
    macro_f1: float
    error: float


def fish_of(samples: Samples) -> tuple[FloatArray, IntArray, BoolArray]:
    """Return the fish of samples: traits (N, len(TRAITS)), classes (N,) numbered as in OF_FISH, whether each can fairly be judged (N,)."""
    fish = samples.species >= 0
    traits = samples.traits[fish].astype(np.float64)
    near = traits[:, TRAITS.index("range_m")] < FAR_M
    old = traits[:, TRAITS.index("age_s")] >= YOUNG_S
    return traits, _NUMBERS[samples.species[fish]], samples.side_on[fish] & near & old


def learn_classes(learned: Sequence[Samples], aside: Sequence[Samples]) -> ClassForest:
    """Return the forest of classes; `aside` are the waters that its temperature is set on, with classes as often as they are."""
    traits, classes, _ = _all(learned)
    columns = [TRAITS.index(trait) for trait in CLASS_TRAITS]
    own = traits[:, columns]
    forest = forest_of(grow(own, classes, weights_of(classes), of=len(OF_FISH), rounds=ROUNDS, leaves=LEAVES))
    judged, true, _ = _all(aside)
    fitted = replace(forest, warmth=fitting_warmth(forest.sums(np.ascontiguousarray(judged[:, columns])), true, np.ones(len(true))))
    return ClassForest(forest=fitted, typical=_typical(own))


def _typical(traits: FloatArray) -> FloatArray:
    """Return the middle of each trait (F,) of samples (N, F) that have it; not a number where none has."""
    known = [column[np.isfinite(column)] for column in traits.T]
    return np.array([np.median(column) if len(column) else np.nan for column in known])


def weights_of(classes: IntArray) -> FloatArray:
    """Return weights (N,) that make rare classes count more, though not as much as common ones."""
    counts = np.bincount(classes, minlength=len(OF_FISH))
    return np.asarray((len(classes) / np.maximum(counts, 1)[classes]) ** 0.5)


def class_figures(forest: ClassForest, waters: Sequence[Samples]) -> ClassFigures:
    """Return how well classes are told on some waters."""
    traits, classes, fair = _all(waters)
    if not fair.any():
        return ClassFigures(samples=0, f1={}, macro_f1=0.0, error=0.0)
    odds = forest.odds(forest.sums(traits[fair]), Priors())
    true, called, sure = classes[fair], odds.argmax(axis=1), odds.max(axis=1)
    right = called == true
    f1 = {}
    for number, one in enumerate(OF_FISH):
        said, is_one = called == number, true == number
        if is_one.any():
            f1[one.value] = round(float(2.0 * (said & is_one).sum() / (said.sum() + is_one.sum())), 3)
    return ClassFigures(
        samples=len(true), f1=f1, macro_f1=round(float(np.mean(list(f1.values()))), 3), error=calibration_error(sure, right)
    )


def _all(waters: Sequence[Samples]) -> tuple[FloatArray, IntArray, BoolArray]:
    many = [fish_of(one) for one in waters if len(one)]
    return np.concatenate([one[0] for one in many]), np.concatenate([one[1] for one in many]), np.concatenate([one[2] for one in many])
