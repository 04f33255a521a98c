"""The bottom: a height field of a plane, relief and features, made of kinds of ground."""

import math
from dataclasses import dataclass
from enum import StrEnum
from functools import cached_property

import numpy as np

from mudlamp.core.arrays import FloatArray, IntArray
from mudlamp.core.scene import _kernels
from mudlamp.core.scene.survey import NO_SURVEY, Survey
from mudlamp.core.sonar._kernels_ground import is_behind

LAMBERT_BOUND_DB = 10.0 * math.log10(1.0 / math.pi)
RELIEF_WAVES = 6
FACET_SLOPE_RAD = 0.25
GRID_M = 0.25
GRID_HALF_M = 44.0
# The grid is laid anew when the boat is so far from its middle.
GRID_ROOM_M = 6.0


class Ground(StrEnum):
    """Kinds of ground, from soft to hard."""

    MUD = "mud"
    SAND = "sand"
    GRAVEL = "gravel"
    ROCK = "rock"


class FeatureKind(StrEnum):
    """Shapes of the bottom: a step along a line, a trough along a line, a round rise."""

    LEDGE = "ledge"
    CHANNEL = "channel"
    HUMP = "hump"


GROUNDS = tuple(Ground)
_FEATURES = tuple(FeatureKind)
# Lambert constant 10 log mu [dB] (scattering strength is 10 log mu + 20 log sin of the grazing angle; mu at most 1 / pi by conservation of
# energy) and reflection at normal incidence [dB]: our assumption (docs/levels.md); only their order is tested.
LAMBERT_DB = {Ground.MUD: -27.0, Ground.SAND: -20.0, Ground.GRAVEL: -14.0, Ground.ROCK: -10.0}
REFLECTION_DB = {Ground.MUD: -20.0, Ground.SAND: -12.0, Ground.GRAVEL: -5.4, Ground.ROCK: -2.8}
# How deep its echo comes from on the average [m]: roughness, gravel and mud that sound enters (invented; drawn too deep rather than too thin).
PENETRATION_M = {Ground.MUD: 0.16, Ground.SAND: 0.09, Ground.GRAVEL: 0.07, Ground.ROCK: 0.05}
# What a bounce loses besides: rough ground scatters most of it out of the cell (invented).
ROUGHNESS_LOSS_DB = 14.0
STRAIGHT_LOSS_DB = 3.0


@dataclass(frozen=True, slots=True, kw_only=True)
class Feature:
    """A shape of the bottom at a place [m]: it changes the depth by `change_m` [m] within `width_m` [m].

    A ledge steps toward `bearing_rad`; a channel runs across that bearing; a hump is round (a negative change rises).
    """

    kind: FeatureKind
    x_m: float
    y_m: float
    bearing_rad: float
    change_m: float
    width_m: float


@dataclass(frozen=True, slots=True, kw_only=True)
class Patch:
    """A circle of another kind of ground: middle and radius [m]."""

    ground: Ground
    x_m: float
    y_m: float
    radius_m: float


@dataclass(frozen=True, kw_only=True)
class Bottom:
    """A bottom: mean depth [m] at the origin, slopes (m of depth per m east and north), a few waves of relief, features, ground, seed.

    A `survey`'s depths add to that, and its kinds of ground stand for `ground`.
    """

    ground: Ground
    depth_m: float
    slope_east: float
    slope_north: float
    wave_amplitude_m: FloatArray
    wave_east_rad_m: FloatArray
    wave_north_rad_m: FloatArray
    wave_phase_rad: FloatArray
    features: tuple[Feature, ...]
    patches: tuple[Patch, ...]
    seed: int
    survey: Survey = NO_SURVEY

    @cached_property
    def field(self) -> tuple[object, ...]:
        """What the kernels take of the height field, in their order: every fish asks for it at every step."""
        kinds = np.array([_FEATURES.index(one.kind) for one in self.features], dtype=np.int64)
        rows = [(f.x_m, f.y_m, math.sin(f.bearing_rad), math.cos(f.bearing_rad), f.change_m, f.width_m) for f in self.features]
        waves = (self.wave_amplitude_m, self.wave_east_rad_m, self.wave_north_rad_m, self.wave_phase_rad)
        surveyed = (self.survey.west_m, self.survey.south_m, self.survey.step_m, self.survey.depth_m, self.survey.kind)
        features = np.array(rows, dtype=np.float64).reshape(-1, 6)
        return (self.depth_m, self.slope_east, self.slope_north, *waves, kinds, features, *surveyed)

    @property
    def here_m(self) -> float:
        """How deep it is about the origin [m], relief and features left out."""
        return self.depth_m if self.survey is NO_SURVEY else self.survey.depth_at(0.0, 0.0)

    def depth_at(self, x_m: float, y_m: float) -> float:
        """Return the depth of the bottom [m] at a place [m]."""
        return float(_kernels.depth_at(x_m, y_m, *self.field))


def scattering() -> tuple[FloatArray, FloatArray, float, FloatArray]:
    """Return how ground scatters as the kernels take it, by kind: Lambert constants, strengths of its facets, their slope [rad], penetration [m]."""
    lambert = [10.0 ** (LAMBERT_DB[ground] / 10.0) for ground in GROUNDS]
    # Gaussian facets: |V|^2 / (8 pi s^2) at normal incidence (Kirchhoff approximation, common form).
    specular = [10.0 ** (REFLECTION_DB[ground] / 10.0) / (8.0 * math.pi * FACET_SLOPE_RAD**2) for ground in GROUNDS]
    return np.array(lambert), np.array(specular), FACET_SLOPE_RAD, np.array([PENETRATION_M[ground] for ground in GROUNDS])


class GroundGrid:
    """The bottom's depth and kind on a grid about the boat, laid anew when the boat has moved out of its middle."""

    def __init__(self, bottom: Bottom) -> None:
        self.bottom = bottom
        side = round(2.0 * GRID_HALF_M / GRID_M) + 1
        self._middle: tuple[float, float] | None = None
        self._depth: FloatArray = np.zeros((side, side))
        self._kind: IntArray = np.zeros((side, side), dtype=np.int64)
        self._scattering = scattering()

    def about(self, x_m: float, y_m: float) -> tuple[object, ...]:
        """Return what the kernels take of the ground about a place [m], in their order: seed, grid, kinds, ruggedness, scattering."""
        return (self.bottom.seed, *self.grid(x_m, y_m), self._kind, self.is_rugged, *self._scattering)

    @property
    def is_rugged(self) -> bool:
        """Whether the ground can stand before something: relief alone is too low for that."""
        return bool(self.bottom.features) or self.bottom.survey is not NO_SURVEY

    def grid(self, x_m: float, y_m: float) -> tuple[float, float, float, FloatArray]:
        """Return the depths about a place [m] as the kernels take them: the grid's corner (x, y) and step [m], depths (north, east) [m]."""
        if self._middle is None or math.dist(self._middle, (x_m, y_m)) > GRID_ROOM_M:
            self._lay(x_m, y_m)
        return (*self._corner, GRID_M, self._depth)

    def hides(self, origin_m: FloatArray, place_m: FloatArray) -> bool:
        """Return whether the ground stands between a (3,) transducer's place and another [m], by the test that a ping goes by."""
        return self.is_rugged and bool(is_behind(origin_m, *(place_m - origin_m), *self.grid(float(origin_m[0]), float(origin_m[1]))))

    def _lay(self, x_m: float, y_m: float) -> None:
        self._middle = (x_m, y_m)
        self._corner = (x_m - GRID_HALF_M, y_m - GRID_HALF_M)
        self._kind[:] = GROUNDS.index(self.bottom.ground)
        patches = self.bottom.patches
        kinds = np.array([GROUNDS.index(patch.ground) for patch in patches], dtype=np.int64)
        circles = np.array([(patch.x_m, patch.y_m, patch.radius_m) for patch in patches], dtype=np.float64).reshape(-1, 3)
        _kernels.fill_grid(*self._corner, GRID_M, *self.bottom.field, kinds, circles, self._depth, self._kind)

    def below(self, x_m: float, y_m: float) -> tuple[float, float, float]:
        """Return the depth [m] under a place [m], and the amplitude that a bounce off the ground there keeps: aslant, and straight down.

        Straight down the fan's thickness catches most of what rough ground scatters about.
        """
        depth = self.bottom.depth_at(x_m, y_m)
        self.grid(x_m, y_m)
        side = len(self._kind) - 1
        column, row = (min(max(round((at - corner) / GRID_M), 0), side) for at, corner in zip((x_m, y_m), self._corner, strict=True))
        ground = GROUNDS[int(self._kind[row, column])]
        aslant, straight = (10.0 ** ((REFLECTION_DB[ground] - loss) / 20.0) for loss in (ROUGHNESS_LOSS_DB, STRAIGHT_LOSS_DB))
        return depth, aslant, straight


def make_bottom(
    *,
    ground: Ground,
    depth_m: float,
    slope_east: float,
    slope_north: float,
    relief_m: float,
    relief_length_m: float,
    rng: np.random.Generator,
    features: tuple[Feature, ...] = (),
    patches: tuple[Patch, ...] = (),
    survey: Survey | None = None,
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
        features=features,
        patches=patches,
        seed=int(rng.integers(2**62)),
        survey=survey or NO_SURVEY,
    )
