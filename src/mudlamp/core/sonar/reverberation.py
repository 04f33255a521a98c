"""Mean reverberation and noise: what comes back from the water itself, its surface and the receiver."""

import math
from dataclasses import dataclass
from functools import lru_cache

import numpy as np

from mudlamp.core.arrays import Float32Array, FloatArray
from mudlamp.core.chance import stream
from mudlamp.core.sonar import pattern
from mudlamp.core.sonar.transducer import Profile
from mudlamp.core.water.clarity import Suspension

BOLTZMANN_J_K = 1.380649e-23
WATER_DENSITY_KG_M3 = 998.2
SPECKLE_ROWS = 1024
SPECKLE_COLUMNS = 512
DRIFT_LENGTH_M = 0.02
DRIFT_TIME_S = 0.25
NEAREST_M = 0.5


@dataclass(frozen=True, slots=True, kw_only=True)
class Wind:
    """What wind does to the water's top, as levels (our choice, invented; monotone in the wind).

    `bubble_db` volume scattering strength at the surface [dB re 1 m^-1], falling by half every `bubble_half_m`;
    `surface_db` Lambert constant of the surface [dB].
    """

    bubble_db: float
    bubble_half_m: float
    surface_db: float


def wind_effects(wind_m_s: float) -> Wind:
    """Return what a wind [m/s] does. Source: invented, monotone; calm water keeps a few bubbles."""
    return Wind(
        bubble_db=-66.0 + 3.2 * min(wind_m_s, 8.0), bubble_half_m=0.12 + 0.03 * wind_m_s, surface_db=-34.0 + 2.0 * min(wind_m_s, 8.0)
    )


def thermal_noise_db(*, carrier_hz: float, temperature_degc: float, speed_m_s: float) -> float:
    """Return the spectral level of thermal noise in water [dB re 1 uPa^2/Hz].

    Source: Mellen (1952) from first principles, 4 pi k T rho f^2 / c. Check values: tests/reference/noise.toml.
    """
    kelvin = temperature_degc + 273.15
    pressure2 = 4.0 * math.pi * BOLTZMANN_J_K * kelvin * WATER_DENSITY_KG_M3 * carrier_hz**2 / speed_m_s
    return 10.0 * math.log10(pressure2) + 120.0


def noise_power(*, profile: Profile, temperature_degc: float, speed_m_s: float) -> float:
    """Return the receiver's noise as a power relative to the source level at 1 m (its level is noise minus source level).

    Thermal noise in the band, plus electronic noise, less the directivity of a facet, 10 log(2 L / lambda).
    """
    wavelength = speed_m_s / profile.carrier_hz
    level = thermal_noise_db(carrier_hz=profile.carrier_hz, temperature_degc=temperature_degc, speed_m_s=speed_m_s)
    level += 10.0 * math.log10(profile.band_hz) + profile.noise_over_thermal_db
    level -= 10.0 * math.log10(2.0 * profile.aperture_m / wavelength)
    return float(10.0 ** ((level - profile.source_level_db) / 10.0))


def pulse_cell_m(pulse_m: float) -> float:
    """Return the length [m] of a rectangle with the energy of the pulse envelope whose half-power length is `pulse_m`."""
    return pulse_m * math.sqrt(math.pi / (4.0 * math.log(2.0)))


def mean_power(
    *,
    profile: Profile,
    range_m: FloatArray,
    directions: FloatArray,
    depth_m: float,
    bottom_m: float,
    pulse_m: float,
    wavelength_m: float,
    attenuation_db_m: float,
    suspension: Suspension,
    wind: Wind | None,
    normal: FloatArray | None = None,
) -> Float32Array:
    """Return the mean reverberation relative to the source level.

    Parameters
    ----------
    range_m, directions : (range_bin,) and (beam, 3) arrays
        True ranges [m] of the cells; unit vectors of the beams (z down).
    depth_m, bottom_m : float
        Depth of the transducer and of the mean bottom [m]; nothing is scattered below the bottom.
    pulse_m, wavelength_m : float
        Resolution in range and wavelength [m].
    attenuation_db_m : float
        One-way attenuation [dB/m].
    wind : Wind or None
        None: no surface, no bubbles, no ring-down (a bare-water scene).
    normal : (3,) array or None
        The fan's normal where it lies flat: its thickness, not its beams, then meets the surface.

    Returns
    -------
    (range_bin, beam) ndarray of float32
        Power relative to the source level at 1 m.

    Notes
    -----
    Source: sonar equation for volume and surface reverberation (Urick 1983), -40 log R - 2 alpha R + S + 10 log of the cell.
    """
    beam_width = pattern.equivalent_width_x() * wavelength_m / profile.aperture_m
    across = pattern.equivalent_across_rad(profile.thickness_rad)
    cell_m = pulse_cell_m(pulse_m)
    # Nearer than a few apertures the far-field law would grow without end.
    r = np.maximum(range_m, NEAREST_M)[:, None]
    loss = 10.0 ** (-(40.0 * np.log10(r) + 2.0 * attenuation_db_m * r) / 10.0)
    scattering = np.zeros((len(range_m), len(directions)))
    for phi, share in _across_samples(profile, None if normal is None else 5):
        up = 0.0 if normal is None else math.sin(phi) * float(normal[2])
        z = depth_m + r * (math.cos(phi) * directions[None, :, 2] + up)
        wet = (z > 0.0) & (z < bottom_m)
        there = np.full_like(z, 10.0 ** (suspension.scattering_db / 10.0))
        if wind is not None:
            there += 10.0 ** (wind.bubble_db / 10.0) * 0.5 ** (np.maximum(z, 0.0) / wind.bubble_half_m)
        scattering += share * np.where(wet, there, 0.0)
    power = loss * scattering * r**2 * beam_width * across * cell_m
    if wind is not None:
        sine = np.clip(depth_m / range_m, 0.0, 1.0)
        if normal is None:
            lit = _surface_from_fan(range_m, sine, directions, profile, wavelength_m, cell_m)
        else:
            lit = _surface_from_flat(range_m, sine, directions, normal, profile, beam_width, cell_m)
        # Lambert's law at the surface's grazing angle at each range, nothing nearer than the surface itself.
        strength = np.where(range_m > depth_m, 10.0 ** (wind.surface_db / 10.0) * sine**2, 0.0)
        power = power + loss * strength[:, None] * lit + _ring_down(range_m, pulse_m)
    return power.astype(np.float32)


def _across_samples(profile: Profile, count: int | None) -> list[tuple[float, float]]:
    """Return angles across the fan [rad] with their shares of its power: one in the plane for an upright fan, some for a flat one."""
    if count is None:
        return [(0.0, 1.0)]
    phi = np.linspace(-1.5, 1.5, count) * profile.thickness_rad / 2.0
    weight = 10.0 ** (pattern.across_db(phi, profile.thickness_rad) / 10.0)
    return [(float(one), float(share)) for one, share in zip(phi, weight / weight.sum(), strict=True)]


def _surface_from_fan(
    range_m: FloatArray, sine: FloatArray, directions: FloatArray, profile: Profile, wavelength_m: float, cell_m: float
) -> FloatArray:
    """Return the lit area of the surface [m^2], (range_bin, beam), that an upright fan hears: a strip across it, through each beam's pattern."""
    across = pattern.equivalent_across_rad(profile.thickness_rad)
    area = range_m * across * cell_m / np.sqrt(np.maximum(1.0 - sine**2, 0.02))
    # The surface at range R stands asin(depth / R) above level; each beam hears it through its pattern.
    upward = np.arcsin(np.clip(-directions[:, 2], -1.0, 1.0))
    x = (np.sin(upward)[None, :] - sine[:, None]) * profile.aperture_m / wavelength_m
    return area[:, None] * pattern.taylor_pattern(x) ** 2


def _surface_from_flat(
    range_m: FloatArray, sine: FloatArray, directions: FloatArray, normal: FloatArray, profile: Profile, beam_width: float, cell_m: float
) -> FloatArray:
    """Return the lit area of the surface [m^2], (range_bin, beam), that a flat fan hears: every beam meets it as far off its plane as it is tilted."""
    area = range_m * beam_width * cell_m / np.sqrt(np.maximum(1.0 - sine**2, 0.02))
    # Off the plane by phi a beam points at cos(phi) direction + sin(phi) normal: the surface is where its z is -sine.
    along, across = directions[:, 2], float(normal[2])
    lift = np.arcsin(np.clip(-sine[:, None] / np.hypot(along, across)[None, :], -1.0, 1.0))
    phi = (math.pi - lift if across < 0.0 else lift) - np.arctan2(along, across)[None, :]
    phi = np.mod(phi + math.pi, 2.0 * math.pi) - math.pi
    return area[:, None] * 10.0 ** (pattern.across_db(phi, profile.thickness_rad) / 10.0)


def _ring_down(range_m: FloatArray, pulse_m: float) -> FloatArray:
    """Return the transducer's ring-down as a power, (range_bin, 1): -62 dB at contact, 12 dB less every 0.3 m (invented)."""
    return (10.0 ** ((-62.0 - 40.0 * range_m / 1.0 - 10.0 * (range_m > 4 * pulse_m)) / 10.0))[:, None]


@lru_cache(maxsize=24)
def speckle_table(*, pulse_bins: float, beam_steps: float, repeat: int) -> tuple[Float32Array, Float32Array]:
    """Return a periodic unit-power complex Gaussian field, shaped by pulse and beam, as real and imaginary parts.

    Parameters
    ----------
    pulse_bins, beam_steps : float
        Half-power widths of pulse and beam, in range bins and beam steps.
    repeat : int
        How many of the first columns stand again behind the last, so that a window needs no wrapping along beams.

    Returns
    -------
    two (SPECKLE_ROWS, SPECKLE_COLUMNS + repeat) ndarrays of float32
        Real and imaginary part; mean power 1; neighbors correlate as the field of many scatterers would. The field is always the
        same: chance lies in where a ping's window of it begins.

    Notes
    -----
    Source: circular complex Gaussian statistics of many scatterers in a cell (Goodman 1985).
    """
    rng = stream(0, "speckle")
    shape = (SPECKLE_ROWS, SPECKLE_COLUMNS)
    white = rng.standard_normal(shape, dtype=np.float32) + np.complex64(1j) * rng.standard_normal(shape, dtype=np.float32)
    rows = _transfer(SPECKLE_ROWS, pulse_bins).astype(np.float32)
    columns = _transfer(SPECKLE_COLUMNS, beam_steps).astype(np.float32)
    field = np.fft.ifft2(np.fft.fft2(white) * rows[:, None] * columns[None, :])
    field = np.concatenate((field, field[:, :repeat]), axis=1) / math.sqrt(float(np.mean(np.abs(field) ** 2)))
    return np.ascontiguousarray(field.real, dtype=np.float32), np.ascontiguousarray(field.imag, dtype=np.float32)


def _transfer(length: int, half_power_width: float) -> FloatArray:
    offset = np.minimum(np.arange(length), length - np.arange(length))
    kernel = np.exp(-2.0 * math.log(2.0) * (offset / half_power_width) ** 2)
    return np.abs(np.fft.fft(kernel))
