"""Plans: afloat, within the time, worth more than going straight; and the boat that follows them."""

import itertools
import math
from types import SimpleNamespace

import numpy as np
import pytest

from mudlamp.core.errors import DomainError
from mudlamp.core.searching.boat import IdlingBoat
from mudlamp.core.searching.coverage import Coverage, seen_from
from mudlamp.core.searching.lateral import LateralCurve
from mudlamp.core.searching.plan import SHARP_RAD, TURN_S, is_clear, legs_of, plan_path
from mudlamp.services.find import plans
from mudlamp.services.find.odds import odds_for
from mudlamp.services.find.waters import reach_named

WATERS = [f"drawn-{seed}-{season}" for seed, season in ((940, "winter"), (941, "spring"), (942, "summer"), (943, "fall"), (944, "winter"))]


@pytest.mark.parametrize("name", WATERS)
def test_a_plan_floats_fits_the_time_and_beats_straight_down_the_middle(name):
    reach = reach_named(name)
    asked = plans.first_ask(reach)
    found = plans.plan(reach, asked, start_m=reach.launch_m)
    assert found.minutes <= asked.minutes
    assert all(reach.is_afloat(*place) for place in found.path)
    assert all(is_clear(reach, a, b) for a, b in zip(found.path, found.path[1:], strict=False) if math.dist(a, b) > 10.0)
    ways = {way.name: way.share for way in found.ways}
    assert ways["console"] == found.share
    assert ways["console"] > 1.3 * ways["middle"]
    assert ways["live"] < ways["console"]


def test_more_time_never_sees_less_and_a_second_plan_goes_on_where_the_first_left_off():
    reach = reach_named(WATERS[0])
    asked = [plans.PlanAsked(low_ft=12.0, high_ft=18.0, minutes=minutes, speed_mph=4.2) for minutes in (5.0, 15.0, 40.0)]
    shares = [plans.plan(reach, one, start_m=reach.launch_m).share for one in asked]
    assert shares[0] < shares[1] < shares[2] <= 1.0
    coverage = Coverage(odds_for(reach, asked[1].band_m), plans.curve_of(plans.views_for(asked[1]), asked[1].band_m))
    for place in plans.plan(reach, asked[1], start_m=reach.launch_m).path:
        coverage.pass_by(*place)
    first = coverage.share
    on = plans.plan(reach, asked[1], start_m=reach.launch_m, missed=coverage.missed)
    assert on.share > first + 0.1


def test_the_order_of_stretches_is_nearly_the_best_there_is():
    """Five stretches strewn about open water: against every order and direction of them that fits the time."""
    rng = np.random.default_rng(7)
    curve = LateralCurve(off_m=np.array([0.0, 10.0, 20.0]), found=np.array([0.9, 0.7, 0.2]), passes=np.zeros(3))
    water = SimpleNamespace(is_afloat=lambda x, y: True)
    for _ in range(4):
        starts, bearings = rng.uniform(-120.0, 120.0, (5, 2)), rng.uniform(0.0, 2.0 * math.pi, 5)
        lanes = [
            [(float(x), float(y)), (float(x + 47.0 * math.sin(turn)), float(y + 47.0 * math.cos(turn)))]
            for (x, y), turn in zip(starts, bearings, strict=True)
        ]
        cells = rng.uniform(-150.0, 150.0, (400, 2))
        odds = SimpleNamespace(cells_m=cells, odds=np.full(400, 1.0 / 400), share=lambda missed: float(np.mean(1.0 - missed)))
        given = {"start_m": (0.0, 0.0), "speed_m_s": 2.0, "seconds": 200.0}
        best = max(_shares_of_all_orders(legs_of(lanes, odds, curve, water), odds, curve, **given))
        assert plan_path(water, lanes, odds, curve, **given).share > 0.9 * best


def _shares_of_all_orders(legs, odds, curve, *, start_m, speed_m_s, seconds):
    for count in range(1, len(legs) + 1):
        for order in itertools.permutations(legs, count):
            for ways in itertools.product((1, -1), repeat=count):
                path, missed, spent, bearing = [start_m], np.ones(len(odds.cells_m)), 0.0, None
                for leg, way in zip(order, ways, strict=True):
                    for place in leg.places[::way]:
                        long = math.dist(path[-1], place)
                        onward = math.atan2(place[0] - path[-1][0], place[1] - path[-1][1])
                        is_sharp = bearing is not None and abs(math.remainder(onward - bearing, 2.0 * math.pi)) > SHARP_RAD
                        spent += long / speed_m_s + TURN_S * is_sharp
                        missed = missed * (1.0 - seen_from(path[-1], place, odds.cells_m, curve))
                        path.append(place)
                        bearing = onward
                if spent <= seconds:
                    yield odds.share(missed)


@pytest.mark.parametrize(
    ("field", "value"), [("low_ft", 1.0), ("high_ft", 60.0), ("minutes", 0.0), ("speed_mph", 30.0), ("minutes", math.nan), ("high_ft", 5.0)]
)
def test_a_plan_that_cannot_be_names_its_field(field, value):
    asked = {"low_ft": 9.0, "high_ft": 17.0, "minutes": 20.0, "speed_mph": 4.2} | {field: value}
    with pytest.raises(DomainError, match=field):
        plans.PlanAsked(**asked).checked()


def test_a_cell_is_seen_by_its_distance_to_the_side_of_each_stretch_once():
    """Two stretches end to end see a cell abeam of the first once, with the chance at its distance: by hand."""
    curve = LateralCurve(off_m=np.array([0.0, 10.0, 20.0]), found=np.array([0.0, 0.8, 0.4]), passes=np.zeros(3))
    cells = np.array([[5.0, 10.0], [5.0, -15.0], [25.0, 10.0], [5.0, 30.0]])
    np.testing.assert_allclose(seen_from((0.0, 0.0), (10.0, 0.0), cells, curve), [0.8, 0.6, 0.0, 0.0], atol=1e-12)
    together = 1.0 - (1.0 - seen_from((0.0, 0.0), (10.0, 0.0), cells, curve)) * (1.0 - seen_from((10.0, 0.0), (20.0, 0.0), cells, curve))
    np.testing.assert_allclose(together, [0.8, 0.6, 0.0, 0.0], atol=1e-12)


def test_the_boat_follows_its_path_circles_nothing_and_stops_at_its_end():
    boat = IdlingBoat((0.0, 0.0), 0.0, rng=np.random.default_rng(1))
    boat.speed_m_s = 1.9
    # A place right beside it that it cannot turn to, a hairpin, and an end.
    boat.follow([(3.0, 1.0), (20.0, 30.0), (22.0, 0.0), (60.0, 0.0)])
    for _ in range(15 * 120):
        boat.advance(1.0 / 15.0)
    assert not boat.path
    assert boat.speed_m_s == 0.0
    assert math.dist((boat.x_m, boat.y_m), (60.0, 0.0)) < 2.0


def test_the_fix_errs_as_it_is_said_to():
    """Deviation over many boats, within three of its own deviations."""
    errors = []
    for seed in range(400):
        boat = IdlingBoat((0.0, 0.0), 0.0, rng=np.random.default_rng(seed))
        boat.advance(30.0)
        errors += [boat.told().x_m - boat.truly().x_m, boat.told().y_m - boat.truly().y_m]
    assert np.std(errors) == pytest.approx(0.6, abs=3.0 * 0.6 / math.sqrt(2 * len(errors)))
