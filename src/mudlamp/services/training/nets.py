"""Learning networks beside the trees with a library, and taking them over into our own form."""

import warnings
from dataclasses import replace

import numpy as np
from joblib import Parallel, delayed
from scipy.special import ndtri
from sklearn.neural_network import MLPClassifier

from mudlamp.core.arrays import FloatArray, IntArray
from mudlamp.core.tracking.forest import Forest
from mudlamp.core.tracking.nets import Net, Nets, Panel
from mudlamp.services.training.grow import fitting_warmth

# The hidden layers of each network: those that differ err differently.
SHAPES = ((256,), (96, 48))
ROUNDS, BATCH, PACE, SMALL_WEIGHTS = 8, 1024, 1e-3, 1e-4
# Traits are scaled by so many of their quantiles, taken of so many samples, to what is normally distributed, and no farther out than this.
QUANTILES, FARTHEST, SCALED_BY = 65, 3.0, 50_000


def learn_nets(traits: FloatArray, kinds: IntArray, weights: FloatArray, *, of: int) -> Nets:
    """Return networks learned of samples: traits (N, F), kinds (N,) numbered from 0 to `of`, weights (N,); the same for the same samples.

    Their temperature is not set yet. Source: quantile scaling (common practice), Adam (Kingma and Ba 2015).
    """
    counts = weights / weights.sum()
    some = np.random.default_rng(0).choice(len(traits), min(SCALED_BY, len(traits)), p=counts)
    levels = np.linspace(0.0, 1.0, QUANTILES)
    heights = np.clip(ndtri(levels), -FARTHEST, FARTHEST)
    known = np.where(np.isfinite(traits[some]).any(axis=0), traits[some], 0.0)
    nodes = np.ascontiguousarray(np.nanquantile(known, levels, axis=0).T)
    nets = Nets(nodes=nodes, heights=heights, blank=np.asarray(np.isnan(traits).any(axis=0)), nets=(), warmth=1.0)
    inputs = nets.inputs(traits).astype(np.float32)
    learned = Parallel(n_jobs=len(SHAPES))(
        delayed(_learn)(inputs, kinds, counts, of, shape, seed) for seed, shape in enumerate(SHAPES, start=1)
    )
    return replace(nets, nets=tuple(learned))


def panel_of(forest: Forest, nets: Nets, traits: FloatArray, kinds: IntArray, weights: FloatArray) -> Panel:
    """Return trees and networks as one, at the temperature that fits samples that neither was learned on best."""
    panel = Panel(forest=forest, nets=nets)
    return Panel(forest=forest, nets=replace(nets, warmth=fitting_warmth(panel.sums(traits), kinds, weights)))


def _learn(inputs: FloatArray, kinds: IntArray, counts: FloatArray, of: int, shape: tuple[int, ...], seed: int) -> Net:
    """Return a network of hidden layers of a shape. Each round takes as many samples as there are, each as often

    as it counts, in an order by the seed; steps shrink to none.
    """
    rng = np.random.default_rng(seed)
    model = MLPClassifier(shape, alpha=SMALL_WEIGHTS, batch_size=BATCH, learning_rate_init=PACE, random_state=0)
    with warnings.catch_warnings():
        # The library's own loop would say that it stops early: that is meant.
        warnings.simplefilter("ignore")
        for number in range(ROUNDS):
            order = rng.choice(len(kinds), len(kinds), p=counts)
            for first in range(0, len(order), BATCH):
                chosen = order[first : first + BATCH]
                model.partial_fit(inputs[chosen], kinds[chosen], classes=np.arange(of))
                model._optimizer.learning_rate_init = PACE * (1.0 - (number + first / len(order)) / ROUNDS)
    return Net(
        weights=tuple(one.astype(np.float64) for one in model.coefs_), added=tuple(one.astype(np.float64) for one in model.intercepts_)
    )
