"""A map of what always echoes: mean and spread of level on the ground, the boat's motion taken out."""

import numpy as np

from mudlamp.core.arrays import Float32Array, FloatArray
from mudlamp.core.ping import Ping
from mudlamp.core.plane import GroundPlane
from mudlamp.core.tracking import _kernels_ground

CELL_M = 0.25
# Room for what a fan covers, and for a boat that drifts: cells (first, second) of the plane; a flat fan's plane is wide both ways.
STANDING, LYING = (220, 120), (320, 320)
EVERY = 2
# How much of what was known is kept at each look: some six seconds at fifteen pings a second.
KEEP = 0.978
FIRST = 0.7
FAINT_DB = -90.0
RING = 3


class ClutterMap:
    """Levels by place in the ground plane; a cell never heard is not a number."""

    def __init__(self) -> None:
        self._start: tuple[float, float] | None = None
        self._pings = 0

    def _begin(self, plane: GroundPlane) -> None:
        shape = LYING if plane.plane.is_flat else STANDING
        first = plane.origin[0] - CELL_M * shape[0] * (0.5 if plane.plane.is_flat else 0.3)
        self._start = (first, plane.origin[1] - CELL_M * shape[1] * 0.5 if plane.plane.is_flat else 0.0)
        self._sum, self._hits = np.zeros(shape), np.zeros(shape)
        self._mean, self._square = np.full(shape, np.nan), np.full(shape, np.nan)
        self._looks = np.zeros(shape)

    def update(self, ping: Ping, plane: GroundPlane, power: Float32Array) -> None:
        """Take in a ping's power after TVG (beam, range_bin)."""
        if self._start is None:
            self._begin(plane)
        self._pings += 1
        if self._start is None or self._pings % EVERY:
            return
        ahead, other = plane.directions(ping.setup.beam_angle_rad)
        self._sum[:], self._hits[:] = 0.0, 0.0
        _kernels_ground.ground_map(
            power,
            ping.setup.range_m,
            ahead,
            other,
            plane.origin[0] - self._start[0],
            plane.origin[1] - self._start[1],
            CELL_M,
            CELL_M,
            self._sum,
            self._hits,
        )
        _kernels_ground.blend_map(self._sum, self._hits, KEEP, FIRST, FAINT_DB, self._looks, self._mean, self._square)

    def levels_db(self, places: FloatArray) -> FloatArray:
        """Return of places in the plane (N, 2) the level there, its standard deviation, and the level around it: (N, 3) [dB], not a number where never heard."""
        if self._start is None:
            return np.full((len(places), 3), np.nan)
        out = np.empty((len(places), 3))
        _kernels_ground.look_up(places, *self._start, CELL_M, RING, self._mean, self._square, out)
        return out
