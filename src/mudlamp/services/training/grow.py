"""Growing a forest with a library, and taking it over into our own form."""

import numpy as np
from sklearn.ensemble import HistGradientBoostingClassifier

from mudlamp.core.arrays import BoolArray, FloatArray, IntArray
from mudlamp.core.tracking.forest import Forest

PACE = 0.09
LEAST_IN_LEAF = 60
SMOOTH = 5.0
# Each split looks at so many of the traits: trees that differ more generalize better.
TRAITS_SHARE = 0.3
SEED = 0
# Each trait is cut into so many steps. The library sorts all samples once for each step.
MOST_STEPS = 127
BINS = 10
NOTHING = 1e-6
WARMTHS = np.linspace(0.6, 3.0, 49)


def grow(traits: FloatArray, kinds: IntArray, weights: FloatArray, *, of: int, rounds: int, leaves: int) -> HistGradientBoostingClassifier:
    """Return the library's boosted trees of samples: traits (N, F), kinds (N,) numbered from 0 to `of`, weights (N,); the same for the same samples."""
    # The library counts only kinds that it sees: each gets one sample that tells nothing and counts for nothing. Nor can it lay bins over a
    # trait that is hardly ever known: as a trait that never varies it is passed over.
    traits = np.concatenate((traits, np.full((of, traits.shape[1]), np.nan)))
    traits[:, np.isfinite(traits).sum(axis=0) < LEAST_IN_LEAF] = 0.0
    kinds, weights = np.concatenate((kinds, np.arange(of))), np.concatenate((weights, np.full(of, NOTHING)))
    model = HistGradientBoostingClassifier(
        max_iter=rounds,
        max_leaf_nodes=leaves,
        max_bins=MOST_STEPS,
        learning_rate=PACE,
        min_samples_leaf=LEAST_IN_LEAF,
        l2_regularization=SMOOTH,
        max_features=TRAITS_SHARE,
        early_stopping=False,
        random_state=SEED,
    )
    model.fit(traits, kinds, sample_weight=weights)
    return model


def forest_of(model: HistGradientBoostingClassifier, warmth: float = 1.0) -> Forest:
    """Return the library's trees in our own form."""
    nodes = [(number, tree.nodes) for trees in model._predictors for number, tree in enumerate(trees)]
    firsts = np.concatenate(([0], np.cumsum([len(rows) for _, rows in nodes])))
    rows = np.concatenate([rows for _, rows in nodes])
    start = np.repeat(firsts[:-1], [len(rows) for _, rows in nodes])
    leaf = rows["is_leaf"].astype(bool)
    of_class = np.array([number for number, _ in nodes], dtype=np.int64)
    base = np.asarray(model._baseline_prediction, dtype=np.float64).reshape(-1)
    if len(base) == 1:
        # Of two classes the library sums up the second's alone: the first's stays at zero.
        base, of_class = np.array([0.0, base[0]]), np.ones_like(of_class)
    return Forest(
        trait=np.where(leaf, -1, rows["feature_idx"]).astype(np.int64),
        threshold=rows["num_threshold"].astype(np.float64),
        left=np.where(leaf, -1, rows["left"] + start).astype(np.int64),
        right=np.where(leaf, -1, rows["right"] + start).astype(np.int64),
        missing_left=rows["missing_go_to_left"].astype(np.int64),
        value=rows["value"].astype(np.float64),
        first=firsts[:-1].astype(np.int64),
        of_class=of_class,
        base=base,
        warmth=warmth,
    )


def fitting_warmth(sums: FloatArray, kinds: IntArray, weights: FloatArray) -> float:
    """Return the temperature at which odds by sums (N, K) of samples that were not learned on fit these best (least log loss)."""
    if not len(kinds):
        return 1.0
    losses = []
    for warmth in WARMTHS:
        scaled = sums / warmth
        top = scaled.max(axis=1)
        log_total = top + np.log(np.exp(scaled - top[:, None]).sum(axis=1))
        losses.append(float(np.average(log_total - scaled[np.arange(len(kinds)), kinds], weights=weights)))
    return float(WARMTHS[int(np.argmin(losses))])


def calibration_error(sure: FloatArray, right: BoolArray, weights: FloatArray | None = None) -> float:
    """Return the expected calibration error: how far odds (N,) are from the share that is right, by bins of odds (Naeini and others 2015)."""
    weights = np.ones(len(sure)) if weights is None else weights
    bins = np.minimum((sure * BINS).astype(np.int64), BINS - 1)
    total = np.bincount(bins, weights, BINS)
    off = np.abs(np.bincount(bins, weights * right, BINS) - np.bincount(bins, weights * sure, BINS))
    return round(float(off.sum() / total.sum()), 4)
