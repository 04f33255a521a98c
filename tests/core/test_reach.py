"""A reach of water: the same by seed, plausible, and no dearer to hear when it is larger."""

import math
from dataclasses import replace

import numpy as np
import pytest

from mudlamp.core.scene.bottom import GROUNDS
from mudlamp.core.scene.draw_reach import DEEPEST_M, charted, draw_reach
from mudlamp.core.scene.model import Water
from mudlamp.core.scene.places import BAND_M, SCHOOLS_AT, PlaceKind, Season, season_of
from mudlamp.core.scene.reach_water import ReachWater
from mudlamp.core.scene.roaming import SCATTERS_M, SLIDE_M, SLIDES_M, School
from mudlamp.core.scene.survey import Survey
from mudlamp.core.scene.world import World
from mudlamp.core.units import degc_from_degf
from mudlamp.services.find.window import HALF_M, window_of

WATER = Water(temperature_degc=14.4, secchi_m=1.4, wind_m_s=2.0)


def _reach(seed, season=Season.FALL):
    return draw_reach(seed, water=WATER, season=season, name="r", title="r")


@pytest.fixture(scope="module")
def reach():
    return _reach(904)


def test_a_seed_gives_the_same_reach_and_another_seed_another(reach):
    again, other = _reach(904), _reach(905)
    assert again.schools == reach.schools
    assert again.cover == reach.cover
    np.testing.assert_array_equal(again.survey.depth_m, reach.survey.depth_m)
    assert other.schools != reach.schools


@pytest.mark.parametrize("seed", [904, 911, 918])
def test_a_reach_is_six_to_thirty_eight_feet_deep_and_holds_what_the_demo_has(seed):
    found = _reach(seed)
    afloat = found.survey.depth_m[found.survey.depth_m > 1.5]
    assert afloat.max() == pytest.approx(DEEPEST_M, rel=0.15)
    assert {place.kind for place in found.places} >= {
        PlaceKind.BRIDGE,
        PlaceKind.VILLAGE,
        PlaceKind.ORCHARD,
        PlaceKind.DOCK,
        PlaceKind.BLUFF,
    }
    assert set(np.unique(found.survey.kind)) == set(range(len(GROUNDS)))
    assert found.is_afloat(*found.launch_m)
    assert 10 <= sum(one.is_school for one in found.schools) <= 14
    for school in found.schools:
        assert 0.3 < school.z_m < found.survey.depth_at(school.x_m, school.y_m)


@pytest.mark.parametrize("season", list(Season))
def test_most_schools_hold_over_the_seasons_band_at_its_places(season):
    """The rule: eight of ten schools. Counted over ten reaches, three deviations of a binomial allowed."""
    low, high = BAND_M[season]
    schools = [(one, found) for seed in range(920, 930) for found in [_reach(seed, season)] for one in found.schools if one.is_school]
    inside = [
        one.at in SCHOOLS_AT[season] and 0.85 * low <= found.survey.depth_at(one.x_m, one.y_m) <= 1.2 * high for one, found in schools
    ]
    assert np.mean(inside) > 0.8 - 3.0 * math.sqrt(0.8 * 0.2 / len(inside))


def test_the_season_is_read_off_the_water():
    """Common practice, no source."""
    assert season_of(degc_from_degf(44.0), warming=True) is Season.WINTER
    assert season_of(degc_from_degf(60.0), warming=True) is Season.SPRING
    assert season_of(degc_from_degf(60.0), warming=False) is Season.FALL
    assert season_of(degc_from_degf(82.0), warming=False) is Season.SUMMER


def test_depths_between_nodes_are_the_same_one_by_one_and_all_together(reach):
    rng = np.random.default_rng(1)
    x, y = rng.uniform(-320.0, 320.0, 200), rng.uniform(-130.0, 130.0, 200)
    single = [reach.survey.depth_at(float(a), float(b)) for a, b in zip(x, y, strict=True)]
    np.testing.assert_allclose(reach.survey.depths(x, y), single, atol=1e-9)


def test_a_chart_is_a_little_off_over_long_lengths():
    flat = Survey(west_m=0.0, south_m=0.0, step_m=1.0, depth_m=np.full((300, 300), 6.0), kind=np.zeros((300, 300), dtype=np.int64))
    off = charted(flat, 5).depth_m - 6.0
    assert off.std() == pytest.approx(0.25, rel=0.05)
    assert np.abs(np.diff(off, axis=0)).max() < 0.05


def _school(reach, depth_m):
    plan = replace(reach.schools[0], x_m=0.0, y_m=0.0, z_m=depth_m, spread_m=1.0, count=12)
    return School(1, plan, np.random.default_rng(3))


def test_a_shallow_school_driven_over_scatters_a_middling_one_slides_and_both_come_home(reach):
    """The rules are an assumption of ours: under 10 ft it scatters, at 10 to 20 ft it slides 20 to 50 ft and gathers within 30 min."""
    shallow, middle = _school(reach, 0.8 * SCATTERS_M), _school(reach, 0.5 * (SCATTERS_M + SLIDES_M))
    for one in (shallow, middle):
        one.feel((0.3, 0.2), 100.0)
        slid = math.hypot(*one.middle_m(200.0)[:2])
        assert SLIDE_M[0] - 0.01 <= slid <= SLIDE_M[1] + 0.01
        assert math.hypot(*one.middle_m(100.0 + 1801.0)[:2]) == 0.0

    def spread(one):
        return float(np.std(one.places_m(200.0)[:, :2] - one.middle_m(200.0)[:2]))

    assert spread(shallow) > 2.5 * spread(middle)


def test_a_school_that_is_disturbed_again_goes_on_from_where_it_is(reach):
    school = _school(reach, 2.0)
    school.feel((0.3, 0.2), 100.0)
    there = school.middle_m(400.0)
    school.feel((float(there[0]) + 0.5, float(there[1])), 400.0)
    assert school.disturbed.since_s == 400.0
    steps = np.array([school.middle_m(float(at)) for at in np.arange(395.0, 2400.0, 0.5)])
    assert np.linalg.norm(np.diff(steps, axis=0), axis=1).max() < 0.6
    assert math.hypot(*school.middle_m(400.0 + 1801.0)[:2]) == 0.0


def test_a_deep_school_mostly_holds_and_one_that_is_passed_wide_does_not_mind(reach):
    moved = 0
    for seed in range(200):
        deep = School(1, replace(_school(reach, 1.2 * SLIDES_M).plan), np.random.default_rng(seed))
        deep.feel((0.0, 0.0), 10.0)
        moved += deep.disturbed is not None
    assert 5 <= moved <= 40
    wide = _school(reach, 2.0)
    wide.feel((9.0, 0.0), 10.0)
    assert wide.disturbed is None


def test_what_can_be_heard_does_not_grow_with_the_water(reach):
    """Twenty times as many schools and as much cover far away: the same points are summed for a ping."""
    near = reach.schools[0]
    origin = np.array([near.x_m, near.y_m, 0.3])
    far_schools = tuple(replace(one, x_m=one.x_m + 3000.0 + 700.0 * i) for i in range(20) for one in reach.schools)
    far_cover = tuple(replace(one, x_m=one.x_m + 3000.0 + 700.0 * i) for i in range(20) for one in reach.cover)
    large = replace(reach, schools=reach.schools + far_schools, cover=reach.cover + far_cover)
    small_points, _ = ReachWater(reach).hear(origin, 5.0, within_m=30.0)
    large_points, _ = ReachWater(large).hear(origin, 5.0, within_m=30.0)
    np.testing.assert_array_equal(small_points.x, large_points.x)


def test_a_window_for_the_live_fan_is_the_same_water_with_its_fish_where_they_are(reach):
    water = ReachWater(reach)
    school = water.roaming.schools[0]
    middle = school.middle_m(700.0)
    at = (float(middle[0]) - 9.0, float(middle[1]) + 4.0)
    scene = window_of(water, at, 1.0, 700.0)
    world = World(scene, seed=reach.seed, scripted=False)
    # The bottom is the large water's, shifted.
    for dx, dy in ((0.0, 0.0), (12.3, -7.7), (-20.0, 15.1)):
        assert world.bottom_m(dx, dy) == pytest.approx(reach.survey.depth_at(at[0] + dx, at[1] + dy), abs=0.02)
    assert scene.bottom.survey.depth_m.shape[0] <= 2 * HALF_M / reach.survey.step_m + 3
    # Every fish of the school is there, within the few centimeters that one is off its home.
    there = np.array([fish.position_m for fish in world.fish]) + [*at, 0.0]
    for place in school.places_m(700.0):
        assert np.linalg.norm(there - place, axis=1).min() < 0.35
    # Cover grows from the same seed: the same twigs in the same places.
    numbers = water.cover_near(*at, 45.0)
    assert scene.cover_seeds == tuple(numbers)
    if numbers:
        own = water.built(numbers[0]).position_m[0]
        assert np.linalg.norm(world.cover_places() + [*at, 0.0] - own, axis=1).min() < 0.02
