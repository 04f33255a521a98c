"""Kernel of trees: which leaf of each tree a row of traits comes to."""

import math

import numpy as np
from numba import njit

# The number of the lowest bit of a power of two, by multiplication. Source: de Bruijn sequence (Leiserson, Prokop and Randall 1998).
_SPREAD = 0x03F79D71B4CB0A89
_PLACE = np.zeros(64, np.int64)
for _bit in range(64):
    _PLACE[((_SPREAD << _bit) & 0xFFFFFFFFFFFFFFFF) >> 58] = _bit


@njit(cache=True, nogil=True)
def add_leaves(traits, start, threshold, missing_right, tree, left_lost, first_leaf, leaf, of_class, all_open, open_leaves, out):
    """Add to each row (N, K) the leaf of every tree that its traits (N, F) come to.

    The nodes of trait q lie from `start[q]` to `start[q + 1]`, thresholds rising: those under the trait's value send to the right, and
    the leaves under their left branch are lost (a bit each, the leftmost leaf's the lowest, in `left_lost`). Of what stays open in a tree
    the leftmost is the one. `open_leaves` is scratch, one a tree, `all_open` what stands in
    it at first. No branch hangs on what is unlikely to be foreseen.
    Source: QuickScorer (Lucchese and others 2015).
    """
    trees = len(of_class)
    for n in range(len(traits)):
        open_leaves[:] = all_open
        for q in range(len(start) - 1):
            x = traits[n, q]
            low, high = start[q], start[q + 1]
            if math.isnan(x):
                for i in range(low, high):
                    if missing_right[i]:
                        open_leaves[tree[i]] &= ~left_lost[i]
                continue
            stop = low
            while stop < high:
                middle = (stop + high) >> 1
                if threshold[middle] < x:
                    stop = middle + 1
                else:
                    high = middle
            for i in range(low, stop):
                open_leaves[tree[i]] &= ~left_lost[i]
        for t in range(trees):
            left = np.uint64(open_leaves[t])
            lowest = left & (~left + np.uint64(1))
            bit = _PLACE[(lowest * np.uint64(_SPREAD)) >> np.uint64(58)]
            out[n, of_class[t]] += leaf[first_leaf[t] + bit]
