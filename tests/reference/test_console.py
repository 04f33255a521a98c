"""The console's beams against theory: a lone target towed through the finished picture."""

import math
from collections.abc import Sequence

import numpy as np
import pytest
from scipy.optimize import brentq
from scipy.signal.windows import taylor
from scipy.special import j1

from mudlamp.core.arrays import FloatArray
from mudlamp.core.scene.survey import Survey
from mudlamp.core.searching.boat import Standing
from mudlamp.core.searching.points import points_of
from mudlamp.core.sonar.console import FAN, FAN_HZ, THIN_TAPER, VIEWS, ConsoleView, Keel, Points, ViewKind, two_way_width_rad
from mudlamp.core.sonar.synthesis import WaterBody
from mudlamp.core.water.sound import absorption_db_per_m

BARE = WaterBody(temperature_degc=14.0, secchi_m=20.0, wind_m_s=None, noise=False)
# So deep that its bottom is out of reach: the target is alone.
ABYSS = Survey(west_m=-200.0, south_m=-200.0, step_m=1.0, depth_m=np.full((401, 401), 300.0), kind=np.zeros((401, 401), dtype=np.int64))
NO_POSTS = np.zeros((7, 0))


def _view(kind: ViewKind, carrier_hz: float, reach_m: float) -> ConsoleView:
    return ConsoleView(VIEWS[kind], carrier_hz=carrier_hz, reach_m=reach_m, water=BARE, survey=ABYSS, seed=1, rng=np.random.default_rng(1))


def _target(x_m: float, y_m: float, z_m: float) -> Points:
    """Return a target of TS +20 dB: far over what floats in the water."""
    return Points(x=np.array([x_m]), y=np.array([y_m]), z=np.array([z_m]), amplitude=np.array([10.0]), phase=np.zeros(1))


def _towed(view: ConsoleView, along_m: FloatArray, place: tuple[float, float, float], beam: int = 0) -> FloatArray:
    """Return a beam's columns (ping, range_bin) [dB] as the boat idles north past a target at (x, 0, z)."""
    target = _target(*place)
    keels = [Keel(origin_m=np.array([0.0, at, 0.0]), heading_rad=0.0) for at in along_m]
    return np.array([view.column(keel, target, NO_POSTS)[beam] for keel in keels], dtype=np.float64)


def _width_m(peaks_db: FloatArray, along_m: FloatArray) -> float:
    """Return between which places a towed target is within 3 dB of its strongest [m]."""
    level = peaks_db - peaks_db.max()
    inside = np.flatnonzero(level >= -3.0103)
    first, last = int(inside[0]), int(inside[-1])
    left = np.interp(-3.0103, level[first - 1 : first + 1], along_m[first - 1 : first + 1])
    right = np.interp(3.0103, -level[last : last + 2], along_m[last : last + 2])
    return float(right - left)


def test_an_arch_is_the_hyperbola_of_a_passing_point() -> None:
    """Slant range over a straight pass is sqrt(depth^2 + along^2): plane geometry."""
    view = _view(ViewKind.SCROLLING, 200e3, 12.0)
    along = np.linspace(-2.0, 2.0, 81)
    columns = _towed(view, along, (0.0, 0.0, 8.0))
    shown = view.range_m[np.argmax(columns, axis=1)]
    np.testing.assert_allclose(shown, np.hypot(8.0, along), atol=view.bin_m)


@pytest.mark.parametrize("carrier_hz", VIEWS[ViewKind.SCROLLING].carriers_hz)
def test_a_round_beams_footprint_is_that_of_a_piston(carrier_hz: float) -> None:
    """Half power two-way where (2 J1(u) / u)^4 = 1/2, u = pi D sin(t) / wavelength. Source: Urick (1983), circular piston; root by SciPy."""
    view = _view(ViewKind.SCROLLING, carrier_hz, 20.0)
    u = brentq(lambda value: (2.0 * j1(value) / value) ** 4 - 0.5, 0.5, 2.0)
    diameter = view.profile.shapes[0].aperture_m
    half = math.asin(u * view.wavelength_m / (math.pi * diameter))
    along = np.linspace(-6.0, 6.0, 481)
    # Range and water take their part of the level too: laid back in, so that the beam alone is left.
    peaks = _towed(view, along, (0.0, 0.0, 10.0)).max(axis=1)
    r = np.hypot(10.0, along)
    assert _width_m(peaks + 40.0 * np.log10(r) + 2.0 * view.attenuation_db_m * r, along) == pytest.approx(
        2.0 * 10.0 * math.tan(half), rel=0.05
    )
    assert two_way_width_rad(view.profile.shapes[0], view.wavelength_m) == pytest.approx(2.0 * half, rel=0.01)


def _line_half_power_x() -> float:
    """Return where a sampled Taylor line array's two-way power is half, as x = length / wavelength times sine; by SciPy's window, summed."""
    n = 512
    weights = taylor(n, nbar=THIN_TAPER.nbar, sll=round(THIN_TAPER.side_lobe_db), norm=False)
    place = (np.arange(n) + 0.5) / n - 0.5

    def over_half(x: float) -> float:
        pattern = abs(np.sum(weights * np.exp(2j * math.pi * x * place))) / np.sum(weights)
        return float(pattern**4 - 0.5)

    return float(brentq(over_half, 0.05, 1.0))


@pytest.mark.parametrize(
    ("kind", "place"), [(ViewKind.DOWN, (0.0, 0.0, 9.0)), (ViewKind.SIDE, (-12.0, 0.0, 5.0)), (ViewKind.SIDE, (20.0, 0.0, 6.0))]
)
@pytest.mark.parametrize("step", [0, 1])
def test_a_thin_beam_resolves_along_the_keel_by_its_aperture(kind: ViewKind, place: tuple[float, float, float], step: int) -> None:
    """Half power two-way where a Taylor line's pattern to the fourth is 1/2. Source: Taylor (1955); window by SciPy, summed element by element."""
    view = _view(kind, VIEWS[kind].carriers_hz[step], 30.0)
    distance = math.hypot(place[0], place[2])
    beam = int(place[0] > 0.0) if kind is ViewKind.SIDE else 0
    along = np.linspace(-0.8, 0.8, 321)
    expected = 2.0 * distance * math.tan(math.asin(_line_half_power_x() * view.wavelength_m / view.profile.shapes[0].aperture_m))
    peaks = _towed(view, along, place, beam).max(axis=1)
    assert _width_m(peaks, along) == pytest.approx(expected, rel=0.05)


@pytest.mark.parametrize("kind", [ViewKind.DOWN, ViewKind.SCROLLING])
def test_a_higher_carrier_loses_what_the_water_takes(kind: ViewKind) -> None:
    """On the axis two carriers differ by 2 (alpha2 - alpha1) R and by what silt takes in proportion to the carrier. Source: Francois and Garrison (1982); Urick (1948)."""
    low, high = (_view(kind, hz, 30.0) for hz in VIEWS[kind].carriers_hz)
    for depth in (8.0, 25.0):
        peaks = [
            float(view.column(Keel(origin_m=np.zeros(3), heading_rad=0.0), _target(0.0, 0.0, depth), NO_POSTS).max())
            for view in (low, high)
        ]
        clear = [float(absorption_db_per_m(carrier_hz=view.carrier_hz, temperature_degc=14.0)) for view in (low, high)]
        silt = (low.attenuation_db_m - clear[0]) / low.carrier_hz
        expected = -2.0 * depth * (clear[1] - clear[0] + silt * (high.carrier_hz - low.carrier_hz))
        assert peaks[1] - peaks[0] == pytest.approx(expected, abs=0.05)


def test_a_lone_target_has_the_level_of_the_sonar_equation() -> None:
    """EL - SL = TS - 40 log R - 2 alpha R. Source: sonar equation (Urick 1983)."""
    view = _view(ViewKind.DOWN, 455e3, 20.0)
    depth = float(view.range_m[256])
    found = float(view.column(Keel(origin_m=np.zeros(3), heading_rad=0.0), _target(0.0, 0.0, depth), NO_POSTS).max())
    assert found == pytest.approx(20.0 - 40.0 * math.log10(depth) - 2.0 * depth * view.attenuation_db_m, abs=0.1)


def _level(bottom_m: float, kind: int = 1) -> Survey:
    shape = (161, 161)
    return Survey(west_m=-80.0, south_m=-80.0, step_m=1.0, depth_m=np.full(shape, bottom_m), kind=np.full(shape, kind, dtype=np.int64))


def _columns_over(
    survey: Survey, kind: ViewKind, along_m: Sequence[float], water: WaterBody = BARE, posts: FloatArray = NO_POSTS
) -> FloatArray:
    view = ConsoleView(
        VIEWS[kind], carrier_hz=VIEWS[kind].carriers_hz[0], reach_m=20.0, water=water, survey=survey, seed=3, rng=np.random.default_rng(2)
    )
    none = Points(x=np.zeros(0), y=np.zeros(0), z=np.zeros(0), amplitude=np.zeros(0), phase=np.zeros(0))
    return np.array(
        [view.column(Keel(origin_m=np.array([0.0, at, 0.3]), heading_rad=0.4), none, posts) for at in along_m], dtype=np.float64
    )


def test_the_side_picture_is_dark_until_the_bottom_and_speckles_after_it() -> None:
    """Nothing comes back before the bottom's slant range; after it the levels' power is exponential: 5.6 dB of spread. Source: Goodman (1985)."""
    columns = _columns_over(_level(5.0), ViewKind.SIDE, np.arange(0.0, 40.0, 0.7))
    range_m = (np.arange(columns.shape[2]) + 0.5) * 20.0 / columns.shape[2]
    before, after = columns[:, :, (range_m > 2.0) & (range_m < 4.4)], columns[:, :, (range_m > 9.0) & (range_m < 12.0)]
    assert before.mean() < after.mean() - 20.0
    # A little more than of a great many: a cell holds some ten pieces of ground.
    assert (after - after.mean(axis=0)).std() == pytest.approx(5.57, abs=0.8)


def test_a_bottom_comes_back_a_second_time_at_twice_its_depth() -> None:
    """Bottom, surface, bottom: the way is twice the way. Geometry."""
    windless = WaterBody(temperature_degc=14.0, secchi_m=20.0, wind_m_s=0.0, noise=False)
    mean = (10.0 ** (_columns_over(_level(5.0, kind=3), ViewKind.SCROLLING, np.arange(0.0, 45.0, 0.5), windless) / 10.0)).mean(axis=0)[0]
    range_m = (np.arange(len(mean)) + 0.5) * 20.0 / len(mean)
    second = range_m[(range_m > 7.0)][int(np.argmax(mean[range_m > 7.0]))]
    assert second == pytest.approx(2.0 * 4.7 + 0.3, abs=0.5)
    before = float(np.mean(mean[(range_m > 8.3) & (range_m < 9.0)]))
    assert float(np.mean(mean[(range_m > 9.4) & (range_m < 9.9)])) > 3.0 * before


def test_what_stands_up_casts_its_shadow_over_the_bottom_behind_it() -> None:
    """A wall of posts 2 m tall at 6 m hides the bottom from where the ray over its top comes down: similar triangles."""
    bearing = 0.4
    out = np.linspace(-1.5, 1.5, 31)
    x = 6.0 * math.cos(bearing) + out * math.sin(bearing)
    y = -6.0 * math.sin(bearing) + out * math.cos(bearing)
    posts = np.stack([x, y, np.full(31, 0.12), np.full(31, 3.0), np.full(31, 6.0), np.full(31, 0.01), np.zeros(31)])
    shaded = (10.0 ** (_columns_over(_level(5.0), ViewKind.SIDE, [0.0] * 3, posts=posts)[0, 1] / 10.0)).astype(np.float64)
    bare = 10.0 ** (_columns_over(_level(5.0), ViewKind.SIDE, [0.0] * 3)[0, 1] / 10.0)
    range_m = (np.arange(len(bare)) + 0.5) * 20.0 / len(bare)
    # The transducer 0.3 m under the surface sees over a top 3 m deep at 6 m: the bottom is hidden out to 6 x 4.7 / 2.7 = 10.4 m.
    hidden, free = (range_m > 8.2) & (range_m < 10.6), (range_m > 12.5) & (range_m < 16.0)
    assert 10.0 * math.log10(shaded[hidden].mean() / bare[hidden].mean()) < -15.0
    assert shaded[free].mean() == pytest.approx(bare[free].mean(), rel=0.05)


def test_a_fan_across_the_track_makes_points_where_things_are() -> None:
    """A level bottom 6 m down comes out level, and a lone target beside the track at its place: geometry, within a beam's width."""
    view = ConsoleView(FAN, carrier_hz=FAN_HZ, reach_m=18.0, water=BARE, survey=_level(6.3), seed=3, rng=np.random.default_rng(2))
    at = Standing(time_s=0.0, x_m=0.0, y_m=0.0, heading_rad=0.4, speed_m_s=1.9)
    x, y, z = at.transducer_m
    aside, down = 2.0, 3.0
    target = Points(
        x=np.array([x + aside * math.cos(0.4)]),
        y=np.array([y - aside * math.sin(0.4)]),
        z=np.array([z + down]),
        amplitude=np.array([0.03]),
        phase=np.zeros(1),
    )
    found = points_of(view.column(Keel(origin_m=np.array([x, y, z]), heading_rad=0.4), target, NO_POSTS), view, at)
    bottom, above = found[found[:, 4] == 0.0], found[found[:, 4] == 1.0]
    assert len(bottom) == len(FAN.shapes)
    inner = bottom[np.hypot(bottom[:, 0] - x, bottom[:, 1] - y) < 5.5]
    assert np.median(inner[:, 2]) == pytest.approx(6.3, abs=0.2)
    assert np.abs(inner[:, 2] - 6.3).max() < 0.9
    off = np.linalg.norm(above[:, :3] - [target.x[0], target.y[0], target.z[0]], axis=1)
    assert off.min() < 0.25
    assert off.max() < 0.6
