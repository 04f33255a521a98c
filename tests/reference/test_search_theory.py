"""Search theory: measured and simulated detection against the closed forms of Koopman (1956), The theory of search."""

import math

import numpy as np
import pytest
from scipy.stats import binom, binomtest

from mudlamp.core.scene.model import Water
from mudlamp.core.scene.roaming import Roaming
from mudlamp.core.searching.lateral import LateralCurve
from mudlamp.core.searching.measure import pass_schools
from mudlamp.core.searching.search import ViewSetting
from mudlamp.core.setup import ReceiverSetup
from mudlamp.core.sonar.console import ViewKind
from mudlamp.services.find.curves import curve_for, measured
from mudlamp.services.find.plans import live_curve

SIDE = (ViewKind.SIDE, 455e3, 30.48)
SURE = LateralCurve(off_m=np.array([0.0, 9.999, 10.0]), found=np.array([1.0, 1.0, 0.0]), passes=np.zeros(3))


def random_search(sweep_m: float, length_m: float, area_m2: float) -> float:
    """Return the share found by a track of a length [m] laid at random over an area [m^2]: 1 - exp(-W L / A)."""
    return 1.0 - math.exp(-sweep_m * length_m / area_m2)


def definite_range(sweep_m: float, spacing_m: float) -> float:
    """Return the share found by parallel sweeps of a sensor that finds all within half its sweep width: min(1, W / S)."""
    return min(1.0, sweep_m / spacing_m)


def is_within(found: int, trials: int, share: float) -> bool:
    """Return whether a share lies in the 99.9 % interval that so many trials give. Source: Clopper and Pearson (1934), by SciPy."""
    interval = binomtest(found, trials).proportion_ci(0.999)
    return bool(interval.low <= share <= interval.high)


def test_a_sensor_that_is_sure_to_its_range_gives_the_definite_range_law() -> None:
    """Parallel sweeps find min(1, W / S)."""
    assert SURE.sweep_m == pytest.approx(20.0, rel=0.01)
    for spacing in (15.0, 25.0, 40.0, 80.0):
        assert SURE.parallel(spacing) == pytest.approx(definite_range(20.0, spacing), abs=0.01)


@pytest.mark.parametrize("spacing_m", [20.0, 45.0, 70.0])
def test_parallel_lanes_find_what_the_integral_says(spacing_m: float) -> None:
    """Targets thrown at random among lanes; each lane looks independently."""
    curve, rng = curve_for([SIDE], 5.5), np.random.default_rng(11)
    place = rng.uniform(0.0, spacing_m, 4000)
    seen = np.zeros(4000, dtype=bool)
    for lane in np.arange(-6, 7) * spacing_m:
        seen |= rng.random(4000) < curve.at(place - lane)
    assert is_within(int(seen.sum()), 4000, curve.parallel(spacing_m))


def test_random_tracks_find_what_random_search_says() -> None:
    """Straight tracks laid at random over a square, in pieces short against it: 1 - exp(-W L / A)."""
    curve, rng = curve_for([SIDE], 5.5), np.random.default_rng(12)
    side_m, pieces, long_m = 1500.0, 120, 60.0
    target = rng.uniform(0.0, side_m, (1500, 2))
    seen = np.zeros(1500, dtype=bool)
    for _ in range(pieces):
        start, turn = rng.uniform(0.0, side_m, 2), rng.uniform(0.0, 2.0 * math.pi)
        # The square is a torus, so that no piece sticks out.
        offset = (target - start + side_m / 2.0) % side_m - side_m / 2.0
        along = offset[:, 0] * math.sin(turn) + offset[:, 1] * math.cos(turn)
        aside = offset[:, 0] * math.cos(turn) - offset[:, 1] * math.sin(turn)
        seen |= (along >= 0.0) & (along < long_m) & (rng.random(1500) < curve.at(aside))
    assert is_within(int(seen.sum()), 1500, random_search(curve.sweep_m, pieces * long_m, side_m**2))


def test_lanes_for_a_share_find_that_share() -> None:
    """The spacing that is given back finds what was asked for, and no closer one was needed."""
    curve = curve_for([SIDE], 3.0)
    spacing = curve.spacing_for(0.8)
    assert curve.parallel(spacing) == pytest.approx(0.8, abs=0.02) or spacing == 2.0 * curve.off_m[-1]


def test_fresh_schools_passed_by_sonar_are_found_as_often_as_the_curve_says() -> None:
    """Pings of a seed that the curve was not measured on: its mean chance over all distances lies within their interval."""
    water = Water(temperature_degc=14.4, secchi_m=1.4, wind_m_s=2.0)
    view = ViewSetting(kind=ViewKind.SIDE, carrier_hz=455e3, reach_m=30.48)
    passed = pass_schools(977, depth_m=3.0, views=[view], schools=26, most_off_m=30.0, water=water, setup=ReceiverSetup())
    own = measured(ViewKind.SIDE, 455e3, 3.0)
    assert own is not None
    expected = float(np.mean(own.curve().at(np.array([one.off_m for one in passed]))))
    assert is_within(sum(one.found[ViewKind.SIDE] for one in passed), len(passed), expected)


def test_live_only_sees_nearer_and_slower_than_the_side_picture() -> None:
    """Common practice, no source: the live fan swept while creeping tells marks within its reach; nothing beyond it is found."""
    creeping = live_curve()
    assert creeping.at(16.0) == 0.0
    assert 0.2 < float(creeping.at(6.0)) <= 1.0
    assert creeping.sweep_m < curve_for([SIDE], 5.5).sweep_m


def test_where_no_fish_are_hardly_any_school_is_found(monkeypatch):
    """Decoys: the same schools without a voice. What is shown of them is chance, and must be rare: under a tenth, as a bound of 99.9 %."""
    voiced = Roaming._school

    def mute(self, *given):
        position, amplitude = voiced(self, *given)
        return position, 0.0 * amplitude

    monkeypatch.setattr(Roaming, "_school", mute)
    water = Water(temperature_degc=14.4, secchi_m=1.4, wind_m_s=2.0)
    view = ViewSetting(kind=ViewKind.SIDE, carrier_hz=455e3, reach_m=30.48)
    passed = pass_schools(978, depth_m=4.0, views=[view], schools=30, most_off_m=30.0, water=water, setup=ReceiverSetup())
    found = sum(one.found[ViewKind.SIDE] for one in passed)
    assert found <= binom.ppf(0.999, len(passed), 0.1)
