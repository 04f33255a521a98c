"""Where the lure should be: reckoned from what the hand did, how the boat lies and how a line carries a lure; set right by where it was seen.

An angler follows a jig the same way: by knowing where it must be.
"""

import math

import numpy as np

from mudlamp.core.arrays import FloatArray
from mudlamp.core.casting.lure_on_line import Lure, LureState
from mudlamp.core.casting.lures import LureKind, tackle
from mudlamp.core.errors import DomainError
from mudlamp.core.hand import Doing, HandEvent
from mudlamp.core.ping import Pose
from mudlamp.core.plane import GroundPlane, Place
from mudlamp.core.units import OUNCE_KG

# What is tied on where nobody said.
USUAL_LURE, USUAL_HEAD_KG = LureKind.JIG, OUNCE_KG / 16.0
# How far off a throw lands [m], and how deep a lure is when it is first reckoned with [m] (ours).
LANDS_OFF_M, DIPS_M = 0.5, 0.2
# How far off, a meter of its way, a lure that sinks or is reeled comes to be: heads, trailers and hands differ (ours).
STRAYS = 0.15
# How fast the two come to differ from what they were [m and m a meter, in a second].
DRIFTS = (0.05, 0.01)
# A rod tip is lifted by about so much [m], give or take as much: the hand does not say how far.
LIFTED_M = 0.45
# Looks follow each other closely and are off by as much: one alone counts as this unsure [m] (ours).
LEANS_ON_M = 1.5
# A lure is seen so far off where it is [m]; what lies so many spreads off is something else (ours).
SEEN_M, TOO_FAR = 0.2, 2.0
# Farther off than this it is not known at all [m].
LOST_M = 2.5
# Where no bottom is seen it is far down [m].
NO_BOTTOM_M = 200.0
# Its speed is that of about so long [s]: tracks, too, take a moment to turn.
RUNS_S = 0.4
# What a lure does is reckoned in steps of at most so long [s].
STEP_S = 0.1
# After a longer silence than this it is anywhere [s].
LONGEST_S = 30.0


class LineWatch:
    """Reckons where the lure is; call `take` with what the hand did and `advance` once a ping, before it is asked."""

    def __init__(self) -> None:
        self._lure = _tied(USUAL_LURE, USUAL_HEAD_KG)
        self._last_s: float | None = None
        self._pose: Pose | None = None
        # Axis by axis: how far off it landed, and how far off it comes to be a meter of its way; and how sure that is.
        self._off: FloatArray = np.zeros((2, 2))
        self._doubt: FloatArray = np.zeros((2, 2, 2))
        self._way: FloatArray = np.ones((2, 2))
        self._landed: FloatArray = np.zeros(2)
        self._reckoned: FloatArray | None = None
        self._runs: FloatArray = np.zeros(2)

    def take(self, event: HandEvent, pose: Pose) -> None:
        """Take in what the hand did; `pose` is that of the newest ping. One that does not say where it is gives way to the last that did."""
        known = pose if _is_known(pose) else self._pose
        if known is None:
            return
        pose, lure = known, self._lure
        boat = _boat(pose)
        tip = lure.tip_m(boat_m=boat, heading_rad=pose.heading_rad)
        match event.do:
            case Doing.TIED:
                self._lure = _tied(event.lure or USUAL_LURE, event.head_kg or USUAL_HEAD_KG)
                self._reckoned = None
            case Doing.THROW:
                sine, cosine = math.sin(pose.heading_rad), math.cos(pose.heading_rad)
                ahead, across = event.ahead_m or 0.0, event.across_m or 0.0
                lure.throw(
                    x_m=pose.x_m + ahead * sine + across * cosine, y_m=pose.y_m + ahead * cosine - across * sine, time_s=event.time_s
                )
                self._reckoned = None
            case Doing.STOW:
                lure.state, self._reckoned = LureState.STOWED, None
            case Doing.REEL | Doing.STOP:
                lure.reel(event.do is Doing.REEL, tip)
            case Doing.LIFT:
                lure.close_bail(tip)
                lure.lift(LIFTED_M)
                self._doubt[:, 0, 0] += LIFTED_M**2
            case Doing.SINK:
                lure.open_bail()

    def advance(self, time_s: float, plane: GroundPlane, pose: Pose, bottom_m: float | None) -> None:
        """Reckon on to a time [s] with the boat where it is now; `bottom_m` is how deep the bottom is there, where that is known.

        A pose that does not say where it is is passed over: what went by meanwhile is made up for at the next.
        """
        if not _is_known(pose):
            return
        self._pose = pose
        lure, tip = self._lure, self._lure.tip_m(boat_m=_boat(pose), heading_rad=pose.heading_rad)
        since_s = left_s = 0.0 if self._last_s is None else min(max(time_s - self._last_s, 0.0), LONGEST_S)
        self._last_s = time_s
        for _ in range(math.ceil(left_s / STEP_S)):
            step_s = min(STEP_S, left_s)
            left_s -= step_s
            lure.step(time_s=time_s - left_s, dt_s=step_s, tip_m=tip, bottom_m=NO_BOTTOM_M if bottom_m is None else bottom_m)
        if not lure.in_water:
            self._reckoned = None
            return
        here = np.array(plane.project(*lure.position_m.tolist()))
        if self._reckoned is None:
            self._landed, self._off, self._runs = here, np.zeros((2, 2)), np.zeros(2)
            lands = (LANDS_OFF_M, LANDS_OFF_M if plane.plane.is_flat else DIPS_M)
            self._doubt = np.array([np.diag((off_m**2, STRAYS**2)) for off_m in lands])
        elif since_s > 0.0:
            self._runs = self._runs + (1.0 - math.exp(-since_s / RUNS_S)) * ((here - self._reckoned) / since_s - self._runs)
        self._doubt = self._doubt + np.diag(np.square(DRIFTS)) * since_s
        self._way[:, 1] = here - self._landed
        self._reckoned = here

    @property
    def place(self) -> Place | None:
        """Where the lure should be in the plane [m]; None where it is not in the water, or where nobody can say any more."""
        if self._reckoned is None or float(self.spread_m.max()) > LOST_M:
            return None
        at = self._reckoned + (self._way * self._off).sum(axis=1)
        return float(at[0]), float(at[1])

    @property
    def speed_m_s(self) -> FloatArray:
        """How fast the lure should be going along the plane's two axes (2,) [m/s]."""
        return self._runs

    @property
    def spread_m(self) -> FloatArray:
        """How far off that may be along the plane's two axes (2,) [m]: one standard deviation."""
        return np.sqrt(np.einsum("ai,aij,aj->a", self._way, self._doubt, self._way))

    def lean_on(self, place: Place) -> None:
        """Set the reckoning right by where the lure was seen; what lies too far off to be it is passed over. Source: Kalman (1960), axis by axis."""
        if self._reckoned is None:
            return
        missed = np.array(place) - self._reckoned - (self._way * self._off).sum(axis=1)
        if (missed**2 / (self.spread_m**2 + SEEN_M**2)).max() > TOO_FAR**2:
            return
        lean = np.einsum("aij,aj->ai", self._doubt, self._way)
        gain = lean / ((self._way * lean).sum(axis=1) + LEANS_ON_M**2)[:, None]
        self._off = self._off + gain * missed[:, None]
        self._doubt = self._doubt - gain[:, :, None] * lean[:, None, :]


def _boat(pose: Pose) -> FloatArray:
    return np.array((pose.x_m, pose.y_m, 0.0))


def _is_known(pose: Pose) -> bool:
    return math.isfinite(pose.x_m) and math.isfinite(pose.y_m) and math.isfinite(pose.heading_rad)


def _tied(kind: LureKind, head_kg: float) -> Lure:
    """Return a lure as it is tied on; one that is unheard of falls as the usual one does."""
    try:
        return Lure(head_kg, tackle(kind=kind, head_kg=head_kg))
    except DomainError:
        return Lure(USUAL_HEAD_KG, tackle(kind=USUAL_LURE, head_kg=USUAL_HEAD_KG))
