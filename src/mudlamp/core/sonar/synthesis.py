"""Ping synthesis: from scatterers, bottom and water to echo levels."""

import math
from dataclasses import dataclass, replace

import numpy as np

from mudlamp.core.arrays import Float32Array, FloatArray
from mudlamp.core.ping import Fan, Ping, Pose, SonarSetup
from mudlamp.core.scene.bottom import FACET_SLOPE_RAD, GroundGrid
from mudlamp.core.sonar import (
    _kernels_bounces,
    _kernels_echoes,
    _kernels_field,
    _kernels_ground,
    _kernels_water,
    interference,
    pattern,
    reverberation,
)
from mudlamp.core.sonar.interference import Disturbance
from mudlamp.core.sonar.scatterers import NOBODY, Scatterers
from mudlamp.core.sonar.transducer import Acquisition, Axes, Profile, axes, range_cells_m
from mudlamp.core.water.clarity import suspension
from mudlamp.core.water.sound import absorption_db_per_m, sound_speed_m_s
from mudlamp.core.water.thermocline import Thermocline

# What no sound at all is drawn as: -300 dB.
SILENCE = 1e-30
# Steps of the ground [m] and from which distance on [m] each holds; a flat fan lights more of it. Each step's echo is a random draw
# of its own, so that few in a cell give true speckle too. Over shallow ground the mirror spot under the boat is small: finer there.
BOTTOM_STEPS_M = {
    Fan.AHEAD: ((0.0, 0.21), (12.0, 0.50)),
    Fan.BELOW: ((0.0, 0.21), (12.0, 0.50)),
    Fan.FLAT: ((0.0, 0.21), (7.0, 0.42)),
}
SHALLOW_M = 4.0
SHALLOW_STEPS_M = ((0.0, 0.15), (4.0, 0.21), (12.0, 0.50))
ACROSS_LIMIT_DB = 30.0
# Ground farther off the plane would add under 2 % to the bottom's echo at nine tenths more work.
BOTTOM_ACROSS_LIMIT_DB = 11.0
# What a bounce off the surface loses: 1 dB when calm, 1.5 dB more for every m/s of wind (invented, monotone).
SURFACE_LOSS_DB = 1.0
SURFACE_LOSS_DB_S_M = 1.5
# What is sent upward, out of a fan whose upper edge is level.
UPWARD_DB = -12.0
# Echoes that bounce are followed down to this over the noise (weaker ones would not show), and to this under the source level.
BOUNCE_OVER_NOISE_DB = 6.0
BOUNCE_LEAST_DB = -122.0
# Of little cover every point bounces every way; of much, every third one way for all four.
COVER_STRIDE = 3
LITTLE_COVER = 700
# A surface under this wind keeps a third of its mirror image whole [m/s]; glints are so wide [m] and last so many pings (ours).
ROUGH_WIND_M_S = 1.5
ROUGH_PATCH_M = 0.7
ROUGH_PINGS = 2
# How often it is found anew what ground and posts take of the water's echo [s], by so many rays across the fan.
SHADED_EVERY_S = 0.25
WATER_RAYS = 15
# Later than this nothing comes back that would still be heard [m of range].
LATEST_M = 30.0


@dataclass(frozen=True, slots=True, kw_only=True)
class WaterBody:
    """The water a ping travels through; `wind_m_s` None means no surface at all."""

    temperature_degc: float
    secchi_m: float
    wind_m_s: float | None
    noise: bool
    thermocline: Thermocline | None = None


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
    so that adding a fish leaves both as they were. `interval_s` is the time between the sounder's pings: where it is too short,
    late echoes of the ping before fall into the next one; None waits as long as it takes. `lit` counts the scatterers of the last ping; `posts` (7, N), set before a
    ping, are those that stand in the fan, as `scene.shadow` has them; `thrust` is how hard the motor pushes just then.
    """

    def __init__(
        self,
        *,
        profile: Profile,
        acquisition: Acquisition,
        water: WaterBody,
        ground: GroundGrid | None,
        depth_m: float,
        rng: np.random.Generator,
        disturbance: Disturbance | None = None,
        interval_s: float | None = None,
    ) -> None:
        self._profile = profile
        self._acquisition = acquisition
        self._water = water
        self._ground = ground
        self._disturbance = disturbance or Disturbance()
        self._interval_s = interval_s
        self.lit = 0
        self.posts: FloatArray | None = None
        self.thrust = 0.0
        true_speed = float(sound_speed_m_s(temperature_degc=water.temperature_degc))
        range_m = range_cells_m(acquisition.window.farthest_m(depth_m))
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
            beam_width_rad=profile.beam_width_rad(true_speed / profile.carrier_hz),
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
        self._drift_rng, self._noise_rng, self._burst_rng = rng.spawn(3)
        self._lay_out_beams()
        self._allocate()
        self._open_water: tuple[Float32Array, Float32Array] | None = None
        self._shaded: Float32Array | None = None
        self._shaded_s = 0.0
        self._last: tuple[float, Pose] | None = None
        self._flickers = 0

    def _lay_out_beams(self) -> None:
        profile = self._profile
        beams = self.setup.beam_angle_rad.reshape(profile.facets, -1)
        nominal, self._facet_rad = profile.facet_rad_nominal(), profile.facet_rad_true()
        self._facet_sin, self._facet_cos = np.sin(self._facet_rad), np.cos(self._facet_rad)
        self._facet_gain = 10.0 ** (np.array(profile.facet_gain_db) / 20.0)
        self._aperture_wavelengths = profile.aperture_m / self._wavelength_m
        off = beams - nominal[:, None]
        # A facet steers by delays: with the sound speed assumed wrong by a factor it looks elsewhere by that factor.
        self._beam_x = (np.sin(off) / self._range_scale * self._aperture_wavelengths).astype(np.float32)
        self._beam_gain = (self._facet_gain[:, None] * profile.seam_gain(off)).ravel()
        self._table = pattern.pattern_table(profile.taper)

    def _allocate(self) -> None:
        shape = (len(self.setup.range_m), len(self.setup.beam_angle_rad))
        self._re = np.zeros(shape, np.float32)
        self._im = np.zeros(shape, np.float32)
        self._power = np.zeros(shape, np.float32)
        self._levels = np.zeros(shape, np.float32)
        self._drift_re = np.zeros(shape, np.float32)
        self._drift_im = np.zeros(shape, np.float32)
        self._leak = np.zeros((shape[0], self._profile.facets))
        self._share = np.zeros(shape, np.float32)
        self._root = np.zeros(shape, np.float32)
        self._pattern = np.zeros(shape[1], np.float32)
        beam_steps = self.setup.beam_width_rad / self.setup.beam_step_rad
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

    @property
    def farthest_m(self) -> float:
        """The true range [m] beyond which nothing is drawn."""
        return float(self.setup.range_m[-1]) / self._range_scale + 0.2

    @property
    def _late_m(self) -> float:
        """The range [m] whose echoes come back only when the next ping has left; infinite where the sounder waits."""
        if self._interval_s is None:
            return math.inf
        return self._interval_s * self._wavelength_m * self._profile.carrier_hz / 2.0

    def add_bottom(self, scatterers: Scatterers, pose: Pose) -> None:
        """Append the bottom's scatterers that the fan lights from `pose`: one a ground cell, coarser far away."""
        if self._ground is None:
            return
        look = self.fan_axes(pose)
        late = self._late_m
        farthest = self.farthest_m if late > LATEST_M else min(self.farthest_m + late, LATEST_M)
        origin = np.array([pose.x_m, pose.y_m, pose.z_m])
        half = self._profile.thickness_rad / 2.0
        sin_across = math.sin(min(half * math.sqrt(BOTTOM_ACROSS_LIMIT_DB / 3.0), math.pi / 2))
        scatterers.first_ground = before = scatterers.count
        fan = self._acquisition.fan
        is_shallow = fan is not Fan.FLAT and self._ground.bottom.here_m < SHALLOW_M
        bands = SHALLOW_STEPS_M if is_shallow else BOTTOM_STEPS_M[fan]
        ends = [*(near for near, _ in bands[1:]), math.inf]
        for (near, step), far in zip(bands, ends, strict=True):
            if near >= farthest:
                continue
            scatterers.count = _kernels_ground.bottom_cells(
                step, near, min(far, farthest), origin, look.center, look.edge, look.normal,
                math.cos(self._profile.fan_rad / 2.0 + 0.05), sin_across, farthest,
                *self._ground.about(pose.x_m, pose.y_m),
                scatterers.x, scatterers.y, scatterers.z, scatterers.amplitude, scatterers.phase, scatterers.count,
            )  # fmt: skip
        scatterers.owner[before : scatterers.count] = NOBODY

    def hide(self, scatterers: Scatterers, pose: Pose) -> None:
        """Silence what stands behind a rise of the ground; the bottom's own scatterers were left out there already."""
        if self._ground is None or not self._ground.is_rugged:
            return
        last = min(scatterers.first_ground, scatterers.count)
        _kernels_ground.hide(
            scatterers.x, scatterers.y, scatterers.z, scatterers.amplitude, 0, last, np.array([pose.x_m, pose.y_m, pose.z_m]),
            self.farthest_m, *self._ground.grid(pose.x_m, pose.y_m),
        )  # fmt: skip

    def add_bounces(self, scatterers: Scatterers, pose: Pose) -> None:
        """Append what comes back by way of bottom and surface, then draw late echoes where they seem to be."""
        if self._ground is None:
            return
        origin = np.array([pose.x_m, pose.y_m, pose.z_m])
        depth, aslant, straight = self._ground.below(pose.x_m, pose.y_m)
        wind = self._water.wind_m_s
        surface = 0.0 if wind is None else 10.0 ** (-(SURFACE_LOSS_DB + SURFACE_LOSS_DB_S_M * wind) / 20.0)
        noise_db = 10.0 * math.log10(max(self._noise_power, 1e-30))
        least = 10.0 ** (max(noise_db + BOUNCE_OVER_NOISE_DB, BOUNCE_LEAST_DB) / 20.0)
        upward, late = 10.0 ** (UPWARD_DB / 20.0), self._late_m
        farthest = self.farthest_m if late > LATEST_M else self.farthest_m + late
        ground, before = min(scatterers.first_ground, scatterers.count), scatterers.count
        field = (scatterers.x, scatterers.y, scatterers.z, scatterers.amplitude, scatterers.phase)
        cover = scatterers.first_object
        for first, last, stride in ((0, cover, 1 if cover < LITTLE_COVER else COVER_STRIDE), (cover, ground, 1)):
            scatterers.count = _kernels_bounces.bounces(
                *field, first, last, stride, origin, depth, aslant, surface, upward, least, farthest, scatterers.count
            )
        by_surface = scatterers.count
        scatterers.count = _kernels_bounces.second_echoes(
            *field, ground, before, origin, depth, aslant * surface, straight * surface, FACET_SLOPE_RAD, least, farthest, scatterers.count
        )
        self._flickers += 1
        coherent = math.exp(-(((wind or 0.0) / ROUGH_WIND_M_S) ** 2))
        _kernels_bounces.flicker(
            *field, by_surface, scatterers.count, coherent, ROUGH_PATCH_M, self._flickers, self._flickers // ROUGH_PINGS
        )
        scatterers.owner[before : scatterers.count] = NOBODY
        if late <= LATEST_M:
            _kernels_bounces.fold_late(*field, scatterers.count, origin, late, self.farthest_m, self._attenuation_db_m, self._wavenumber)

    def ping(self, scatterers: Scatterers, *, pose: Pose, number: int, time_s: float, told: Pose | None = None) -> Ping:
        """Return the ping that these scatterers (bottom and bounces included) give; `echo_level_db` is a new array.

        `pose` is where the fan really looks; the ping carries `told`, what the sounder knows of it.
        """
        look = self.fan_axes(pose)
        self._leak[:] = 0.0
        half = self._profile.thickness_rad / 2.0
        lost = float(self._burst_rng.random()) < self._disturbance.dropout_chance
        self.lit = _kernels_echoes.add_scatterers(
            scatterers.x, scatterers.y, scatterers.z, scatterers.amplitude, scatterers.phase, 0 if lost else scatterers.count,
            scatterers.first_object, scatterers.first_ground, np.array([pose.x_m, pose.y_m, pose.z_m]), look.center, look.edge, look.normal,
            self._facet_sin, self._facet_cos, self._facet_gain, self._profile.seam_dip_db * math.log(10.0) / 20.0,
            math.cos(self._profile.fan_rad / 2.0), self._beam_x, self._table, 1.0 / pattern.TABLE_STEP, self._aperture_wavelengths,
            self._profile.facet_rad / 2.0, self.setup.beam_step_rad, half, ACROSS_LIMIT_DB / 3.0, self._attenuation_db_m,
            self._wavenumber, self._range_scale, self.setup.bin_m, self._pulse_m * self._range_scale,
            self._noise_power * 300.0, 10.0 ** (self._profile.taper.floor_db / 10.0), self._re, self._im, self._leak, self._pattern,
        )  # fmt: skip
        weaker = 10.0 ** (self._disturbance.source_db / 20.0)
        if weaker < 1.0:
            self._re *= np.float32(weaker)
            self._im *= np.float32(weaker)
        self._add_bursts()
        noise = interference.noise_profile(
            replace(self._disturbance, thrust=max(self.thrust, self._disturbance.thrust)), quiet_power=self._noise_power, range_m=self.setup.range_m,
            speed_m_s=self.setup.sound_speed_m_s, turn_rad=float(self._burst_rng.uniform(0.0, 2.0 * math.pi)),
        )  # fmt: skip
        keep = self._drift_kept(pose, time_s)
        haze = np.zeros_like(self._power) if lost else self._haze(pose, time_s)
        _kernels_field.finish_field(
            self._re, self._im, haze, self._leak, noise, *self._speckle,
            self._window(self._noise_rng), self._window(self._drift_rng), keep, self._drift_re, self._drift_im, SILENCE, self._power,
        )  # fmt: skip
        levels = np.log(self._power, out=self._levels)
        np.multiply(levels, np.float32(10.0 / math.log(10.0)), out=levels)
        return Ping(number=number, time_s=time_s, pose=told or pose, setup=self.setup, echo_level_db=np.ascontiguousarray(levels.T))

    def _add_bursts(self) -> None:
        other, console = self._disturbance.other, self._disturbance.console
        if other is not None:
            beams = interference.other_beams(other, self.setup.beam_angle_rad)
            self._add_burst(
                other.ping_hz, other.level_db, interference.OTHER_TAIL_DB, interference.OTHER_PULSE_S, interference.OTHER_TAIL_S, beams
            )
        if console is not None:
            level = console.in_band_db(carrier_hz=self._profile.carrier_hz, band_hz=self._profile.band_hz)
            alike = np.ones(len(self.setup.beam_angle_rad), np.float32)
            self._add_burst(
                console.ping_hz, level, interference.CONSOLE_TAIL_DB, interference.CONSOLE_PULSE_S, interference.CONSOLE_TAIL_S, alike
            )

    def _add_burst(self, ping_hz: float, level_db: float, tail_db: float, pulse_s: float, tail_s: float, beams: Float32Array) -> None:
        window_s = 2.0 * float(self.setup.range_m[-1]) / self.setup.sound_speed_m_s
        bins_a_second = self.setup.sound_speed_m_s / 2.0 / self.setup.bin_m
        peak = 10.0 ** (level_db / 20.0)
        for start in interference.burst_starts(ping_hz, window_s=window_s, rng=self._burst_rng):
            _kernels_field.add_burst(
                self._re, self._im, *self._speckle, *self._window(self._burst_rng), round(start * bins_a_second),
                max(1, round(pulse_s * bins_a_second)), peak, peak * 10.0 ** (tail_db / 20.0), tail_s / 3.0 * bins_a_second, beams,
            )  # fmt: skip

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
        _kernels_echoes.power_at_cells(
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
        noise = self._noise_power * 10.0 ** (self._disturbance.noise_db / 10.0)
        spread = self._mean_reverberation(pose, self._shaded_s)[rows, beams] + self._leak[rows, facet] + noise
        return CellPower(own=own, other=other + spread)

    def _mean_reverberation(self, pose: Pose, time_s: float) -> Float32Array:
        """Return the mean reverberation: what water and top give (pitch and roll of a few degrees leave that as it is), less what ground and

        posts take of the water's, which is found anew now and then.
        """
        if self._open_water is None:
            look = self.fan_axes(pose)
            sounding = reverberation.Sounding(
                profile=self._profile,
                range_m=self.setup.range_m / self._range_scale,
                directions=look.directions(self.setup.beam_angle_rad),
                depth_m=pose.z_m,
                pulse_m=self._pulse_m,
                wavelength_m=self._wavelength_m,
                absorption_db_m=self.setup.absorption_db_m,
                suspension=self._floating,
                wind=None if self._water.wind_m_s is None else reverberation.wind_effects(self._water.wind_m_s),
                normal=look.normal if self._acquisition.fan is Fan.FLAT else None,
                thermocline=self._water.thermocline,
            )
            heard = (self._beam_gain**2 * 10.0 ** (self._disturbance.source_db / 10.0)).astype(np.float32)
            self._open_water = (reverberation.volume_power(sounding) * heard, reverberation.top_power(sounding) * heard)
        if self._shaded is None or not 0.0 <= time_s - self._shaded_s < SHADED_EVERY_S:
            volume, top = self._open_water
            self._water_share(pose)
            self._shaded = volume * self._share + top
            self._root = np.sqrt(self._shaded)
            self._shaded_s = time_s
        return self._shaded

    def _water_share(self, pose: Pose) -> None:
        """Work out what ground and posts leave of what the water scatters back (range_bin, beam)."""
        look, flat = self.fan_axes(pose), self._acquisition.fan is Fan.FLAT
        posts = self.posts if self.posts is not None else np.zeros((7, 0))
        rays = reverberation.across_samples(self._profile, WATER_RAYS if flat or posts.shape[1] else 1)
        grid = (0.0, 0.0, 1.0, np.zeros((2, 2))) if self._ground is None else self._ground.grid(pose.x_m, pose.y_m)
        _kernels_water.water_share(
            np.array([pose.x_m, pose.y_m, pose.z_m]), look.center, look.edge, look.normal, self.setup.beam_angle_rad,
            np.array([phi for phi, _ in rays]), np.array([share for _, share in rays]), flat, posts, self._ground is not None, *grid,
            self.setup.bin_m / self._range_scale, self._share,
        )  # fmt: skip

    def _haze(self, pose: Pose, time_s: float) -> Float32Array:
        """Return the root of the mean reverberation."""
        self._mean_reverberation(pose, time_s)
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
