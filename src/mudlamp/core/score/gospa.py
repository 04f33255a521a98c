"""GOSPA: how far a set of tracks is from a set of truths."""

from dataclasses import dataclass

import numpy as np
from scipy.optimize import linear_sum_assignment

from mudlamp.core.arrays import FloatArray


@dataclass(frozen=True, slots=True, kw_only=True)
class Gospa:
    """GOSPA distance [m] and its parts in powers of p: localization, missed, false."""

    distance_m: float
    localization: float
    missed: float
    false: float


def matched(one: FloatArray, other: FloatArray, *, cut_m: float) -> list[tuple[int, int]]:
    """Return the pairs (row of `one`, row of `other`) of the nearest one-to-one matching of (N, D) and (M, D) places, none apart `cut_m` [m] or more."""
    if not len(one) or not len(other):
        return []
    distance = np.linalg.norm(one[:, None, :] - other[None, :, :], axis=2)
    rows, columns = linear_sum_assignment(np.where(distance < cut_m, distance, 50.0 * cut_m))
    return [(int(i), int(j)) for i, j in zip(rows, columns, strict=True) if distance[i, j] < cut_m]


def gospa(truth: FloatArray, tracks: FloatArray, *, cutoff_m: float, power: float = 2.0) -> Gospa:
    """Return the GOSPA metric (alpha 2) between (N, D) true places and (M, D) tracks [m].

    Source: Rahmathullah, Garcia-Fernandez and Svensson (2017). Check values: tests/reference/metrics.toml.
    """
    half = cutoff_m**power / 2.0
    if len(truth) == 0 or len(tracks) == 0:
        missed, false = len(truth) * half, len(tracks) * half
        return Gospa(distance_m=float((missed + false) ** (1.0 / power)), localization=0.0, missed=missed, false=false)
    distance = np.linalg.norm(truth[:, None, :] - tracks[None, :, :], axis=2)
    cost = np.minimum(distance, cutoff_m) ** power
    rows, columns = linear_sum_assignment(cost)
    matched = distance[rows, columns] < cutoff_m
    localization = float(cost[rows, columns][matched].sum())
    count = int(matched.sum())
    missed, false = (len(truth) - count) * half, (len(tracks) - count) * half
    return Gospa(distance_m=float((localization + missed + false) ** (1.0 / power)), localization=localization, missed=missed, false=false)
