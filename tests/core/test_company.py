"""Kernels of company against brute force in numpy, compiled and not."""

import numpy as np
import pytest

from mudlamp.core.tracking import _kernels_company


@pytest.fixture(params=[True, False], ids=["compiled", "python"])
def run(request):
    return lambda name: getattr(_kernels_company, name) if request.param else getattr(_kernels_company, name).py_func


@pytest.fixture
def rng():
    return np.random.default_rng(7)


def test_gaps_are_distances_and_nothing_is_near_itself(run, rng):
    place, out = rng.uniform(0.0, 5.0, (12, 2)), np.empty((5, 12))
    run("gaps")(place[:5], place, 1e-9, out)
    wanted = np.linalg.norm(place[:5, None] - place[None], axis=2)
    wanted[np.arange(5), np.arange(5)] = np.inf
    np.testing.assert_allclose(out, wanted)


def test_echoes_about_a_place_are_counted_but_for_its_own(run, rng):
    echo, level = rng.uniform(0.0, 3.0, (40, 2)), rng.uniform(-60.0, -30.0, 40)
    out = np.empty((8, 2))
    run("echoes_about")(echo[:8], echo, level, -42.0, 0.8, 0.6, out)
    gap = np.linalg.norm(echo[:8, None] - echo[None], axis=2)
    np.testing.assert_array_equal(out[:, 0], ((gap < 0.8) & (level < -42.0)).sum(axis=1))
    np.testing.assert_array_equal(out[:, 1], (gap < 0.6).sum(axis=1) - 1)


def test_means_about_are_of_what_is_known_there(run, rng):
    gap, values, out = rng.uniform(0.0, 4.0, (6, 20)), rng.normal(0.0, 1.0, (20, 3)), np.empty((6, 3))
    values[rng.random((20, 3)) < 0.3] = np.nan
    gap[5] = 9.0
    run("means_about")(gap, values, 2.0, out)
    for n in range(5):
        np.testing.assert_allclose(out[n], np.nanmean(values[gap[n] < 2.0], axis=0))
    assert np.isnan(out[5]).all()


def test_the_nearest_is_found_and_the_near_are_counted(run, rng):
    gap, out, count = rng.uniform(0.0, 4.0, (6, 20)), np.empty(6, np.int64), np.empty(6, np.int64)
    gap[5] = np.inf
    run("nearest")(gap, 1.0, out, count)
    np.testing.assert_array_equal(out, gap.argmin(axis=1))
    np.testing.assert_array_equal(count, (gap < 1.0).sum(axis=1))


def test_leads_about_are_of_those_that_were_told(run, rng):
    gap, leads, lead = rng.uniform(0.0, 4.0, (6, 20)), rng.normal(0.0, 2.0, 20), rng.normal(0.0, 1.0, 6)
    leads[::3] = -np.inf
    gap[5] = 9.0
    out = np.empty((6, 2, 4))
    run("leads_about")(lead, gap, leads, np.array([1.0, 2.5]), out)
    for n in range(6):
        for s, radius in enumerate((1.0, 2.5)):
            near = leads[(gap[n] < radius) & np.isfinite(leads)]
            wanted = (near.mean(), near.max(), len(near), lead[n] - near.mean()) if len(near) else (np.nan, np.nan, 0.0, np.nan)
            np.testing.assert_allclose(out[n, s], wanted)
