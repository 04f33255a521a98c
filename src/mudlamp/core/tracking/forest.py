"""A learned forest: boosted trees that give odds of kinds from traits. Run by a kernel of ours, held to the library that grew it."""

from dataclasses import dataclass, field

import numpy as np
import numpy.typing as npt

from mudlamp.core.arrays import BoolArray, FloatArray, IntArray
from mudlamp.core.errors import DomainError
from mudlamp.core.tracking import _kernels_trees

# The kernel keeps a tree's leaves in a word, or in half of one where all trees have few.
MOST_LEAVES, SHORT_LEAVES = 64, 32


@dataclass(frozen=True, slots=True, kw_only=True)
class Questions:
    """A forest's nodes by trait, thresholds rising, as `_kernels_trees.add_leaves` asks them; and its leaves (L,), tree by tree, left to right.

    They are kept in as few bytes as will do: what is asked of every track of every ping should stay near the processor.
    """

    start: IntArray
    threshold: FloatArray
    missing_right: BoolArray
    tree: npt.NDArray[np.int32]
    left_lost: npt.NDArray[np.uint64] | npt.NDArray[np.uint32]
    first_leaf: IntArray
    leaf: FloatArray


@dataclass(frozen=True, slots=True, kw_only=True)
class Forest:
    """Boosted trees: T trees in nodes laid end to end.

    A node asks whether a trait is `threshold` or less (then `left`, else `right`; what is not a number goes left where `missing_left`);
    one without a trait (-1) is a leaf and adds `value` to its tree's class. `first` (T,) are the trees' roots, `of_class` (T,) what they add to;
    `base` (K,) is where the sums begin, `warmth` divides them before odds are taken. Raises DomainError for a tree of over MOST_LEAVES.
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
    questions: Questions = field(init=False, repr=False, compare=False)

    def __post_init__(self) -> None:
        object.__setattr__(self, "questions", _questions(self))

    def sums(self, traits: FloatArray) -> FloatArray:
        """Return the trees' sums (N, K) for traits (N, F)."""
        out = np.tile(self.base, (len(traits), 1))
        asked = self.questions
        _kernels_trees.add_leaves(
            traits,
            asked.start,
            asked.threshold,
            asked.missing_right,
            asked.tree,
            asked.left_lost,
            asked.first_leaf,
            asked.leaf,
            self.of_class,
            asked.left_lost.dtype.type(np.iinfo(asked.left_lost.dtype).max),
            np.empty(len(self.first), asked.left_lost.dtype),
            out,
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


def _questions(forest: Forest) -> Questions:
    nodes: list[int] = []
    trees: list[int] = []
    lost: list[int] = []
    leaves: list[float] = []
    firsts: list[int] = []
    trait, left, right, value = forest.trait.tolist(), forest.left.tolist(), forest.right.tolist(), forest.value.tolist()

    def walk(node: int, tree: int) -> int:
        """Note what lies under a node; return the bits of its leaves."""
        if trait[node] < 0:
            leaves.append(value[node])
            return 1 << (len(leaves) - 1 - firsts[tree])
        under_left = walk(left[node], tree)
        nodes.append(node)
        trees.append(tree)
        lost.append(under_left)
        return under_left | walk(right[node], tree)

    for tree, root in enumerate(forest.first.tolist()):
        firsts.append(len(leaves))
        walk(root, tree)
        if len(leaves) - firsts[tree] > MOST_LEAVES:
            raise DomainError(f"tree {tree} has {len(leaves) - firsts[tree]} leaves: at most {MOST_LEAVES}")
    most = int(np.diff(firsts, append=len(leaves)).max())
    asked = np.array(nodes, dtype=np.int64)
    order = np.lexsort((forest.threshold[asked], forest.trait[asked]))
    rising, bits = asked[order], np.array(lost, dtype=np.uint64)[order]
    return Questions(
        start=np.searchsorted(forest.trait[rising], np.arange(forest.trait.max() + 2)).astype(np.int64),
        threshold=forest.threshold[rising],
        missing_right=forest.missing_left[rising] == 0,
        tree=np.array(trees, dtype=np.int32)[order],
        left_lost=bits.astype(np.uint32) if most <= SHORT_LEAVES else bits,
        first_leaf=np.array(firsts, dtype=np.int64),
        leaf=np.array(leaves),
    )
