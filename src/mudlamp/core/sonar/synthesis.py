"""Ping synthesis: from scatterers, bottom and water to echo levels."""

import math
from dataclasses import dataclass

import numpy as np

from mudlamp.core.arrays import Float32Array, FloatArray
from mudlamp.core.ping import Ping, Pose, SonarSetup
from mudlamp.core.scene.bottom import Bottom
from mudlamp.core.sonar import _kernels, pattern, reverberation
from mudlamp.core.sonar.scatterers import NOBODY, Scatterers
from mudlamp.core.sonar.transducer import Acquisition, Axes, Profile, axes, farthest_m, range_cells_m
from mudlamp.core.water.clarity import suspension
from mudlamp.core.water.sound import absorption_db_per_m, sound_speed_m_s

SILENCE_DB = -300.0
BOTTOM_STEP_M = 0.18
BOTTOM_COARSE_FROM_M = 12.0
ACROSS_LIMIT_DB = 30.0
# Ground farther off the plane would add under 2 % to the bottom's echo at nine tenths more work.
BOTTOM_ACROSS_LIMIT_DB = 11.0
_FLOOR = 10.0 ** (pattern.ELEMENT_FLOOR_DB / 10.0)


@dataclass(frozen=True, slots=True, kw_only=True)
class WaterBody:
    """The water a ping travels through; `wind_m_s` None means no surface at all."""

    temperature_degc: float
    secchi_m: float
    wind_m_s: float | None
    noise: bool


@dataclass(frozen=True, slots=True, kw_only=True)
class CellPower:
    """The expected power of objects and of all else in the objects' own cells, (N,) each; levels relative to the source level."""

    own: FloatArray
    other: FloatArray

    def over_db(self) -> FloatArray:
        """Return each object's level over the mean of all else in its cell [dB]."""
        return 10.0 * np.log10(np.maximum(self.own, 1e-40) / np.maximum(self.other, 1e-40))


class Synthesizer:
    """Makes pings for one transducer in one water body, at one acquisition.

    A change of acquisition or water needs a new one. `rng` gives reverberation and noise their own streams,
    so that adding a fish leaves both as they were.
    """

    def __init__(
        self,
        *,
        profile: Profile,
        acquisition: Acquisition,
        water: WaterBody,
        bottom: Bottom | None,
        depth_m: float,
        rng: np.random.Generator,
    ) -> None:
        self._profile = profile
        self._acquisition = acquisition
        self._water = water
        self._bottom = bottom
        true_speed = float(sound_speed_m_s(temperature_degc=water.temperature_degc))
        range_m = range_cells_m(farthest_m(reach_m=acquisition.reach_m, down_to_m=acquisition.down_to_m, depth_m=depth_m))
        self.setup = SonarSetup(
            fan=acquisition.fan,
            beam_angle_rad=profile.beam_angle_rad(),
            range_m=range_m,
            carrier_hz=profile.carrier_hz,
            pulse_s=profile.pulse_s,
            source_level_db=profile.source_level_db,
            absorption_db_m=float(absorption_db_per_m(carrier_hz=profile.carrier_hz, temperature_degc=water.temperature_degc)),
            sound_speed_m_s=acquisition.sound_speed_m_s,
            thickness_rad=profile.thickness_rad,
        )
        self._range_scale = acquisition.sound_speed_m_s / true_speed
        self._wavelength_m = true_speed / profile.carrier_hz
        self._wavenumber = 2.0 * math.pi / self._wavelength_m
        floating = suspension(secchi_m=water.secchi_m)
        self._floating = floating
        self._attenuation_db_m = self.setup.absorption_db_m + floating.attenuation_db_m
        self._pulse_m = max(true_speed * profile.pulse_s / 2.0, 2.0 * self.setup.bin_m)
        self._noise_power = (
            reverberation.noise_power(profile=profile, temperature_degc=water.temperature_degc, speed_m_s=true_speed)
            if water.noise
            else 0.0
        )
        self._drift_rng, self._noise_rng = rng.spawn(2)
        self._lay_out_beams()
        self._allocate()
        self._reverberation: Float32Array | None = None
        self._root: Float32Array | None = None
        self._last: tuple[float, Pose] | None = None

    def _lay_out_beams(self) -> None:
        profile = self._profile
        per_facet = len(self.setup.beam_angle_rad) // profile.facets
        facet_rad = (np.arange(profile.facets) - (profile.facets - 1) / 2.0) * profile.facet_rad
        self._facet_sin, self._facet_cos = np.sin(facet_rad), np.cos(facet_rad)
        self._aperture_wavelengths = profile.aperture_m / self._wavelength_m
        steering = np.sin(self.setup.beam_angle_rad.reshape(profile.facets, per_facet) - facet_rad[:, None])
        # A facet steers by delays: with the sound speed assumed wrong by a factor it looks elsewhere by that factor.
        self._beam_x = (steering / self._range_scale * self._aperture_wavelengths).astype(np.float32)
        self._facet_rad = facet_rad
        self._table = pattern.pattern_table()

    def _allocate(self) -> None:
        shape = (len(self.setup.range_m), len(self.setup.beam_angle_rad))
        self._re = np.zeros(shape, np.float32)
        self._im = np.zeros(shape, np.float32)
        self._power = np.zeros(shape, np.float32)
        self._levels = np.zeros(shape, np.float32)
        self._drift_re = np.zeros(shape, np.float32)
        self._drift_im = np.zeros(shape, np.float32)
        self._leak = np.zeros((shape[0], self._profile.facets))
        self._pattern = np.zeros(shape[1], np.float32)
        beam_steps = 1.1247 * self._wavelength_m / self._profile.aperture_m / self.setup.beam_step_rad
        # Rounded, so that a Reach dragged back and forth finds its table again.
        pulse_bins = round(self._pulse_m / self.setup.bin_m, 1)
        self._speckle = reverberation.speckle_table(pulse_bins=pulse_bins, beam_steps=round(beam_steps, 3), repeat=shape[1])

    @property
    def attenuation_db_m(self) -> float:
        """The true one-way attenuation [dB/m]: absorption and what floats in the water."""
        return self._attenuation_db_m

    def fan_axes(self, pose: Pose) -> Axes:
        """Return the fan's axes at a pose."""
        return axes(pose, self._acquisition.fan)

    def add_bottom(self, scatterers: Scatterers, pose: Pose) -> None:
        """Append the bottom's scatterers that the fan lights from `pose`: one a ground cell, coarser far away."""
        if self._bottom is None:
            return
        look = self.fan_axes(pose)
        farthest = float(self.setup.range_m[-1]) / self._range_scale + 0.2
        origin = np.array([pose.x_m, pose.y_m, pose.z_m])
        half = self._profile.thickness_rad / 2.0
        sin_across = math.sin(min(half * math.sqrt(BOTTOM_ACROSS_LIMIT_DB / 3.0), math.pi / 2))
        scatterers.first_ground = before = scatterers.count
        for step, near, far in ((BOTTOM_STEP_M, 0.0, BOTTOM_COARSE_FROM_M), (2 * BOTTOM_STEP_M, BOTTOM_COARSE_FROM_M, farthest)):
            if near >= farthest:
                continue
            scatterers.count = _kernels.bottom_cells(
                step, near, min(far, farthest), origin, look.center, look.edge, look.normal,
                math.cos(self._profile.fan_rad / 2.0 + 0.05), sin_across, farthest,
                *self._bottom.kernel_arguments(),
                scatterers.x, scatterers.y, scatterers.z, scatterers.amplitude, scatterers.phase, scatterers.count,
            )  # fmt: skip
        scatterers.owner[before : scatterers.count] = NOBODY

    def ping(self, scatterers: Scatterers, *, pose: Pose, number: int, time_s: float) -> Ping:
        """Return the ping that these scatterers (bottom included) give from `pose`; `echo_level_db` is a new array."""
        look = self.fan_axes(pose)
        self._re[:] = 0.0
        self._im[:] = 0.0
        self._leak[:] = 0.0
        half = self._profile.thickness_rad / 2.0
        _kernels.add_scatterers(
            scatterers.x, scatterers.y, scatterers.z, scatterers.amplitude, scatterers.phase, scatterers.count, scatterers.first_ground,
            np.array([pose.x_m, pose.y_m, pose.z_m]), look.center, look.edge, look.normal,
            self._facet_sin, self._facet_cos, self._beam_x, self._table, 1.0 / pattern.TABLE_STEP, self._aperture_wavelengths,
            self._profile.facet_rad / 2.0, self.setup.beam_step_rad, half, ACROSS_LIMIT_DB / 3.0, self._attenuation_db_m,
            self._wavenumber, self._range_scale, self.setup.bin_m, self._pulse_m * self._range_scale,
            self._noise_power * 300.0, _FLOOR, self._re, self._im, self._leak, self._pattern,
        )  # fmt: skip
        keep = self._drift_kept(pose, time_s)
        _kernels.finish_field(
            self._re, self._im, self._shade(pose), self._leak, self._noise_power, *self._speckle,
            self._window(self._noise_rng), self._window(self._drift_rng), keep, self._drift_re, self._drift_im, self._power,
        )  # fmt: skip
        silence = int(np.float32(10.0 ** (SILENCE_DB / 10.0)).view(np.int32))
        _kernels.levels_db(self._power.view(np.int32).ravel(), silence, self._levels.ravel())
        return Ping(number=number, time_s=time_s, pose=pose, setup=self.setup, echo_level_db=np.ascontiguousarray(self._levels.T))

    def cell_power(self, scatterers: Scatterers, *, pose: Pose, position_m: FloatArray, owner: FloatArray) -> CellPower:
        """Return expected own and other power in the cells where objects at (N, 3) `position_m` [m] with (N,) `owner` stand."""
        look = self.fan_axes(pose)
        origin = np.array([pose.x_m, pose.y_m, pose.z_m])
        range_m, angle_rad, _ = look.locate(position_m - origin)
        facet = np.clip(np.floor((angle_rad + self._profile.fan_rad / 2.0) / self._profile.facet_rad), 0, self._profile.facets - 1).astype(
            np.int64
        )
        cell_bin = range_m * self._range_scale / self.setup.bin_m - 0.5
        own, other = np.zeros(len(range_m)), np.zeros(len(range_m))
        _kernels.power_at_cells(
            scatterers.x, scatterers.y, scatterers.z, scatterers.amplitude, scatterers.owner, scatterers.count,
            origin, look.center, look.edge, look.normal, cell_bin, np.sin(angle_rad - self._facet_rad[facet]), facet, owner,
            self._facet_sin, self._facet_cos, self._table, 1.0 / pattern.TABLE_STEP, self._aperture_wavelengths,
            self._profile.thickness_rad / 2.0, self._attenuation_db_m, self._range_scale, self.setup.bin_m, self._pulse_m * self._range_scale,
            own, other,
        )  # fmt: skip
        rows = np.clip(np.rint(cell_bin), 0, len(self.setup.range_m) - 1).astype(np.int64)
        beams = np.clip(
            np.rint((angle_rad - self.setup.beam_angle_rad[0]) / self.setup.beam_step_rad), 0, len(self.setup.beam_angle_rad) - 1
        ).astype(np.int64)
        spread = self._mean_reverberation(pose)[rows, beams] + self._leak[rows, facet] + self._noise_power
        return CellPower(own=own, other=other + spread)

    def _mean_reverberation(self, pose: Pose) -> Float32Array:
        """Return the mean reverberation, worked out once: pitch and roll of a few degrees leave it as it is."""
        if self._reverberation is None:
            self._reverberation = reverberation.mean_power(
                profile=self._profile,
                range_m=self.setup.range_m / self._range_scale,
                directions=self.fan_axes(pose).directions(self.setup.beam_angle_rad),
                depth_m=pose.z_m,
                bottom_m=math.inf if self._bottom is None else self._bottom.depth_m + 0.4,
                pulse_m=self._pulse_m,
                wavelength_m=self._wavelength_m,
                attenuation_db_m=self._attenuation_db_m,
                suspension=self._floating,
                wind=None if self._water.wind_m_s is None else reverberation.wind_effects(self._water.wind_m_s),
            )
        return self._reverberation

    def _shade(self, pose: Pose) -> Float32Array:
        """Return the root of the mean reverberation, worked out once."""
        if self._root is None:
            self._root = np.sqrt(self._mean_reverberation(pose))
        return self._root

    def _drift_kept(self, pose: Pose, time_s: float) -> float:
        """Return how much of the last ping's reverberation field is still there, 0 to 1, by the boat's move and the time."""
        last, self._last = self._last, (time_s, pose)
        if last is None:
            return 0.0
        moved = math.dist((pose.x_m, pose.y_m, pose.z_m), (last[1].x_m, last[1].y_m, last[1].z_m))
        return math.exp(-((moved / reverberation.DRIFT_LENGTH_M) ** 2) - (time_s - last[0]) / reverberation.DRIFT_TIME_S)

    @staticmethod
    def _window(rng: np.random.Generator) -> tuple[int, int]:
        return int(rng.integers(reverberation.SPECKLE_ROWS)), int(rng.integers(reverberation.SPECKLE_COLUMNS))
