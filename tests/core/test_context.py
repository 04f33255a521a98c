"""What tracks about one are taken for: against figures by hand and a loop over everything."""

import math

import numpy as np
import pytest

from mudlamp.core.tracking import _kernels_context
from mudlamp.core.tracking.classify import KINDS
from mudlamp.core.tracking.context import CONTEXT, KEPT_S, Context, leans
from mudlamp.core.tracking.track import Kind


def of(row, name):
    return row[CONTEXT.index(name)]


def test_a_lean_is_fish_or_lure_against_the_likelier_of_cover_and_bait():
    sums = np.zeros((2, len(KINDS)))
    columns = [KINDS.index(kind) for kind in (Kind.FISH, Kind.LURE, Kind.COVER, Kind.BAIT)]
    sums[0, columns] = 2.0, 1.0, 0.5, -1.0
    sums[1, columns] = -1.0, 4.0, 0.5, 3.0
    assert leans(sums).tolist() == [[1.5, 0.5], [-4.0, 1.0]]


def test_one_track_at_most_is_more_of_a_lure_than_all_others():
    lure = np.array([0.5, 3.0, 2.0])
    found = Context().look_at(np.arange(3), np.zeros((3, 2)), np.column_stack((np.zeros(3), lure)), asked=np.arange(3), time_s=0.0)
    assert [of(row, "lure_over_others") for row in found] == [-2.5, 1.0, -1.0]
    assert [of(row, "lure_lean") for row in found] == lure.tolist()
    alone = Context().look_at(np.arange(1), np.zeros((1, 2)), np.zeros((1, 2)), asked=np.arange(1), time_s=0.0)
    assert math.isnan(of(alone[0], "lure_over_others"))


def test_neighbors_are_asked_by_how_far_off_they_are_and_never_oneself():
    rng = np.random.default_rng(5)
    places, lean, numbers = rng.uniform(0.0, 6.0, (40, 2)), rng.normal(0.0, 2.0, 40), rng.permutation(40)
    asked = np.array([3, 17, 39])
    found = Context().look_at(numbers, places, np.column_stack((lean, lean)), asked=asked, time_s=1.0)
    for row, one in zip(found, asked, strict=True):
        for far in (0.6, 1.2, 2.5, 5.0):
            near = [lean[j] for j in range(40) if j != one and math.dist(places[j], places[one]) < far]
            told = [of(row, f"{which}_within_{far:g}_m") for which in ("mean_lean", "most_lean", "least_lean")]
            np.testing.assert_allclose(told, [np.mean(near), max(near), min(near)] if near else [np.nan] * 3)
        assert of(row, "lean_of_all") == pytest.approx(lean.mean())
        assert math.isnan(of(row, "lean_before"))


def test_a_place_remembers_what_was_lost_there_and_forgets_it():
    context, here, away = Context(), [[2.0, 3.0]], [[20.0, 3.0]]
    for time_s in (0.0, 4.0):
        context.look_at(np.array([1]), np.array(here), np.array([[-3.0, 0.0]]), asked=np.array([0]), time_s=time_s)
    # Another is followed there: nothing was lost before it but the first, which was followed for five seconds.
    row = context.look_at(np.array([2]), np.array(here), np.array([[1.0, 0.0]]), asked=np.array([0]), time_s=5.0)[0]
    assert of(row, "lean_before") == pytest.approx(-3.0)
    assert of(row, "lean_about_before") == pytest.approx(-3.0)
    assert of(row, "log_s_before") == pytest.approx(math.log(5.1))
    row = context.look_at(np.array([3]), np.array(away), np.array([[1.0, 0.0]]), asked=np.array([0]), time_s=5.1)[0]
    assert math.isnan(of(row, "lean_before"))
    row = context.look_at(np.array([4]), np.array(here), np.array([[1.0, 0.0]]), asked=np.array([0]), time_s=5.2 + KEPT_S)[0]
    assert math.isnan(of(row, "lean_about_before"))


def test_the_kernels_do_what_their_python_does():
    rng = np.random.default_rng(6)
    places, lean, asked = rng.uniform(0.0, 5.0, (30, 2)), rng.normal(0.0, 2.0, 30), np.array([0, 11, 29])
    lost = np.column_stack((rng.uniform(0.0, 5.0, (50, 2)), rng.normal(0.0, 2.0, 50), rng.uniform(0.2, 8.0, 50), np.zeros(50)))
    for kernel, given, columns in (
        (_kernels_context.among, (places, lean, asked, np.array([0.5, 2.0])), 6),
        (_kernels_context.before, (places, asked, lost, 0.35, 1.2, 0.2), 3),
    ):
        quick, slow = np.empty((3, columns)), np.empty((3, columns))
        kernel(*given, quick)
        kernel.py_func(*given, slow)
        np.testing.assert_allclose(quick, slow)
