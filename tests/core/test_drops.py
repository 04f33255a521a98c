import pytest

from mudlamp.core.casting.drops import ENOUGH, KEPT, LEAST_S, Drops

STEP = 0.1


def drop(drops, *, speed, seconds=3.0, start=0.0):
    """Let a lure fall at a speed, then stop; return when."""
    for number in range(round(seconds / STEP)):
        drops.note(start + number * STEP, 1.0 + speed * number * STEP, expected_m_s=0.3)
    end = start + seconds
    drops.note(end, None, expected_m_s=0.3)
    return end + 5.0


def test_the_anglers_own_drops_correct_the_physics_once_there_are_enough():
    drops, at = Drops(), 0.0
    for number, speed in enumerate((0.24, 0.26, 0.25), start=1):
        at = drop(drops, speed=speed, start=at)
        assert drops.count == (number if number >= ENOUGH else 0)
        if number < ENOUGH:
            assert drops.sink_m_s(0.3) == 0.3
    assert drops.sink_m_s(0.3) == pytest.approx(0.25, abs=1e-6)


def test_short_falls_and_strange_speeds_tell_nothing_and_old_drops_are_forgotten():
    drops = Drops()
    at = drop(drops, speed=0.3, seconds=LEAST_S / 2.0)
    at = drop(drops, speed=2.0, start=at)
    assert drops.count == 0
    for _ in range(KEPT + 3):
        at = drop(drops, speed=0.2, start=at)
    assert drops.count == KEPT


def test_a_lure_lost_on_the_way_ends_its_drop():
    drops = Drops()
    drops.note(0.0, 1.0, expected_m_s=0.3)
    drops.note(5.0, 9.0, expected_m_s=0.3)
    drops.note(5.1, None, expected_m_s=0.3)
    assert drops.count == 0
