import math

import numpy as np
import pytest

from mudlamp.core.receiver.law import tvg_db
from mudlamp.core.scene.bottom import LAMBERT_BOUND_DB, LAMBERT_DB
from mudlamp.core.score.gospa import gospa
from mudlamp.core.sonar.pattern import half_power_width_x, taylor_pattern
from mudlamp.core.sonar.reverberation import SPECKLE_COLUMNS, speckle_table, thermal_noise_db
from mudlamp.core.sonar.transducer import PROFILES
from mudlamp.core.tracking.detect import cfar_multiplier
from tests.reference import load

VALUES = load("statistics")
BEAMS = load("beams")


def test_the_facets_pattern_has_taylors_width_and_side_lobe():
    x = np.linspace(0.0, 12.0, 120_001)
    level = 20.0 * np.log10(np.maximum(np.abs(taylor_pattern(x, PROFILES["test"].taper)), 1e-9))
    width = 2.0 * x[np.argmax(level <= 10.0 * math.log10(0.5))]
    null = np.argmax(np.diff(level) > 0)
    assert half_power_width_x(PROFILES["test"].taper) == pytest.approx(width, abs=0.002)
    assert width == pytest.approx(BEAMS["taylor"]["width_x"], rel=BEAMS["taylor"]["width_tolerance"])
    assert level[null:].max() == pytest.approx(BEAMS["taylor"]["side_lobe_db"], abs=BEAMS["taylor"]["side_lobe_tolerance_db"])


@pytest.mark.parametrize("name", PROFILES)
def test_the_taylor_window_of_a_general_library_gives_the_same_pattern(name):
    from scipy.signal.windows import taylor

    count, taper = 512, PROFILES[name].taper
    window = taylor(count, nbar=taper.nbar, sll=taper.side_lobe_db, norm=False)
    place = (np.arange(count) - (count - 1) / 2.0) / count
    x = np.linspace(-6.0, 6.0, 241)
    reference = np.abs(np.exp(2j * math.pi * x[:, None] * place) @ window) / window.sum()
    np.testing.assert_allclose(np.abs(taylor_pattern(x, taper)), reference, atol=2e-3)


def test_time_varied_gain_is_the_sonar_equation():
    table = BEAMS["tvg"]
    np.testing.assert_allclose(tvg_db(np.array(table["range_m"], float), table["absorption_db_m"]), table["gain_db"], atol=0.002)


def test_speckle_is_exponential_in_power():
    re, im = speckle_table(pulse_bins=2.0, beam_steps=1.5, repeat=0)
    power = (re.astype(float) ** 2 + im.astype(float) ** 2)[::5, ::4].ravel()
    level = 10.0 * np.log10(power / power.mean())
    assert SPECKLE_COLUMNS == re.shape[1]
    # Some 26,000 nearly independent cells: one standard error of a mean is 0.6 %.
    assert np.median(power) / power.mean() == pytest.approx(VALUES["speckle"]["median_over_mean"], rel=0.03)
    assert level.std() == pytest.approx(VALUES["speckle"]["level_std_db"], abs=0.15)
    assert level.mean() == pytest.approx(VALUES["speckle"]["level_mean_db"], abs=0.12)


def test_neighboring_speckle_cells_correlate_as_pulse_and_beam_overlap():
    re, im = speckle_table(pulse_bins=4.0, beam_steps=1.5, repeat=0)
    field = re + 1j * im

    def correlation(shift, axis):
        return abs(np.mean(field * np.conj(np.roll(field, shift, axis)))) / np.mean(np.abs(field) ** 2)

    # Two Gaussians of power width w shifted by d overlap by exp(-ln 2 (d / w)^2): closed form.
    assert correlation(2, 0) == pytest.approx(math.exp(-math.log(2) * 0.25), abs=0.03)
    assert correlation(1, 1) == pytest.approx(math.exp(-math.log(2) / 2.25), abs=0.03)
    assert correlation(40, 0) < 0.03


def test_thermal_noise_is_mellens_within_half_a_decibel():
    for carrier_khz, level in zip(VALUES["thermal"]["carrier_khz"], VALUES["thermal"]["mellen_db"], strict=True):
        found = thermal_noise_db(carrier_hz=carrier_khz * 1e3, temperature_degc=20.0, speed_m_s=1482.35)
        assert found == pytest.approx(level, abs=0.5)


def test_the_cfar_multiplier_is_the_closed_form():
    table = VALUES["cfar"]
    np.testing.assert_allclose([cfar_multiplier(n, 1e-2) for n in table["cells"]], table["pfa_1e2"], atol=1e-4)
    np.testing.assert_allclose([cfar_multiplier(n, 1e-4) for n in table["cells"]], table["pfa_1e4"], atol=1e-4)


def test_bottom_strength_keeps_the_energy_bound():
    assert LAMBERT_BOUND_DB == pytest.approx(VALUES["lambert"]["bound_db"], abs=0.01)
    assert list(LAMBERT_DB.values()) == sorted(LAMBERT_DB.values())
    assert max(LAMBERT_DB.values()) <= LAMBERT_BOUND_DB


def test_gospa_agrees_with_a_general_tracking_library():
    truth = np.array([[0.0, 0.0], [0.0, 5.0]])
    near, exact, far = [0.0, 0.3], [0.0, 5.0], [0.0, 50.0]
    assert gospa(truth, np.array([near, exact, far]), cutoff_m=2.0).distance_m == pytest.approx(VALUES["gospa"]["with_both"], abs=1e-5)
    lost = gospa(truth, np.array([near, far]), cutoff_m=2.0)
    assert lost.distance_m == pytest.approx(VALUES["gospa"]["with_one_lost"], abs=1e-5)
    assert (lost.missed, lost.false) == (2.0, 2.0)


def test_gospa_of_nothing_counts_what_is_missed_or_false():
    one = np.array([[1.0, 1.0]])
    none = np.zeros((0, 2))
    assert gospa(one, none, cutoff_m=2.0).missed == 2.0
    assert gospa(none, one, cutoff_m=2.0).false == 2.0
    assert gospa(none, none, cutoff_m=2.0).distance_m == 0.0
