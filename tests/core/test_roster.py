"""The roster: rows that come and go, what tracks take in, evidence that gathers."""

import math

import numpy as np
import pytest

from mudlamp.core.tracking import _kernels_filter, _kernels_history, _kernels_notes, filter
from mudlamp.core.tracking.history import BEATS_HZ, Fixes, History
from mudlamp.core.tracking.motion import BEAT_S, MOTION_S, note_motion
from mudlamp.core.tracking.roster import MEANS, ROOM, SLOW_HITS, WAYS_S, Evidence, Roster
from tests.core.tracks import a_track


def note(roster, row, *, at, level=-40.0, length=0.3, time_s=0.0):
    rows, figures = np.array([row]), {"level_db": np.array([level]), "length_m": np.array([length])}
    roster.note(rows, place=np.array([at]), measured=np.full((1, len(MEANS)), level), time_s=time_s, aim_rad=0.1, **figures)


def test_a_row_that_was_given_back_comes_again_with_nothing_known_in_it():
    roster = Roster()
    used = a_track(7, (8.0, 3.0), roster=roster, told=5, confirmed=True, lead=2.0)
    note(roster, used.row, at=(8.0, 3.0))
    roster.kind_sums.with_newest(np.array([used.row]), np.array([[9.0, 9.0]]), share=0.1)
    roster.give_back(np.array([used.row]))
    rows = roster.take(ROOM)
    assert sorted(rows) == list(range(ROOM))
    assert not roster.told.any()
    assert not roster.confirmed.any()
    assert np.isnan(roster.lead).all()
    assert np.isnan(roster.newest).all()
    assert (roster.hits == 1).all()
    assert len(Fixes(roster.history, used.row)) == 0
    assert roster.kind_sums.with_newest(np.array([used.row]), np.array([[1.0, 2.0]]), share=0.1).tolist() == [[1.0, 2.0]]


def test_there_is_room_for_more_tracks_than_at_first_and_none_loses_what_is_known_of_it():
    roster = Roster()
    first = a_track(3, (8.0, 3.0), roster=roster)
    fixes = first.fixes
    for n in range(5):
        note(roster, first.row, at=(8.0 + n, 3.0), time_s=float(n))
    rows = roster.take(3 * ROOM)
    assert len({first.row, *rows.tolist()}) == 3 * ROOM + 1
    assert (first.number, first.place, first.hits, len(fixes)) == (3, (8.0, 3.0), 6, 5)
    assert roster.history.place[first.row, 4].tolist() == [12.0, 3.0]
    last = int(rows[-1])
    note(roster, last, at=(1.0, 2.0))
    assert len(Fixes(roster.history, last)) == 1
    assert roster.history.place[last, 0].tolist() == [1.0, 2.0]


@pytest.mark.parametrize("kernel", [_kernels_notes.note, _kernels_notes.note.py_func])
def test_levels_and_steps_are_means_of_all_at_first_and_then_of_the_last(kernel, monkeypatch):
    monkeypatch.setattr(_kernels_notes, "note", kernel)
    rng = np.random.default_rng(4)
    roster = Roster()
    levels, track = rng.normal(-40.0, 4.0, 60), a_track(1, (8.0, 3.0), roster=roster, level_db=-40.0, hits=1)
    track.means = np.full(len(MEANS), -40.0)
    for n, level in enumerate(levels[:SLOW_HITS], start=1):
        note(roster, track.row, at=(8.0 + 0.1 * n, 3.0), level=level, time_s=0.1 * n)
        assert track.means[0] == pytest.approx(np.mean([-40.0, *levels[:n]]))
    assert track.steps[2] == pytest.approx(0.1 * (SLOW_HITS - 1) / SLOW_HITS)
    before = track.means[0]
    note(roster, track.row, at=(8.0, 3.0), level=levels[SLOW_HITS], time_s=9.0)
    assert track.means[0] == pytest.approx(before + (levels[SLOW_HITS] - before) / SLOW_HITS)
    assert track.newest.tolist() == [levels[SLOW_HITS], 0.3, 8.0, 3.0]
    assert (track.seen_s, track.own_s, track.hits) == (9.0, 9.0, SLOW_HITS + 2)


def test_a_body_turned_away_looks_short_and_its_length_leans_to_the_longest():
    roster = Roster()
    longer, shorter = (a_track(n, (8.0, 3.0), roster=roster, length_m=0.4, hits=50) for n in (1, 2))
    note(roster, longer.row, at=(8.0, 3.0), length=0.5)
    note(roster, shorter.row, at=(8.0, 3.0), length=0.3)
    assert longer.length_m - 0.4 == pytest.approx((0.4 - shorter.length_m) / 0.15)


def test_evidence_is_the_mean_of_all_that_was_said_later_the_newest_by_its_share():
    evidence, rows = Evidence(4), np.array([2, 0])
    said = np.random.default_rng(2).normal(0.0, 1.0, (30, 2, 3))
    before = said[0]
    for n, newest in enumerate(said, start=1):
        found = evidence.with_newest(rows, newest, share=0.1)
        np.testing.assert_allclose(found, said[:n].mean(axis=0) if n <= 10 else before + 0.1 * (newest - before))
        before = found


def test_what_is_worked_out_for_all_is_what_is_worked_out_for_each():
    rng = np.random.default_rng(8)
    roster = Roster()
    tracks = [a_track(n, (8.0, 3.0), roster=roster, score=score) for n, score in enumerate((1.0, 0.2, 1.0))]
    for n in range(60):
        for track in tracks[:2]:
            at = (8.0 + 0.02 * n + rng.normal(0.0, 0.02), 3.0 - 0.01 * n)
            note(roster, track.row, at=at, level=rng.normal(-40.0, 3.0), time_s=n / 10.0)
    note(roster, tracks[2].row, at=(8.0, 3.0), time_s=5.9)
    note_motion(roster, np.array([track.row for track in tracks]), 5.9)
    for track in tracks[:2]:
        ahead, down, span_s = track.fixes.travel(since_s=5.9 - MOTION_S)
        assert tuple(track.shift_m) == (ahead, down)
        assert roster.roam_m[track.row] == pytest.approx(math.hypot(ahead, down))
        assert roster.sink_m_s[track.row] == pytest.approx(down / span_s)
        kept, one, found = roster.history, track.row, np.zeros(3)
        _kernels_history.beat(kept.time_s[one], kept.level_db[one], 0, 60, 5.9 - BEAT_S, BEATS_HZ, found)
        np.testing.assert_array_equal(roster.beat[one], found[:2])
        for way, way_s in zip(track.ways, WAYS_S, strict=True):
            _kernels_history.straight(kept.time_s[one], kept.place[one], 0, 60, 5.9 - way_s, found)
            np.testing.assert_array_equal(way, found)
    # Only what was heard steadily counts as having moved; of what was heard once nothing is known.
    assert roster.moved_m[tracks[0].row] == roster.roam_m[tracks[0].row]
    assert roster.moved_m[tracks[1].row] == 0.0
    assert np.isnan(tracks[2].ways).all()
    assert np.isnan(roster.beat[tracks[2].row]).all()


def a_history(rng, rows):
    history, everyone = History(rows), np.arange(rows)
    for n in range(40):
        history.add(everyone, time_s=n / 10.0, place=rng.normal(0.0, 1.0, (rows, 2)), level_db=rng.normal(-40.0, 3.0, rows), aim_rad=0.0)
    return history


@pytest.mark.parametrize("name", ["motion", "beats", "add"])
def test_kernels_of_histories_are_their_python(name):
    found = []
    for run in (getattr(_kernels_history, name), getattr(_kernels_history, name).py_func):
        kept, rows = a_history(np.random.default_rng(3), 3), np.array([2, 0])
        figures = [np.full((3, 2), np.nan), np.full((3, 2), np.nan), np.zeros(3), np.zeros(3), np.zeros(3), np.full((3, 2, 3), np.nan)]
        if name == "motion":
            run(rows, 3.9, kept.time_s, kept.place, kept.first, kept.last, np.ones(3), 0.8, 3.0, 0.5, 6.0, WAYS_S, *figures)
        elif name == "beats":
            run(rows, kept.time_s, kept.level_db, kept.first, kept.last, 0.5, BEATS_HZ, figures[0])
        else:
            columns = (kept.time_s, kept.place, kept.level_db, kept.aim_rad, kept.first, kept.last)
            for n in range(400):
                run(rows, 4.0 + n / 60.0, np.full((2, 2), n), np.full(2, n), 0.5, 6.0, *columns)
            figures = [kept.first, kept.last, *(kept.place[row, kept.first[row] : kept.last[row]] for row in range(3))]
        found.append(figures)
    for one, two in zip(*found, strict=True):
        np.testing.assert_allclose(one, two)


@pytest.mark.parametrize("name", ["predict", "update", "costs", "distances"])
def test_kernels_of_the_filter_are_their_python(name):
    rng = np.random.default_rng(5)
    state, place = rng.normal(0.0, 1.0, (4, 4)), rng.normal(0.0, 1.0, (4, 2))
    root, other = rng.normal(0.0, 1.0, (4, 4, 4)), rng.normal(0.0, 1.0, (4, 2, 2))
    covariance, noise = root @ np.swapaxes(root, 1, 2), other @ np.swapaxes(other, 1, 2)
    given = {
        "predict": (state, covariance, 0.1, rng.uniform(0.0, 2.0, 4)),
        "update": (state, covariance, place, noise),
        "costs": (rng.uniform(0.0, 20.0, (4, 4)), state[:, 0], state[:, 1], 7.0, 11.6),
        "distances": (state, covariance, place, noise),
    }[name]
    shapes = [(4, 4)] if name in ("costs", "distances") else [(4, 4), (4, 4, 4)]
    kernel, (one, two) = getattr(_kernels_filter, name), ([np.zeros(shape) for shape in shapes] for _ in range(2))
    kernel(*given, *one)
    kernel.py_func(*given, *two)
    for compiled, plain in zip(one, two, strict=True):
        np.testing.assert_allclose(compiled, plain)


def test_many_tracks_are_moved_on_as_matrices_say():
    rng = np.random.default_rng(6)
    state, root = rng.normal(0.0, 1.0, (5, 4)), rng.normal(0.0, 1.0, (5, 4, 4))
    covariance = root @ np.swapaxes(root, 1, 2)
    step = np.eye(4) + 0.2 * np.eye(4, k=2)
    hard = np.array([1.0, 0.4, 0.4, 2.0, 0.0])
    noise = np.kron([[0.2**4 / 4.0, 0.2**3 / 2.0], [0.2**3 / 2.0, 0.2**2]], np.eye(2)) * hard[:, None, None] ** 2
    moved, spread = filter.predict(state, covariance, 0.2, hard)
    np.testing.assert_allclose(moved, state @ step.T)
    np.testing.assert_allclose(spread, step @ covariance @ step.T + noise)


def test_costs_lean_on_the_level_within_the_gate_alone():
    out = np.empty((1, 3))
    _kernels_filter.costs(np.array([[1.0, 11.5, 11.7]]), np.array([-40.0]), np.array([-40.0, -47.0, -40.0]), 7.0, 11.6, out)
    assert out[0] == pytest.approx([0.6, 0.6 * 11.5 + 0.4, 11.6])
