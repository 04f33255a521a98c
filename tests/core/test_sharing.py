"""Two fish in one echo: the one that gets none lives on the other's for a while, as itself."""

from functools import partial

import numpy as np
import pytest

from mudlamp.core.tracking import associate
from mudlamp.core.tracking.track import Kind
from mudlamp.core.tracking.tracker import SHARE_S, Tracker
from tests.core.tracks import a_track, one_echo, together


def a_fish(number, ahead, *, kind=Kind.FISH):
    return partial(a_track, number, (ahead, 3.0), covariance=0.01 * np.eye(4), seen_s=4.0, own_s=4.0, confirmed=True, kind=kind)


def shared(tracks, *, time_s, distance=2.0):
    tracker = Tracker()
    tracker.tracks = together(*(made(roster=tracker.roster) for made in tracks))
    tracker._share_echoes(one_echo(8.1), np.array([[0.5], [distance]]), np.array([0]), np.array([0]), time_s)
    return tracker.tracks[1]


def test_a_fish_without_an_echo_lives_on_its_neighbor_s_and_is_drawn_toward_it_a_little():
    other = shared([a_fish(1, 8.0), a_fish(2, 8.3)], time_s=5.0)
    assert other.seen_s == 5.0
    assert other.own_s == 4.0
    assert 8.1 < other.place[0] < 8.3
    # What it looks like is its own: nothing was measured of it.
    assert len(other.fixes) == 0


@pytest.mark.parametrize(
    ("tracks", "time_s", "distance"),
    [
        ([a_fish(1, 8.0), a_fish(2, 8.3)], 4.0 + SHARE_S + 0.1, 2.0),
        ([a_fish(1, 8.0), a_fish(2, 8.3)], 5.0, associate.GATE + 0.1),
        ([a_fish(1, 8.0), a_fish(2, 8.3, kind=Kind.COVER)], 5.0, 2.0),
        ([a_fish(1, 8.0, kind=Kind.COVER), a_fish(2, 8.3)], 5.0, 2.0),
    ],
    ids=["too long", "too far", "no fish", "not of a fish"],
)
def test_else_it_coasts(tracks, time_s, distance):
    other = shared(tracks, time_s=time_s, distance=distance)
    assert other.seen_s == 4.0
    assert other.place[0] == 8.3
