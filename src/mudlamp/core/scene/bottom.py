"""The bottom: a height field with relief, made of one kind of ground."""

import math
from dataclasses import dataclass
from enum import StrEnum

import numpy as np

from mudlamp.core.arrays import FloatArray
from mudlamp.core.sonar import _kernels

LAMBERT_BOUND_DB = 10.0 * math.log10(1.0 / math.pi)
RELIEF_WAVES = 6
FACET_SLOPE_RAD = 0.25


class Ground(StrEnum):
    """Kinds of ground, from soft to hard."""

    MUD = "mud"
    SAND = "sand"
    GRAVEL = "gravel"
    ROCK = "rock"


# Lambert constant 10 log mu [dB] and reflection at normal incidence [dB]: from memory, order of magnitude; only their order is tested.
LAMBERT_DB = {Ground.MUD: -27.0, Ground.SAND: -20.0, Ground.GRAVEL: -14.0, Ground.ROCK: -10.0}
REFLECTION_DB = {Ground.MUD: -20.0, Ground.SAND: -12.0, Ground.GRAVEL: -5.4, Ground.ROCK: -2.8}


def bottom_strength_db(ground: Ground, sin_grazing: float) -> float:
    """Return the scattering strength of ground at a grazing angle [dB re 1 m^2 per m^2], without the specular term.

    Source: Lambert's law, 10 log mu + 20 log sin g; mu at most 1 / pi by conservation of energy.
    """
    return LAMBERT_DB[ground] + 20.0 * math.log10(sin_grazing)


@dataclass(frozen=True, slots=True, kw_only=True)
class Bottom:
    """A bottom: mean depth [m] at the origin, slopes (m of depth per m east and north), a few waves of relief, ground, seed."""

    ground: Ground
    depth_m: float
    slope_east: float
    slope_north: float
    wave_amplitude_m: FloatArray
    wave_east_rad_m: FloatArray
    wave_north_rad_m: FloatArray
    wave_phase_rad: FloatArray
    seed: int

    def kernel_arguments(self) -> tuple[object, ...]:
        """Return what the kernels take of a bottom, in their order: seed, height field, scattering."""
        lambert = 10.0 ** (LAMBERT_DB[self.ground] / 10.0)
        # Gaussian facets: |V|^2 / (8 pi s^2) at normal incidence (common rough-facet form, from memory).
        specular = 10.0 ** (REFLECTION_DB[self.ground] / 10.0) / (8.0 * math.pi * FACET_SLOPE_RAD**2)
        return (self.seed, *self._field(), lambert, specular, FACET_SLOPE_RAD)

    def _field(self) -> tuple[object, ...]:
        waves = (self.wave_amplitude_m, self.wave_east_rad_m, self.wave_north_rad_m, self.wave_phase_rad)
        return (self.depth_m, self.slope_east, self.slope_north, *waves)

    def depth_at(self, x_m: float, y_m: float) -> float:
        """Return the depth of the bottom [m] at a place [m]."""
        return float(_kernels.depth_and_slope(x_m, y_m, *self._field())[0])

    def hides(self, origin_m: FloatArray, target_m: FloatArray) -> bool:
        """Return whether the bottom stands between two (3,) places [m]."""
        for share in np.linspace(0.1, 0.97, 12):
            x, y, z = origin_m + share * (target_m - origin_m)
            if z > self.depth_at(float(x), float(y)):
                return True
        return False


def make_bottom(
    *,
    ground: Ground,
    depth_m: float,
    slope_east: float,
    slope_north: float,
    relief_m: float,
    relief_length_m: float,
    rng: np.random.Generator,
) -> Bottom:
    """Return a bottom whose relief [m, root mean square] varies over `relief_length_m` [m], drawn from `rng`."""
    bearing = rng.uniform(0.0, 2.0 * math.pi, RELIEF_WAVES)
    wavenumber = 2.0 * math.pi / (relief_length_m * rng.uniform(0.5, 2.0, RELIEF_WAVES))
    return Bottom(
        ground=ground,
        depth_m=depth_m,
        slope_east=slope_east,
        slope_north=slope_north,
        wave_amplitude_m=np.full(RELIEF_WAVES, relief_m * math.sqrt(2.0 / RELIEF_WAVES)),
        wave_east_rad_m=wavenumber * np.sin(bearing),
        wave_north_rad_m=wavenumber * np.cos(bearing),
        wave_phase_rad=rng.uniform(0.0, 2.0 * math.pi, RELIEF_WAVES),
        seed=int(rng.integers(2**62)),
    )
