"""Jig heads: size, target strength and sink speed from weight."""

import math
from fractions import Fraction
from functools import lru_cache

from mudlamp.core.errors import require_range

LEAD_KG_M3 = 11340.0
TUNGSTEN_ALLOY_KG_M3 = 17600.0
GRAVITY_M_S2 = 9.80665
WATER_KG_M3 = 998.2
VISCOSITY_PA_S = 1.0016e-3
HEAD_KG = (0.0002, 0.06)
# Common practice: the sizes jig heads and weights are sold in.
SOLD_OZ = tuple(
    Fraction(text)
    for text in ("1/80", "1/64", "1/48", "1/32", "1/24", "1/16", "3/32", "1/8", "3/16", "1/4", "5/16", "3/8", "1/2", "5/8", "3/4", "1")
)
# A dressed 1/16 oz head falls about 1 ft/s (common practice), which this much added drag area explains.
DRESSED_DRAG_AREA_M2 = 3.4e-4


def head_radius_m(*, mass_kg: float, density_kg_m3: float = LEAD_KG_M3) -> float:
    """Return the radius [m] of a spherical head of a mass [kg], 0.0002 to 0.06; raise DomainError outside it."""
    require_range("mass_kg", mass_kg, *HEAD_KG, "kg")
    return float((3.0 * mass_kg / (4.0 * math.pi * density_kg_m3)) ** (1.0 / 3.0))


def head_target_strength_db(*, mass_kg: float, density_kg_m3: float = LEAD_KG_M3) -> float:
    """Return the target strength [dB re 1 m^2] of a head: 20 log(a / 2), the geometric limit of a sphere of radius a.

    Source: geometric scattering of a large sphere. Check values: tests/reference/targets.toml.
    """
    return 20.0 * math.log10(head_radius_m(mass_kg=mass_kg, density_kg_m3=density_kg_m3) / 2.0)


def sphere_drag(reynolds: float) -> float:
    """Return the drag coefficient of a sphere. Source: Morrison (2013), correlation over all Reynolds numbers."""
    viscous = 24.0 / reynolds + 2.6 * (reynolds / 5.0) / (1.0 + (reynolds / 5.0) ** 1.52)
    crisis = 0.411 * (reynolds / 2.63e5) ** -7.94 / (1.0 + (reynolds / 2.63e5) ** -8.0)
    return viscous + crisis + reynolds**0.8 / 461000.0


@lru_cache(maxsize=512)
def sink_speed_m_s(*, mass_kg: float, density_kg_m3: float = LEAD_KG_M3, drag_area_m2: float = DRESSED_DRAG_AREA_M2) -> float:
    """Return the terminal speed [m/s] of a head with an added drag area [m^2] (0: bare), in fresh water at 20 degC.

    Source: balance of weight, buoyancy and quadratic drag. Check values: tests/reference/targets.toml.
    """
    radius = head_radius_m(mass_kg=mass_kg, density_kg_m3=density_kg_m3)
    force = mass_kg * GRAVITY_M_S2 * (1.0 - WATER_KG_M3 / density_kg_m3)
    speed = 1.0
    for _ in range(60):
        reynolds = max(1.0, WATER_KG_M3 * speed * 2.0 * radius / VISCOSITY_PA_S)
        area = sphere_drag(reynolds) * math.pi * radius**2 + drag_area_m2
        speed = 0.5 * (speed + math.sqrt(2.0 * force / (WATER_KG_M3 * area)))
    return speed
