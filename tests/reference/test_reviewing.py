"""The review's statistics against statistics libraries and by trials."""

import datetime as dt
import math

import numpy as np
import pytest
from scipy import stats

from mudlamp.core.casting.habit import Landing
from mudlamp.core.fishing.answers import presentation
from mudlamp.core.fishing.rates import findings
from mudlamp.core.fishing.reviewing import agreement, binned, by_factor, cast_errors, missed_m, part_of_day, trend

NOON = dt.datetime(2026, 10, 24, 12, 0, tzinfo=dt.UTC)


def test_the_bias_of_guesses_is_students_interval():
    # Source: SciPy's one-sample t-test and its interval.
    rng = np.random.default_rng(900)
    measured = rng.uniform(0.2, 0.4, 30)
    guessed = measured * 0.95 + rng.normal(0.0, 0.02, 30)
    found = agreement(guessed, measured)
    interval = stats.ttest_1samp(guessed - measured, 0.0).confidence_interval(0.95)
    assert (found.low_m, found.high_m) == (pytest.approx(interval.low), pytest.approx(interval.high))
    assert found.spread_m == pytest.approx(np.std(guessed - measured, ddof=1))
    assert not agreement([0.3] * 4, [0.3] * 4).is_told


def test_the_interval_of_the_middle_miss_holds_it_as_often_as_it_says():
    # Ten casts of a law that is nothing like the normal one: the true median lies inside 95 times of 100 or more.
    rng = np.random.default_rng(901)
    truth, inside = math.log(2.0), 0
    for _ in range(2000):
        misses = rng.exponential(1.0, 10)
        (found,) = cast_errors([(NOON, Landing(aimed_m=10.0, landed_m=10.0 + miss, off_rad=0.0)) for miss in misses])
        inside += found.low_m <= truth <= found.high_m
    assert inside / 2000 >= 0.95
    assert inside / 2000 <= 0.99


def test_a_miss_is_a_straight_line_and_casts_are_told_in_tens():
    # Law of cosines, by hand: 10 m aimed, 10 m thrown, 60 deg off: 10 m.
    assert missed_m(Landing(aimed_m=10.0, landed_m=10.0, off_rad=math.radians(60.0))) == pytest.approx(10.0)
    thrown = [(NOON + dt.timedelta(days=i), Landing(aimed_m=10.0, landed_m=11.0, off_rad=0.0)) for i in range(26)]
    found = cast_errors(thrown)
    assert [one.casts for one in found] == [10, 16]
    assert found[1].since == NOON + dt.timedelta(days=10)
    assert cast_errors(thrown[:4]) == []
    # What is placed under the rod's tip is no cast.
    assert cast_errors([(NOON, Landing(aimed_m=0.5, landed_m=5.0, off_rad=0.0))] * 9) == []


def test_rates_by_factor_are_counts_with_the_beta_interval():
    shots = [
        presentation({"lure": "white" if i % 2 else "gray", "only": "one"}, ["bit"] if i % 4 == 1 else ["no_answer"]) for i in range(40)
    ]
    (lure,) = by_factor(shots)
    assert lure.factor == "lure"
    white = next(one for one in lure.values if one.value == "white")
    assert (white.shots, white.counts[1].passed, white.counts[1].of) == (20, 10, 20)
    # Source: SciPy's Beta distribution, Jeffreys's prior.
    assert white.rates[1].low == pytest.approx(stats.beta(10.5, 10.5).ppf(0.05))
    # Values of too few shots are not shown.
    assert by_factor([*shots[:4], presentation({"lure": "pink"}, ["bit"])]) == []


@pytest.mark.parametrize("seed", [910, 911, 912])
def test_nothing_is_called_a_pattern_where_ten_factors_mean_nothing(seed):
    # Forty whole reviews of sixty shots in a world of chance, ten factors each: at most the share that is allowed (one in twenty), by the
    # binomial's 99.9 % point.
    rng = np.random.default_rng(seed)
    claimed = 0
    for _ in range(40):
        shots = [
            presentation({f"factor {k}": str(rng.integers(3)) for k in range(10)}, ["bit"] if rng.random() < 0.3 else ["no_answer"])
            for _ in range(60)
        ]
        claimed += bool(findings(shots))
    assert claimed <= stats.binom.ppf(0.999, 40, 0.05)


def test_bins_and_words_have_sharp_edges():
    assert [binned(value, (10.0, 20.0), "ft") for value in (9.99, 10.0, 19.9, 20.0)] == [
        "under 10 ft",
        "10 to 20 ft",
        "10 to 20 ft",
        "over 20 ft",
    ]
    assert [part_of_day(hour) for hour in (4.9, 5.0, 8.0, 13.9, 20.4, 20.5)] == [
        "night",
        "early morning",
        "morning",
        "midday",
        "evening",
        "night",
    ]
    assert [trend(change) for change in (99.0, -101.0, 101.0)] == ["steady", "falling", "rising"]
