"""The rig against handbook, almanac and definition; sources stand in rig.toml and beside each check."""

import datetime as dt
import math
import tomllib
from pathlib import Path

import pytest

from mudlamp.core.receiver.screen import visual_angle_arcmin
from mudlamp.core.rig.mount import aim_correction_rad, center_reach_m, flat_tilt, lit_strip_m
from mudlamp.core.rig.power import Chemistry, Load, Supply, cable_ohm, power_budget, unit_voltage, wire_ohm_m
from mudlamp.core.units import FOOT_M
from mudlamp.services.edge.sun import sun_height_rad

VALUES = tomllib.loads((Path(__file__).parent / "rig.toml").read_text())
SUN = VALUES["sun"]


@pytest.mark.parametrize(("gauge", "ohm"), list(zip(VALUES["wire"]["gauge"], VALUES["wire"]["ohm_per_1000_ft"], strict=True)))
def test_wire_resists_as_the_handbook_says(gauge, ohm):
    assert wire_ohm_m(gauge) * 1000.0 * FOOT_M == pytest.approx(ohm, rel=VALUES["wire"]["tolerance"])


def test_voltage_is_lost_in_both_conductors_and_more_when_warm():
    drop = VALUES["drop"]
    supply = Supply(
        chemistry=Chemistry.AGM, capacity_ah=100, charge=1.0, cable_m=drop["cable_ft"] * FOOT_M, gauge=drop["gauge"], ambient_degc=20.0
    )
    assert cable_ohm(supply) * drop["current_a"] == pytest.approx(drop["drop_v"], rel=drop["tolerance"])
    warm = wire_ohm_m(drop["gauge"], ambient_degc=drop["warm_degc"]) / wire_ohm_m(drop["gauge"])
    assert warm == pytest.approx(drop["warm_factor"], abs=0.001)
    # The same by a second method: at the voltage found, current times resistance is what is missing.
    unit = unit_voltage(battery_v=12.8, ohm=0.0635, power_w=80.0)
    assert 12.8 - unit == pytest.approx(80.0 / unit * 0.0635, rel=1e-9)
    budget = power_budget(supply, [Load(power_w=80.0, on_cable=True), Load(power_w=25.6, on_cable=False)])
    assert budget.drop_v == pytest.approx(budget.cable_a * cable_ohm(supply), rel=1e-9)
    assert budget.battery_a == pytest.approx(budget.cable_a + 25.6 / budget.battery_v, rel=1e-9)


@pytest.mark.parametrize(("at", "height"), list(zip(SUN["at"], SUN["height_deg"], strict=True)))
def test_the_sun_stands_where_the_almanac_says(at, height):
    moment = dt.datetime(*at, tzinfo=dt.UTC)
    found = math.degrees(sun_height_rad(latitude_deg=SUN["latitude_deg"], longitude_deg=SUN["longitude_deg"], at=moment))
    assert found == pytest.approx(height, abs=SUN["tolerance_deg"])


def test_at_noon_of_the_solstice_the_sun_stands_by_definition():
    moments = [dt.datetime(2024, 6, 20, 17, 50, tzinfo=dt.UTC) + dt.timedelta(minutes=number) for number in range(25)]
    highest = max(math.degrees(sun_height_rad(latitude_deg=35.0, longitude_deg=-90.0, at=moment)) for moment in moments)
    assert highest == pytest.approx(VALUES["noon"]["height_deg"], abs=0.02)


def test_visual_angle_is_its_definition():
    # A minute of arc is 1/60 deg: at 1 m, 2 tan(1/120 deg) of a meter. Source: definition.
    size = 2.0 * math.tan(math.radians(1.0 / 120.0))
    assert visual_angle_arcmin(size, 1.0) == pytest.approx(1.0, rel=1e-9)
    assert visual_angle_arcmin(3.0 * size, 3.0) == pytest.approx(1.0, rel=1e-9)
    # A right angle at half a meter from a meter.
    assert visual_angle_arcmin(1.0, 0.5) == pytest.approx(90.0 * 60.0, rel=1e-9)


@pytest.mark.parametrize(
    ("click_deg", "turned", "clicks", "given"), [(10, False, 8, 80), (10, True, 7, 70), (7.5, False, 11, 82.5), (15, True, 5, 75)]
)
def test_a_flat_fan_is_tilted_80_or_70_degrees_in_clicks_of_any_mount(click_deg, turned, clicks, given):
    # Common practice, no source (70: one angler).
    found = flat_tilt(click_rad=math.radians(click_deg), turned=turned)
    assert math.degrees(found.wanted_rad) == pytest.approx(70 if turned else 80)
    assert (found.clicks, math.degrees(found.given_rad)) == (clicks, pytest.approx(given))


def test_the_center_ray_reaches_as_the_tangent_of_the_tilt():
    # tan 80 deg = 5.6713 (any table of tangents).
    assert center_reach_m(tilt_rad=math.radians(80), over_bottom_m=2.0) == pytest.approx(11.3426, abs=1e-4)
    assert center_reach_m(tilt_rad=math.pi / 2, over_bottom_m=2.0) == math.inf
    near, far = lit_strip_m(tilt_rad=math.radians(80), thickness_rad=math.radians(18), over_bottom_m=2.0)
    assert near == pytest.approx(2.0 * math.tan(math.radians(71)))
    assert far == pytest.approx(2.0 * math.tan(math.radians(89)))


@pytest.mark.parametrize(("bearing", "shown", "turn"), [(30, 25, 5), (2, 358, 4), (350, 10, -20), (90, 90, 0)])
def test_the_aim_is_corrected_the_short_way_round(bearing, shown, turn):
    found = aim_correction_rad(bearing_rad=math.radians(bearing), shown_rad=math.radians(shown))
    assert math.degrees(found) == pytest.approx(turn, abs=1e-9)
