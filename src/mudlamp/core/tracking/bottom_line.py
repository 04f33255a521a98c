"""The bottom line, learned from pings: the strongest long-standing depth under each stretch of ground."""

import numpy as np

from mudlamp.core.arrays import Float32Array, FloatArray, IntArray
from mudlamp.core.ping import Fan, Ping, SonarSetup
from mudlamp.core.tracking import _kernels

STRETCH_M = 0.4
STEP_M = 0.08
STRETCHES = 200
STEPS = 460
# A bottom returns at least this much [dB re 1 m^2, after TVG, mean of its cells].
LEAST_DB = -50.0
EVERY = 10
KEEP = 0.64
MARGIN_M = 0.22
MARGIN_SHARE = 0.012


class BottomLine:
    """Depth of the bottom by place ahead, on the ground. Nothing is known of it under a Flat fan."""

    def __init__(self) -> None:
        self._mean = np.zeros((STRETCHES, STEPS))
        self._depth: FloatArray | None = None
        self._start_u: float | None = None
        self._pings = 0
        self._last: IntArray | None = None
        self._sonar: SonarSetup | None = None

    def depth_m(self, ahead_m: float) -> float | None:
        """Return the depth of the bottom [m] at a place ahead in the plane [m], or None where it is not known."""
        if self._depth is None or self._start_u is None:
            return None
        i = int((ahead_m - self._start_u) / STRETCH_M)
        if not 0 <= i < STRETCHES or not np.isfinite(self._depth[i]):
            return None
        return float(self._depth[i])

    def last_bins(self, ping: Ping, ahead: FloatArray, down: FloatArray, power: Float32Array) -> IntArray:
        """Learn from a ping's power (beam, range_bin) and return the (beam,) bins at which the bottom, or its dead zone, begins."""
        bins = len(ping.setup.range_m)
        everything = np.full(len(ping.setup.beam_angle_rad), bins, dtype=np.int64)
        if ping.setup.fan is Fan.FLAT:
            return everything
        origin = float(ping.pose.x_m * np.sin(ping.pose.heading_rad) + ping.pose.y_m * np.cos(ping.pose.heading_rad))
        if self._start_u is None:
            self._start_u = origin - 0.4 * STRETCHES * STRETCH_M
        if self._pings % EVERY == 0:
            self._learn(ping, origin, ahead, down, power)
        self._pings += 1
        if self._depth is None:
            return everything
        if self._last is None or self._sonar is not ping.setup or self._pings % EVERY == 1:
            self._last, self._sonar = self._cut(ping, origin, ahead, down, everything), ping.setup
        return self._last

    def _learn(self, ping: Ping, origin: float, ahead: FloatArray, down: FloatArray, power: Float32Array) -> None:
        grid, hits = np.zeros((STRETCHES, STEPS)), np.zeros((STRETCHES, STEPS))
        start = 0.0 if self._start_u is None else self._start_u
        _kernels.ground_map(power, ping.setup.range_m, ahead, down, origin - start, ping.pose.z_m, STRETCH_M, STEP_M, grid, hits)
        seen = hits > 0
        fresh = np.where(seen, grid / np.maximum(hits, 1.0), 0.0)
        first = self._mean == 0.0
        self._mean = np.where(seen, np.where(first, fresh, KEEP * self._mean + (1.0 - KEEP) * fresh), self._mean)
        # The bottom is the deepest strong layer: weigh deeper ones up a little, for a tree's crown is strong too.
        weighed = self._mean * np.linspace(0.3, 1.0, STEPS)
        best = np.argmax(weighed, axis=1)
        strong = self._mean[np.arange(STRETCHES), best] > 10.0 ** (LEAST_DB / 10.0)
        depth = np.where(strong, (best + 0.5) * STEP_M, np.nan)
        self._depth = _smoothed(depth)

    def _cut(self, ping: Ping, origin: float, ahead: FloatArray, down: FloatArray, everything: IntArray) -> IntArray:
        range_m = ping.setup.range_m[::4]
        place = origin + range_m[None, :] * ahead[:, None]
        index = ((place - (self._start_u or 0.0)) / STRETCH_M).astype(np.int64)
        known = (index >= 0) & (index < STRETCHES)
        depth = np.full(place.shape, np.inf)
        if self._depth is not None:
            depth[known] = self._depth[index[known]]
        depth[~np.isfinite(depth)] = np.inf
        limit = depth - MARGIN_M - MARGIN_SHARE * range_m[None, :]
        below = ping.pose.z_m + range_m[None, :] * down[:, None] > limit
        return np.where(below.any(axis=1), 4 * np.argmax(below, axis=1), everything)


def _smoothed(depth: FloatArray) -> FloatArray:
    """Return the running median of five over what is known; gaps stay gaps unless both neighbors know."""
    padded = np.pad(depth, 2, constant_values=np.nan)
    stack = np.stack([padded[i : i + len(depth)] for i in range(5)])
    known = np.isfinite(stack)
    filled = np.where(known, stack, np.inf)
    filled.sort(axis=0)
    count = known.sum(axis=0)
    middle = filled[np.maximum(count - 1, 0) // 2, np.arange(len(depth))]
    return np.where(count >= 3, middle, np.nan)
