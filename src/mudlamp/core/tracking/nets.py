"""Learned networks beside the trees: each errs in its own way, and together they err less."""

from dataclasses import dataclass

import numpy as np

from mudlamp.core.arrays import BoolArray, FloatArray
from mudlamp.core.tracking import _kernels_scaling
from mudlamp.core.tracking.forest import Forest, odds_of

# How much the networks count beside the trees.
NETS_SHARE = 0.5


@dataclass(frozen=True, slots=True, kw_only=True)
class Net:
    """A network: each layer's weights (inputs, outputs) and what is added (outputs,); between layers what is below zero becomes zero."""

    weights: tuple[FloatArray, ...]
    added: tuple[FloatArray, ...]

    def sums(self, inputs: FloatArray) -> FloatArray:
        """Return the sums (N, K) for inputs (N, F), odds by softmax. Source: multi-layer perceptron, rectified units (Goodfellow and others 2016)."""
        values = inputs @ self.weights[0] + self.added[0]
        for weights, added in zip(self.weights[1:], self.added[1:], strict=True):
            values = np.maximum(values, 0.0) @ weights + added
        return values


@dataclass(frozen=True, slots=True, kw_only=True)
class Nets:
    """Networks and how traits come to them: scaled by `nodes` (F, Q) and `heights` (Q,), with a flag for each of the `blank` (F,) that is not known.

    `warmth` is the temperature of their odds together with the trees'.
    """

    nodes: FloatArray
    heights: FloatArray
    blank: BoolArray
    nets: tuple[Net, ...]
    warmth: float

    def inputs(self, traits: FloatArray) -> FloatArray:
        """Return what the networks are given (N, F and the flags) for traits (N, F)."""
        scaled = np.empty(traits.shape)
        _kernels_scaling.scale(np.ascontiguousarray(traits, dtype=np.float64), self.nodes, self.heights, scaled)
        return np.hstack((scaled, np.isnan(traits[:, self.blank])))

    def sums(self, traits: FloatArray) -> FloatArray:
        """Return the mean of the networks' sums (N, K) for traits (N, F)."""
        inputs = self.inputs(traits)
        return np.asarray(np.mean([net.sums(inputs) for net in self.nets], axis=0))


@dataclass(frozen=True, slots=True, kw_only=True)
class Panel:
    """Trees and, where they were learned too, networks, that tell kinds together: odds by the mean of their logarithms.

    Source: logarithmic opinion pool (Genest and Zidek 1986).
    """

    forest: Forest
    nets: Nets | None = None

    @property
    def warmth(self) -> float:
        """What divides the sums before odds are taken."""
        return self.forest.warmth if self.nets is None else self.nets.warmth

    def sums(self, traits: FloatArray) -> FloatArray:
        """Return sums (N, K) for traits (N, F): of the trees alone, or of both."""
        sums = self.forest.sums(traits)
        if self.nets is None:
            return sums
        return (1.0 - NETS_SHARE) * sums / self.forest.warmth + NETS_SHARE * self.nets.sums(traits)

    def odds(self, traits: FloatArray) -> FloatArray:
        """Return the odds (N, K) of each kind, summing to one, for traits (N, F)."""
        return odds_of(self.sums(traits), self.warmth)
