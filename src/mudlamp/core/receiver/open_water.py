"""Open water: which cells of a ping are neither bottom nor cover, learned from the mean of its pings."""

import math

import numpy as np

from mudlamp.core.arrays import BoolArray, Float32Array, FloatArray
from mudlamp.core.ping import Ping, SonarSetup
from mudlamp.core.receiver.law import tvg_db

# Open water is what is weaker than this on the mean of the pings [dB re 1 m^2, after TVG]: bottom and cover are stronger.
SOLID_DB = -53.0
SOLID_EVERY = 6


class OpenWater:
    """Learns from pings of one sonar set-up where open water is; a ping of another set-up starts it afresh."""

    def __init__(self) -> None:
        self._sonar: SonarSetup | None = None
        self._pings = 0
        self._tvg: FloatArray = np.zeros(0)
        self._mean_power: Float32Array | None = None
        self._water: BoolArray | None = None

    def learn(self, ping: Ping) -> None:
        """Take in a ping."""
        if self._sonar is not ping.setup:
            self._sonar = ping.setup
            self._tvg = tvg_db(ping.setup.range_m, ping.setup.absorption_db_m)
            self._mean_power = self._water = None
        self._pings += 1
        if self._mean_power is not None and self._pings % 3:
            return
        power = np.exp((ping.echo_level_db + self._tvg.astype(np.float32)) * np.float32(math.log(10.0) / 10.0))
        self._mean_power = power if self._mean_power is None else self._mean_power + np.float32(0.1) * (power - self._mean_power)

    def cells(self) -> BoolArray | None:
        """Return which cells (beam, range_bin) are open water; None before the first ping."""
        if self._mean_power is None:
            return None
        if self._water is None or self._pings % SOLID_EVERY == 1:
            solid = _box_mean(self._mean_power) > 10.0 ** (SOLID_DB / 10.0)
            # Beyond the first long run of bottom in a beam there is no open water.
            self._water = ~solid & ~np.maximum.accumulate(_run_of(solid, 14), axis=1)
        return self._water


def _box_mean(power: Float32Array) -> Float32Array:
    """Return the mean power of a box of 7 beams by 9 bins about each cell; at the rim, of the part inside."""
    smooth = power
    for axis, half in ((0, 3), (1, 4)):
        total = np.cumsum(smooth, axis=axis, dtype=np.float64)
        total = np.concatenate((np.zeros_like(np.take(total, [0], axis=axis)), total), axis=axis)
        length = smooth.shape[axis]
        low, high = np.maximum(np.arange(length) - half, 0), np.minimum(np.arange(length) + half + 1, length)
        width = (high - low).reshape((-1, 1) if axis == 0 else (1, -1))
        smooth = ((np.take(total, high, axis=axis) - np.take(total, low, axis=axis)) / width).astype(np.float32)
    return smooth


def _run_of(mask: BoolArray, length: int) -> BoolArray:
    """Return where a run of at least `length` true cells along range ends."""
    total = np.cumsum(mask, axis=1, dtype=np.int32)
    run = np.zeros(mask.shape, dtype=bool)
    run[:, length:] = total[:, length:] - total[:, :-length] == length
    return run
