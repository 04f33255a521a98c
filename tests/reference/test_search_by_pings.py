"""Schools strewn at random over level bottom, searched by pings: what is found against Koopman (1956), parallel sweeps and random search.

The curve that the closed forms take was measured on other seeds; the intervals are those that so many schools give.
"""

import math
from dataclasses import replace

import numpy as np
import pytest

from mudlamp.core.chance import stream
from mudlamp.core.scene.model import Water
from mudlamp.core.searching.boat import IdlingBoat
from mudlamp.core.searching.measure import APART_M, IDLE_M_S, Watch, level_strip
from mudlamp.core.searching.search import Search, ViewSetting
from mudlamp.core.setup import ReceiverSetup
from mudlamp.core.sonar.console import ViewKind
from mudlamp.services.find.curves import measured
from tests.reference.test_search_theory import is_within, random_search

WATER = Water(temperature_degc=14.4, secchi_m=1.4, wind_m_s=2.0)
VIEW = ViewSetting(kind=ViewKind.SIDE, carrier_hz=455e3, reach_m=30.48)
DEPTH_M, REACH_M = 5.5, 31.0
FEW = 22


def field(seed, *, half_m, strips):
    """Schools at random over a field some 340 m long and twice `half_m` wide."""
    all_of_them = [level_strip(seed + i, depth_m=DEPTH_M, schools=FEW, most_off_m=half_m, water=WATER) for i in range(strips)]
    return replace(all_of_them[0], schools=tuple(school for one in all_of_them for school in one.schools))


def found_along(reach, ways, *, seed):
    """Return each school's place and whether the side picture showed it on one of the straight ways, each gone along by itself."""
    shown = np.zeros(len(reach.schools), dtype=bool)
    for number, (start, end) in enumerate(ways):
        boat = IdlingBoat(start, math.atan2(end[0] - start[0], end[1] - start[1]), rng=stream(seed, f"boat {number}"))
        boat.speed_m_s = IDLE_M_S
        search = Search(reach, [VIEW], boat=boat, seed=seed + number)
        schools = search.water.roaming.schools
        watch = Watch(schools, search.views, ReceiverSetup(), near_m=REACH_M)
        for _ in range(round(math.dist(start, end) / IDLE_M_S * search.ping_hz)):
            watch.look(search.ping())
        shown |= [watch.found(school, ViewKind.SIDE) for school in schools]
    return np.array([(one.x_m, one.y_m) for one in reach.schools]), shown


@pytest.fixture(scope="module")
def curve():
    found = measured(ViewKind.SIDE, VIEW.carrier_hz, DEPTH_M)
    assert found is not None
    return found.curve()


def test_parallel_lanes_over_schools_find_the_share_that_the_integral_says(curve):
    spacing = 55.0
    reach = field(970, half_m=0.5 * spacing, strips=2)
    end = (FEW + 1.5) * APART_M
    places, shown = found_along(reach, [((0.0, y), (end, y)) for y in (-spacing, 0.0, spacing)], seed=970)
    assert len(places) == 2 * FEW
    assert is_within(int(shown.sum()), len(shown), curve.parallel(spacing))


def test_tracks_at_random_find_the_share_that_random_search_says(curve):
    long, pieces = 60.0, 14
    reach = field(973, half_m=90.0, strips=4)
    west, east, half = 60.0, (FEW + 2) * APART_M - 60.0, 55.0
    # Pieces lie as thick over the schools that count as about them: their middles reach farther out by what a piece can see.
    margin = 0.5 * long + REACH_M
    rng, ways = np.random.default_rng(973), []
    for _ in range(pieces):
        x, y = rng.uniform(west - margin, east + margin), rng.uniform(-half - margin, half + margin)
        turn = rng.uniform(0.0, 2.0 * math.pi)
        dx, dy = 0.5 * long * math.sin(turn), 0.5 * long * math.cos(turn)
        ways.append(((x - dx, y - dy), (x + dx, y + dy)))
    places, shown = found_along(reach, ways, seed=973)
    inside = (places[:, 0] > west) & (places[:, 0] < east) & (np.abs(places[:, 1]) < half)
    area = (east - west + 2.0 * margin) * 2.0 * (half + margin)
    assert np.count_nonzero(inside) > 25
    assert is_within(int(shown[inside].sum()), int(np.count_nonzero(inside)), random_search(curve.sweep_m, pieces * long, area))
