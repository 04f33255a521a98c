"""A surveyed bottom: depths and kinds of ground on a regular grid, and windows of it."""

import math
from dataclasses import dataclass

import numpy as np

from mudlamp.core.arrays import FloatArray, IntArray
from mudlamp.core.sonar._kernels_ground import ground_depth


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class Survey:
    """A bottom on a grid: south-west node and step [m], depth (north, east) [m] and kind of ground (north, east), by number."""

    west_m: float
    south_m: float
    step_m: float
    depth_m: FloatArray
    kind: IntArray

    def depth_at(self, x_m: float, y_m: float) -> float:
        """Return the depth [m] at a place [m], between the nodes; beyond the grid that of its rim."""
        return float(ground_depth(x_m, y_m, self.west_m, self.south_m, self.step_m, self.depth_m))

    def depths(self, x_m: FloatArray, y_m: FloatArray) -> FloatArray:
        """Return the depths (N,) [m] at (N,) places [m]: the same between the nodes, for many."""
        rows, columns = self.depth_m.shape
        fx = np.clip((np.asarray(x_m) - self.west_m) / self.step_m, 0.0, columns - 1.001)
        fy = np.clip((np.asarray(y_m) - self.south_m) / self.step_m, 0.0, rows - 1.001)
        jx, jy = fx.astype(np.int64), fy.astype(np.int64)
        fx, fy = fx - jx, fy - jy
        upper = self.depth_m[jy, jx] * (1.0 - fx) + self.depth_m[jy, jx + 1] * fx
        lower = self.depth_m[jy + 1, jx] * (1.0 - fx) + self.depth_m[jy + 1, jx + 1] * fx
        return np.asarray(upper * (1.0 - fy) + lower * fy, dtype=np.float64)

    @property
    def nodes_m(self) -> tuple[FloatArray, FloatArray]:
        """The nodes' places east (columns,) and north (rows,) [m]."""
        rows, columns = self.depth_m.shape
        east = self.west_m + self.step_m * np.arange(columns, dtype=np.float64)
        north = self.south_m + self.step_m * np.arange(rows, dtype=np.float64)
        return np.asarray(east, dtype=np.float64), np.asarray(north, dtype=np.float64)

    def window(self, x_m: float, y_m: float, half_m: float) -> "Survey":
        """Return the window of it within `half_m` [m] of a place [m], in a frame whose origin is that place."""
        rows, columns = self.depth_m.shape
        left = max(math.floor((x_m - half_m - self.west_m) / self.step_m), 0)
        right = min(math.ceil((x_m + half_m - self.west_m) / self.step_m), columns - 1)
        low = max(math.floor((y_m - half_m - self.south_m) / self.step_m), 0)
        high = min(math.ceil((y_m + half_m - self.south_m) / self.step_m), rows - 1)
        part = (slice(low, high + 1), slice(left, right + 1))
        return Survey(
            west_m=self.west_m + left * self.step_m - x_m,
            south_m=self.south_m + low * self.step_m - y_m,
            step_m=self.step_m,
            depth_m=self.depth_m[part].copy(),
            kind=self.kind[part].copy(),
        )


# What stands for a bottom without a survey in the kernels.
NO_SURVEY = Survey(west_m=0.0, south_m=0.0, step_m=1.0, depth_m=np.zeros((1, 1)), kind=np.zeros((1, 1), dtype=np.int64))
