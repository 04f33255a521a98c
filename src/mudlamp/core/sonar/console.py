"""A console's transducers: round, down-looking and side-looking beams, each a column of echo levels a ping.

The same scatterers, levels, noise and coherent sum as the live fan's; only the beams have other shapes. Levels are invented, as all of ours.
"""

import math
from dataclasses import dataclass
from enum import StrEnum
from functools import lru_cache

import numpy as np
from scipy.special import j1

from mudlamp.core.arrays import Float32Array, FloatArray
from mudlamp.core.errors import require_choice, require_range
from mudlamp.core.receiver.law import tvg_db
from mudlamp.core.scene.bottom import GROUNDS, REFLECTION_DB, STRAIGHT_LOSS_DB, scattering
from mudlamp.core.scene.survey import Survey
from mudlamp.core.sonar import _kernels_console as kernels
from mudlamp.core.sonar import reverberation
from mudlamp.core.sonar.pattern import Taper, equivalent_width_x, taylor_pattern
from mudlamp.core.sonar.synthesis import SILENCE, SURFACE_LOSS_DB, SURFACE_LOSS_DB_S_M, WaterBody
from mudlamp.core.water.clarity import Suspension, suspension
from mudlamp.core.water.sound import absorption_db_per_m, sound_speed_m_s

BINS = 512
# How far a beam's two-way pattern is tabled, as x = aperture / wavelength times sine: main lobe and two side lobes.
TABLE_X = 3.2
TABLE_STEP = 1.0 / 64.0
THIN_TAPER = Taper(nbar=4, side_lobe_db=26.0, floor_db=-40.0)
REACH_M = (4.0, 60.0)
SOURCE_LEVEL_DB = 205.0
NOISE_OVER_THERMAL_DB = 18.0
BAND_HZ = 10e3
PULSE_S = 60e-6
LEAST_PULSE_BINS = 2.0
# The ground is summed in cells of this size [m], larger under a round beam by how deep it is [m], out to x of a beam's pattern: farther off
# its axis ground is 20 dB down and adds under 1 %.
GROUND_STEP_M = 0.1
ROUND_STEPS_M = ((4.0, 0.1), (8.0, 0.2), (math.inf, 0.4))
GROUND_X = 1.25
NARROW_RAD = math.radians(12.0)
WAKE_DEPTH_M = 6.0


class ViewKind(StrEnum):
    """A console's pictures: scrolling, straight down, both sides."""

    SCROLLING = "scrolling"
    DOWN = "down"
    SIDE = "side"


@dataclass(frozen=True, slots=True, kw_only=True)
class Shape:
    """A beam's shape: round or thin, aperture [m] (diameter, or length along the keel), full two-way width across the keel [rad] and where its

    middle looks, from plumb to starboard [rad].
    """

    is_round: bool
    aperture_m: float
    across_rad: float
    toward_rad: float


@dataclass(frozen=True, slots=True, kw_only=True)
class ViewProfile:
    """A transducer of the console: its beams, and the carriers it can be set to [Hz], lowest first."""

    kind: ViewKind
    shapes: tuple[Shape, ...]
    carriers_hz: tuple[float, ...]


_SIDE_RAD, _SIDE_ACROSS_RAD = math.radians(62.0), math.radians(52.0)
VIEWS = {
    ViewKind.SCROLLING: ViewProfile(
        kind=ViewKind.SCROLLING,
        shapes=(Shape(is_round=True, aperture_m=0.024, across_rad=0.0, toward_rad=0.0),),
        carriers_hz=(83e3, 200e3),
    ),
    ViewKind.DOWN: ViewProfile(
        kind=ViewKind.DOWN,
        shapes=(Shape(is_round=False, aperture_m=0.16, across_rad=math.radians(42.0), toward_rad=0.0),),
        carriers_hz=(455e3, 800e3),
    ),
    ViewKind.SIDE: ViewProfile(
        kind=ViewKind.SIDE,
        shapes=(
            Shape(is_round=False, aperture_m=0.16, across_rad=_SIDE_ACROSS_RAD, toward_rad=-_SIDE_RAD),
            Shape(is_round=False, aperture_m=0.16, across_rad=_SIDE_ACROSS_RAD, toward_rad=_SIDE_RAD),
        ),
        carriers_hz=(455e3, 800e3),
    ),
}


# A narrow beam turned step by step, all the way round: a side beam of a shorter aperture, so that a turn is not too many steps.
ALL_ROUND = Shape(is_round=False, aperture_m=0.06, across_rad=_SIDE_ACROSS_RAD, toward_rad=_SIDE_RAD)
ALL_ROUND_STEPS = 180
ALL_ROUND_HZ = 455e3


# Beams side by side across the track, for the 3-D view.
FAN_STEP_RAD, FAN_HALF_RAD = math.radians(3.0), math.radians(57.0)
FAN_HZ = 455e3
FAN = ViewProfile(
    kind=ViewKind.DOWN,
    shapes=tuple(
        Shape(is_round=False, aperture_m=0.12, across_rad=math.radians(3.6), toward_rad=float(toward))
        for toward in np.arange(-FAN_HALF_RAD, FAN_HALF_RAD + 0.01, FAN_STEP_RAD)
    ),
    carriers_hz=(FAN_HZ,),
)


@lru_cache(maxsize=4)
def _round_table() -> FloatArray:
    """Return the two-way amplitude of a round piston over x: (2 J1(u) / u)^2, u = pi x. Source: Urick (1983), circular piston."""
    u = math.pi * np.maximum(np.arange(0.0, TABLE_X, TABLE_STEP), 1e-9)
    return np.asarray((2.0 * j1(u) / u) ** 2, dtype=np.float64)


@lru_cache(maxsize=4)
def _thin_table() -> FloatArray:
    """Return the two-way amplitude of a tapered line over x: its pattern, sent and received."""
    return np.asarray(taylor_pattern(np.arange(0.0, TABLE_X, TABLE_STEP), THIN_TAPER) ** 2, dtype=np.float64)


def _table(shape: Shape) -> FloatArray:
    return _round_table() if shape.is_round else _thin_table()


def two_way_width_rad(shape: Shape, wavelength_m: float) -> float:
    """Return the full two-way width of a beam between its half-power points [rad]: of a thin one, along the keel."""
    x = np.arange(0.0, TABLE_X, TABLE_STEP)
    half = float(np.interp(-1.0, -(_table(shape) / math.sqrt(0.5)), x))
    return 2.0 * math.asin(min(half * wavelength_m / shape.aperture_m, 1.0))


@lru_cache(maxsize=32)
def envelope(pulse_bins: float) -> FloatArray:
    """Return the pulse's envelope (part, bin): amplitude about an echo at each part of a bin; the power is half at half its length."""
    part = (np.arange(kernels.PARTS)[:, None] + 0.5) / kernels.PARTS - 0.5
    off = np.arange(-kernels.WINGS, kernels.WINGS + 1)[None, :] - part
    return np.exp(-2.0 * math.log(2.0) * (off / pulse_bins) ** 2)


@dataclass(frozen=True, slots=True, kw_only=True)
class Points:
    """Point scatterers ready for a column: (N,) places [m], amplitudes [m] and phases [rad]."""

    x: FloatArray
    y: FloatArray
    z: FloatArray
    amplitude: FloatArray
    phase: FloatArray


@dataclass(frozen=True, slots=True, kw_only=True)
class Keel:
    """Where the console's transducers are: place (3,) [m], and where the boat heads [rad]."""

    origin_m: FloatArray
    heading_rad: float


class ConsoleView:
    """One view of the console, by its profile: it sounds a column a ping, at one carrier [Hz] and Reach [m] (of range, to each side).

    Raises DomainError for a carrier or a Reach it does not have. `lit` counts what the last column summed.
    """

    def __init__(
        self,
        profile: ViewProfile,
        *,
        carrier_hz: float,
        reach_m: float,
        water: WaterBody,
        survey: Survey,
        seed: int,
        rng: np.random.Generator,
    ) -> None:
        self.profile = profile
        self.carrier_hz = require_choice("carrier_hz", carrier_hz, self.profile.carriers_hz)
        self.reach_m = require_range("reach_m", reach_m, *REACH_M, "m")
        self._survey = survey
        self._seed = seed
        self._rng = rng
        speed = float(sound_speed_m_s(temperature_degc=water.temperature_degc))
        self.wavelength_m = speed / carrier_hz
        self.bin_m = reach_m / BINS
        self.range_m: FloatArray = (np.arange(BINS, dtype=np.float64) + 0.5) * self.bin_m
        self.pulse_m = max(speed * PULSE_S / 2.0, LEAST_PULSE_BINS * self.bin_m)
        floating = suspension(secchi_m=water.secchi_m)
        # What floats takes more at a high carrier: in proportion to it, about 0.9 MHz (Urick 1948, viscous loss of fine silt).
        self.absorption_db_m = float(absorption_db_per_m(carrier_hz=carrier_hz, temperature_degc=water.temperature_degc))
        self.attenuation_db_m = self.absorption_db_m + floating.attenuation_db_m * carrier_hz / 9e5
        self.longest_hz = speed / (2.0 * reach_m)
        self._envelope = envelope(round(self.pulse_m / self.bin_m, 2))
        self._speckle = reverberation.speckle_table(pulse_bins=round(self.pulse_m / self.bin_m, 1), beam_steps=0.1, repeat=1)
        noise = 0.0
        if water.noise:
            noise_db = reverberation.thermal_noise_db(carrier_hz=carrier_hz, temperature_degc=water.temperature_degc, speed_m_s=speed)
            noise_db += 10.0 * math.log10(BAND_HZ) + NOISE_OVER_THERMAL_DB - SOURCE_LEVEL_DB
            noise = 10.0 ** (noise_db / 10.0)
        self._noise = noise
        wind = None if water.wind_m_s is None else reverberation.wind_effects(water.wind_m_s)
        self._surface = 0.0 if water.wind_m_s is None else 10.0 ** (-(SURFACE_LOSS_DB + SURFACE_LOSS_DB_S_M * water.wind_m_s) / 20.0)
        self._water_power = [self._volume(shape, floating.scattering_db, wind) for shape in self.profile.shapes]
        self._snow = self._snow_power(floating, wind)
        self._wake_share = np.exp(-self.range_m / (0.5 * WAKE_DEPTH_M)) * (self.range_m < WAKE_DEPTH_M)
        self._ground_args = scattering()
        self._re, self._im = np.zeros(BINS), np.zeros(BINS)
        self.lit = 0

    @property
    def kind(self) -> ViewKind:
        """Which view it is."""
        return self.profile.kind

    def _loss(self) -> FloatArray:
        r = np.maximum(self.range_m, reverberation.NEAREST_M)
        return np.asarray(10.0 ** (-(40.0 * np.log10(r) + 2.0 * self.attenuation_db_m * r) / 10.0), dtype=np.float64)

    def solid_angle(self, shape: Shape) -> float:
        """Return a beam's equivalent two-way solid angle [sr]. Source: Urick (1983): 5.78 / (k a)^2 of a piston; a thin one's is the product of its widths."""
        if shape.is_round:
            return 5.78 / (math.pi * shape.aperture_m / self.wavelength_m) ** 2
        along = 0.75 * equivalent_width_x(THIN_TAPER) * self.wavelength_m / shape.aperture_m
        return along * 0.5 * shape.across_rad * math.sqrt(math.pi / (0.3 * math.log(10.0)))

    def _volume(self, shape: Shape, scattering_db: float, wind: reverberation.Wind | None) -> FloatArray:
        """Return what the water scatters back (range_bin,), relative to the source level: Sv, and bubbles near the top where a beam looks."""
        depth = np.maximum(self.range_m * math.cos(shape.toward_rad), 0.05)
        there = np.full(BINS, 10.0 ** (scattering_db / 10.0))
        if wind is not None:
            there += 10.0 ** (wind.bubble_db / 10.0) * 0.5 ** (depth / wind.bubble_half_m)
        cell = self.range_m**2 * self.solid_angle(shape) * reverberation.pulse_cell_m(self.pulse_m)
        return np.asarray(self._loss() * there * cell, dtype=np.float64)

    def _snow_power(self, floating: Suspension, wind: reverberation.Wind | None) -> FloatArray:
        if wind is None:
            return np.zeros(BINS)
        tvg = tvg_db(self.range_m, self.absorption_db_m)
        return np.asarray(10.0 ** ((reverberation.snow_db(self.range_m, wind, floating) - tvg) / 10.0), dtype=np.float64)

    def column(self, keel: Keel, points: Points, posts: FloatArray, *, wake_db: float = -200.0) -> Float32Array:
        """Return the echo levels of one ping, (beam, range_bin) [dB re the source level at 1 m].

        `posts` (7, N) are those nearby that shade, as `scene.shadow` has them; `wake_db` is the volume scattering strength of a wake at the
        surface under the boat [dB re 1 m^-1].
        """
        levels = np.empty((len(self.profile.shapes), BINS), np.float32)
        self.lit = 0
        for i, shape in enumerate(self.profile.shapes):
            self._beam(shape, keel, points, posts)
            wake = 10.0 ** (wake_db / 10.0) * self._wake_share * self.range_m**2 * self.solid_angle(shape) * self.pulse_m * self._loss()
            mean = self._water_power[i] + self._snow + self._noise + wake
            row, column = int(self._rng.integers(reverberation.SPECKLE_ROWS)), int(self._rng.integers(reverberation.SPECKLE_COLUMNS))
            take = (row + np.arange(BINS)) % reverberation.SPECKLE_ROWS
            root = np.sqrt(mean)
            re = self._re + root * self._speckle[0][take, column]
            im = self._im + root * self._speckle[1][take, column]
            levels[i] = 10.0 * np.log10(re * re + im * im + SILENCE)
        return levels

    def _beam(self, shape: Shape, keel: Keel, points: Points, posts: FloatArray) -> None:
        self._re[:] = 0.0
        self._im[:] = 0.0
        origin = keel.origin_m
        east, north = math.sin(keel.heading_rad), math.cos(keel.heading_rad)
        survey, table = self._survey, _table(shape)
        side = 0 if shape.toward_rad == 0.0 else (1 if shape.toward_rad > 0.0 else -1)
        grid = (survey.west_m, survey.south_m, survey.step_m, survey.depth_m)
        lowest = np.empty(math.ceil(self.reach_m / kernels.HORIZON_M) if side else 0)
        if side:
            kernels.horizon(origin, east, north, float(side), self.reach_m, *grid, lowest)
        apertures = shape.aperture_m / self.wavelength_m
        beam = (
            shape.is_round, table, 1.0 / TABLE_STEP, apertures, math.sin(shape.toward_rad), math.cos(shape.toward_rad),
            max(shape.across_rad / 2.0, 1e-3), self._posts_in(shape, keel, posts), lowest,
        )  # fmt: skip
        wavenumber = 2.0 * math.pi / self.wavelength_m
        self.lit += kernels.add_points(
            points.x, points.y, points.z, points.amplitude, points.phase, origin, east, north, *beam, self.attenuation_db_m, wavenumber,
            self.bin_m, self._envelope, self._re, self._im,
        )  # fmt: skip
        depth = survey.depth_at(float(origin[0]), float(origin[1])) - float(origin[2])
        sine = min(GROUND_X / apertures, 0.75)
        widest, step = 1.25 * depth + 1.0, GROUND_STEP_M
        near = 0.0
        if shape.is_round:
            aside = along = min(widest * math.tan(math.asin(sine)), self.reach_m)
            step = next(step for deep, step in ROUND_STEPS_M if depth < deep)
        else:
            near, aside = self._lit_m(shape, depth, widest)
            along = sine * math.hypot(aside, widest)
        kind = int(survey.kind[tuple(self._node(origin))])
        again = 0.0 if side else self._surface * 10.0 ** ((REFLECTION_DB[GROUNDS[kind]] - STRAIGHT_LOSS_DB) / 20.0)
        self.lit += kernels.add_ground(
            step, sine, near, aside, along, side, origin, east, north, *beam, self._seed, *grid, survey.kind, *self._ground_args, again,
            self.attenuation_db_m, wavenumber, self.bin_m, self._envelope, self._re, self._im,
        )  # fmt: skip

    def _lit_m(self, shape: Shape, depth_m: float, widest_m: float) -> tuple[float, float]:
        """Return from where to where, to the side, a thin beam lights ground [m] that is about so deep, and nowhere deeper than `widest_m`."""
        toward, half = abs(shape.toward_rad), 1.1 * shape.across_rad
        far = widest_m * math.tan(toward + half) if toward + half < 1.45 else math.inf
        # A broad beam hears what is right under the boat, too, at its edge.
        near = 0.5 * depth_m * math.tan(toward - half) if toward > half and shape.across_rad < NARROW_RAD else 0.0
        return near, min(far, self.reach_m)

    def _node(self, origin: FloatArray) -> tuple[int, int]:
        rows, columns = self._survey.kind.shape
        row = round((float(origin[1]) - self._survey.south_m) / self._survey.step_m)
        column = round((float(origin[0]) - self._survey.west_m) / self._survey.step_m)
        return min(max(row, 0), rows - 1), min(max(column, 0), columns - 1)

    def _posts_in(self, shape: Shape, keel: Keel, posts: FloatArray) -> FloatArray:
        """Return the posts that stand in or by a thin beam, their places counted from the transducer; a round beam looks past them."""
        if shape.is_round or not posts.shape[1]:
            return np.zeros((7, 0))
        dx, dy = posts[0] - keel.origin_m[0], posts[1] - keel.origin_m[1]
        along = dx * math.sin(keel.heading_rad) + dy * math.cos(keel.heading_rad)
        away = np.hypot(dx, dy)
        keep = (np.abs(along) < posts[2] + 0.05 * away + 0.2) & (away < self.reach_m + posts[2])
        found = posts[:, keep].copy()
        found[0], found[1] = dx[keep], dy[keep]
        return np.ascontiguousarray(found)
