import numpy as np
import pytest

from mudlamp.core.tracking.sizing import EDGES_M, HIGH, LOW, PANFISH_MOST_M, STEPS, WIDEST, Size, size_of


def test_even_odds_give_the_middle_of_all_lengths_by_ratio():
    size = size_of(np.full(len(STEPS), 1.0 / len(STEPS)))
    assert size.length_m == pytest.approx(np.sqrt(EDGES_M[0] * EDGES_M[-1]), rel=1e-6)
    assert (size.low_m, size.high_m) == pytest.approx(tuple(EDGES_M[0] * (EDGES_M[-1] / EDGES_M[0]) ** share for share in (LOW, HIGH)))
    assert not size.sure


def test_odds_on_one_step_give_its_middle_and_are_sure():
    odds = np.zeros(len(STEPS))
    odds[6] = 1.0
    size = size_of(odds)
    assert size.length_m == pytest.approx(np.sqrt(EDGES_M[6] * EDGES_M[7]))
    assert EDGES_M[6] < size.low_m < size.high_m < EDGES_M[7]
    assert size.sure


def test_no_panfish_is_longer_than_panfish_grow():
    odds = np.full(len(STEPS), 1.0 / len(STEPS))
    size = size_of(odds, most_m=PANFISH_MOST_M)
    assert size.high_m <= PANFISH_MOST_M
    assert size.length_m < size_of(odds).length_m


def test_a_wide_interval_is_no_length():
    assert Size(length_m=0.3, low_m=0.2, high_m=0.2 * WIDEST * 0.99).sure
    assert not Size(length_m=0.3, low_m=0.2, high_m=0.2 * WIDEST * 1.01).sure
