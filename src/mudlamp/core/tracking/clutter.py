"""A map of what always echoes: mean and spread of level on the ground, the boat's motion taken out."""

import numpy as np

from mudlamp.core.arrays import Float32Array, FloatArray
from mudlamp.core.ping import Ping
from mudlamp.core.plane import GroundPlane
from mudlamp.core.tracking import _kernels_ground, _kernels_surrounds

CELL_M = 0.25
# Room for what a fan covers, and for a boat that drifts: cells (first, second) of the plane; a flat fan's plane is wide both ways.
STANDING, LYING = (220, 120), (320, 320)
EVERY = 2
# How much of what was known is kept at each look: some six seconds at fifteen pings a second.
KEEP = 0.978
FIRST = 0.7
# Where in the map the boat is, under a standing fan and a flat one; farther off than this [m], the map moves after it.
STANDS, LIES = 0.3, 0.5
SLACK_M = 6.0
FAINT_DB = -90.0
RING = 3
# How far off [m] and in how many directions the map is looked at about a place; what is fainter than that against it [dB] is silence.
RAY_STEPS_M, RAYS, SILENT_DB = np.array([0.5, 0.75, 1.1]), 8, -30.0
# How loud what runs on from a place is [dB against its own]: wood runs on, about a fish it falls off on every side.
RUNS = ("runs_through_db", "runs_far_through_db", "runs_one_way_db", "all_ways_db", "runs_upright_db", "runs_level_db")


def slid(grid: FloatArray, cells: int, axis: int, fill: float) -> FloatArray:
    """Return a grid whose cell 0 along an axis is cell `cells` of the one given; what comes in is `fill`."""
    found = np.full(grid.shape, fill)
    rows = np.moveaxis(grid, axis, 0)
    kept = np.moveaxis(found, axis, 0)
    if 0 <= cells < len(rows):
        kept[: len(rows) - cells] = rows[cells:]
    elif -len(rows) < cells < 0:
        kept[-cells:] = rows[:cells]
    return found


def _start_of(plane: GroundPlane, shape: tuple[int, ...]) -> tuple[float, float]:
    """Return where a map of a shape begins for a boat that is where it is now [m]."""
    if plane.plane.is_flat:
        return plane.origin[0] - CELL_M * shape[0] * LIES, plane.origin[1] - CELL_M * shape[1] * LIES
    return plane.origin[0] - CELL_M * shape[0] * STANDS, 0.0


class ClutterMap:
    """Levels by place in the ground plane; a cell never heard is not a number."""

    def __init__(self) -> None:
        self._start: tuple[float, float] | None = None
        self._pings = 0

    def _begin(self, plane: GroundPlane) -> None:
        shape = LYING if plane.plane.is_flat else STANDING
        self._start = _start_of(plane, shape)
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
        self._go_along(plane)
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

    def _go_along(self, plane: GroundPlane) -> None:
        """Move the map after a boat that drifted off: what it left behind is forgotten, what it comes to was never heard."""
        wanted, start = _start_of(plane, self._mean.shape), list(self._start or ())
        for axis, (to, at) in enumerate(zip(wanted, start, strict=False)):
            if abs(to - at) < SLACK_M:
                continue
            cells = round((to - at) / CELL_M)
            self._mean, self._square = slid(self._mean, cells, axis, np.nan), slid(self._square, cells, axis, np.nan)
            self._looks = slid(self._looks, cells, axis, 0.0)
            start[axis] = at + cells * CELL_M
        self._start = (start[0], start[1])

    def levels_db(self, places: FloatArray) -> FloatArray:
        """Return of places in the plane (N, 2) the level there, its standard deviation, and the level around it: (N, 3) [dB], not a number where never heard."""
        if self._start is None:
            return np.full((len(places), 3), np.nan)
        out = np.empty((len(places), 3))
        _kernels_ground.look_up(places, *self._start, CELL_M, RING, self._mean, self._square, out)
        return out

    def runs_db(self, places: FloatArray) -> FloatArray:
        """Return of places in the plane (N, 2) how what always echoes runs on from them (N, 6) [dB], not a number where never heard."""
        out = np.full((len(places), len(RUNS)), np.nan)
        if self._start is not None and len(places):
            row, column = ((places - self._start) / CELL_M - 0.5).T
            cells_m = np.full(len(places), CELL_M)
            _kernels_surrounds.surrounds(
                self._mean,
                False,
                row,
                column,
                np.zeros(len(places)),
                cells_m,
                CELL_M,
                CELL_M,
                RAY_STEPS_M,
                SILENT_DB,
                np.empty((2, RAYS)),
                out,
            )
        return out
