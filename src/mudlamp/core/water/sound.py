"""Sound speed and absorption of fresh water."""

import numpy as np

from mudlamp.core.arrays import FloatArray, FloatLike
from mudlamp.core.errors import DomainError

TEMPERATURE_DEGC = (0.0, 40.0)
CARRIER_HZ = (1e4, 5e6)

# Marczak (1997), from memory; confirmed against the IAPWS-95 and TEOS-10 libraries within 0.06 m/s over 0 to 35 degC.
_MARCZAK = (1402.385, 5.038813, -5.799136e-2, 3.287156e-4, -1.398845e-6, 2.787860e-9)
_DEPTH_M = 5.0


def _checked(name: str, value: FloatLike, low: float, high: float, unit: str) -> FloatArray:
    array = np.asarray(value, dtype=np.float64)
    if not bool(np.all((array >= low) & (array <= high))):
        worst = array[~((array >= low) & (array <= high))].ravel()[0] if array.ndim else array
        raise DomainError(f"{name} is {float(worst):g} {unit}: it must be {low:g} to {high:g} {unit}")
    return array


def sound_speed_m_s(*, temperature_degc: FloatLike) -> FloatArray:
    """Return the speed of sound in fresh water at one atmosphere.

    Parameters
    ----------
    temperature_degc : (N,) array_like of float
        Water temperature [degC], 0 to 40.

    Returns
    -------
    (N,) ndarray of float64
        Sound speed [m/s].

    Raises
    ------
    DomainError
        If a temperature is NaN or outside the range above.

    Notes
    -----
    Source: Marczak (1997), fifth-order polynomial. Check values: tests/reference/water.toml.
    """
    temperature = _checked("temperature_degc", temperature_degc, *TEMPERATURE_DEGC, "degC")
    return np.polynomial.polynomial.polyval(temperature, np.array(_MARCZAK))


def absorption_db_per_m(*, carrier_hz: FloatLike, temperature_degc: FloatLike) -> FloatArray:
    """Return the absorption of sound in fresh water.

    Parameters
    ----------
    carrier_hz, temperature_degc : (N,) array_like of float
        Carrier [Hz], 1e4 to 5e6; temperature [degC], 0 to 40.

    Returns
    -------
    (N,) ndarray of float64
        Absorption [dB/m], one way, at 5 m depth (the pressure term is under 0.02 %).

    Raises
    ------
    DomainError
        If an input is NaN or outside the range above.

    Notes
    -----
    Source: Francois and Garrison (1982), pure-water term. Check values: tests/reference/water.toml.
    """
    carrier_khz = _checked("carrier_hz", carrier_hz, *CARRIER_HZ, "Hz") / 1000.0
    t = _checked("temperature_degc", temperature_degc, *TEMPERATURE_DEGC, "degC")
    cold = 4.937e-4 - 2.59e-5 * t + 9.11e-7 * t**2 - 1.50e-8 * t**3
    warm = 3.964e-4 - 1.146e-5 * t + 1.45e-7 * t**2 - 6.5e-10 * t**3
    pressure = 1.0 - 3.83e-5 * _DEPTH_M + 4.9e-10 * _DEPTH_M**2
    return np.where(t <= 20.0, cold, warm) * pressure * carrier_khz**2 / 1000.0


def ping_limit_hz(*, range_m: float, speed_m_s: float) -> float:
    """Return the most pings a second that still let the farthest echo of `range_m` [m] come home: c / 2R [Hz].

    Source: two-way travel time.
    """
    return speed_m_s / (2.0 * range_m)
