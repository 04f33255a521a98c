"""Detection: echoes that stand out from their surround, as places in the fan's plane on the ground."""

import math
from dataclasses import dataclass

import numpy as np

from mudlamp.core.arrays import Float32Array, FloatArray, IntArray
from mudlamp.core.ping import Ping, SonarSetup
from mudlamp.core.plane import GroundPlane
from mudlamp.core.receiver.law import tvg_db
from mudlamp.core.tracking import _kernels_echoes
from mudlamp.core.tracking.bottom_line import BottomLine

# The running mean is worth three looks; its cells correlate along range and beams: the rate below is of one independent look, and
# the real one, measured on correlated noise, is far lower (tests/core/test_tracking.py).
KEEP = 0.5
FALSE_ALARM = 3e-3
REFERENCE_CELLS = 24
GUARD_M = 0.30
REFERENCE_M = 0.45
BEAM_GUARD = 5
BEAM_REFERENCE = 14
# Nothing weaker than this is looked at [dB re 1 m^2, after TVG]: under the smallest jig.
FLOOR_DB = -68.0
MOST_RUNS = 12000
MOST_COMPONENTS = 3000
# Of all echoes so many are kept.
MOST_KEPT = 260
# Under a flat fan the bottom is a field of dots that stand out as fish do, but are as short as the pulse and no louder than the rest at their
# range. Ten times as thick counts as much as this much louder than what lies so near in range [m, dB] (found on drawn waters).
ALIKE_RANGE_M, LOUDER_DB = 1.0, 100.0
JOIN_GAP_M = 0.05
# Two fish part when one's peak lies outside an ellipse about the other's, of these half axes along the ground and upright: a fish lies
# level, and one's head and tail are nearer. Under a flat fan it is a circle.
PART_WIDE_M, PART_TALL_M, PART_FLAT_M = 0.35, 0.10, 0.30
# No peak counts that is so much weaker, in power, than the strongest of its component; of one component so many are taken.
PART_DEPTH, MOST_PARTS = 0.01, 64
# How many sums of a component the kernels keep.
SUMS = 8
# Half-power width of a Gaussian in standard deviations.
SIGMAS_A_WIDTH = 2.355


@dataclass(frozen=True, slots=True, kw_only=True)
class Detections:
    """N echoes that stand out, the likeliest to be something first: those that stand out most, under a flat fan the thickest along range.

    `place` (N, 2) is in the ground plane (ahead or east; depth or north) [m], `covariance` (N, 2, 2) [m^2] its error; `range_m` and
    `angle_rad` (N,) are as heard; `level_db` (N,) is the peak after TVG [dB re 1 m^2]; `length_m` (N,) is the extent with beam smear
    and pulse removed in quadrature, `extent_m` (N, 2) the same along the plane's two axes; `spread_m` (N, 2) are the standard deviations
    along range and across the beams; `cells` (N,) is how many cells stood out; `fullness_db` (N,) how their mean lies under the peak; `contrast_db` (N, 2) is how the peak stands over the mean
    of its surrounds, and over the loudest of them.
    """

    place: FloatArray
    covariance: FloatArray
    range_m: FloatArray
    angle_rad: FloatArray
    level_db: FloatArray
    length_m: FloatArray
    extent_m: FloatArray
    spread_m: FloatArray
    cells: FloatArray
    fullness_db: FloatArray
    contrast_db: FloatArray

    def __len__(self) -> int:
        return len(self.range_m)

    def measured(self, chosen: IntArray, miss: FloatArray) -> FloatArray:
        """Return what tracks average over their echoes (N, 12), in the order of `track.MEANS`: of the chosen ones, with how far each missed."""
        level = self.level_db[chosen]
        return np.column_stack(
            (
                level,
                level**2,
                self.length_m[chosen],
                self.extent_m[chosen],
                self.spread_m[chosen],
                np.log10(self.cells[chosen]),
                self.fullness_db[chosen],
                self.contrast_db[chosen],
                miss,
            )
        )


def cfar_multiplier(reference_cells: int, false_alarm: float) -> float:
    """Return the cell-averaging multiplier on the mean of N independent exponential cells, N (Pfa^(-1/N) - 1).

    Source: closed form of CA-CFAR. Check values: tests/reference/statistics.toml.
    """
    return reference_cells * (false_alarm ** (-1.0 / reference_cells) - 1.0)


# The mean is one of amplitudes, which a loud neighbor in the surround spoils less than one of power: in a school each fish is one. Of
# noise alone (Rayleigh's amplitudes) it is worth pi / 4 of the mean power.
MULTIPLIER = math.sqrt(cfar_multiplier(REFERENCE_CELLS, FALSE_ALARM) * 4.0 / math.pi)


class Detector:
    """Finds detections in pings of one sonar set-up, on a short running mean of power."""

    def __init__(self) -> None:
        self._sonar: SonarSetup | None = None
        self.bottom = BottomLine()

    def _start(self, sonar: SonarSetup) -> None:
        shape = (len(sonar.beam_angle_rad), len(sonar.range_m))
        self._sonar = sonar
        self._mean = np.zeros(shape, np.float32)
        self._first = True
        self._amplitude = np.zeros(shape, np.float32)
        self._hit = np.zeros(shape, np.bool_)
        self._prefix = np.zeros(shape[1] + 1)
        self._beam_prefix = np.zeros((shape[0] + 1, shape[1]), np.float32)
        self._aside = np.zeros(shape[1], np.float32)
        self._scratch = np.zeros(shape[1], np.float32)
        self._runs = tuple(np.zeros(MOST_RUNS, np.int32) for _ in range(4))
        self._after = np.zeros(MOST_RUNS, np.int32)
        self._table = np.zeros((MOST_COMPONENTS, SUMS))
        self._parts = np.zeros((MOST_COMPONENTS, SUMS))
        self._tvg: Float32Array = tvg_db(sonar.range_m, sonar.absorption_db_m).astype(np.float32)

    def detect(self, ping: Ping, plane: GroundPlane | None = None) -> Detections:
        """Return the detections of a ping, in its ground plane (the boat's way counted in it, where there are more pings)."""
        if self._sonar is not ping.setup:
            self._start(ping.setup)
        _kernels_echoes.blend_power(
            ping.echo_level_db, self._tvg, 0.0 if self._first else KEEP, self._scratch.view(np.int32), self._scratch, self._mean
        )
        self._first = False
        return self._find(ping, plane or GroundPlane.of(ping))

    @property
    def power(self) -> Float32Array:
        """The running mean of power after TVG (beam, range_bin)."""
        return self._mean

    def _find(self, ping: Ping, plane: GroundPlane) -> Detections:
        sonar, flat = ping.setup, plane.plane.is_flat
        last_bin = self.bottom.last_bins(ping, plane, self._mean)
        guard, reference = max(2, round(GUARD_M / sonar.bin_m)), max(6, round(REFERENCE_M / sonar.bin_m))
        floor = 10.0 ** (FLOOR_DB / 20.0) / MULTIPLIER
        np.sqrt(self._mean, out=self._amplitude)
        _kernels_echoes.threshold(
            self._amplitude,
            guard,
            reference,
            BEAM_GUARD,
            BEAM_REFERENCE,
            MULTIPLIER,
            floor,
            last_bin,
            self._prefix,
            self._beam_prefix,
            self._aside,
            self._hit,
        )
        count, runs = _kernels_echoes.components(self._hit, self._mean, max(1, round(JOIN_GAP_M / sonar.bin_m)), *self._runs, self._table)
        count = _kernels_echoes.split_components(
            self._mean,
            runs,
            *self._runs,
            self._after,
            count,
            self._table,
            sonar.range_m,
            sonar.beam_step_rad,
            0.0 if flat else plane.plane.tilt_rad - float(sonar.beam_angle_rad[0]),
            PART_FLAT_M if flat else PART_WIDE_M,
            PART_FLAT_M if flat else PART_TALL_M,
            PART_DEPTH,
            MOST_PARTS,
            self._parts,
        )
        rows = self._parts[:count]
        rows = rows[rows[:, 5] >= 3]
        contrast = np.empty((len(rows), 2))
        _kernels_echoes.contrasts(
            self._mean,
            rows[:, 2] / rows[:, 0],
            rows[:, 1] / rows[:, 0],
            rows[:, 6],
            guard,
            reference,
            BEAM_GUARD,
            BEAM_REFERENCE,
            contrast,
        )
        if flat:
            kept = np.argsort(-_unlike_dots(rows, sonar.bin_m), kind="stable")[:MOST_KEPT]
        else:
            kept = np.argsort(-contrast[:, 0], kind="stable")[:MOST_KEPT]
        return _detections(plane, sonar, rows[kept], contrast[kept])


def _unlike_dots(rows: FloatArray, bin_m: float) -> FloatArray:
    """Return how unlike the dots of a bottom components' sums (N, SUMS) are (N,), under a flat fan: thicker, and louder than others at their range."""
    thick_m = np.sqrt(_spread_bins(rows)) * bin_m
    at_m, level_db = rows[:, 1] / rows[:, 0] * bin_m, 10.0 * np.log10(np.maximum(rows[:, 6], 1e-30))
    order = np.argsort(at_m)
    # The usual level about every so many meters; each mark lies between two.
    grid_m = np.arange(0.0, at_m.max(initial=0.0) + 2.0 * ALIKE_RANGE_M, ALIKE_RANGE_M)
    first, end = (np.searchsorted(at_m[order], grid_m + off) for off in (-ALIKE_RANGE_M, ALIKE_RANGE_M))
    about_db = [float(np.median(level_db[order[a:b]])) if b > a else 0.0 for a, b in zip(first, end, strict=True)]
    usual_db = np.interp(at_m, grid_m, about_db)
    found: FloatArray = np.log10(thick_m + bin_m) + (level_db - usual_db) / LOUDER_DB
    return found


def _spread_bins(rows: FloatArray) -> FloatArray:
    """Return the variance of components' sums (N, SUMS) along range (N,) [bins^2]."""
    power, bin_sum, _, bin2 = rows[:, :4].T
    spread: FloatArray = np.maximum(bin2 / power - (bin_sum / power) ** 2, 0.0)
    return spread


def _detections(plane: GroundPlane, sonar: SonarSetup, rows: FloatArray, contrast_db: FloatArray) -> Detections:
    """Return the detections of components' sums (N, SUMS): power, its moments over bin and beam, cells, peak, and how it leans."""
    power, bin_sum, beam_sum, _, beam2, cells, peak, lean = rows.T
    at_bin, at_beam = bin_sum / power, beam_sum / power
    range_m = float(sonar.range_m[0]) + at_bin * sonar.bin_m
    angle = float(sonar.beam_angle_rad[0]) + at_beam * sonar.beam_step_rad
    ahead, down = plane.directions(angle)
    # Centroid errors: a good part of a cell along range, half a degree across the beams; wider for extended echoes.
    spread_r = _spread_bins(rows) * sonar.bin_m**2
    spread_a = np.maximum(beam2 / power - at_beam**2, 0.0) * (sonar.beam_step_rad * range_m) ** 2
    var_r, var_a = 0.02**2 + 0.15 * spread_r, (0.005 * range_m) ** 2 + 0.15 * spread_a
    mixed = (var_r - var_a) * ahead * down
    along, across = _true_variances(sonar, range_m, spread_r, spread_a)
    covariance = np.stack((var_r * ahead**2 + var_a * down**2, mixed, mixed, var_r * down**2 + var_a * ahead**2), axis=1)
    return Detections(
        place=np.stack((plane.origin[0] + range_m * ahead, plane.origin[1] + range_m * down), axis=1),
        covariance=covariance.reshape(-1, 2, 2),
        range_m=range_m,
        angle_rad=angle,
        level_db=10.0 * np.log10(np.maximum(peak, 1e-30)),
        length_m=np.sqrt(12.0 * (along + across)),
        extent_m=_extents(
            plane, sonar, angle, along, across, (lean / power - at_bin * at_beam) * sonar.bin_m * sonar.beam_step_rad * range_m
        ),
        spread_m=np.sqrt(np.stack((spread_r, spread_a), axis=1)),
        cells=cells,
        fullness_db=10.0 * np.log10(np.maximum(power / np.maximum(cells * peak, 1e-30), 1e-30)),
        contrast_db=contrast_db,
    )


def _true_variances(sonar: SonarSetup, range_m: FloatArray, spread_r: FloatArray, spread_a: FloatArray) -> tuple[FloatArray, FloatArray]:
    """Return power-weighted variances [m^2] along range and across the beams with pulse and beam smear removed.

    A line of even strength has a variance of a twelfth of its length squared.
    """
    pulse_m = max(sonar.sound_speed_m_s * sonar.pulse_s / 2.0, 2.0 * sonar.bin_m)
    along = np.maximum(spread_r - (pulse_m / SIGMAS_A_WIDTH) ** 2, 0.0)
    across = np.maximum(spread_a - (range_m * sonar.beam_width_rad / SIGMAS_A_WIDTH) ** 2, 0.0)
    return along, across


def _extents(
    plane: GroundPlane, sonar: SonarSetup, angle_rad: FloatArray, along: FloatArray, across: FloatArray, lean: FloatArray
) -> FloatArray:
    """Return how long echoes are along the plane's two axes (N, 2) [m], of their variances along range and across the beams and the mixed one."""
    half = 0.5 * sonar.beam_step_rad
    toward = np.stack(plane.directions(angle_rad), axis=1)
    sideways = np.stack(plane.directions(angle_rad + half), axis=1) - np.stack(plane.directions(angle_rad - half), axis=1)
    sideways /= sonar.beam_step_rad
    most = np.sqrt(along * across)
    lean = np.clip(lean, -most, most)
    variance = along[:, None] * toward**2 + across[:, None] * sideways**2 + 2.0 * lean[:, None] * toward * sideways
    return np.sqrt(12.0 * np.maximum(variance, 0.0))
