"""Predicted multipath: where, from the strong echoes and the bottom of a ping, false ones are to be expected."""

import math

import numpy as np

from mudlamp.core.arrays import Float32Array, FloatArray
from mudlamp.core.ping import Fan, Ping
from mudlamp.core.plane import FanPlane
from mudlamp.core.receiver import _kernels

# An echo this strong after TVG throws a bounce that would show [dB re 1 m^2].
STRONG_DB = -46.0
# Echoes on a bounce's place must be nearer to its source than this, by the step of Ghost cut [dB].
UNDER_DB = {34.0: 20.0, 28.0: 15.0, 22.0: 11.0}
SPREAD_M = 0.06
GONE_DB = np.float32(-300.0)
PLUMB_RAD = math.radians(20.0)
NEVER_DB = np.float32(-1e6)


def bottom_under_m(level: Float32Array, tvg_db: FloatArray, ping: Ping) -> float | None:
    """Return how far under the transducer the bottom is [m]: the strongest range of the beams near plumb, or None where no beam is.

    `level` is (beam, range_bin) in dB, `tvg_db` (range_bin,).
    """
    forward, downward = FanPlane.of(ping).shares(ping.setup.beam_angle_rad)
    plumb = (downward > math.cos(PLUMB_RAD)) & (np.abs(forward) < math.sin(PLUMB_RAD))
    if not plumb.any():
        return None
    first = int(0.8 / ping.setup.bin_m)
    mean = (level[plumb, first:] + tvg_db[first:]).mean(axis=0)
    return float(ping.setup.range_m[first + int(np.argmax(mean))])


class BounceFilter:
    """Cuts cells where a bounce is predicted. The bottom is smoothed over pings, so that one odd ping does not move it."""

    def __init__(self) -> None:
        self._bottom_m: float | None = None
        self._limit: Float32Array | None = None

    def cut(self, level: Float32Array, ping: Ping, tvg_db: FloatArray, *, ghost_cut_db: float) -> None:
        """Set to silence the cells of `level` (beam, range_bin) [dB] that a predicted bounce explains; a Flat fan has none."""
        if ping.setup.fan is Fan.FLAT:
            return
        found = bottom_under_m(level, tvg_db, ping)
        if found is None:
            return
        near = self._bottom_m is not None and abs(found - self._bottom_m) < 0.5
        self._bottom_m = 0.9 * self._bottom_m + 0.1 * found if near and self._bottom_m is not None else found
        if self._limit is None or self._limit.shape != level.shape:
            self._limit = np.empty(level.shape, np.float32)
        self._limit[:] = NEVER_DB
        first_look = FanPlane.of(ping).tilt_rad - float(ping.setup.beam_angle_rad[0])
        _kernels.predict_bounces(
            level, tvg_db, first_look, ping.setup.beam_step_rad, float(ping.setup.range_m[0]), ping.setup.bin_m, self._bottom_m,
            ping.pose.z_m,
            STRONG_DB, UNDER_DB[ghost_cut_db], SPREAD_M, self._limit,
        )  # fmt: skip
        _kernels.cut_weaker(level, self._limit, GONE_DB)
