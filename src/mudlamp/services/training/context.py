"""Learning what a track's context says, on drawn waters that its own kinds were not learned on; and judging it on kinds of water left out."""

from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np

from mudlamp.core.arrays import Float32Array, FloatArray, IntArray
from mudlamp.core.scene.draw import draw_water
from mudlamp.core.score.labels import labels_with_doubles
from mudlamp.core.tracking.classify import KINDS
from mudlamp.core.tracking.context import CONTEXT, PARTED
from mudlamp.core.tracking.forest import Forest
from mudlamp.core.tracking.learned import Learned
from mudlamp.core.tracking.nets import Panel
from mudlamp.core.tracking.track import Kind
from mudlamp.core.tracking.tracker import Tracker
from mudlamp.heads.simulated import SimulatedHead
from mudlamp.services.training.grow import fitting_warmth, forest_of, grow
from mudlamp.services.training.samples import ASIDE, EVERY, Water, thinned

ROUNDS, LEAVES = 250, 16
# A second mark of a fish is none of its own, and yet no harm as great as wood that is called fish: it counts for so much of a sample.
DOUBLE_COUNTS = 0.5


@dataclass(frozen=True, slots=True, kw_only=True)
class ContextSamples:
    """N samples: contexts (N, len(CONTEXT)), what the tracks are (N,) numbered as in PARTED, and what each counts (N,)."""

    context: Float32Array
    kinds: IntArray
    weights: FloatArray

    def __len__(self) -> int:
        return len(self.kinds)


def gather_context(water: Water, *, kinds: Panel, seconds: float) -> ContextSamples:
    """Return the samples of a drawn water, followed by what was learned of kinds for so long [s]; the hand is known on every second one."""
    drawn = draw_water(water.seed, water.kind, evenly=water.evenly)
    head, tracker = SimulatedHead(drawn.scene, seed=water.seed), Tracker(Learned(kinds=kinds))
    rows: list[FloatArray] = []
    found: list[int] = []
    counts: list[float] = []
    for number in range(int(seconds * drawn.ping_hz)):
        ping = head.listen(water.after_s + number / drawn.ping_hz)
        hand = head.world.hand()
        views = tracker.update(ping, hand if water.seed % 2 else ())
        if number % EVERY:
            continue
        tracks = {track.number: track for track in tracker.tracks}
        for view, label in zip(views, labels_with_doubles(views, head.rows()), strict=True):
            context = tracks[view.number].context
            if label is None or label.kind is Kind.LURE or context is None or view.coasting:
                continue
            rows.append(context)
            found.append(PARTED.index(label.kind))
            counts.append(DOUBLE_COUNTS if label.double else 1.0)
    return _thinned(np.array(rows).reshape(-1, len(CONTEXT)), np.array(found, dtype=np.int64), np.array(counts), water.seed)


def learn_context(waters: Sequence[ContextSamples]) -> Forest:
    """Return the forest of context; one water in ASIDE is not learned on but sets its temperature."""
    waters = [one for one in waters if len(one)]
    forest = forest_of(
        grow(*_joined([one for number, one in enumerate(waters) if number % ASIDE]), of=len(PARTED), rounds=ROUNDS, leaves=LEAVES)
    )
    context, kinds, weights = _joined(waters[::ASIDE])
    return replace(forest, warmth=fitting_warmth(forest.sums(context), kinds, weights))


def told_of(forest: Forest, waters: Sequence[ContextSamples]) -> tuple[FloatArray, IntArray, FloatArray]:
    """Return the odds (N, K) of each kind, the lure's none, true kinds (N,) numbered as in KINDS, and what each sample counts (N,)."""
    context, kinds, weights = _joined(waters)
    odds = np.zeros((len(kinds), len(KINDS)))
    columns = np.array([KINDS.index(kind) for kind in PARTED])
    odds[:, columns] = forest.odds(context)
    return odds, columns[kinds], weights


def _thinned(context: FloatArray, kinds: IntArray, counts: FloatArray, seed: int) -> ContextSamples:
    kept, weights = thinned(kinds == PARTED.index(Kind.COVER), np.random.default_rng(seed))
    return ContextSamples(context=context[kept].astype(np.float32), kinds=kinds[kept], weights=counts[kept] * weights)


def _joined(many: Sequence[ContextSamples]) -> tuple[FloatArray, IntArray, FloatArray]:
    """Return contexts (N, F), kinds (N,) and weights (N,) of several."""
    context = np.concatenate([one.context for one in many]).astype(np.float64)
    return context, np.concatenate([one.kinds for one in many]), np.concatenate([one.weights for one in many])
