"""Which lateral range curve holds for the views that are open: those that were measured, the nearest depth."""

from collections.abc import Sequence
from dataclasses import replace

import numpy as np

from mudlamp.core.searching.lateral import LateralCurve
from mudlamp.core.sonar.console import ViewKind
from mudlamp.formats.lateral import MeasuredCurve, shipped_curves

STEP_M = 0.5
Open = tuple[ViewKind, float, float]


def measured(view: ViewKind, carrier_hz: float, depth_m: float) -> MeasuredCurve | None:
    """Return the curve that ships, measured nearest to a depth [m], or None for a view that was not measured."""
    return _nearest(view, carrier_hz, depth_m, shipped_curves().curves)


def curve_for(views: Sequence[Open], depth_m: float) -> LateralCurve:
    """Return the curve of views together as it holds over cover and slopes: that of level bottom, less what is missed there."""
    level = joined(views, depth_m, shipped_curves().curves)
    return replace(level, found=shipped_curves().drawn_share * level.found)


def joined(views: Sequence[Open], depth_m: float, curves: Sequence[MeasuredCurve]) -> LateralCurve:
    """Return the curve of views (kind, carrier [Hz], Reach [m]) together over level bottom at a depth [m]: at each distance the best of them.

    They hear the same water: what one misses by its fish's luck the others likely miss too, so that their chances are not multiplied.
    """
    farthest = max((reach for _, _, reach in views), default=STEP_M)
    off = np.arange(0.0, farthest + STEP_M, STEP_M)
    found, passes = np.zeros(len(off)), np.zeros(len(off))
    for view, carrier, reach in views:
        one = _nearest(view, carrier, depth_m, curves)
        if one is not None:
            curve = one.curve()
            share = np.where(off <= reach, np.interp(off, curve.off_m, curve.found, right=0.0), 0.0)
            passes = np.where(share > found, np.interp(off, curve.off_m, curve.passes), passes)
            found = np.maximum(found, share)
    return LateralCurve(off_m=off, found=found, passes=passes)


def _nearest(view: ViewKind, carrier_hz: float, depth_m: float, curves: Sequence[MeasuredCurve]) -> MeasuredCurve | None:
    own = [one for one in curves if one.view is view and one.carrier_hz == carrier_hz]
    return min(own, key=lambda one: abs(one.depth_m - depth_m), default=None)
