"""What the angler's hand says of where the lure can be: a prior for the tracker, never a place."""

import math
from enum import IntEnum

import numpy as np

from mudlamp.core.arrays import FloatArray
from mudlamp.core.casting.lure_on_line import FLIGHT_S
from mudlamp.core.casting.lures import tackle
from mudlamp.core.errors import DomainError
from mudlamp.core.hand import Doing, HandEvent
from mudlamp.core.plane import GroundPlane

USUAL_SINK_M_S = 0.3

HAND_TRAITS = ("hand_out_s", "hand_does", "landing_off_m", "born_after_s")


class Does(IntEnum):
    """What the line is doing now."""

    STOWED = 0
    SINKING = 1
    TIGHT = 2
    REELING = 3


class HandWatch:
    """Follows the hand's events. Nothing is known before the first of them; `sink_m_s` is how fast what is tied on falls."""

    def __init__(self) -> None:
        self.known = False
        self._does = Does.STOWED
        self._landed_s: float | None = None
        self._landing: tuple[float, float] | None = None
        self.sink_m_s = USUAL_SINK_M_S
        self._since_s = 0.0
        self._shots: list[tuple[float, float]] = []

    def take(self, event: HandEvent, plane: GroundPlane) -> None:
        """Take in an event; `plane` is that of the newest ping, from which a throw is aimed."""
        self.known = True
        if event.do is not Doing.TIED:
            self._since_s = event.time_s
        if event.do is Doing.TIED and event.lure is not None and event.head_kg is not None:
            try:
                self.sink_m_s = tackle(kind=event.lure, head_kg=event.head_kg).sink_m_s
            except DomainError:
                self.sink_m_s = USUAL_SINK_M_S
        elif event.do is Doing.THROW:
            self._end_shot(event.time_s)
            self._shots.append((event.time_s, math.inf))
            self._does, self._landed_s = Does.SINKING, event.time_s + FLIGHT_S
            self._landing = plane.aimed(event.ahead_m or 0.0, event.across_m or 0.0)
        elif event.do is Doing.STOW:
            self._end_shot(event.time_s)
            self._does, self._landing, self._landed_s = Does.STOWED, None, None
        elif self._landing is not None:
            self._does = {Doing.REEL: Does.REELING, Doing.SINK: Does.SINKING}.get(event.do, Does.TIGHT)

    def _end_shot(self, time_s: float) -> None:
        if self._shots and self._shots[-1][1] > time_s:
            self._shots[-1] = (self._shots[-1][0], time_s)

    def shot_at(self, time_s: float) -> int | None:
        """Return the number of the shot that was out at a time [s], counted from 1, or None."""
        for number in range(len(self._shots), max(len(self._shots) - 2, 0), -1):
            first_s, last_s = self._shots[number - 1]
            if first_s <= time_s < last_s:
                return number
        return None

    @property
    def is_out(self) -> bool:
        """Whether the lure is in the water or on its way there."""
        return self._landing is not None

    def should_move(self, time_s: float, *, for_s: float) -> bool:
        """Return whether the lure should have been moving for so long [s]: on a running line or a turning reel, past its flight."""
        moving = self.is_out and self._does in (Does.SINKING, Does.REELING)
        return moving and time_s - self._since_s > for_s + FLIGHT_S

    def traits(self, places: FloatArray, born_s: FloatArray, *, time_s: float, is_flat: bool) -> FloatArray:
        """Return the traits (N, 4) that the hand gives tracks at places in the plane (N, 2), not a number where it says nothing.

        How long the lure is out [s], what the line does, how far the track is from the landing along the plane [m], how long after the
        landing it was first heard [s]. Where the lure should be by now is the line's to reckon (`line_watch.py`).
        """
        out = np.full((len(places), len(HAND_TRAITS)), np.nan)
        if not self.known:
            return out
        out[:, 0], out[:, 1] = -1.0, float(self._does)
        if self._landing is None or self._landed_s is None:
            return out
        out[:, 0] = time_s - self._landed_s
        if is_flat:
            out[:, 2] = np.hypot(places[:, 0] - self._landing[0], places[:, 1] - self._landing[1])
        else:
            out[:, 2] = places[:, 0] - self._landing[0]
        out[:, 3] = born_s - self._landed_s
        return out
