"""Mean reverberation and noise: what comes back from the water itself, its surface and the receiver."""

import math
from dataclasses import dataclass
from functools import lru_cache

import numpy as np

from mudlamp.core.arrays import Float32Array, FloatArray
from mudlamp.core.chance import stream
from mudlamp.core.receiver.law import tvg_db
from mudlamp.core.sonar import pattern
from mudlamp.core.sonar.transducer import Profile
from mudlamp.core.water.clarity import Suspension
from mudlamp.core.water.thermocline import Thermocline

BOLTZMANN_J_K = 1.380649e-23
WATER_DENSITY_KG_M3 = 998.2
SPECKLE_ROWS = 1024
SPECKLE_COLUMNS = 512
DRIFT_LENGTH_M = 0.02
DRIFT_TIME_S = 0.25
NEAREST_M = 0.5
# Snow: ring-down of the transducer, and what wind [m/s] and suspended solids [mg/L] add, as levels after TVG at SNOW_AT_M [dB re 1 m^2].
RING_DOWN_DB = -84.0
SNOW_WIND_M_S = (0.0, 1.0, 2.0, 4.0, 8.0)
SNOW_WIND_DB = (-95.0, -82.5, -68.5, -65.0, -63.0)
SNOW_MG_L = (1.0, 2.0, 5.0, 14.0, 35.0, 90.0, 180.0)
SNOW_DIRT_DB = (-95.0, -88.0, -78.0, -70.0, -66.0, -64.0, -63.0)
SNOW_AT_M = 0.31
SNOW_LEAST_M = 0.08


@dataclass(frozen=True, slots=True, kw_only=True)
class Wind:
    """What wind does to the water's top, as levels (our choice, invented; monotone in the wind).

    `bubble_db` volume scattering strength at the surface [dB re 1 m^-1], falling by half every `bubble_half_m`;
    `surface_db` Lambert constant of the surface [dB]; `snow_db` what wind adds to the snow before the transducer [dB, `snow_db`].
    """

    bubble_db: float
    bubble_half_m: float
    surface_db: float
    snow_db: float


def wind_effects(wind_m_s: float) -> Wind:
    """Return what a wind [m/s] does. Source: invented, monotone; calm water keeps a few bubbles."""
    return Wind(
        bubble_db=-66.0 + 3.2 * min(wind_m_s, 8.0),
        bubble_half_m=0.12 + 0.03 * wind_m_s,
        surface_db=-34.0 + 2.0 * min(wind_m_s, 8.0),
        snow_db=float(np.interp(wind_m_s, SNOW_WIND_M_S, SNOW_WIND_DB)),
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


@dataclass(frozen=True, slots=True, kw_only=True)
class Sounding:
    """What the mean reverberation depends on: transducer, where and how it looks, its water.

    `range_m` (range_bin,) true ranges of the cells [m]; `directions` (beam, 3) unit vectors of the beams (z down); `normal` (3,) that of a fan
    that lies flat: its thickness, not its beams, then meets the surface. `wind` None: no surface, no bubbles, no snow (a bare-water scene).
    """

    profile: Profile
    range_m: FloatArray
    directions: FloatArray
    depth_m: float
    pulse_m: float
    wavelength_m: float
    absorption_db_m: float
    suspension: Suspension
    wind: Wind | None
    normal: FloatArray | None = None
    thermocline: Thermocline | None = None

    @property
    def attenuation_db_m(self) -> float:
        """One-way attenuation of water and what floats in it [dB/m]."""
        return self.absorption_db_m + self.suspension.attenuation_db_m

    @property
    def loss(self) -> FloatArray:
        """The two-way loss as a power (range_bin, 1); nearer than a few apertures the far-field law would grow without end."""
        r = np.maximum(self.range_m, NEAREST_M)[:, None]
        return np.asarray(10.0 ** (-(40.0 * np.log10(r) + 2.0 * self.attenuation_db_m * r) / 10.0), dtype=np.float64)

    @property
    def beam_width_rad(self) -> float:
        """The width of a beam as a rectangle of its power [rad]."""
        return pattern.equivalent_width_x(self.profile.taper) * self.wavelength_m / self.profile.aperture_m


def mean_power(look: Sounding) -> Float32Array:
    """Return the mean reverberation of water without a bottom, relative to the source level at 1 m, (range_bin, beam)."""
    return volume_power(look) + top_power(look)


def volume_power(look: Sounding) -> Float32Array:
    """Return what floats in the water and the wind's bubbles scatter back, relative to the source level at 1 m, (range_bin, beam).

    Source: sonar equation for volume reverberation (Urick 1983), -40 log R - 2 alpha R + Sv + 10 log of the cell's volume.
    """
    profile, wind = look.profile, look.wind
    r = np.maximum(look.range_m, NEAREST_M)[:, None]
    scattering = np.zeros((len(look.range_m), len(look.directions)))
    for phi, share in across_samples(profile, 1 if look.normal is None else 5):
        up = 0.0 if look.normal is None else math.sin(phi) * float(look.normal[2])
        z = look.depth_m + r * (math.cos(phi) * look.directions[None, :, 2] + up)
        there = np.full_like(z, 10.0 ** (look.suspension.scattering_db / 10.0))
        if wind is not None:
            there += 10.0 ** (wind.bubble_db / 10.0) * 0.5 ** (np.maximum(z, 0.0) / wind.bubble_half_m)
        if look.thermocline is not None:
            there += look.thermocline.scattering(z)
        scattering += share * np.where(z > 0.0, there, 0.0)
    across = pattern.equivalent_across_rad(profile.thickness_rad)
    power = look.loss * scattering * r**2 * look.beam_width_rad * across * pulse_cell_m(look.pulse_m)
    return np.asarray(power, dtype=np.float32)


def top_power(look: Sounding) -> Float32Array:
    """Return what the surface and the snow before the transducer scatter back, relative to the source level at 1 m, (range_bin, beam).

    Source: sonar equation for surface reverberation (Urick 1983), with Lambert's law; the snow is invented.
    """
    shape = (len(look.range_m), len(look.directions))
    if look.wind is None:
        return np.zeros(shape, np.float32)
    cell_m = pulse_cell_m(look.pulse_m)
    sine = np.clip(look.depth_m / look.range_m, 0.0, 1.0)
    if look.normal is None:
        lit = _surface_from_fan(look.range_m, sine, look.directions, look.profile, look.wavelength_m, cell_m)
    else:
        lit = _surface_from_flat(look.range_m, sine, look.directions, look.normal, look.profile, look.beam_width_rad, cell_m)
    # Lambert's law at the surface's grazing angle at each range, nothing nearer than the surface itself.
    strength = np.where(look.range_m > look.depth_m, 10.0 ** (look.wind.surface_db / 10.0) * sine**2, 0.0)
    snow = 10.0 ** ((snow_db(look.range_m, look.wind, look.suspension) - tvg_db(look.range_m, look.absorption_db_m)) / 10.0)
    return np.asarray(look.loss * strength[:, None] * lit + snow[:, None], dtype=np.float32)


def snow_db(range_m: FloatArray, wind: Wind, floating: Suspension) -> FloatArray:
    """Return the level of the snow before the transducer at (N,) ranges [m], after time-varied gain [dB re 1 m^2].

    Ring-down, and particles and bubbles so near that they show one by one: loudest at the transducer, 18 dB less a decade of range, more
    with wind and with dirt. Source: invented, so that Near cut has what it is for; monotone.
    """
    dirt = np.interp(math.log(floating.concentration_mg_l), np.log(SNOW_MG_L), SNOW_DIRT_DB)
    near = 10.0 * math.log10(sum(10.0 ** (level / 10.0) for level in (RING_DOWN_DB, wind.snow_db, float(dirt))))
    return near - 18.0 * np.log10(np.maximum(range_m, SNOW_LEAST_M) / SNOW_AT_M)


def across_samples(profile: Profile, count: int) -> list[tuple[float, float]]:
    """Return so many angles across the fan [rad] with their shares of its power; one is the plane alone."""
    if count == 1:
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
    return area[:, None] * pattern.taylor_pattern(x, profile.taper) ** 2


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
