"""Search theory: how likely a school is found by how far to the side it was passed, and what lanes of that find.

Source: Koopman (1956), The theory of search: lateral range curve, sweep width, parallel sweeps and random search.
"""

import math
from dataclasses import dataclass

import numpy as np

from mudlamp.core.arrays import FloatArray


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class LateralCurve:
    """The chance of being found (N,) by lateral range (N,) [m], the same on both sides, with how many passes each was measured on (N,)."""

    off_m: FloatArray
    found: FloatArray
    passes: FloatArray

    def at(self, off_m: FloatArray | float) -> FloatArray:
        """Return the chance at lateral ranges (N,) [m], 0 beyond the last that was measured."""
        return np.asarray(np.interp(np.abs(off_m), self.off_m, self.found, right=0.0), dtype=np.float64)

    @property
    def sweep_m(self) -> float:
        """The sweep width [m]: the area under the curve, both sides."""
        return 2.0 * float(np.trapezoid(self.found, self.off_m))

    def parallel(self, spacing_m: float) -> float:
        """Return the share found of targets placed at random among endless parallel lanes so far apart [m], each lane an independent look."""
        off = np.linspace(0.0, spacing_m, 401)
        lanes = np.arange(-math.ceil(self.off_m[-1] / spacing_m) - 1, math.ceil(self.off_m[-1] / spacing_m) + 3)
        missed = np.prod(1.0 - self.at(off[None, :] - lanes[:, None] * spacing_m), axis=0)
        return float(np.mean(1.0 - missed))

    def spacing_for(self, share: float) -> float:
        """Return the widest spacing of parallel lanes [m] that still finds a share; no wider than twice the curve."""
        low, high = 0.5, 2.0 * float(self.off_m[-1])
        if self.parallel(high) >= share:
            return high
        for _ in range(40):
            middle = 0.5 * (low + high)
            low, high = (middle, high) if self.parallel(middle) >= share else (low, middle)
        return low
