import math
from dataclasses import replace

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from mudlamp.core.casting.lures import LureKind
from mudlamp.core.errors import DomainError
from mudlamp.core.receiver.screen import Screen
from mudlamp.core.rig.matching import Match, joined
from mudlamp.core.rig.mount import StowSide, stow_clicks
from mudlamp.core.rig.power import LEAST_V, Chemistry, Load, Supply, Verdict, battery_voltage, cable_ohm, power_budget
from mudlamp.core.rig.tackle import faintest_db, smallest_head_kg, tangles
from mudlamp.core.setup import ReceiverSetup, Window
from mudlamp.core.sonar.transducer import PROFILES

OUNCE = 0.028349523125
SUPPLY = Supply(chemistry=Chemistry.AGM, capacity_ah=100.0, charge=1.0, cable_m=6.1, gauge=12, ambient_degc=20.0)


def test_a_thin_long_cable_takes_the_unit_under_its_least_voltage():
    loads = [Load(power_w=120.0, on_cable=True)]
    thick = power_budget(replace(SUPPLY, gauge=8), loads)
    thin = power_budget(replace(SUPPLY, gauge=16), loads)
    assert thick.verdict is Verdict.GOOD
    assert thin.verdict is Verdict.LOW
    assert thin.unit_v < LEAST_V < thick.unit_v
    assert thin.good_hours == 0.0
    assert power_budget(replace(SUPPLY, gauge=22, cable_m=30.0), [Load(power_w=900.0, on_cable=True)]).verdict is Verdict.NOT_POSSIBLE


def test_hours_last_until_the_battery_is_down_to_what_is_kept_or_the_unit_falls_short():
    budget = power_budget(SUPPLY, [Load(power_w=60.0, on_cable=True)])
    # Half of 100 Ah at the battery's current. Closed form.
    assert budget.hours == pytest.approx(50.0 / budget.battery_a)
    # At the charge reached after the good hours the unit has just its least voltage.
    charge = 1.0 - budget.good_hours * budget.battery_a / 100.0
    at_end = power_budget(replace(SUPPLY, charge=charge), [Load(power_w=60.0, on_cable=True)])
    assert at_end.unit_v == pytest.approx(LEAST_V, abs=0.02)
    half = power_budget(replace(SUPPLY, charge=0.75), [Load(power_w=60.0, on_cable=True)])
    assert half.hours < 0.6 * budget.hours


@given(st.sampled_from(list(Chemistry)), st.floats(0.0, 0.99))
def test_a_fuller_battery_never_has_less_voltage(chemistry, charge):
    assert battery_voltage(chemistry, charge + 0.01) >= battery_voltage(chemistry, charge)


def test_a_supply_out_of_range_is_named():
    with pytest.raises(DomainError, match=r"gauge is 30: it must be 4 to 22"):
        cable_ohm(replace(SUPPLY, gauge=30))
    with pytest.raises(DomainError, match=r"charge is 1\.2"):
        power_budget(replace(SUPPLY, charge=1.2), [])


def match_(ours, theirs, *, ours_error=1.0, theirs_error=0.3):
    return Match(ours=ours, ours_error=ours_error, theirs=theirs, theirs_error=theirs_error)


def test_two_points_make_a_line_with_its_doubt():
    line = joined(match_(65, 58), match_(51, 44, ours_error=2.0))
    assert line.slope == pytest.approx(1.0)
    assert line.at(58.0)[0] == pytest.approx(51.0)
    # At a point its own errors alone count; midway half of each, in quadrature. Source: propagation of independent errors.
    assert line.at(65.0)[1] == pytest.approx(math.hypot(1.0, 0.3))
    first, second = math.hypot(1.0, 0.3), math.hypot(2.0, 0.3)
    assert line.at(58.0)[1] == pytest.approx(math.hypot(first / 2, second / 2))
    # By brute force: many lines through jittered points.
    rng = np.random.default_rng(3)
    speckle = rng.normal(65, 1.0, 40_000), rng.normal(58, 0.3, 40_000)
    jig = rng.normal(51, 2.0, 40_000), rng.normal(44, 0.3, 40_000)
    slope = (speckle[1] - jig[1]) / (speckle[0] - jig[0])
    told = jig[1] + slope * (72.0 - jig[0])
    assert line.at(72.0)[1] == pytest.approx(float(np.std(told)), rel=0.12)


def test_points_that_make_no_line_are_refused_with_the_reason():
    with pytest.raises(DomainError, match=r"2\.0 steps of our gain apart: they must be at least 4"):
        joined(match_(65, 58), match_(63, 44))
    with pytest.raises(DomainError, match="speckle is 40 and jig is 44: speckle must be the higher"):
        joined(match_(65, 40), match_(51, 44))


def test_a_jig_tangles_with_a_weight_as_heavy_as_itself():
    # Common practice, no source.
    assert tangles(kind=LureKind.JIG, head_kg=OUNCE / 16, weight_kg=OUNCE / 16)
    assert not tangles(kind=LureKind.JIG, head_kg=OUNCE / 16, weight_kg=OUNCE / 32)
    assert not tangles(kind=LureKind.JIG, head_kg=OUNCE / 16, weight_kg=0.0)
    assert not tangles(kind=LureKind.SPLIT_SHOT, head_kg=OUNCE / 16, weight_kg=OUNCE / 8)


def test_motors_stowed_on_either_bow_are_righted_by_mirrored_clicks():
    assert [stow_clicks(side) for side in (StowSide.LEFT, StowSide.NONE, StowSide.RIGHT)] == [-2, 0, 2]


WINDOW = Window(down_to_m=7.0, reach_m=12.0, look_back_m=0.6)


def smallest(screen=None, **changes):
    given = {"range_m": 8.0, "mark_across_m": 0.15, "mark_down_m": 0.06, "clutter_db": -80.0} | changes
    setup = given.pop("setup", ReceiverSetup())
    return smallest_head_kg(screen or Screen(), WINDOW, setup, **given)


def test_the_smallest_head_grows_with_clutter_murk_and_a_lower_gain():
    base = smallest()
    # A head is 20 log(a / 2) and its mass goes with the cube of a: 6.02 dB less make it eight times heavier. Closed form.
    assert smallest(fade_db=6.0206) == pytest.approx(8.0 * base, rel=0.06)
    assert smallest(clutter_db=-55.0) > base
    assert smallest(setup=ReceiverSetup(gain=50.0)) > smallest(setup=ReceiverSetup(gain=60.0)) > base
    assert smallest(clutter_db=-20.0) is None


def test_what_is_too_small_for_the_eye_is_not_seen_however_loud():
    # A quarter-inch glass dot from ten feet: under a minute of arc. Source: acuity limit.
    assert smallest(Screen(diagonal_m=0.12, width_px=4000, height_px=2500, distance_m=3.0), mark_down_m=0.01) is None


def test_near_cut_hides_the_faint_near_the_boat_alone():
    near, far = (faintest_db(ReceiverSetup(near_cut_db=18.0), range_m=range_m) for range_m in (1.0, 20.0))
    assert near - far == pytest.approx(18.0, abs=0.5)


def test_a_transducer_of_other_measures_keeps_what_was_not_told():
    demo = PROFILES["demo"]
    other = demo.like(fan_rad=math.radians(135), facets=2)
    assert (math.degrees(other.fan_rad), other.facets, other.thickness_rad) == (pytest.approx(135), 2, demo.thickness_rad)
    assert other.facet_gain_db == (demo.facet_gain_db[0], demo.facet_gain_db[-1])
    assert demo.like() == demo
    with pytest.raises(DomainError, match="facets is 5"):
        demo.like(facets=5)
