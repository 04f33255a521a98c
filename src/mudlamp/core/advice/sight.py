"""How far out something shows in a picture: a share by distance, the farthest distance at which it still does, and how sure that is."""

from dataclasses import dataclass

import numpy as np

from mudlamp.core.arrays import BoolArray, FloatArray

# It shows where it does so on half of the waters and more.
HALF = 0.5
# A drawn curve is the mean of so many neighbors: a swinging lure flickers.
SMOOTHED = 5


@dataclass(frozen=True, slots=True, kw_only=True)
class Sight:
    """Distances along the water [m] with how far a thing stands over what is about it there, on the mean of the waters [dB].

    `farthest_m` is where it is shown on fewer than half of them, give or take `doubt_m`; `past_end` says that it still shows where looking stopped.
    Where it shows nowhere `farthest_m` is 0.
    """

    distance_m: tuple[float, ...]
    over_db: tuple[float, ...]
    farthest_m: float
    doubt_m: float
    past_end: bool


def sight_of(distance_m: FloatArray, shown: BoolArray, over_db: FloatArray) -> Sight:
    """Return the sight of a thing that was (water, distance) shown, and stood so far over its surround [dB], at rising distances [m].

    The share of waters that show it is fitted by the nearest curve that never rises (isotonic regression, by SciPy); the doubt is the
    jackknife's standard error over waters (Tukey 1958), no less than half a step.
    """
    curve = _falling(shown)
    farthest = _crossing(distance_m, curve)
    waters = len(shown)
    step = float(distance_m[1] - distance_m[0])
    left_out = [_crossing(distance_m, _falling(np.delete(shown, one, axis=0))) for one in range(waters)] if waters > 1 else [farthest]
    error = float(np.sqrt((waters - 1) * np.var(left_out)))
    return Sight(
        distance_m=tuple(float(one) for one in distance_m),
        over_db=tuple(float(one) for one in _smooth(over_db.mean(axis=0))),
        farthest_m=farthest,
        doubt_m=max(error, 0.5 * step),
        past_end=bool(curve[-1] >= HALF),
    )


def farther(one: Sight, other: Sight) -> bool:
    """Return whether two sights end at places that differ by more than their doubts."""
    return abs(one.farthest_m - other.farthest_m) > one.doubt_m + other.doubt_m


def _falling(shown: BoolArray) -> FloatArray:
    # Imported here: the optimizers take most of a second to load, and the first page should not wait for them.
    from scipy.optimize import isotonic_regression

    fitted: FloatArray = isotonic_regression(shown.mean(axis=0), increasing=False).x
    return fitted


def _smooth(values: FloatArray) -> FloatArray:
    """Return the means of SMOOTHED neighbors, of fewer at the ends."""
    weights = np.ones(SMOOTHED)
    return np.convolve(values, weights, "same") / np.convolve(np.ones_like(values), weights, "same")


def _crossing(distance_m: FloatArray, curve: FloatArray) -> float:
    """Return where a falling curve goes under a half [m]; the last distance where it never does, 0 where it starts under it."""
    under = np.flatnonzero(curve < HALF)
    if not len(under):
        return float(distance_m[-1])
    at = int(under[0])
    if at == 0:
        return 0.0
    share = (curve[at - 1] - HALF) / (curve[at - 1] - curve[at])
    return float(distance_m[at - 1] + share * (distance_m[at] - distance_m[at - 1]))
