"""Ghosts against the simulator's own bounces, which are worked out the other way around: from what is there to where it seems to be."""

import math

import numpy as np
import pytest

from mudlamp.core.sonar import _kernels_bounces
from mudlamp.core.tracking import _kernels_ghosts
from mudlamp.core.tracking.bottom_line import STRETCH_M, BottomLine
from mudlamp.core.tracking.ghosts import APART_M, IS_GHOST, LOUDER_DB, WITHIN_M, note_ghosts, without_ghosts
from mudlamp.core.tracking.roster import Roster
from tests.core.tracks import a_plane, a_track, together

DEPTH_M, MOUNT_M, BEAM_RAD = 4.0, 0.4, 0.035
FISH = (4.2, 1.3)


@pytest.fixture
def line():
    """A bottom 4 m deep from the boat on."""
    line = BottomLine()
    line._start_u, line._depth = -20.0, np.full(200, np.nan)
    line._depth[50:] = DEPTH_M
    return line


def seeming(kernel, place, **more):
    """Return where the simulator's `kernel` lets an echo at a place (ahead, deep) [m] seem to stand, from the transducer at the world's origin."""
    x, y, z, amplitude, phase = (np.zeros(16) for _ in range(5))
    y[0], z[0], amplitude[0] = place[0], place[1], 1.0
    count = kernel(x, y, z, amplitude, phase, origin=np.array([0.0, 0.0, MOUNT_M]), depth_m=DEPTH_M, farthest_m=60.0, **more)
    return [(y[i], z[i]) for i in range(more["count"], count)]


def by_bottom(place):
    """Return the three places of a fish's echoes by way of the bottom; the fourth goes by the surface."""
    more = {"first": 0, "last": 1, "stride": 1, "ground_keeps": 0.5, "surface_keeps": 1.0, "upward_sent": 1.0, "least": 1e-9, "count": 1}
    return seeming(_kernels_bounces.bounces, place, **more)[:3]


def second_echo(ahead_m):
    """Return where the second echo of ground ahead seems to stand, that comes back along the straight leg."""
    more = {"first": 0, "last": 1, "aslant_keeps": 0.5, "straight_keeps": 0.5, "facet_slope": 0.2, "least": 1e-9, "count": 1}
    return seeming(_kernels_bounces.second_echoes, (ahead_m, DEPTH_M), **more)[0]


def told(line, *tracks, times=12):
    """Let ghosts be noted of some tracks so often; return how much of a ghost each is."""
    everyone = together(*tracks)
    for _ in range(times):
        note_ghosts(everyone, everyone, plane=a_plane(), bottom=line, beam_width_rad=BEAM_RAD)
        everyone.roster.told[everyone.rows] += 1
    return everyone.roster.ghost[everyone.rows]


def a_mark(number, place, *, level_db, lead=2.0, roster=None):
    track = a_track(number, place, **({"roster": roster} if roster else {}))
    track.roster.means[track.row, 0], track.roster.lead[track.row] = level_db, lead
    return track


def test_what_stands_where_a_fish_bounces_is_a_ghost(line):
    roster = Roster()
    fish = a_mark(1, FISH, level_db=-40.0, roster=roster)
    behind = [a_mark(2 + i, place, level_db=-48.0, roster=roster) for i, place in enumerate(by_bottom(FISH))]
    beside = a_mark(9, (by_bottom(FISH)[0][0] + 2.5 * WITHIN_M, FISH[1]), level_db=-48.0, roster=roster)
    as_loud = a_mark(10, by_bottom(FISH)[0], level_db=-40.0 - 0.5 * LOUDER_DB, roster=roster)
    ghost = told(line, fish, *behind, beside, as_loud)
    assert ghost.tolist() == [0.0, 1.0, 1.0, 1.0, 0.0, 0.0]


def test_what_may_be_wood_and_what_is_a_ghost_itself_throw_none(line):
    roster = Roster()
    wood = a_mark(1, FISH, level_db=-40.0, lead=-1.0, roster=roster)
    assert told(line, wood, a_mark(2, by_bottom(FISH)[0], level_db=-48.0, roster=roster))[1] == 0.0


def test_a_fish_near_the_ground_has_its_ghost_too_near_to_be_told(line):
    low = (6.0, DEPTH_M - 0.4)
    ghost = by_bottom(low)[0]
    assert math.dist(low, ghost) < APART_M
    roster = Roster()
    assert told(line, a_mark(1, low, level_db=-40.0, roster=roster), a_mark(2, ghost, level_db=-48.0, roster=roster))[1] == 0.0


def test_the_bottoms_second_echo_is_a_ghost_where_the_ground_is_not_deeper(line):
    place = second_echo(5.0)
    assert told(line, a_mark(1, place, level_db=-38.0))[0] == 1.0
    line._depth[round((place[0] + 20.0) / STRETCH_M) :] = 2.0 * DEPTH_M
    assert told(line, a_mark(2, place, level_db=-38.0))[0] == 0.0


def test_without_a_known_depth_nothing_is_said(line):
    line._depth[:] = np.nan
    assert line.under_m(0.0) is None
    assert told(line, a_mark(1, second_echo(5.0), level_db=-38.0))[0] == 0.0


def test_the_depth_at_the_boat_is_the_nearest_known_before_it(line):
    line._depth[50:53], line._depth[53] = np.nan, 3.0
    assert line.under_m(0.0) == 3.0
    line._depth[50:90] = np.nan
    assert line.under_m(0.0) is None


def test_who_stood_there_by_chance_is_none(line):
    roster = Roster()
    fish, other = a_mark(1, FISH, level_db=-40.0, roster=roster), a_mark(2, by_bottom(FISH)[0], level_db=-48.0, roster=roster)
    assert told(line, fish, other, times=3)[1] > IS_GHOST
    other.state = np.array([FISH[0] + 3.0, FISH[1], 0.0, 0.0])
    assert told(line, fish, other, times=12)[1] < IS_GHOST


def test_a_ghost_is_cover():
    odds = np.array([[0.8, 0.05, 0.1, 0.05], [0.8, 0.05, 0.1, 0.05]])
    found = without_ghosts(odds, np.array([0.9, 0.2]))
    np.testing.assert_allclose(found, [[0.08, 0.05, 0.01, 0.86], odds[1]])


def test_the_kernel_agrees_with_its_python():
    rng = np.random.default_rng(3)
    place, source = rng.uniform(0.5, 9.0, (400, 2)), rng.uniform(0.5, 3.0, (30, 2))
    level, source_db = rng.uniform(-60.0, -40.0, 400), rng.uniform(-45.0, -35.0, 30)
    found = [np.zeros(400, np.bool_) for _ in range(2)]
    for out, run in zip(found, (_kernels_ghosts.bounced, _kernels_ghosts.bounced.py_func), strict=True):
        run(place, level, source, source_db, 3.6, LOUDER_DB, APART_M, WITHIN_M, 0.1, out)
    np.testing.assert_array_equal(*found)
    assert 0 < found[0].sum() < 400
