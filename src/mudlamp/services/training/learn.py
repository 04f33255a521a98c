"""Learning the tracker's kinds and classes on drawn waters, and judging what was learned on kinds of water that were left out."""

from collections.abc import Callable, Sequence
from dataclasses import asdict, dataclass, replace
from functools import partial
from pathlib import Path
from typing import Literal, TypeVar

import numpy as np

from mudlamp.core.arrays import BoolArray, FloatArray, IntArray
from mudlamp.core.errors import DomainError
from mudlamp.core.scene.kinds_of_water import NEVER_LEARNED
from mudlamp.core.tracking.forest import Forest
from mudlamp.core.tracking.hand_watch import HAND_TRAITS
from mudlamp.core.tracking.learned import Learned
from mudlamp.core.tracking.lure_context import LURE_OR_NOT
from mudlamp.core.tracking.nets import Panel
from mudlamp.core.tracking.track import COVER, KINDS, Kind
from mudlamp.core.tracking.traits import TRAITS
from mudlamp.services.crew import Crew
from mudlamp.services.training.classes import ClassFigures, class_figures, learn_classes
from mudlamp.services.training.context import Followed, gather_context, learn_context, learn_lure, lures_told_of, told_of
from mudlamp.services.training.grow import calibration_error, fitting_warmth, forest_of, grow
from mudlamp.services.training.lengths import LengthFigures, learn_lengths, length_figures
from mudlamp.services.training.nets import learn_nets, panel_of
from mudlamp.services.training.samples import ASIDE, Samples, code_digest, samples_of, thinned
from mudlamp.services.training.waters import Water, context_waters, is_flat, left_out_flat, waters_of

Made = TypeVar("Made")

# Trees of kinds: so many a kind, of so many leaves.
ROUNDS, LEAVES = 300, 20
# A look at a track that an angler corrected counts for so many samples: there are few of them, and they are of the angler's own water.
AS_MANY = 20
# What is about a lure shows over a whole shot: waters for context are followed so many times as long.
CONTEXT_TIMES = 1.5
# Of all the time so much goes into the traits, so much into context, the rest into context under a flat fan.
TRAITS_SHARE, CONTEXT_SHARE = 0.65, 0.23


@dataclass(frozen=True, slots=True, kw_only=True)
class KindFigures:
    """How well a kind is told on waters of kinds never learned on: of those that are it, how many are called it; of those called it, how many are."""

    samples: int
    recall: float
    precision: float


@dataclass(frozen=True, slots=True, kw_only=True)
class ContextFigures:
    """How well kinds are told in context, learned on so many more waters, each followed so long [s], by what code."""

    code: str
    seconds: float
    waters: int
    last_seed: int
    kinds: dict[str, KindFigures]
    error: float


@dataclass(frozen=True, slots=True, kw_only=True)
class Card:
    """What was learned on what, and how good it is: `kinds` are told by one look, in `context` by all so far and by what is about;

    `error` is the expected calibration error of the likeliest kind; `corrected` are looks at tracks that anglers corrected.
    """

    code: str
    seconds: float
    learned_waters: int
    first_seed: int
    last_seed: int
    left_out: Sequence[str]
    judged_waters: int
    samples: dict[str, int]
    corrected: int
    warmth: float
    kinds: dict[str, KindFigures]
    error: float
    context: ContextFigures
    flat: ContextFigures
    classes: ClassFigures
    lengths: LengthFigures


@dataclass(frozen=True, slots=True, kw_only=True)
class Weighed:
    """Samples with what each counts (N,)."""

    samples: Samples
    weights: FloatArray


def learn(
    *,
    waters: int,
    seconds: float,
    folder: Path,
    workers: int,
    corrections: Sequence[Samples] = (),
    cluster: str | None = None,
    progress: Callable[[float], None] | None = None,
) -> tuple[Learned, Card]:
    """Return the forests grown on the first drawn waters and what anglers corrected, and their card; the same for the same waters and code.

    The waters are shared out among `workers` processes, or a `cluster`.
    """
    usual, like_them, judged_on = waters_of(waters)
    asked = usual + like_them + judged_on
    tell = progress or (lambda share: None)
    with Crew(workers=workers, cluster=cluster) as crew:
        made = _made(crew, partial(samples_of, seconds=seconds, folder=folder), asked, lambda share: tell(TRAITS_SHARE * share))
    judged = [samples for samples in made[len(usual) + len(like_them) :] if len(samples)]
    pairs = [(water, _thinned(samples, water.seed)) for water, samples in zip(asked[: -len(judged_on)], made, strict=False) if len(samples)]
    kept_aside = {water.seed for water in usual[::ASIDE]}
    aside = [one for water, one in pairs if water.seed in kept_aside and water in usual]
    learned = [one for water, one in pairs if water.seed not in kept_aside]
    learned += [_repeated(samples) for samples in corrections]
    panel = _kinds(learned, aside)
    own, others = [one.samples for one in learned], [one.samples for one in aside]
    classes, lengths = learn_classes(own, others), learn_lengths(own, others)
    traits, kinds, weights = _joined([_thinned(one, 0) for one in judged])
    figures, error = _figures(panel.odds(traits), kinds, weights, names=[kind.value for kind in KINDS])
    context, lure, in_context = _in_context(
        panel,
        waters,
        seconds=CONTEXT_TIMES * seconds,
        workers=workers,
        cluster=cluster,
        tell=lambda share: tell(TRAITS_SHARE + CONTEXT_SHARE * share),
    )
    flat, in_flat = _in_flat(
        panel,
        waters,
        seconds=seconds,
        workers=workers,
        cluster=cluster,
        tell=lambda share: tell(1.0 - (1.0 - TRAITS_SHARE - CONTEXT_SHARE) * (1.0 - share)),
    )
    counts = np.bincount(_joined(learned)[1], minlength=len(KINDS))
    card = Card(
        code=code_digest(),
        seconds=seconds,
        learned_waters=len(learned),
        first_seed=asked[0].seed,
        last_seed=max(water.seed for water in asked),
        left_out=sorted(str(kind) for kind in NEVER_LEARNED),
        judged_waters=len(judged),
        corrected=sum(map(len, corrections)),
        samples={kind.value: int(count) for kind, count in zip(KINDS, counts, strict=True)},
        warmth=panel.warmth,
        kinds=figures,
        error=error,
        context=in_context,
        flat=in_flat,
        classes=class_figures(classes, judged),
        lengths=length_figures(lengths, judged, learned_on=len(learned)),
    )
    return Learned(kinds=panel, context=context, flat=flat, lure=lure, classes=classes, lengths=lengths), card


def learn_in_context(
    learned: Learned,
    card: Card,
    *,
    only: Literal["context", "flat"],
    waters: int,
    workers: int,
    cluster: str | None = None,
    progress: Callable[[float], None] | None = None,
) -> tuple[Learned, Card]:
    """Return what was learned, with what weighs its kinds in context, or that under a flat fan, learned anew, and its card.

    `waters` as when its kinds were learned.

    Raises DomainError where no kinds are learned, or on other waters.
    """
    if learned.kinds is None:
        raise DomainError(f"--only is {only}: no kinds are learned yet that context could weigh: run ./lamp train tracker")
    last = max(water.seed for many in waters_of(waters) for water in many)
    if card.last_seed != last:
        raise DomainError(f"--waters is {waters}: kinds were learned on other waters, up to seed {card.last_seed} and not {last}")
    tell = progress or (lambda share: None)
    if only == "flat":
        flat, figures = _in_flat(learned.kinds, waters, seconds=card.seconds, workers=workers, cluster=cluster, tell=tell)
        return replace(learned, flat=flat), replace(card, flat=figures)
    context, lure, figures = _in_context(
        learned.kinds, waters, seconds=CONTEXT_TIMES * card.seconds, workers=workers, cluster=cluster, tell=tell
    )
    return replace(learned, context=context, lure=lure), replace(card, context=figures)


def _in_context(
    panel: Panel, waters: int, *, seconds: float, workers: int, cluster: str | None, tell: Callable[[float], None]
) -> tuple[Forest, Forest, ContextFigures]:
    """Return the forests of context and of the lure's, on waters after those that a panel of so many was learned on, and how good they are."""
    after, judged = _learned_before(waters)
    more, _ = context_waters(waters, after=after)
    standing = [water for water in judged if not is_flat(water)]
    learned, to_judge = _followed(panel, more, standing, seconds=seconds, workers=workers, cluster=cluster, tell=tell)
    context, lure = learn_context([one.context for one in learned]), learn_lure([one.lure for one in learned])
    figures = _context_figures(context, to_judge, learned_on=more, seconds=seconds)
    lures, _ = _figures(*lures_told_of(lure, [one.lure for one in to_judge]), names=LURE_OR_NOT)
    return context, lure, replace(figures, kinds=figures.kinds | {Kind.LURE.value: lures[Kind.LURE.value]})


def _in_flat(
    panel: Panel, waters: int, *, seconds: float, workers: int, cluster: str | None, tell: Callable[[float], None]
) -> tuple[Forest, ContextFigures]:
    """Return the forest of context under a flat fan, and how good it is on the flat kind of water that is left out; the lure is told without."""
    after, judged = _learned_before(waters)
    _, more = context_waters(waters, after=after)
    learned, to_judge = _followed(panel, more, left_out_flat(judged), seconds=seconds, workers=workers, cluster=cluster, tell=tell)
    flat = learn_context([one.context for one in learned])
    return flat, _context_figures(flat, to_judge, learned_on=more, seconds=seconds)


def _learned_before(waters: int) -> tuple[int, list[Water]]:
    """Return the last seed that so many waters are learned and judged by, and those to judge by."""
    usual, like_them, judged = waters_of(waters)
    return max(water.seed for water in usual + like_them + judged), judged


def _followed(
    panel: Panel,
    learned: Sequence[Water],
    judged: Sequence[Water],
    *,
    seconds: float,
    workers: int,
    cluster: str | None,
    tell: Callable[[float], None],
) -> tuple[list[Followed], list[Followed]]:
    """Return what waters to learn on and to judge by give, followed by a panel for so long [s]."""
    with Crew(workers=workers, cluster=cluster) as crew:
        followed = _made(crew, partial(gather_context, kinds=panel, seconds=seconds), [*learned, *judged], tell)
    return followed[: len(learned)], followed[len(learned) :]


def _context_figures(forest: Forest, judged: Sequence[Followed], *, learned_on: Sequence[Water], seconds: float) -> ContextFigures:
    """Return how well a forest of context tells the kinds that it parts."""
    kinds, error = _figures(*told_of(forest, [one.context for one in judged]), names=[kind.value for kind in KINDS])
    return ContextFigures(
        code=code_digest(),
        seconds=seconds,
        waters=len(learned_on),
        last_seed=max(water.seed for water in learned_on),
        kinds=kinds,
        error=error,
    )


def _made(crew: Crew, work: Callable[[Water], Made], waters: Sequence[Water], tell: Callable[[float], None]) -> list[Made]:
    """Return what a crew makes of each water, telling how far it is."""
    made: list[Made] = []
    for one in crew.each(work, waters):
        made.append(one)
        tell(len(made) / len(waters))
    return made


def _kinds(learned: Sequence[Weighed], aside: Sequence[Weighed]) -> Panel:
    traits, kinds, weights = _joined(learned)
    forest = forest_of(grow(traits, kinds, weights, of=len(KINDS), rounds=ROUNDS, leaves=LEAVES))
    nets = learn_nets(traits, kinds, weights, of=len(KINDS))
    traits, kinds, weights = _joined(aside)
    forest = replace(forest, warmth=fitting_warmth(forest.sums(traits), kinds, weights))
    return panel_of(forest, nets, traits, kinds, weights)


def as_json(card: Card) -> dict[str, object]:
    """Return a card as plain values."""
    return asdict(card)


def _thinned(samples: Samples, seed: int) -> Weighed:
    """Return samples with no more cover than MOST_COVER, each of which counts for those left out, and the hand unknown in every second one."""
    rng = np.random.default_rng(seed)
    kept, weights = thinned(samples.kinds == COVER, rng)
    samples = samples.chosen(kept)
    traits = samples.traits.copy()
    unknown = rng.random(len(traits)) < 0.5
    first = TRAITS.index(HAND_TRAITS[0])
    traits[np.ix_(unknown, np.arange(first, first + len(HAND_TRAITS)))] = np.nan
    return Weighed(samples=replace(samples, traits=traits), weights=weights)


def _repeated(samples: Samples) -> Weighed:
    """Return what anglers corrected, each look so often that it is not outvoted."""
    many = samples.chosen(np.repeat(np.arange(len(samples)), AS_MANY))
    return Weighed(samples=many, weights=np.ones(len(many)))


def _joined(many: Sequence[Weighed]) -> tuple[FloatArray, IntArray, FloatArray]:
    """Return traits (N, F), kinds (N,) and weights (N,) of several."""
    traits = np.concatenate([one.samples.traits for one in many]).astype(np.float64)
    return traits, np.concatenate([one.samples.kinds for one in many]), np.concatenate([one.weights for one in many])


def _figures(odds: FloatArray, kinds: IntArray, weights: FloatArray, *, names: Sequence[str]) -> tuple[dict[str, KindFigures], float]:
    """Return how well each kind is told by odds (N, K) of those named, and the expected calibration error."""
    called, sure = odds.argmax(axis=1), odds.max(axis=1)
    right = called == kinds
    figures = {
        name: KindFigures(
            samples=int((kinds == number).sum()),
            recall=_share(right, weights, kinds == number),
            precision=_share(right, weights, called == number),
        )
        for number, name in enumerate(names)
    }
    return figures, calibration_error(sure, right, weights)


def _share(right: BoolArray, weights: FloatArray, chosen: BoolArray) -> float:
    return round(float(np.average(right[chosen], weights=weights[chosen])), 3) if chosen.any() else 0.0
