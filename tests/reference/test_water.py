import itertools

import gsw
import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from mudlamp.core.errors import DomainError
from mudlamp.core.water.clarity import Clarity, clarity_of, suspension
from mudlamp.core.water.sound import absorption_db_per_m, ping_limit_hz, sound_speed_m_s
from tests.reference import load

VALUES = load("water")


@pytest.mark.parametrize("source", ["teos10_m_s", "iapws95_m_s"])
def test_sound_speed_agrees_with_the_published_tables(source):
    table = VALUES["sound_speed"]
    found = sound_speed_m_s(temperature_degc=table["temperature_degc"])
    np.testing.assert_allclose(found, table[source], atol=table["tolerance_m_s"])


def test_sound_speed_agrees_with_an_independent_library_over_the_whole_range():
    # gsw: TEOS-10, exact form (its 75-term fit is off by 0.14 m/s in fresh water).
    temperature = np.linspace(0.0, 35.0, 71)
    np.testing.assert_allclose(sound_speed_m_s(temperature_degc=temperature), gsw.sound_speed_t_exact(0.0, temperature, 0.0), atol=0.1)


def test_absorption_agrees_with_the_published_table():
    table = VALUES["absorption"]
    for carrier_khz, row in zip(table["carrier_khz"], table["db_per_m"], strict=True):
        found = absorption_db_per_m(carrier_hz=carrier_khz * 1e3, temperature_degc=table["temperature_degc"])
        np.testing.assert_allclose(found, row, rtol=table["tolerance"])


def test_absorption_agrees_with_a_second_formula():
    table = VALUES["absorption_second"]
    found = absorption_db_per_m(carrier_hz=900e3, temperature_degc=table["temperature_degc"])
    np.testing.assert_allclose(found, table["db_per_m"], rtol=table["tolerance"])


@given(carrier_hz=st.floats(2e4, 2e6), temperature=st.floats(0.0, 40.0))
def test_absorption_grows_with_the_square_of_the_carrier(carrier_hz, temperature):
    once = absorption_db_per_m(carrier_hz=carrier_hz, temperature_degc=temperature)
    twice = absorption_db_per_m(carrier_hz=2 * carrier_hz, temperature_degc=temperature)
    assert twice / once == pytest.approx(4.0, rel=1e-9)


def test_the_ping_limit_is_the_travel_time_there_and_back():
    # 61 Hz at 40 ft, 41 at 60, 24 at 100, at c = 1482 m/s: closed form c / 2R.
    assert [round(ping_limit_hz(range_m=ft * 0.3048, speed_m_s=1482.0)) for ft in (40, 60, 100)] == [61, 41, 24]


@pytest.mark.parametrize("temperature", [-0.1, 40.5, float("nan")])
def test_a_temperature_out_of_range_is_named_with_its_range(temperature):
    with pytest.raises(DomainError, match=r"temperature_degc is .* it must be 0 to 40 degC"):
        sound_speed_m_s(temperature_degc=temperature)


def test_dirtier_water_scatters_and_attenuates_more():
    # Monotone by design; the class names are common practice, no source.
    clearer = [suspension(secchi_m=secchi) for secchi in (8.0, 4.0, 2.0, 1.0, 0.5, 0.2)]
    assert all(a.scattering_db < b.scattering_db and a.attenuation_db_m < b.attenuation_db_m for a, b in itertools.pairwise(clearer))
    assert [clarity_of(secchi_m=secchi) for secchi in (5.0, 1.4, 0.6, 0.15)] == [
        Clarity.CLEAR,
        Clarity.STAINED,
        Clarity.MURKY,
        Clarity.MUDDY,
    ]
    # Urick (1948), from memory: 0.15 dB/m per 100 mg/L at about 0.9 MHz.
    assert suspension(secchi_m=0.2).attenuation_db_m == pytest.approx(0.15 * 0.9, rel=0.01)
