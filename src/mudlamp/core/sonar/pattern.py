"""The receive pattern of a facet in the fan's plane, and the two-way shape across the fan."""

import math
from dataclasses import dataclass
from functools import lru_cache

import numpy as np

from mudlamp.core.arrays import Float32Array, FloatArray

# Table of the pattern over x = (aperture / wavelength) times the difference of sines.
TABLE_STEP = 1.0 / 64.0
# Two looks to opposite ends of a fan of one facet, at the highest carrier: 2 x 0.1 m x 1.2 MHz / 1390 m/s.
TABLE_REACH = 176.0


@dataclass(frozen=True, slots=True, kw_only=True)
class Taper:
    """How a facet's elements are weighted: Taylor's `nbar` and first side lobe [dB under the main lobe], and the floor [dB] that errors of

    the elements leave: nulls are filled, far side lobes are no lower. Weaker side lobes cost a wider main lobe.
    """

    nbar: int
    side_lobe_db: float
    floor_db: float


def taylor_coefficients(nbar: int, side_lobe_db: float) -> FloatArray:
    """Return the (nbar - 1,) cosine coefficients F_m of a Taylor line source. Source: Taylor (1955)."""
    a = math.acosh(10.0 ** (side_lobe_db / 20.0)) / math.pi
    dilation = nbar**2 / (a**2 + (nbar - 0.5) ** 2)
    found = np.zeros(nbar - 1)
    for m in range(1, nbar):
        numerator = math.prod(1.0 - m**2 / dilation / (a**2 + (n - 0.5) ** 2) for n in range(1, nbar))
        denominator = math.prod(1.0 - m**2 / n**2 for n in range(1, nbar) if n != m)
        found[m - 1] = (-1.0) ** (m + 1) * numerator / (2.0 * denominator)
    return found


def taylor_pattern(x: FloatArray, taper: Taper) -> FloatArray:
    """Return the one-way amplitude pattern, 1 on axis.

    Parameters
    ----------
    x : (N,) ndarray of float64
        (aperture / wavelength) times (sine of arrival minus sine of steering), without unit.
    taper : Taper
        The facet's taper; its floor is not applied here.

    Returns
    -------
    (N,) ndarray of float64
        Amplitude, signed: neighboring side lobes have opposite phase.

    Notes
    -----
    Source: Taylor (1955), continuous aperture 1 + 2 sum F_m cos(2 pi m p). Check values: tests/reference/beams.toml.
    """
    total = np.sinc(x)
    for m, weight in enumerate(taylor_coefficients(taper.nbar, taper.side_lobe_db), start=1):
        total = total + weight * (np.sinc(x - m) + np.sinc(x + m))
    return total


@lru_cache(maxsize=8)
def pattern_table(taper: Taper) -> Float32Array:
    """Return the amplitude pattern at x = 0, TABLE_STEP, ... TABLE_REACH, float32, for linear interpolation, no lower than the taper's floor."""
    pattern = taylor_pattern(np.arange(0.0, TABLE_REACH + 2 * TABLE_STEP, TABLE_STEP), taper)
    floor = 10.0 ** (taper.floor_db / 20.0)
    return np.where(np.abs(pattern) < floor, np.copysign(floor, pattern), pattern).astype(np.float32)


@lru_cache(maxsize=8)
def equivalent_width_x(taper: Taper) -> float:
    """Return the integral of the power pattern over x: its width as a rectangle, in units of wavelength / aperture."""
    x = np.arange(-40.0, 40.0, 1.0 / 256.0)
    return float(np.sum(taylor_pattern(x, taper) ** 2) / 256.0)


@lru_cache(maxsize=8)
def half_power_width_x(taper: Taper) -> float:
    """Return the full width of the main lobe between its half-power points, in units of wavelength / aperture."""
    x = np.arange(0.0, 2.0, 1e-4)
    return 2.0 * float(x[np.argmax(taylor_pattern(x, taper) ** 2 <= 0.5)])


def across_db(across_rad: FloatArray, thickness_rad: float) -> FloatArray:
    """Return the two-way level [dB] off the fan's plane: -3 (phi / half thickness)^2. Source: Gaussian shape, our choice."""
    return -3.0 * (across_rad / (thickness_rad / 2.0)) ** 2


def equivalent_across_rad(thickness_rad: float) -> float:
    """Return the width [rad] of a rectangle with the area of the two-way shape across the fan."""
    half = thickness_rad / 2.0
    return half * math.sqrt(math.pi / (0.3 * math.log(10.0)))
