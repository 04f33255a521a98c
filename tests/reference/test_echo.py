"""Whole pings of the simulated head against the sonar equation and beam theory."""

import math
from dataclasses import replace

import numpy as np
import pytest

from mudlamp.core.scene.bottom import LAMBERT_DB, Ground
from mudlamp.core.scene.model import PointTarget
from mudlamp.core.scene.world import first_acquisition
from mudlamp.core.sonar.pattern import equivalent_across_rad, equivalent_width_x, taylor_pattern
from mudlamp.core.sonar.reverberation import pulse_cell_m
from mudlamp.core.sonar.transducer import PROFILES
from mudlamp.formats.scene.file import load_scene
from mudlamp.heads.simulated import SimulatedHead
from tests.reference import load

PROFILE = PROFILES["test"]
VALUES = load("beams")


def lone(x_m=0.0, y_m=10.0, z_m=5.0, ts_db=-40.0, **acquisition):
    scene = load_scene("lone")
    scene = replace(scene, targets=(PointTarget(x_m=x_m, y_m=y_m, z_m=z_m, ts_db=ts_db),))
    head = SimulatedHead(scene, seed=1, acquisition=replace(first_acquisition(scene), **acquisition))
    return head, head.listen(0.0)


def place_on_cell(beam, bin_):
    """Return where a target must stand to be on the center of a beam and a range cell."""
    _, ping = lone()
    angle, range_m = ping.setup.beam_angle_rad[beam], ping.setup.range_m[bin_]
    direction = ping.pose.tilt_rad - angle
    return range_m, range_m * math.sin(direction), 0.4 + range_m * math.cos(direction)


@pytest.mark.parametrize(("beam", "bin_"), [(40, 46), (30, 120), (70, 300), (100, 500), (160, 640), (110, 698)])
def test_a_lone_target_stands_in_its_cell_at_the_level_of_the_sonar_equation(beam, bin_):
    range_m, y, z = place_on_cell(beam, bin_)
    head, ping = lone(y_m=y, z_m=z)
    # Without TVG the water's own scattering near the transducer is louder than a far target: look about it.
    near = slice(max(0, bin_ - 40), bin_ + 40)
    found = np.unravel_index(np.argmax(ping.echo_level_db[:, near]), ping.echo_level_db[:, near].shape)
    assert abs(found[0] - beam) <= 0.5
    assert abs(found[1] + near.start - bin_) <= 0.5
    attenuation = head._synthesizer.attenuation_db_m
    # EL - SL = TS - 40 log R - 2 alpha R on the beam's and the cell's center (closed form).
    assert ping.echo_level_db[beam, bin_] == pytest.approx(-40.0 - 40.0 * math.log10(range_m) - 2.0 * attenuation * range_m, abs=0.5)


def test_half_the_thickness_off_the_plane_costs_three_decibels():
    range_m, y, z = place_on_cell(70, 300)
    _, on = lone(y_m=y, z_m=z)
    half = PROFILE.thickness_rad / 2.0
    _, off = lone(x_m=range_m * math.sin(half), y_m=y * math.cos(half), z_m=0.4 + (z - 0.4) * math.cos(half))
    assert on.echo_level_db[70, 300] - off.echo_level_db[70, 300] == pytest.approx(3.0, abs=0.5)


def test_a_beam_of_a_ping_is_as_wide_as_its_facets_theory_says():
    # Taylor nbar 4, -30 dB: 1.1247 wavelength / aperture between the half-power points (a general library's window, evaluated).
    range_m, _, _ = place_on_cell(95, 400)
    _, ping = lone()
    middle = ping.pose.tilt_rad - ping.setup.beam_angle_rad[95]
    off = np.radians(np.linspace(-0.75, 0.75, 21))
    levels = []
    for turn in off:
        _, ping = lone(y_m=range_m * math.sin(middle + turn), z_m=0.4 + range_m * math.cos(middle + turn), ts_db=-5.0)
        levels.append(float(ping.echo_level_db[95, 400]))
    fine = np.linspace(off[0], off[-1], 20_001)
    inside = np.interp(fine, off, levels) >= max(levels) + 10.0 * math.log10(0.5)
    width = float(np.ptp(fine[inside]))
    assert width == pytest.approx(VALUES["taylor"]["width_x"] * (1482.36 / 900e3) / 0.1, rel=VALUES["taylor"]["width_tolerance"])


def test_the_first_side_lobe_of_a_ping_is_that_of_theory():
    # The target stands on a facet's middle: its row of beams samples the one-way receive pattern.
    _, y, z = place_on_cell(95, 400)
    # A strong one: its side lobes must stand far over what floats in the water.
    _, ping = lone(y_m=y, z_m=z, ts_db=-5.0)
    row = ping.echo_level_db[64:128, 400] - ping.echo_level_db[95, 400]
    x = np.abs(np.sin(ping.setup.beam_angle_rad[64:128]) - np.sin(ping.setup.beam_angle_rad[95])) * 0.1 / (1482.38 / 900e3)
    theory = 20.0 * np.log10(np.maximum(np.abs(taylor_pattern(x, PROFILE.taper)), 1e-4))
    lobe = theory > -36.0
    assert lobe.sum() >= 6
    np.testing.assert_allclose(row[lobe], theory[lobe], atol=0.5)


def test_a_wrong_sound_speed_stretches_range_and_bends_angles_about_the_facet():
    _, y, z = place_on_cell(80, 300)
    _, right = lone(y_m=y, z_m=z)
    _, wrong = lone(y_m=y, z_m=z, sound_speed_m_s=1482.38 * 1.03)
    a, r = np.unravel_index(np.argmax(wrong.echo_level_db), right.echo_level_db.shape)
    assert wrong.setup.range_m[r] == pytest.approx(right.setup.range_m[300] * 1.03, abs=0.05)
    true = right.setup.beam_angle_rad[80]
    assert math.sin(wrong.setup.beam_angle_rad[a]) == pytest.approx(1.03 * math.sin(true), abs=0.008)


def test_bottom_power_follows_lamberts_law_within_a_decibel():
    # S_b = 10 log mu + 20 log sin g (Lambert; mu of sand) over the cell R phi c tau / (2 cos g), through two-way loss and beam (Urick 1983).
    scene = load_scene("pear-tree")
    flat = replace(scene.bottom, relief_m=0.0, slope_north=0.0)
    bare = replace(
        scene, cover=(), fish=(), bait=(), angler=None, surface=False, noise=False, bottom=flat,
        transducer=replace(scene.transducer, profile="test"), boat=replace(scene.boat, pitch_rad=0.0),
    )  # fmt: skip
    total, heads = 0.0, 16
    for seed in range(heads):
        head = SimulatedHead(bare, seed=seed)
        total = total + np.mean([10.0 ** (head.listen(number * 8.0).echo_level_db.astype(float) / 10.0) for number in range(4)], axis=0)
    level, synthesizer = total / heads, head._synthesizer
    setup, depth = synthesizer.setup, flat.depth_m - 0.4
    for range_m in (8.0, 9.0, 10.0, 11.0):
        grazing = math.asin(depth / range_m)
        # The ground ahead at this range lies at `center`; all beams of its facet near it, a half meter of ranges about it.
        center = head.acquisition.tilt_rad - math.acos(depth / range_m)
        beams = np.abs(setup.beam_angle_rad - center) < math.radians(5.0)
        cells = np.abs(setup.range_m - range_m) < 0.25
        heard = level[np.ix_(beams, cells)].sum(axis=0).mean() * setup.beam_step_rad
        area = range_m * equivalent_across_rad(PROFILE.thickness_rad) * pulse_cell_m(synthesizer._pulse_m) / math.cos(grazing)
        # Lambert's law.
        strength = 10.0 ** (LAMBERT_DB[Ground.SAND] / 10.0) * math.sin(grazing) ** 2
        loss = 10.0 ** (-(40.0 * math.log10(range_m) + 2.0 * synthesizer.attenuation_db_m * range_m) / 10.0)
        facet = round(center / PROFILE.facet_rad) * PROFILE.facet_rad
        width = equivalent_width_x(PROFILE.taper) * synthesizer._wavelength_m / PROFILE.aperture_m / math.cos(center - facet)
        assert 10.0 * math.log10(heard / (strength * area * loss * width)) == pytest.approx(0.0, abs=1.0)
