"""A learned forest: boosted trees that give odds of kinds from traits. Run by a kernel of ours, held to the library that grew it."""

from dataclasses import dataclass

import numpy as np

from mudlamp.core.arrays import FloatArray, IntArray
from mudlamp.core.tracking import _kernels_tracks


@dataclass(frozen=True, slots=True, kw_only=True)
class Forest:
    """Boosted trees: T trees in nodes laid end to end.

    A node asks whether a trait is `threshold` or less (then `left`, else `right`; what is not a number goes left where `missing_left`);
    one without a trait (-1) is a leaf and adds `value` to its tree's class. `first` (T,) are the trees' roots, `of_class` (T,) what they add to;
    `base` (K,) is where the sums begin, `warmth` divides them before odds are taken.
    Source: gradient boosting (Friedman 2001), odds by softmax, calibrated by one temperature (Guo and others 2017).
    """

    trait: IntArray
    threshold: FloatArray
    left: IntArray
    right: IntArray
    missing_left: IntArray
    value: FloatArray
    first: IntArray
    of_class: IntArray
    base: FloatArray
    warmth: float

    def sums(self, traits: FloatArray) -> FloatArray:
        """Return the trees' sums (N, K) for traits (N, F)."""
        out = np.tile(self.base, (len(traits), 1))
        _kernels_tracks.add_trees(
            traits, self.trait, self.threshold, self.left, self.right, self.missing_left, self.value, self.first, self.of_class, out
        )
        return out

    def odds(self, traits: FloatArray) -> FloatArray:
        """Return the odds (N, K) of each class, summing to one, for traits (N, F)."""
        return odds_of(self.sums(traits), self.warmth)


def odds_of(sums: FloatArray, warmth: float) -> FloatArray:
    """Return the odds (N, K) that sums (N, K) stand for: softmax of them by the temperature."""
    scaled = sums / warmth
    shares = np.exp(scaled - scaled.max(axis=1, keepdims=True))
    return np.asarray(shares / shares.sum(axis=1, keepdims=True))
