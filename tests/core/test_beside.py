"""How a track and the likeliest fish beside it are heard, against sums made moment by moment."""

import math

import numpy as np
import pytest

from mudlamp.core.tracking import _kernels_history
from mudlamp.core.tracking.beside import BESIDE, BESIDE_M, beside_of
from mudlamp.core.tracking.history import TOGETHER, History
from mudlamp.core.tracking.traits import gaps_to
from tests.core.tracks import a_plane, a_track, together


def heard(*of_each):
    """A history of tracks by the times, places and levels of each."""
    history = History(len(of_each))
    for row, moments in enumerate(of_each):
        for time, place, level in zip(*moments, strict=True):
            history.add(np.array([row]), time_s=float(time), place=np.array([place], float), level_db=np.array([float(level)]), aim_rad=0.0)
    return history


def heard_together(first, second, *, since_s):
    (row,) = heard(first, second).together(np.array([0]), np.array([1]), since_s=since_s)
    return dict(zip(TOGETHER, row, strict=True))


@pytest.mark.parametrize("compiled", [True, False])
def test_moments_of_two_tracks_are_counted_as_one_by_one(compiled, monkeypatch):
    if not compiled:
        monkeypatch.setattr(_kernels_history, "heard_together", _kernels_history.heard_together.py_func)
    rng = np.random.default_rng(6)
    moments = np.arange(40) / 10.0
    one, other = ({time: (*rng.normal(0.0, 1.0, 2), rng.normal(-40.0, 3.0)) for time in moments[rng.random(40) < 0.6]} for _ in range(2))
    first, second = ((list(one_s), [row[:2] for row in one_s.values()], [row[2] for row in one_s.values()]) for one_s in (one, other))
    found = heard_together(first, second, since_s=2.0)
    late = [time for time in moments if time >= 2.0 and (time in one or time in other)]
    both = [np.subtract(other[time], one[time]) for time in late if time in one and time in other]
    gaps = np.array([gap[:2] for gap in both])
    assert 3 < len(both) < len(late)
    assert found["both"] == pytest.approx(len(both) / len(late))
    assert found["one_alone"] == pytest.approx(sum(time not in other for time in late) / len(late))
    assert found["other_alone"] == pytest.approx(sum(time not in one for time in late) / len(late))
    assert found["apart_m"] == pytest.approx(math.sqrt((gaps**2).sum(axis=1).mean()))
    assert found["sways_m"] == pytest.approx(math.sqrt(gaps.var(axis=0).sum()))
    assert found["louder_db"] == pytest.approx(np.mean([gap[2] for gap in both]))


def test_who_was_never_heard_with_another_tells_nothing_of_how_far_apart_they_are():
    found = heard_together(([1.0], [(0, 0)], [-40]), ([1.1], [(0, 0)], [-40]), since_s=0.5)
    assert [found[name] for name in ("both", "one_alone", "other_alone")] == [0.0, 0.5, 0.5]
    assert math.isnan(found["apart_m"])
    assert all(math.isnan(value) for value in heard_together(([], [], []), ([], [], []), since_s=0.0).values())


def test_beside_is_the_likeliest_fish_within_reach_and_not_the_nearest():
    track, near, likely, far = a_track(1, (10.0, 0.4)), a_track(2, (10.1, 0.4)), a_track(3, (10.0, 0.8)), a_track(4, (10.0, 0.4 + BESIDE_M))
    near.lead, likely.lead, far.lead = -1.0, 1.5, 3.0
    likely.born_s, likely.own_s, track.own_s = -2.0, 4.0, 4.5
    everyone, due = together(track, near, likely, far), together(track)
    leads = np.array([-np.inf, -1.0, 1.5, 3.0])
    (row,) = beside_of(due, everyone, gaps_to(everyone, due), leads, plane=a_plane(), beam_width_rad=0.02, time_s=5.0)
    found = dict(zip(BESIDE, row, strict=True))
    assert (found["beside_lead"], found["beside_older_s"], found["own_silent_s"], found["beside_silent_s"]) == (1.5, 2.0, 0.5, 1.0)
    assert (found["beside_ahead_m"], found["beside_down_m"]) == pytest.approx((0.0, 0.4))
    # 0.4 m across the beams at 10 m, where one is 0.2 m wide.
    assert found["beside_beams"] == pytest.approx(2.0)


def test_nobody_is_beside_who_is_alone_or_next_to_who_was_never_told():
    track, other = a_track(1, (10.0, 0.4)), a_track(2, (10.1, 0.4))
    everyone, due = together(track, other), together(track)
    rows = beside_of(due, everyone, gaps_to(everyone, due), np.full(2, -np.inf), plane=a_plane(), beam_width_rad=0.02, time_s=5.0)
    assert np.isnan(rows).all()
