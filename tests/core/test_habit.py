"""An angler's own casting error: found where it is, not where chance explains as much; an angler who aims by it hits."""

import math

import numpy as np
import pytest

from mudlamp.core.casting.habit import KEPT, NONE, Habit, Landing, habit_of


def thrown(rng, count, *, long=0.0, right=0.0):
    aims = rng.uniform(6.0, 18.0, count)
    return [
        Landing(aimed_m=aim, landed_m=aim * (1.0 + long + rng.normal(0.0, 0.06)), off_rad=right + rng.normal(0.0, math.radians(3.0)))
        for aim in aims
    ]


def test_a_habit_is_found_and_chance_is_not():
    rng = np.random.default_rng(901)
    found = [habit_of(thrown(rng, KEPT, long=0.12, right=math.radians(-4.0))) for _ in range(60)]
    assert np.median([one.long for one in found]) == pytest.approx(0.12, abs=0.02)
    assert math.degrees(np.median([one.right_rad for one in found])) == pytest.approx(-4.0, abs=0.8)
    assert sum(one.long > 0.0 for one in found) >= 57
    # Throws without a habit: at the sign test's level, one in ten at most by each of two errors.
    none = [habit_of(thrown(rng, KEPT)) for _ in range(200)]
    assert sum(one.long != 0.0 for one in none) <= 30
    assert habit_of(thrown(rng, 4, long=0.3)) == Habit(throws=4)
    assert habit_of([]) == NONE


def test_what_is_placed_beside_the_boat_and_what_slips_make_no_habit():
    placed = [Landing(aimed_m=aimed, landed_m=3.0, off_rad=0.0) for aimed in (0.0, 0.2, 0.4, 0.6, 0.8)]
    assert habit_of(placed) == NONE
    slips = habit_of([Landing(aimed_m=3.0, landed_m=9.0, off_rad=2.0)] * 6)
    assert (slips.long, slips.right_rad) == (0.5, math.radians(45.0))


def test_who_aims_by_the_habit_hits():
    habit = Habit(long=0.15, right_rad=math.radians(5.0), throws=9)
    ahead, right = habit.aim(ahead_m=11.0, right_m=-2.0)
    far, way = math.hypot(ahead, right) * 1.15, math.atan2(right, ahead) + math.radians(5.0)
    assert (far * math.cos(way), far * math.sin(way)) == pytest.approx((11.0, -2.0))
    assert NONE.aim(ahead_m=11.0, right_m=-2.0) == pytest.approx((11.0, -2.0))
