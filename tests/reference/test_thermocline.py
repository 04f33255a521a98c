"""The thermocline: what counts as one, what it scatters, how far it bends sound."""

import math
from dataclasses import replace

import numpy as np
import pytest

from mudlamp.core.advice.answers import Answers, Clash, clashes, situation
from mudlamp.core.errors import DomainError
from mudlamp.core.water.sound import sound_speed_m_s
from mudlamp.core.water.thermocline import LAYER_DB, LEAST_DEGC_M, Thermocline
from mudlamp.formats.scene.file import load_scene
from mudlamp.heads.simulated import SimulatedHead
from tests.core.looking import bare

LAYER = Thermocline(depth_m=6.0, thickness_m=2.0, drop_degc=8.0)


def test_a_layer_counts_where_it_cools_by_a_degree_a_meter():
    # Birge (1897): the thermocline is where the temperature falls by at least 1 degC a meter.
    assert LEAST_DEGC_M == 1.0
    with pytest.raises(DomainError, match=r"drop_degc is 1\.5 degC over 2 m"):
        Thermocline(depth_m=6.0, thickness_m=2.0, drop_degc=1.5)


def test_its_temperature_falls_evenly_and_its_scatter_is_a_bell_about_the_middle():
    found = LAYER.temperature_degc(np.array([0.0, 6.0, 7.0, 8.0, 12.0]), 24.0)
    np.testing.assert_allclose(found, [24.0, 24.0, 20.0, 16.0, 16.0])
    scatter = 10.0 * np.log10(LAYER.scattering(np.array([7.0, 6.0, 8.0, 5.0])))
    # exp(-1) a half thickness off the middle: 4.34 dB (closed form).
    np.testing.assert_allclose(scatter[:3], [LAYER_DB, LAYER_DB - 4.343, LAYER_DB - 4.343], atol=0.01)
    assert scatter[3] < LAYER_DB - 15.0


@pytest.mark.parametrize("down_deg", [20.0, 30.0, 50.0])
def test_sound_bends_by_snells_law(down_deg):
    # Through the whole layer the angle changes by cos(after) = cos(before) c2 / c1; below it the ray is straight (closed form).
    above, below = (float(sound_speed_m_s(temperature_degc=t)) for t in (24.0, 16.0))
    before = math.radians(down_deg)
    after = math.acos(math.cos(before) * below / above)
    start, far = 5.0, 12.0
    to_layer = 1.0 / math.sin(before)
    through = 2.0 / math.sin(0.5 * (before + after))
    straight = start + far * math.sin(before)
    bent = 8.0 + (far - to_layer - through) * math.sin(after)
    assert LAYER.bend_m(from_m=start, down_rad=before, range_m=far, surface_degc=24.0) == pytest.approx(bent - straight, abs=0.05)
    assert LAYER.bend_m(from_m=0.4, down_rad=before, range_m=3.0, surface_degc=24.0) == pytest.approx(0.0, abs=1e-6)


def test_the_layer_shows_as_a_band_and_its_scene_has_fish_above_it():
    deep = load_scene("clear-deep")
    layer = deep.water.thermocline
    still = bare(deep)
    with_it = SimulatedHead(still, seed=3)
    without = SimulatedHead(replace(still, water=replace(still.water, thermocline=None)), seed=3)
    level = {}
    for name, head in (("with", with_it), ("without", without)):
        ping = head.listen(0.5)
        plumb = np.abs(ping.pose.tilt_rad - ping.setup.beam_angle_rad) < math.radians(25.0)
        at = np.abs(ping.setup.range_m - (layer.depth_m + 1.0 - 0.4)) < 0.8
        level[name] = 10.0 * math.log10(np.mean(10.0 ** (ping.echo_level_db[plumb][:, at] / 10.0)))
    assert level["with"] - level["without"] > 8.0
    assert all(group.z_m < layer.depth_m for group in deep.fish)


def test_tune_takes_a_thermocline_in_summer_alone_and_looks_for_fish_above_it():
    assert clashes(Answers(depth_m=12.0, temperature_degc=27.0, thermocline_m=6.0)) == []
    assert clashes(Answers(depth_m=5.0, thermocline_m=6.0)) == [Clash.THERMOCLINE_UNDER_BOTTOM]
    assert clashes(Answers(depth_m=12.0, temperature_degc=8.0, thermocline_m=6.0)) == [Clash.THERMOCLINE_IN_COLD_WATER]
    here = situation(Answers(depth_m=14.0, thermocline_m=6.0))
    assert here.fish_to_m == 6.0
    assert here.temperature_degc > 20.0
