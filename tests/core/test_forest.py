"""The forest: which leaves rows come to, against a walk from node to node, and what it refuses."""

import math

import numpy as np
import pytest

from mudlamp.core.errors import DomainError
from mudlamp.core.tracking import _kernels_trees
from mudlamp.core.tracking.forest import MOST_LEAVES, SHORT_LEAVES, Forest


def forest_of(trait, threshold, left, right, missing_left, value, first, of_class, classes=2):
    """A forest of lists, its sums beginning at nothing."""
    whole = (np.array(part, dtype=np.int64) for part in (trait, left, right, missing_left, first, of_class))
    names = ("trait", "left", "right", "missing_left", "first", "of_class")
    return Forest(
        **dict(zip(names, whole, strict=True)),
        threshold=np.array(threshold, float), value=np.array(value, float), base=np.zeros(classes), warmth=1.0,
    )  # fmt: skip


def test_what_is_not_known_goes_where_it_was_told_to():
    # One tree for each of two classes: trait 0 at most 1.5; what is not a number goes left in the first, right in the second.
    forest = forest_of(
        [0, -1, -1, 0, -1, -1], [1.5, 0, 0, 1.5, 0, 0], [1, -1, -1, 4, -1, -1], [2, -1, -1, 5, -1, -1], [1, 0, 0, 0, 0, 0],
        [0, 10, 20, 0, 1, 2], [0, 3], [0, 1],
    )  # fmt: skip
    np.testing.assert_array_equal(forest.sums(np.array([[1.5], [1.6], [np.nan]])), [[10.0, 1.0], [20.0, 2.0], [10.0, 2.0]])


def drawn_tree(rng, splits):
    """The nodes of a tree that was split at random so often: trait, threshold, left, right, missing_left, value."""
    nodes = [[-1, 0.0, -1, -1, 0, rng.normal()]]
    for _ in range(splits):
        leaf = rng.choice([number for number, node in enumerate(nodes) if node[0] < 0])
        # Thresholds and traits are small whole numbers: many rows lie on one.
        nodes[leaf][:5] = [int(rng.integers(4)), float(rng.integers(-2, 3)), len(nodes), len(nodes) + 1, int(rng.integers(2))]
        nodes += [[-1, 0.0, -1, -1, 0, rng.normal()] for _ in range(2)]
    return nodes


@pytest.mark.parametrize("splits", [0, 1, 5, 19, SHORT_LEAVES - 1, SHORT_LEAVES, MOST_LEAVES - 1])
def test_rows_come_to_the_leaf_that_a_walk_from_node_to_node_ends_at(splits):
    rng = np.random.default_rng(splits)
    trees = [drawn_tree(rng, splits) for _ in range(9)]
    firsts = [number * len(trees[0]) for number in range(9)]
    moved = [[*node[:2], node[2] + first, node[3] + first, *node[4:]] for tree, first in zip(trees, firsts, strict=True) for node in tree]
    forest = forest_of(*zip(*moved, strict=True), firsts, [number % 2 for number in range(9)])
    rows = rng.integers(-3, 4, (40, 4)).astype(float)
    rows[rng.random(rows.shape) < 0.2] = np.nan

    def leaf(nodes, row):
        node = nodes[0]
        while node[0] >= 0:
            x = row[node[0]]
            node = nodes[node[2] if (node[4] if math.isnan(x) else x <= node[1]) else node[3]]
        return node[5]

    walked = [[sum(leaf(tree, row) for tree in trees[one::2]) for one in (0, 1)] for row in rows]
    np.testing.assert_allclose(forest.sums(rows), walked, rtol=1e-12)
    asked, out = forest.questions, np.zeros((40, 2))
    # Trees with few leaves are kept in half a word.
    kept = asked.left_lost.dtype.type
    assert kept is (np.uint32 if splits < SHORT_LEAVES else np.uint64)
    with np.errstate(over="ignore"):
        _kernels_trees.add_leaves.py_func(
            rows, asked.start, asked.threshold, asked.missing_right, asked.tree, asked.left_lost, asked.first_leaf, asked.leaf,
            forest.of_class, kept(np.iinfo(kept).max), np.empty(9, kept), out,
        )  # fmt: skip
    np.testing.assert_allclose(out, walked, rtol=1e-12)


def test_a_tree_with_more_leaves_than_fit_a_word_is_refused():
    nodes = drawn_tree(np.random.default_rng(1), MOST_LEAVES)
    with pytest.raises(DomainError, match=f"tree 0 has {MOST_LEAVES + 1} leaves: at most {MOST_LEAVES}"):
        forest_of(*zip(*nodes, strict=True), [0], [0])
