"""The thermocline of summer: where it is, what it scatters, and how far it bends sound."""

import math
from dataclasses import dataclass

import numpy as np

from mudlamp.core.arrays import FloatArray
from mudlamp.core.errors import DomainError
from mudlamp.core.water.sound import sound_speed_m_s

# A layer counts as one where the water cools by so much a meter (Birge 1897: 1 degC a meter).
LEAST_DEGC_M = 1.0
# Water at its top [degC] from which a lake can have one (our choice).
SUMMER_DEGC = 20.0
# What gathers on the change of density scatters so much at its middle [dB re 1 m^-1] (ours; it could lie between -72 and -55).
LAYER_DB = -62.0
RAY_STEP_M = 0.02


@dataclass(frozen=True, slots=True, kw_only=True)
class Thermocline:
    """A thermocline: depth of its top [m], its thickness [m], by how much the water cools through it [degC].

    Raises DomainError where it cools by less than 1 degC a meter: by the limnologists' definition that is none.
    """

    depth_m: float
    thickness_m: float = 1.5
    drop_degc: float = 6.0

    def __post_init__(self) -> None:
        if self.drop_degc < LEAST_DEGC_M * self.thickness_m:
            raise DomainError(
                f"drop_degc is {self.drop_degc:g} degC over {self.thickness_m:g} m: a thermocline cools by {LEAST_DEGC_M:g} degC a meter or more"
            )

    def temperature_degc(self, depth_m: FloatArray, surface_degc: float) -> FloatArray:
        """Return the temperature (N,) [degC] at depths [m]: even above and below, falling evenly in the layer, never under 4 degC."""
        share = np.clip((np.asarray(depth_m) - self.depth_m) / self.thickness_m, 0.0, 1.0)
        return np.maximum(surface_degc - share * self.drop_degc, min(4.0, surface_degc))

    def scattering(self, depth_m: FloatArray) -> FloatArray:
        """Return what the layer scatters (N,) [1/m] at depths [m]: a bell about its middle. Source: invented (LAYER_DB)."""
        off = (depth_m - self.depth_m - 0.5 * self.thickness_m) / (0.5 * self.thickness_m)
        return np.asarray(10.0 ** (LAYER_DB / 10.0) * np.exp(-(off**2)), dtype=np.float64)

    def bend_m(self, *, from_m: float, down_rad: float, range_m: float, surface_degc: float) -> float:
        """Return how far below the straight line a ray ends [m]: from a depth, so steep below level, after a range.

        Source: Snell's law, cos(angle) / c is the same all along the ray; sound speed by temperature alone. The simulator draws straight
        rays: docs/how-it-works.md says what that leaves out.
        """
        here = float(sound_speed_m_s(temperature_degc=float(self.temperature_degc(np.array(from_m), surface_degc))))
        keeps = math.cos(down_rad) / here
        depth, ahead, steps = from_m, 0.0, round(range_m / RAY_STEP_M)
        for _ in range(steps):
            speed = float(sound_speed_m_s(temperature_degc=float(self.temperature_degc(np.array(depth), surface_degc))))
            cosine = min(keeps * speed, 1.0)
            ahead += cosine * RAY_STEP_M
            depth += math.sqrt(1.0 - cosine * cosine) * RAY_STEP_M
        return depth - from_m - range_m * math.sin(down_rad)
