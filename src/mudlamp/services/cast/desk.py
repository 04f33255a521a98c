"""Where casts landed: kept, and learned from."""

import datetime as dt
import math
import uuid
from collections.abc import Callable
from dataclasses import dataclass

from sqlalchemy import Engine

from mudlamp.core.casting.habit import ENOUGH, Habit, Landing, habit_of
from mudlamp.core.casting.solve import Cast
from mudlamp.core.errors import require_range
from mudlamp.core.units import meters
from mudlamp.store import landings as store

# What may be said of a landing [ft].
MOST_OFF_FT = 60.0


@dataclass(frozen=True, slots=True, kw_only=True)
class OwnError:
    """What an angler's casts show: the habit, and how many more landings it takes before it is told."""

    habit: Habit
    wanting: int


class CastDesk:
    """Keeps where somebody's casts landed."""

    def __init__(self, engine: Engine, *, now: Callable[[], dt.datetime]) -> None:
        self._engine, self._now = engine, now

    def own_error(self, owner: uuid.UUID) -> OwnError:
        """Return what somebody's casts show."""
        habit = habit_of(store.newest_landings(self._engine, owner))
        return OwnError(habit=habit, wanting=max(ENOUGH - habit.throws, 0))

    def landed(self, owner: uuid.UUID, cast: Cast, *, long_ft: float, right_ft: float) -> OwnError:
        """Keep that a cast landed so far past and to the right of where it was meant [ft]; raise DomainError for what cannot be."""
        require_range("long_ft", long_ft, -MOST_OFF_FT, MOST_OFF_FT, "ft")
        require_range("right_ft", right_ft, -MOST_OFF_FT, MOST_OFF_FT, "ft")
        store.add_landing(self._engine, owner, landing_of(cast, long_m=meters(long_ft), right_m=meters(right_ft)), now=self._now())
        return self.own_error(owner)

    def forget(self, owner: uuid.UUID) -> OwnError:
        """Forget where somebody's casts landed."""
        store.forget_landings(self._engine, owner)
        return self.own_error(owner)


def landing_of(cast: Cast, *, long_m: float, right_m: float) -> Landing:
    """Return the landing of a cast that fell so far past and to the right of where it was meant [m]."""
    aimed = math.hypot(cast.aim_m, cast.aim_right_m)
    ahead, right = cast.cast_m + long_m, cast.right_m + right_m
    off = math.atan2(right, ahead) - math.atan2(cast.aim_right_m, cast.aim_m)
    return Landing(aimed_m=aimed, landed_m=math.hypot(ahead, right), off_rad=math.remainder(off, 2.0 * math.pi))
