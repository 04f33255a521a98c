"""Which detection belongs to which track: gated global nearest neighbor (GNN)."""

import numpy as np

from mudlamp.core.arrays import FloatArray, IntArray

# 99.7 % of true echoes fall inside (chi squared, two degrees of freedom). Source: -2 ln(0.003).
GATE = 11.6


def assign(distance: FloatArray, gate: float = GATE) -> tuple[IntArray, IntArray]:
    """Return the matched (rows, columns) of the cheapest global assignment of an (N, M) cost; pairs outside the gate are not matched.

    Leaving a pair out costs the gate itself, so that a far pair is never forced to save two near ones.
    """
    # Imported here: the optimizers take most of a second to load, and the web process, which never tracks, should not wait for them.
    from scipy.optimize import linear_sum_assignment

    if distance.size == 0:
        nothing = np.zeros(0, dtype=np.int64)
        return nothing, nothing
    rows, columns = linear_sum_assignment(np.minimum(distance, gate))
    kept = distance[rows, columns] < gate
    return rows[kept], columns[kept]
