"""The bottom line on maps of power as they come: a fish, a second echo, a tree, a ledge, deep water."""

import numpy as np
import pytest

from mudlamp.core.scene.draw import draw_water
from mudlamp.core.tracking.bottom_line import ALMOST_KNOWN, STEP_M, STEPS, STRETCH_M, STRETCHES, BottomLine, _line
from mudlamp.core.tracking.track import Kind
from mudlamp.core.tracking.tracker import Tracker
from mudlamp.formats.learned import shipped
from mudlamp.heads.simulated import SimulatedHead

# The boat is over the fortieth stretch.
AHEAD_M = (np.arange(STRETCHES) - 40) * STRETCH_M


def line_of(mean, ahead_m=AHEAD_M):
    return _line(mean, ahead_m=ahead_m, sonar_m=0.4)


def water(first=40, last=90):
    mean = np.zeros((STRETCHES, STEPS))
    mean[first:last] = 1e-7
    return mean


def lay(mean, depth_m, level_db, columns):
    for i in columns:
        at = int(depth_m / STEP_M)
        mean[i, at : at + 2] = 10.0 ** (level_db / 10.0)


def test_a_flat_bottom_is_found_and_its_second_echo_is_not():
    mean = water()
    lay(mean, 5.0, -25.0, range(40, 90))
    lay(mean, 10.0, -30.0, range(40, 60))
    line = line_of(mean)
    assert line[45:85] == pytest.approx(5.0, abs=0.2)
    assert np.isnan(line[:35]).all()


def test_a_school_over_deep_water_is_no_bottom():
    mean = water()
    rng = np.random.default_rng(1)
    for i in range(60, 66):
        for depth in rng.uniform(6.0, 8.0, 4):
            lay(mean, depth, -40.0, [i])
    assert np.isnan(line_of(mean)).all()


def test_a_tree_on_the_bottom_does_not_lift_it():
    mean = water()
    lay(mean, 6.0, -30.0, range(40, 90))
    for depth in np.arange(3.5, 6.0, 0.1):
        lay(mean, depth, -33.0, range(60, 64))
    assert line_of(mean)[45:85] == pytest.approx(6.0, abs=0.25)


def test_a_school_brighter_than_the_bottom_under_it_does_not_lift_it():
    mean = water()
    lay(mean, 2.5, -46.0, range(40, 90))
    for column in range(55, 66):
        lay(mean, 1.9 + 0.02 * (column % 5), -42.0, [column])
    # Among the fish it may be unknown: then nothing is cut off.
    line = line_of(mean)[45:85]
    assert line[np.isfinite(line)] == pytest.approx(2.5, abs=0.25)
    assert np.isfinite(line).sum() > 20
    # Much brighter, it is the bottom, and what shows under it is not.
    lay(mean, 1.9, -25.0, range(40, 90))
    assert line_of(mean)[45:85] == pytest.approx(1.9, abs=0.25)


@pytest.mark.parametrize(("depth_m", "known"), [(2.5, True), (6.0, False)])
def test_a_soft_bottom_may_be_fainter_where_it_is_shallow_and_grazed(depth_m, known):
    mean = water()
    lay(mean, depth_m, -53.0, range(48, 90))
    assert np.isfinite(line_of(mean)[52:85]).all() == known


@pytest.mark.parametrize(("through_db", "known"), [(-35.0, True), (-47.0, False)])
def test_the_line_runs_on_under_branches_unless_it_falls_off(through_db, known):
    mean = water()
    lay(mean, 5.0, -30.0, range(40, 70))
    # No gap to bridge: the water ends here, under branches that hide what stands out from it.
    lay(mean, 5.0, through_db, range(70, 78))
    for depth_m in np.arange(3.2, 4.8, 0.08):
        lay(mean, depth_m, through_db, range(70, 90))
    line = line_of(mean)
    assert line[45:68] == pytest.approx(5.0, abs=0.2)
    assert np.isfinite(line[71:77]).all() == known
    assert np.isnan(line[82:]).all()


def test_past_a_ledge_that_hides_the_bottom_nothing_is_known():
    mean = water()
    lay(mean, 5.0, -25.0, range(40, 65))
    lay(mean, 5.2, -46.0, range(66, 72))
    line = line_of(mean)
    assert line[45:62] == pytest.approx(5.0, abs=0.2)
    assert np.isnan(line[68:]).all()


@pytest.mark.parametrize(
    ("levels_db", "stays"), [((-32.0, -31.0, -30.0, -31.0) * 2, False), (tuple(-20.0 - 2.15 * n for n in range(13)), True)]
)
def test_fish_past_a_lip_as_deep_as_the_ground_before_it_are_no_bottom_and_a_bottom_that_fades_is(levels_db, stays):
    mean = water()
    first, end = 70, 70 + len(levels_db)
    lay(mean, 5.0, -20.0, range(40, first))
    for column, level_db in enumerate(levels_db, start=first):
        lay(mean, 5.0, level_db, [column])
    line = line_of(mean)
    assert line[45 : first - 1] == pytest.approx(5.0, abs=0.2)
    assert np.isfinite(line[first + 3 : end - 2]).all() == stays
    assert np.isnan(line[end:]).all()


@pytest.mark.parametrize(("level_db", "many", "stays"), [(-36.0, 4, False), (-24.0, 4, True), (-36.0, 12, True)])
def test_a_faint_short_piece_over_the_ground_before_it_is_fish_and_a_bright_or_long_one_ground_that_rises(level_db, many, stays):
    mean = water()
    lay(mean, 5.0, -28.0, range(40, 66))
    # The ground falls away past a lip, and is hidden; what hangs there is half a meter over where it was heard last.
    for column in range(66, 70):
        lay(mean, 5.0 + 0.15 * (column - 65), -28.0, [column])
    lay(mean, 5.1, level_db, range(70, 70 + many))
    line = line_of(mean)
    assert line[45:64] == pytest.approx(5.0, abs=0.2)
    assert bool(np.isfinite(line[71 : 69 + many]).all()) == stays
    # Whoever looks at it from the other side sees the same.
    np.testing.assert_allclose(line_of(mean[::-1], AHEAD_M[::-1])[::-1][71 : 69 + many], line[71 : 69 + many])


def test_where_the_bottom_is_almost_known_what_is_half_as_deep_again_is_its_second_echo():
    line = BottomLine()
    line._depth = np.full(STRETCHES, np.nan)
    line._depth[60:80], line._depth[90:100] = 4.0, 6.0
    second = line._second_echo_m()
    assert np.isinf(second[60:80]).all()
    assert second[60 - ALMOST_KNOWN : 60] == pytest.approx(1.5 * 4.0)
    assert np.isinf(second[: 60 - ALMOST_KNOWN]).all()
    # Between both it is the deeper one's: a ledge steps down.
    assert second[80:90] == pytest.approx(1.5 * 6.0)
    assert np.isinf(BottomLine()._second_echo_m()).all()


def test_second_echoes_behind_a_boat_over_shallow_rock_are_no_fish():
    drawn = draw_water(720)
    head, tracker, named = SimulatedHead(drawn.scene, seed=720), Tracker(shipped()), []
    for number in range(int(4 * drawn.ping_hz)):
        ping = head.listen(number / drawn.ping_hz)
        named = [view for view in tracker.update(ping) if view.kind is Kind.FISH]
        bottom_m = head.world.bottom_m(ping.pose.x_m, ping.pose.y_m)
    # There were seventy of them.
    assert sum(view.world[2] > 1.4 * bottom_m for view in named) <= 2


def test_a_beam_that_grazes_the_lip_of_a_ledge_sees_past_it_and_one_that_hits_the_ground_does_not():
    line = BottomLine()
    line._depth = np.full(STRETCHES, np.nan)
    line._depth[20:60] = 5.0
    # How deep under the line each beam gets [m], and in which stretch it ends.
    under = np.array([[-1.0, 0.2, -0.5], [-1.0, 0.2, 1.0], [-1.0, 0.2, -0.5]])
    index = np.array([[30, 58, 75], [30, 58, 75], [30, 50, 59]])
    np.testing.assert_array_equal(line._grazes(under, index), [True, False, False])
