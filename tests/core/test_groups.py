"""Schools and clouds: counted against fish that were strewn at random and merged where no sonar parts them."""

import numpy as np
import pytest

from mudlamp.core.tracking.detect import PART_WIDE_M
from mudlamp.core.tracking.groups import MOST_FOR_ONE, clouds_of, counted, schools_of
from mudlamp.core.tracking.track import Kind
from mudlamp.core.tracking.views import TrackView


def views_at(places, kind=Kind.FISH):
    return [
        TrackView(
            number=n, kind=kind, odds={}, place=(float(x), float(y)), world=(0.0, float(x), float(y)), range_m=8.0, angle_rad=0.0,
            velocity_m_s=(0.0, 0.0), length_m=0.3, level_db=-40.0, coasting=False, age_s=5.0,
        )
        for n, (x, y) in enumerate(places)
    ]  # fmt: skip


def strewn(rng, count, radius):
    turn, away = rng.uniform(0.0, 2.0 * np.pi, count), radius * np.sqrt(rng.uniform(0.0, 1.0, count))
    return np.column_stack((8.0 + away * np.cos(turn), 3.0 + away * np.sin(turn)))


def seen_apart(places, gap):
    """One of those that share a cell of a grid is seen."""
    _, first = np.unique(np.floor(places / gap).astype(int), axis=0, return_index=True)
    return places[first]


@pytest.mark.parametrize("count", [30, 45, 70])
def test_a_school_is_counted_through_what_merges(count):
    rng = np.random.default_rng(count)
    # What is parted at 8 m, by a beam of 0.02.
    cell = np.array([PART_WIDE_M, 0.16])
    said, inside = [], 0
    for _ in range(60):
        school = max(schools_of(views_at(seen_apart(strewn(rng, count, 1.3), cell)), beam_width_rad=0.02), key=lambda one: one.about)
        said.append(school.about)
        inside += school.low <= count <= school.high
    assert np.mean(said) == pytest.approx(count, rel=0.15)
    assert inside / 60 > 0.5


def test_occupancy_by_its_closed_form():
    # Of 100 cells 40 are filled: 100 ln(1 / 0.6).
    assert counted(40, 10.0, 0.1)[0] == pytest.approx(51.08, abs=0.01)
    # Where all is full nobody knows: no more than so many for one.
    assert counted(30, 0.0, 0.1)[0] <= MOST_FOR_ONE * 30


def test_few_fish_are_fish_and_two_schools_are_two():
    rng = np.random.default_rng(1)
    assert schools_of(views_at(strewn(rng, 9, 1.2)), beam_width_rad=0.02) == []
    both = np.concatenate((strewn(rng, 40, 1.0), strewn(rng, 40, 1.0) + [9.0, 0.0]))
    found = schools_of(views_at(both), beam_width_rad=0.02)
    assert len(found) == 2
    assert not found[0].members & found[1].members
    assert schools_of([], beam_width_rad=0.02) == []


def test_bait_is_a_cloud_with_its_extent_and_density():
    rng = np.random.default_rng(3)
    (cloud,) = clouds_of(views_at(strewn(rng, 60, 1.0), Kind.BAIT))
    assert cloud.place == pytest.approx((8.0, 3.0), abs=0.2)
    # Nine of ten of an even disc lie within 0.95 of its radius.
    assert cloud.radius_m == pytest.approx(0.95, abs=0.08)
    assert cloud.per_m2 == pytest.approx(60 / (np.pi * cloud.radius_m**2))
    assert clouds_of(views_at([(1.0, 1.0), (1.2, 1.0)], Kind.BAIT)) == []
