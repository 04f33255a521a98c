"""Learning what a track's context says, standing and flat, and the lure's own, on drawn waters that kinds were not learned on; and judging it on kinds of water left out."""

from collections.abc import Sequence
from dataclasses import dataclass, field, replace

import numpy as np

from mudlamp.core.arrays import Float32Array, FloatArray, IntArray
from mudlamp.core.scene.draw import draw_water
from mudlamp.core.score.labels import labels_with_doubles
from mudlamp.core.tracking.context import CONTEXT, PARTED
from mudlamp.core.tracking.forest import Forest
from mudlamp.core.tracking.learned import Learned
from mudlamp.core.tracking.lure_context import LURE_CONTEXT, LURE_OR_NOT
from mudlamp.core.tracking.nets import Panel
from mudlamp.core.tracking.track import KINDS, Kind
from mudlamp.core.tracking.tracker import Tracker
from mudlamp.heads.simulated import SimulatedHead
from mudlamp.services.training.grow import fitting_warmth, forest_of, grow
from mudlamp.services.training.samples import ASIDE, EVERY, thinned
from mudlamp.services.training.waters import Water

ROUNDS, LEAVES = 250, 16
# A second mark of a fish is none of its own, and yet no harm as great as wood that is called fish: it counts for so much of a sample.
DOUBLE_COUNTS = 0.5
# Trees of the lure's context. Of what is this unlikely to be the lure, as the logarithm of the odds, a share is learned on: it is most of all.
LURE_ROUNDS, LURE_LEAVES = 150, 12
FAR_LEAD, FAR_SHARE = -4.0, 0.15


@dataclass(frozen=True, slots=True, kw_only=True)
class ContextSamples:
    """N samples: contexts (N, F), what the tracks are (N,), numbered as in PARTED or in LURE_OR_NOT, and what each counts (N,)."""

    context: Float32Array
    kinds: IntArray
    weights: FloatArray

    def __len__(self) -> int:
        return len(self.kinds)


@dataclass(frozen=True, slots=True, kw_only=True)
class Followed:
    """What a followed water gives to learn from: the `context` of all but the lure, and the context that parts the `lure` from all else, none

    under a flat fan.
    """

    context: ContextSamples
    lure: ContextSamples


@dataclass(slots=True, kw_only=True)
class _Rows:
    """Samples as they come: contexts, kinds, what each counts."""

    context: list[FloatArray] = field(default_factory=list)
    kinds: list[int] = field(default_factory=list)
    counts: list[float] = field(default_factory=list)

    def add(self, context: FloatArray, kind: int, counts: float = 1.0) -> None:
        self.context.append(context)
        self.kinds.append(kind)
        self.counts.append(counts)

    def arrays(self, traits: int) -> tuple[FloatArray, IntArray, FloatArray]:
        """Return contexts (N, traits), kinds (N,) and what each counts (N,)."""
        return np.array(self.context).reshape(-1, traits), np.array(self.kinds, dtype=np.int64), np.array(self.counts)


def gather_context(water: Water, *, kinds: Panel, seconds: float) -> Followed:
    """Return the samples of a drawn water, followed by what was learned of kinds for so long [s]; the hand is known on every second one."""
    drawn = draw_water(water.seed, water.kind, evenly=water.evenly)
    head, tracker = SimulatedHead(drawn.scene, seed=water.seed), Tracker(Learned(kinds=kinds))
    parted, lures = _Rows(), _Rows()
    for number in range(int(seconds * drawn.ping_hz)):
        ping = head.listen(water.after_s + number / drawn.ping_hz)
        hand = head.world.hand()
        views = tracker.update(ping, hand if water.seed % 2 else ())
        if number % EVERY:
            continue
        tracks = {track.number: track for track in tracker.tracks}
        for view, label in zip(views, labels_with_doubles(views, head.rows()), strict=True):
            track = tracks[view.number]
            if label is None:
                continue
            is_lure = label.kind is Kind.LURE
            if track.context is not None and not is_lure:
                parted.add(track.context, PARTED.index(label.kind), DOUBLE_COUNTS if label.double else 1.0)
            # A second mark of the lure is where the lure is, and yet not it.
            if track.lure_context is not None and not (label.double and label.row is not None and label.row.kind == "lure"):
                lures.add(track.lure_context, LURE_OR_NOT.index(Kind.LURE) if is_lure else 0)
    return Followed(
        context=_thinned(*parted.arrays(len(CONTEXT)), water.seed), lure=_lures_weighed(*lures.arrays(len(LURE_CONTEXT)), water.seed)
    )


def learn_lure(waters: Sequence[ContextSamples]) -> Forest:
    """Return the forest that parts the lure from all else; one water in ASIDE is not learned on but sets its temperature."""
    return _learned(waters, of=len(LURE_OR_NOT), rounds=LURE_ROUNDS, leaves=LURE_LEAVES)


def learn_context(waters: Sequence[ContextSamples]) -> Forest:
    """Return the forest of context; one water in ASIDE is not learned on but sets its temperature."""
    return _learned(waters, of=len(PARTED), rounds=ROUNDS, leaves=LEAVES)


def told_of(forest: Forest, waters: Sequence[ContextSamples]) -> tuple[FloatArray, IntArray, FloatArray]:
    """Return the odds (N, K) of each kind, the lure's none, true kinds (N,) numbered as in KINDS, and what each sample counts (N,)."""
    context, kinds, weights = _joined(waters)
    odds = np.zeros((len(kinds), len(KINDS)))
    columns = np.array([KINDS.index(kind) for kind in PARTED])
    odds[:, columns] = forest.odds(context)
    return odds, columns[kinds], weights


def lures_told_of(forest: Forest, waters: Sequence[ContextSamples]) -> tuple[FloatArray, IntArray, FloatArray]:
    """Return the odds (N, 2) of LURE_OR_NOT, what is true (N,), and what each sample counts (N,)."""
    context, kinds, weights = _joined(waters)
    return forest.odds(context), kinds, weights


def _learned(waters: Sequence[ContextSamples], *, of: int, rounds: int, leaves: int) -> Forest:
    """Return the forest of samples, of which one water in ASIDE sets its temperature alone."""
    waters = [one for one in waters if len(one)]
    forest = forest_of(grow(*_joined([one for number, one in enumerate(waters) if number % ASIDE]), of=of, rounds=rounds, leaves=leaves))
    context, kinds, weights = _joined(waters[::ASIDE])
    return replace(forest, warmth=fitting_warmth(forest.sums(context), kinds, weights))


def _thinned(context: FloatArray, kinds: IntArray, counts: FloatArray, seed: int) -> ContextSamples:
    kept, weights = thinned(kinds == PARTED.index(Kind.COVER), np.random.default_rng(seed))
    return ContextSamples(context=context[kept].astype(np.float32), kinds=kinds[kept], weights=counts[kept] * weights)


def _lures_weighed(context: FloatArray, kinds: IntArray, counts: FloatArray, seed: int) -> ContextSamples:
    """Return samples with a share of what is far from being the lure, each of which counts for those left out."""
    far = (kinds == 0) & (context[:, LURE_CONTEXT.index("lure_lead")] < FAR_LEAD)
    kept = ~far | (np.random.default_rng(seed).random(len(kinds)) < FAR_SHARE)
    weights = counts * np.where(far, 1.0 / FAR_SHARE, 1.0)
    return ContextSamples(context=context[kept].astype(np.float32), kinds=kinds[kept], weights=weights[kept])


def _joined(many: Sequence[ContextSamples]) -> tuple[FloatArray, IntArray, FloatArray]:
    """Return contexts (N, F), kinds (N,) and weights (N,) of several."""
    context = np.concatenate([one.context for one in many]).astype(np.float64)
    return context, np.concatenate([one.kinds for one in many]), np.concatenate([one.weights for one in many])
