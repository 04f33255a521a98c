"""Cuts through an echo: how far it reaches along the range and across the beams, gathered over pings until its faint ends stand out."""

import math

import numpy as np

from mudlamp.core.arrays import Float32Array, FloatArray
from mudlamp.core.ping import SonarSetup
from mudlamp.core.tracking import _kernels_profiles

# How fine, how far each way [m], how much the newest of them counts, what gaps are bridged, over which levels under
# the peak their reach is told.
CUT_STEP_M, CUT_HALF_M = 0.025, 0.75
CUT_PLACES = 2 * round(CUT_HALF_M / CUT_STEP_M) + 1
CUT_SHARE = 0.12
GAP_M = 0.10
UNDER_PEAK_DB = (6.0, 10.0, 14.0, 18.0, 22.0)
_THRESHOLDS = 10.0 ** (-np.array(UNDER_PEAK_DB) / 10.0)
REACHES = (*(f"along_{db:.0f}_db_m" for db in UNDER_PEAK_DB), *(f"across_{db:.0f}_db_m" for db in UNDER_PEAK_DB), "floor_db", "beam_m")


class Cuts:
    """An echo cut through its middle along the range and across the beams (CUT_PLACES,) each, as shares of its peak, gathered over pings."""

    __slots__ = ("across", "along", "beam_m", "count")

    def __init__(self) -> None:
        self.along, self.across = np.zeros(CUT_PLACES), np.zeros(CUT_PLACES)
        self.count = 0
        self.beam_m = math.nan

    def add(self, power: Float32Array, setup: SonarSetup, *, range_m: float, angle_rad: float) -> None:
        """Take in a ping's power (beam, range_bin) about a place."""
        self.count += 1
        self.beam_m = range_m * setup.beam_step_rad
        _kernels_profiles.add_profiles(
            power,
            (angle_rad - float(setup.beam_angle_rad[0])) / setup.beam_step_rad,
            (range_m - float(setup.range_m[0])) / setup.bin_m,
            self.beam_m,
            setup.bin_m,
            CUT_STEP_M,
            max(CUT_SHARE, 1.0 / self.count),
            self.along,
            self.across,
        )

    def reaches(self) -> FloatArray:
        """Return what they tell (len(REACHES),): reaches over the levels [m], the floor at their ends [dB], beams' distance there [m]."""
        out = np.full(len(REACHES), np.nan)
        if self.count:
            levels = len(_THRESHOLDS)
            _kernels_profiles.reaches(self.along, CUT_STEP_M, GAP_M, _THRESHOLDS, out[:levels])
            _kernels_profiles.reaches(self.across, CUT_STEP_M, GAP_M, _THRESHOLDS, out[levels : 2 * levels])
            floor = float(np.median(np.concatenate((self.along[:8], self.along[-8:]))))
            out[-2:] = 10.0 * math.log10(max(floor, 1e-6)), self.beam_m
        return out
