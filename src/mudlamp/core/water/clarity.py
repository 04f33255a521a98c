"""Clarity: from what an angler can see of a lowered disk to what the sonar hears of suspended solids."""

from dataclasses import dataclass
from enum import StrEnum

import numpy as np

from mudlamp.core.errors import require_range

SECCHI_M = (0.05, 20.0)


class Clarity(StrEnum):
    """The clarity classes in anglers' words."""

    CLEAR = "clear"
    STAINED = "stained"
    MURKY = "murky"
    MUDDY = "muddy"


@dataclass(frozen=True, slots=True, kw_only=True)
class Suspension:
    """What floats in the water: volume scattering strength [dB re 1 m^-1] and concentration [mg/L]."""

    scattering_db: float
    concentration_mg_l: float

    @property
    def attenuation_db_m(self) -> float:
        """The added one-way attenuation [dB/m] at 0.9 MHz: 0.15 dB/m per 100 mg/L (Urick 1948, scaled)."""
        return 0.15 * self.concentration_mg_l / 100.0


# Secchi depth [m], Sv [dB re 1 m^-1], concentration [mg/L]. Invented, monotone, common practice for the class names.
_SECCHI_M = (0.1, 0.2, 0.5, 1.0, 2.0, 4.0, 8.0)
_SCATTERING_DB = (-45.0, -48.0, -57.0, -64.0, -71.0, -76.0, -79.0)
_CONCENTRATION_MG_L = (180.0, 90.0, 35.0, 14.0, 5.0, 2.0, 1.0)
# The Secchi depth [m] that stands for each word (common practice).
TYPICAL_SECCHI_M = {Clarity.CLEAR: 4.0, Clarity.STAINED: 1.4, Clarity.MURKY: 0.6, Clarity.MUDDY: 0.2}


def suspension(*, secchi_m: float) -> Suspension:
    """Return what floats in water of a Secchi depth [m], 0.05 to 20, by interpolation in its logarithm.

    Raises DomainError outside that range. Source: our own monotone table (levels invented).
    """
    depth = np.log(require_range("secchi_m", secchi_m, *SECCHI_M, "m"))
    steps = np.log(_SECCHI_M)
    return Suspension(
        scattering_db=float(np.interp(depth, steps, _SCATTERING_DB)),
        concentration_mg_l=float(np.exp(np.interp(depth, steps, np.log(_CONCENTRATION_MG_L)))),
    )


def clarity_of(*, secchi_m: float) -> Clarity:
    """Return the class whose typical Secchi depth is nearest, by ratio, to `secchi_m` [m]. Source: common practice."""
    depth = require_range("secchi_m", secchi_m, *SECCHI_M, "m")
    return min(TYPICAL_SECCHI_M, key=lambda name: abs(np.log(TYPICAL_SECCHI_M[name] / depth)))
