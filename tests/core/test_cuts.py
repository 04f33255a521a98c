import numpy as np
import pytest

from mudlamp.core.tracking import _kernels_profiles
from mudlamp.core.tracking.cuts import CUT_PLACES, CUT_STEP_M, GAP_M, REACHES, Cuts


def blurred_line(length_m, *, beams=41, bins=400, beam_m=0.15, bin_m=0.02):
    """Power (beam, range_bin) of an even line along the range about the middle, a beam wide."""
    power = np.full((beams, bins), 1e-6, np.float32)
    half = round(length_m / 2.0 / bin_m)
    power[beams // 2, bins // 2 - half : bins // 2 + half + 1] = 1.0
    return power


@pytest.mark.parametrize("length_m", [0.2, 0.4, 0.8])
def test_a_line_along_the_range_reaches_as_far_as_it_is_long(length_m):
    along, across = np.zeros(CUT_PLACES), np.zeros(CUT_PLACES)
    _kernels_profiles.add_profiles(blurred_line(length_m), 20.0, 200.0, 0.15, 0.02, CUT_STEP_M, 1.0, along, across)
    out = np.empty(1)
    _kernels_profiles.reaches(along, CUT_STEP_M, GAP_M, np.array([0.5]), out)
    assert out[0] == pytest.approx(length_m, abs=2 * CUT_STEP_M)
    _kernels_profiles.reaches(across, CUT_STEP_M, GAP_M, np.array([0.5]), out)
    assert out[0] < 0.16


def test_gaps_are_bridged_up_to_a_width_and_no_further():
    profile = np.zeros(CUT_PLACES)
    middle = CUT_PLACES // 2
    profile[middle] = profile[middle + 3] = 1.0
    out = np.empty(1)
    _kernels_profiles.reaches(profile, CUT_STEP_M, GAP_M, np.array([0.5]), out)
    assert out[0] == pytest.approx(3 * CUT_STEP_M)
    _kernels_profiles.reaches(profile, CUT_STEP_M, 0.0, np.array([0.5]), out)
    assert out[0] == 0.0


def test_the_kernels_are_their_python():
    rng = np.random.default_rng(1)
    power = rng.exponential(1.0, (30, 120)).astype(np.float32)
    one, two = [(np.full(CUT_PLACES, 0.5), np.full(CUT_PLACES, 0.5)) for _ in range(2)]
    # Near the edge, so that some places lie outside the ping.
    place = (2.3, 11.7, 0.12, 0.03, CUT_STEP_M, 0.3)
    _kernels_profiles.add_profiles(power, *place, *one)
    _kernels_profiles.add_profiles.py_func(power, *place, *two)
    np.testing.assert_allclose(one, two, rtol=1e-6)
    levels = np.array([0.2, 0.5])
    fast, slow = np.empty(2), np.empty(2)
    _kernels_profiles.reaches(one[0], CUT_STEP_M, GAP_M, levels, fast)
    _kernels_profiles.reaches.py_func(one[0], CUT_STEP_M, GAP_M, levels, slow)
    np.testing.assert_array_equal(fast, slow)


def test_cuts_that_saw_nothing_tell_nothing():
    assert np.isnan(Cuts().reaches()).all()
    assert len(Cuts().reaches()) == len(REACHES)
