"""What stands in the way of sound: upright round posts, solid or soft, and how much of an echo comes past them."""

import math
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from mudlamp.core.arrays import FloatArray
from mudlamp.core.sonar import _kernels_ground
from mudlamp.core.sonar.scatterers import Scatterers

SHADOWED_DB = 6.0


@dataclass(frozen=True, slots=True, kw_only=True)
class Shade:
    """A post that shades: place and radius [m], from `top_m` down to `foot_m` [m]; a solid one costs `loss_db` (two-way), a soft one

    `loss_db_m` for every meter of it (two-way).
    """

    x_m: float
    y_m: float
    radius_m: float
    top_m: float
    foot_m: float
    loss_db: float = 0.0
    loss_db_m: float = 0.0


class Shades:
    """All posts of a scene, ready for the kernel."""

    def __init__(self, posts: Sequence[Shade]) -> None:
        self.posts = tuple(posts)
        self.count = len(posts)
        nepers = math.log(10.0) / 20.0
        columns = [(p.x_m, p.y_m, p.radius_m, p.top_m, p.foot_m, 10.0 ** (-p.loss_db / 20.0), p.loss_db_m * nepers) for p in posts]
        self._columns = np.array(columns, dtype=np.float64).reshape(-1, 7).T.copy()

    @property
    def columns(self) -> FloatArray:
        """All posts as the kernels take them (7, N): place, radius, top and foot [m], share let through, loss a meter [Np/m]."""
        return self._columns

    def near(self, *, origin_m: FloatArray, normal: FloatArray, farthest_m: float, sin_across: float) -> FloatArray:
        """Return the kernel's columns (7, N) of the posts that stand in or by the fan: the others shade nothing that it sees."""
        offset = self._columns[:2] - origin_m[:2, None]
        away = np.hypot(offset[0], offset[1])
        across = np.abs(normal[0] * offset[0] + normal[1] * offset[1])
        # A fan on its side sees all bearings: its normal stands upright and `across` is near nothing.
        keep = (away - self._columns[2] < farthest_m) & (across - self._columns[2] < (sin_across + 0.05) * away)
        return np.ascontiguousarray(self._columns[:, keep])

    def weaken(self, scatterers: Scatterers, columns: FloatArray, origin_m: FloatArray, *, first: int, last: int) -> None:
        """Weaken the scatterers from `first` to `last` that stand behind the posts of `columns`."""
        _kernels_ground.shade(
            scatterers.x, scatterers.y, scatterers.z, scatterers.amplitude, first, last, origin_m, *columns,
        )  # fmt: skip

    def loss_db(self, origin_m: FloatArray, places_m: FloatArray) -> FloatArray:
        """Return what posts cost (N,) [dB, two-way] on the way to (N, 3) places [m]."""
        amplitude = np.ones(len(places_m))
        x, y, z = (np.ascontiguousarray(places_m[:, i]) for i in range(3))
        _kernels_ground.shade(x, y, z, amplitude, 0, len(places_m), origin_m, *self._columns)
        return -20.0 * np.log10(np.maximum(amplitude, 1e-6))
