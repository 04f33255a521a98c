"""Kernels of detection and map against brute force or closed forms."""

import itertools

import numpy as np
import pytest

from mudlamp.core.tracking import _kernels_echoes, _kernels_filter, _kernels_ground, _kernels_history


def test_the_likeliest_line_is_that_of_brute_force():
    rng = np.random.default_rng(4)
    worth = rng.uniform(0.0, 5.0, (5, 6))
    slope, most = 0.8, 2.5

    def total(line):
        steps = np.minimum(slope * np.abs(np.diff(line)), most)
        return sum(worth[i, j] for i, j in enumerate(line)) - steps.sum()

    best = max(itertools.product(range(6), repeat=5), key=total)
    line = np.zeros(5, np.int64)
    _kernels_ground.likeliest_line(worth, slope, most, np.zeros((5, 6), np.int32), np.zeros((2, 6)), line)
    assert total(tuple(line)) == pytest.approx(total(best))


def test_distances_are_mahalanobis():
    rng = np.random.default_rng(5)
    state, place = rng.normal(0.0, 1.0, (4, 4)), rng.normal(0.0, 1.0, (3, 2))

    def spread(count, size):
        root = rng.normal(0.0, 1.0, (count, size, size))
        return root @ np.swapaxes(root, 1, 2) + np.eye(size)

    covariance, noise = spread(4, 4), spread(3, 2)
    found = np.empty((4, 3))
    _kernels_filter.distances(state, covariance, place, noise, found)
    for i, j in itertools.product(range(4), range(3)):
        off = place[j] - state[i, :2]
        assert found[i, j] == pytest.approx(off @ np.linalg.solve(covariance[i, :2, :2] + noise[j], off))


def test_contrast_is_that_over_the_mean_and_the_loudest_of_four_surrounds():
    power = np.full((60, 120), 1.0, np.float32)
    power[30, 60] = 100.0
    power[30, 63:75] = 4.0
    found = np.empty((1, 2))
    _kernels_echoes.contrasts(power, np.array([30.0]), np.array([60.0]), np.array([100.0]), 2, 10, 3, 8, found)
    loud = power[30, 63:73].mean()
    assert found[0, 0] == pytest.approx(10 * np.log10(100.0 / np.mean([1.0, loud, 1.0, 1.0])))
    assert found[0, 1] == pytest.approx(10 * np.log10(100.0 / loud))


def test_the_map_remembers_level_and_swing_where_it_was_heard():
    rng = np.random.default_rng(6)
    levels = rng.normal(-50.0, 3.0, 4000)
    looks, mean, square = np.zeros((9, 9)), np.full((9, 9), np.nan), np.full((9, 9), np.nan)
    total, hits = np.zeros((9, 9)), np.zeros((9, 9))
    hits[4, 4] = 2.0
    hits[1:8:3, 1:8:3] = 2.0
    for level in levels:
        total[hits > 0] = 2.0 * 10.0 ** (level / 10.0)
        _kernels_ground.blend_map(total, hits, 0.99, 0.5, -90.0, looks, mean, square)
    out = np.empty((2, 3))
    _kernels_ground.look_up(np.array([[1.1, 1.1], [0.6, 0.1]]), 0.0, 0.0, 0.25, 3, mean, square, out)
    assert out[0] == pytest.approx([-50.0, 3.0, -50.0], abs=1.0)
    assert np.isnan(out[1]).all()


def test_a_straight_way_is_that_of_least_squares():
    rng = np.random.default_rng(10)
    time = np.sort(rng.uniform(0.0, 4.0, 30))
    place = np.column_stack((3.0 - 0.4 * time, 1.0 + 0.2 * time)) + rng.normal(0.0, 0.05, (30, 2))
    late = time > 1.5
    lines = np.polynomial.polynomial.polyfit(time[late], place[late], 1)
    off = place[late] - np.polynomial.polynomial.polyval(time[late], lines).T
    for kernel in (_kernels_history.straight, _kernels_history.straight.py_func):
        found = np.zeros(3)
        assert kernel(time, place, 0, 30, 1.5, found) == late.sum()
        assert found == pytest.approx([*lines[1], np.sqrt((off**2).sum(axis=1).mean())])
        assert kernel(time, place, 28, 30, 1.5, found) == 2
        assert not found.any()


def test_the_beat_of_a_level_is_found_through_its_trend():
    rng = np.random.default_rng(9)
    time = np.sort(rng.uniform(0.0, 5.0, 80))
    beats = np.linspace(0.5, 3.8, 12)
    level = 2.0 * time + 3.0 * np.sin(2.0 * np.pi * beats[6] * time) + rng.normal(0.0, 1.0, 80)
    for kernel in (_kernels_history.beat, _kernels_history.beat.py_func):
        found = np.zeros(4)
        assert kernel(time, level, 0, 80, 0.0, beats, found)
        assert found[0] == beats[6]
        # The sine has 4.5 dB^2 of about 5.5.
        assert found[1] == pytest.approx(4.5 / 5.5, abs=0.12)
        assert not kernel(time, level, 70, 80, 0.0, beats, found)
