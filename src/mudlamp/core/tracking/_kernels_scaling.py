"""Putting traits of any scale onto one: compiled, for a ping has a hundred tracks of a hundred traits."""

import numba
import numpy as np

from mudlamp.core.arrays import FloatArray


@numba.njit(cache=True)
def scale(traits: FloatArray, nodes: FloatArray, heights: FloatArray, out: FloatArray) -> None:
    """Put traits (N, F) through one rising line a trait: from its `nodes` (F, Q) to `heights` (Q,), straight between them, into `out` (N, F).

    What lies past the ends stays at the ends; what is not a number becomes 0; on nodes that are alike lies the middle of their heights.
    """
    last = nodes.shape[1] - 1
    for trait in range(traits.shape[1]):
        line = nodes[trait]
        for row in range(traits.shape[0]):
            value = traits[row, trait]
            if np.isnan(value):
                out[row, trait] = 0.0
                continue
            left, right = np.searchsorted(line, value, side="left"), np.searchsorted(line, value, side="right")
            if left < right:
                out[row, trait] = 0.5 * (heights[left] + heights[right - 1])
            elif left == 0 or left > last:
                out[row, trait] = heights[0] if left == 0 else heights[last]
            else:
                share = (value - line[left - 1]) / (line[left] - line[left - 1])
                out[row, trait] = heights[left - 1] + share * (heights[left] - heights[left - 1])
