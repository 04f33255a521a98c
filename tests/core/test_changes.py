"""How a mark changes from ping to ping: closed forms, brute force, and a mark that flickers beside one that does not."""

import math

import numpy as np
import pytest

from mudlamp.core.tracking import _kernels_changes
from mudlamp.core.tracking.changes import gathered_known
from mudlamp.core.tracking.roster import CHANGES
from mudlamp.core.tracking.tracker import Tracker
from tests.core.test_tracking import blob, ping_of

NEXT, SOON, LATER = (CHANGES.index(f"power_db_{since}") for since in ("next", "soon", "later"))


def changed(now, before, here, there, *, kernel=_kernels_changes.changes, half_beams=2, half_bins=3):
    out = np.empty((len(here), 4))
    kernel(now, before, *np.array(here).T, *np.array(there).T, half_beams, half_bins, out)
    return out


def test_what_is_the_same_did_not_change_and_what_is_louder_changed_by_so_much():
    rng = np.random.default_rng(1)
    level = rng.uniform(-50.0, -44.0, (20, 40)).astype(np.float32)
    same, moved = changed(level, level, [(8, 12), (8, 12)], [(8, 12), (9, 17)])
    assert same == pytest.approx(np.zeros(4), abs=1e-6)
    assert (moved > 0.1).sum() >= 3
    # Six decibels more everywhere: so much in cells, power and peak, and the shape is the same.
    (louder,) = changed(level + 6.0, level, [(8, 12)], [(8, 12)])
    assert louder == pytest.approx([6.0, 6.0, 6.0, 0.0], abs=1e-4)
    # The same marks on a patch that came along are no change.
    (along,) = changed(np.roll(level, (1, 5), axis=(0, 1)), level, [(9, 17)], [(8, 12)])
    assert along == pytest.approx(np.zeros(4), abs=1e-6)


def test_shapes_that_share_no_cell_are_as_unlike_as_can_be():
    now, before = np.full((5, 7), -200.0), np.full((5, 7), -200.0)
    now[2, 2], before[2, 4] = -40.0, -40.0
    (found,) = changed(now, before, [(2, 3)], [(2, 3)])
    # Two cells of 35 are loud in either ping, and each falls to silence, 25 dB under the peak.
    assert found == pytest.approx([25.0, 0.0, 0.0, 1.0], abs=2e-3)


def test_a_place_outside_either_ping_is_not_known():
    level = np.full((6, 9), -40.0, np.float32)
    found = changed(level, level, [(5, 8), (6, 2), (2, 2)], [(5, 8), (2, 2), (2, 9)])
    assert found[0] == pytest.approx(np.zeros(4))
    assert np.isnan(found[1:]).all()


def test_the_kernel_is_its_own_python_and_a_sum_by_hand():
    rng = np.random.default_rng(4)
    now, before = (rng.uniform(-70.0, -40.0, (20, 30)) for _ in range(2))
    here, there = rng.integers(-1, 21, (30, 2)), rng.integers(-1, 21, (30, 2))
    found = changed(now, before, here, there)
    np.testing.assert_allclose(changed(now, before, here, there, kernel=_kernels_changes.changes.py_func), found, rtol=1e-9, atol=1e-12)
    ((_, power_db, peak_db, shape),) = changed(now, before, [(10, 15)], [(9, 14)])
    a, b = now[8:13, 12:19], before[7:12, 11:18]
    linear, earlier = 10.0 ** (a / 20.0), 10.0 ** (b / 20.0)
    assert power_db == pytest.approx(abs(10.0 * np.log10((linear**2).sum() / (earlier**2).sum())))
    assert peak_db == pytest.approx(abs(a.max() - b.max()))
    assert shape == pytest.approx(1.0 - (linear * earlier).sum() / math.sqrt((linear**2).sum() * (earlier**2).sum()))


def followed(levels_db, *, skip=()):
    """Follow a still mark and one whose level goes through `levels_db`, at 15 pings a second; return their changes."""
    tracker = Tracker()
    for number in range(60):
        if number in skip:
            continue
        power = np.full((192, 700), 1e-8)
        blob(power, 60, 400, -38.0)
        blob(power, 100, 300, levels_db[number % len(levels_db)])
        tracker.update(ping_of(power, number))
    still, other = sorted((track for track in tracker.tracks if track.confirmed), key=lambda track: track.place[0], reverse=True)
    return still.changes, other.changes


def test_a_mark_that_flickers_changes_and_wood_beside_it_does_not():
    still, flickers = followed([-38.0, -42.0])
    assert still[[NEXT, SOON, LATER]] == pytest.approx(np.zeros(3), abs=0.05)
    # Every ping is 4 dB off the one before, and off that of a second ago, fifteen pings: at first, with fewer, off every second one.
    assert flickers[NEXT] == pytest.approx(4.0, abs=0.1)
    assert 3.0 < flickers[LATER] < 4.01
    assert flickers[CHANGES.index("shape_next")] < 0.01


def test_what_fades_slowly_changes_over_a_second_and_not_from_ping_to_ping():
    _, slow = followed(-38.0 - 4.0 * np.sin(np.linspace(0.0, 2.0 * np.pi, 30, endpoint=False)))
    assert slow[NEXT] < 0.9 < slow[SOON] < slow[LATER]
    assert slow[LATER] > 3.0


def test_without_a_ping_at_that_moment_nothing_is_held_against_it():
    # After five pings there is one before, and none that lies a second back.
    _, young = followed([-38.0, -42.0], skip=range(5, 60))
    assert young[NEXT] == pytest.approx(4.0, abs=0.1)
    assert np.isnan(young[LATER])
    known = gathered_known(np.array([[np.nan, 2.0, 2.0]]), np.array([[1.0, np.nan, 4.0]]), share=np.array([[0.5]]))
    np.testing.assert_array_equal(known, [[1.0, 2.0, 3.0]])
