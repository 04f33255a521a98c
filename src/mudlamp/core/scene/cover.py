"""Cover: a drowned tree as branches of point scatterers."""

import math

import numpy as np

from mudlamp.core.arrays import FloatArray
from mudlamp.core.scene.model import Tree

LIMBS = 16
TWIGS_A_LIMB = 5
POINT_SPACING_M = 0.035
TRUNK_TS_DB = -44.0
TWIG_TS_DB = -53.0


def tree_points(tree: Tree, *, bottom_m: float, rng: np.random.Generator) -> tuple[FloatArray, FloatArray, FloatArray]:
    """Return a tree's scatterers: (N, 3) positions [m], (N,) amplitudes [m], (N,) phases [rad].

    The trunk stands on the bottom [m]; limbs leave it upward and outward, twigs leave the limbs. Levels are invented.
    """
    foot = np.array([tree.x_m, tree.y_m, bottom_m])
    top = foot + [0.0, 0.0, -0.62 * tree.height_m]
    pieces = [_stretch(foot, top, TRUNK_TS_DB)]
    for _ in range(LIMBS):
        start = foot + rng.uniform(0.25, 1.0) * (top - foot)
        bearing = rng.uniform(0.0, 2.0 * math.pi)
        out = tree.spread_m * rng.uniform(0.45, 1.0)
        up = min(tree.height_m * rng.uniform(0.12, 0.5), start[2] - (bottom_m - tree.height_m))
        end = start + [out * math.sin(bearing), out * math.cos(bearing), -max(up, 0.1)]
        pieces.append(_stretch(start, end, 0.5 * (TRUNK_TS_DB + TWIG_TS_DB)))
        for _ in range(TWIGS_A_LIMB):
            fork = start + rng.uniform(0.3, 1.0) * (end - start)
            pieces.append(_stretch(fork, fork + rng.normal(0.0, 0.22 * tree.spread_m, 3) + [0.0, 0.0, -0.12], TWIG_TS_DB))
    position = np.concatenate([piece[0] for piece in pieces])
    amplitude = np.concatenate([piece[1] for piece in pieces]) * np.sqrt(rng.exponential(1.0, len(position)))
    return position, amplitude, rng.uniform(0.0, 2.0 * math.pi, len(position))


def _stretch(start: FloatArray, end: FloatArray, ts_db: float) -> tuple[FloatArray, FloatArray]:
    count = max(2, int(float(np.linalg.norm(end - start)) / POINT_SPACING_M))
    share = np.linspace(0.0, 1.0, count)[:, None]
    taper = 1.0 - 0.6 * share[:, 0]
    return start + share * (end - start), 10.0 ** (ts_db / 20.0) * taper
