"""The snow before the transducer, and what Near cut takes of it; common practice for the order of things, levels ours."""

import itertools
from dataclasses import replace

import numpy as np
import pytest

from mudlamp.core.receiver.chain import Receiver
from mudlamp.core.receiver.inks import first_shown
from mudlamp.core.setup import ReceiverSetup
from mudlamp.core.units import FOOT_M
from mudlamp.formats.scene.file import load_scene
from mudlamp.heads.simulated import SimulatedHead

PEAR = load_scene("pear-tree")


def lit_pct(*, wind_m_s, secchi_m, gain, near_cut_db=0.0):
    """Return how much of the cells within 6 ft is lit [%]."""
    head = SimulatedHead(replace(PEAR, water=replace(PEAR.water, wind_m_s=wind_m_s, secchi_m=secchi_m)), seed=901)
    setup = ReceiverSetup(gain=gain, near_cut_db=near_cut_db)
    receiver, found = Receiver(setup), []
    for number in range(4):
        ping = head.listen(1.0 + 0.5 * number)
        found.append(np.mean(receiver.develop(ping)[:, ping.setup.range_m < 6.0 * FOOT_M] >= first_shown(setup.ink)))
    return 100.0 * float(np.mean(found))


@pytest.mark.parametrize(("wind_m_s", "secchi_m"), [(3.0, 1.4), (6.0, 2.0), (1.0, 0.4)])
@pytest.mark.parametrize("gain", [65.0, 75.0])
def test_snow_lights_a_tenth_to_two_fifths_in_wind_or_silt_and_each_near_cut_halves_it(wind_m_s, secchi_m, gain):
    steps = [lit_pct(wind_m_s=wind_m_s, secchi_m=secchi_m, gain=gain, near_cut_db=step) for step in (0.0, 6.0, 12.0, 18.0)]
    assert 10.0 <= steps[0] <= 40.0
    for before, after in itertools.pairwise(steps):
        assert after <= 0.5 * before + 0.05


@pytest.mark.parametrize("gain", [65.0, 75.0])
def test_calm_clear_water_has_next_to_none(gain):
    assert lit_pct(wind_m_s=0.5, secchi_m=4.0, gain=gain) < 5.0


def test_snow_rises_with_wind_and_with_dirt():
    by_wind = [lit_pct(wind_m_s=wind, secchi_m=1.4, gain=70.0) for wind in (0.0, 2.0, 5.0)]
    by_dirt = [lit_pct(wind_m_s=0.5, secchi_m=depth, gain=70.0) for depth in (4.0, 1.0, 0.3)]
    assert by_wind == sorted(by_wind)
    assert by_dirt == sorted(by_dirt)
