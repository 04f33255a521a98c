"""How guesses run: the interval holds what it says, by trials of our own; nothing is claimed where there is nothing."""

import math

import numpy as np
import pytest

from mudlamp.core.fishing.guessing import LEAST_PAIRS, guessing


def trials(bias, *, fish, times, seed):
    rng = np.random.default_rng(seed)
    for _ in range(times):
        true = rng.uniform(0.15, 0.6, fish)
        guessed = true * (1.0 + bias) * np.exp(rng.normal(0.0, 0.12, fish))
        measured = true * np.exp(rng.normal(0.0, 0.1, fish))
        yield guessing(list(zip(guessed, measured, strict=True)))


@pytest.mark.parametrize(("fish", "bias", "seed"), [(4, 0.2, 921), (12, -0.15, 922), (30, 0.0, 923)])
def test_the_interval_holds_the_bias_as_often_as_it_says(fish, bias, seed):
    found = list(trials(bias, fish=fish, times=800, seed=seed))
    held = np.mean([one.low <= bias <= one.high for one in found])
    assert held == pytest.approx(0.95, abs=0.025)
    assert np.median([one.share for one in found]) == pytest.approx(bias, abs=0.02)


def test_a_bias_is_told_and_chance_is_none():
    assert np.mean([one.is_off for one in trials(0.2, fish=12, times=300, seed=924)]) > 0.9
    assert np.mean([one.is_off for one in trials(0.0, fish=12, times=300, seed=925)]) < 0.09


def test_too_few_say_nothing_and_halves_and_doubles_cancel():
    few = guessing([(0.4, 0.3)] * (LEAST_PAIRS - 1))
    assert (few.pairs, few.is_told, few.is_off, math.isnan(few.share)) == (LEAST_PAIRS - 1, False, False, True)
    assert guessing([(0.6, 0.3), (0.3, 0.6), (0.3, 0.3)]).share == pytest.approx(0.0, abs=1e-12)
