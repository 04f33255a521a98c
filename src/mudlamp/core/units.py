"""Exact conversions between SI and the units that anglers use (international foot, pound, ounce, mile).

Source: NIST SP 811 (2008), exact definitions.
"""

FOOT_M = 0.3048
INCH_M = 0.0254
POUND_KG = 0.45359237
OUNCE_KG = 0.028349523125
MPH_M_S = 0.44704
MILE_M = 1609.344


def feet(length_m: float) -> float:
    """Return a length [m] in feet."""
    return length_m / FOOT_M


def meters(length_ft: float) -> float:
    """Return a length [ft] in meters."""
    return length_ft * FOOT_M


def degc_from_degf(temperature_degf: float) -> float:
    """Return a temperature [deg F] in deg C."""
    return (temperature_degf - 32.0) / 1.8


def degf_from_degc(temperature_degc: float) -> float:
    """Return a temperature [deg C] in deg F."""
    return temperature_degc * 1.8 + 32.0
