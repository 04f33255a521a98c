import math
from dataclasses import replace

import numpy as np
import pytest

from mudlamp.core.errors import DomainError
from mudlamp.core.ping import Fan, Pose
from mudlamp.core.scene.bottom import Ground, bottom_strength_db
from mudlamp.core.scene.model import PointTarget
from mudlamp.core.scene.world import first_acquisition
from mudlamp.core.sonar import _kernels
from mudlamp.core.sonar.pattern import equivalent_across_rad, equivalent_width_x, taylor_pattern
from mudlamp.core.sonar.reverberation import pulse_cell_m
from mudlamp.core.sonar.scatterers import Scatterers
from mudlamp.core.sonar.transducer import PROFILES, axes, checked, usual_tilt_rad
from mudlamp.formats.scene_file import load_scene
from mudlamp.heads.simulated import SimulatedHead

PROFILE = PROFILES["test"]


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


def test_beams_point_where_the_conventions_say():
    pose = Pose(x_m=0, y_m=0, z_m=0, heading_rad=0.7, pitch_rad=0, roll_rad=0, tilt_rad=0.4)
    forward, down, starboard = (
        np.array([math.sin(0.7), math.cos(0.7), 0]),
        np.array([0, 0, 1.0]),
        np.array([math.cos(0.7), -math.sin(0.7), 0]),
    )
    angles = np.array([-0.9, 0.0, 0.5])
    ahead = axes(pose, Fan.AHEAD).directions(angles)
    flat = axes(pose, Fan.FLAT).directions(angles)
    for a, got_ahead, got_flat in zip(angles, ahead, flat, strict=True):
        np.testing.assert_allclose(got_ahead, math.sin(0.4 - a) * forward + math.cos(0.4 - a) * down, atol=1e-12)
        wanted = math.cos(a) * (math.sin(0.4) * forward + math.cos(0.4) * down) + math.sin(a) * starboard
        np.testing.assert_allclose(got_flat, wanted, atol=1e-12)


def test_bow_up_and_starboard_down_tip_the_fan_that_way():
    up = axes(Pose(x_m=0, y_m=0, z_m=0, heading_rad=0, pitch_rad=0.1, roll_rad=0, tilt_rad=math.pi / 2), Fan.AHEAD)
    assert up.center[2] == pytest.approx(-math.sin(0.1))
    rolled = axes(Pose(x_m=0, y_m=0, z_m=0, heading_rad=0, pitch_rad=0, roll_rad=0.1, tilt_rad=0.0), Fan.AHEAD)
    assert rolled.normal[2] == pytest.approx(math.sin(0.1))


@pytest.mark.parametrize(("beam", "bin_"), [(30, 120), (70, 300), (100, 500), (160, 640)])
def test_a_lone_target_stands_in_its_cell_at_the_level_of_the_sonar_equation(beam, bin_):
    range_m, y, z = place_on_cell(beam, bin_)
    head, ping = lone(y_m=y, z_m=z)
    # Without TVG the water's own scattering within the first meters is louder than a far target: look beyond it.
    found = np.unravel_index(np.argmax(ping.echo_level_db[:, 60:]), ping.echo_level_db[:, 60:].shape)
    assert abs(found[0] - beam) <= 0.5
    assert abs(found[1] + 60 - bin_) <= 0.5
    attenuation = head._synthesizer.attenuation_db_m
    # EL - SL = TS - 40 log R - 2 alpha R on the beam's and the cell's center (closed form).
    assert ping.echo_level_db[beam, bin_] == pytest.approx(-40.0 - 40.0 * math.log10(range_m) - 2.0 * attenuation * range_m, abs=0.5)


def test_half_the_thickness_off_the_plane_costs_three_decibels():
    range_m, y, z = place_on_cell(70, 300)
    _, on = lone(y_m=y, z_m=z)
    half = PROFILE.thickness_rad / 2.0
    _, off = lone(x_m=range_m * math.sin(half), y_m=y * math.cos(half), z_m=0.4 + (z - 0.4) * math.cos(half))
    assert on.echo_level_db[70, 300] - off.echo_level_db[70, 300] == pytest.approx(3.0, abs=0.5)


def test_beam_width_and_first_side_lobe_of_a_ping_are_those_of_theory():
    # The target stands on a facet's middle: its row of beams samples the one-way receive pattern.
    _, y, z = place_on_cell(95, 400)
    # A strong one: its side lobes must stand far over what floats in the water.
    _, ping = lone(y_m=y, z_m=z, ts_db=-5.0)
    row = ping.echo_level_db[64:128, 400] - ping.echo_level_db[95, 400]
    x = np.abs(np.sin(ping.setup.beam_angle_rad[64:128]) - np.sin(ping.setup.beam_angle_rad[95])) * 0.1 / (1482.38 / 900e3)
    theory = 20.0 * np.log10(np.maximum(np.abs(taylor_pattern(x)), 1e-4))
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


def test_ranges_and_directions_cover_what_was_asked():
    _, ping = lone(reach_m=20.0, down_to_m=30.0)
    assert ping.setup.range_m[-1] + ping.setup.bin_m / 2 == pytest.approx(29.6)
    assert len(ping.setup.range_m) == 700
    assert len(ping.setup.beam_angle_rad) == 192
    assert usual_tilt_rad(Fan.AHEAD, PROFILE) == pytest.approx(math.radians(22.5))


def test_a_reach_out_of_range_is_refused_by_name():
    acquisition = first_acquisition(load_scene("lone"))
    with pytest.raises(DomainError, match=r"reach_m is 400 m: it must be 3 to 36\.6 m"):
        checked(replace(acquisition, reach_m=400.0))


def test_the_same_seed_gives_the_same_ping_and_one_more_fish_leaves_the_noise(pear_tree):
    one, two = SimulatedHead(pear_tree, seed=9).listen(0.0), SimulatedHead(pear_tree, seed=9).listen(0.0)
    np.testing.assert_array_equal(one.echo_level_db, two.echo_level_db)
    # Without a bottom, off which its echo would bounce on to other ranges.
    open_water = replace(pear_tree, bottom=None)
    one = SimulatedHead(open_water, seed=9).listen(0.0)
    more = replace(open_water, fish=(*pear_tree.fish, replace(pear_tree.fish[0], count=1, y_m=4.0, z_m=1.5)))
    changed = SimulatedHead(more, seed=9).listen(0.0)
    same = np.isclose(one.echo_level_db, changed.echo_level_db, atol=0.02)
    # Far from the new fish, at 4 m, every cell is as it was.
    assert same[:, 320:].mean() > 0.995
    assert not same[:, 220:260].all()


def test_levels_kernel_agrees_with_the_logarithm():
    power = (10.0 ** np.random.default_rng(2).uniform(-30, 2, 800)).astype(np.float32)
    out, plain = np.empty(800, np.float32), np.empty(800, np.float32)
    _kernels.levels_db(power.view(np.int32), 0, out)
    np.testing.assert_allclose(out, 10.0 * np.log10(power.astype(float)), atol=1e-4)
    _kernels.levels_db.py_func(power.view(np.int32), 0, plain)
    np.testing.assert_allclose(out, plain, atol=1e-4)


def test_adding_scatterers_is_a_coherent_sum():
    _range_m, y, z = place_on_cell(70, 300)
    head, alone = lone(y_m=y, z_m=z)
    pose = alone.pose
    both = Scatterers(100)
    amplitude = np.array([0.01, 0.01])
    for phase, gain_db in ((0.0, 6.02), (math.pi / 2, 3.01)):
        both.clear()
        both.add(np.array([[0.0, y, z], [0.0, y, z]]), amplitude, np.array([0.0, phase]), 0)
        ping = head._synthesizer.ping(both, pose=pose, number=0, time_s=0.0)
        # Two equal echoes in phase: twice the amplitude, 6.02 dB; a quarter turn apart: twice the power, 3.01 dB (closed form).
        assert ping.echo_level_db[70, 300] - alone.echo_level_db[70, 300] == pytest.approx(gain_db, abs=0.1)


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
        strength = 10.0 ** (bottom_strength_db(Ground.SAND, math.sin(grazing)) / 10.0)
        loss = 10.0 ** (-(40.0 * math.log10(range_m) + 2.0 * synthesizer.attenuation_db_m * range_m) / 10.0)
        facet = round(center / PROFILE.facet_rad) * PROFILE.facet_rad
        width = equivalent_width_x() * synthesizer._wavelength_m / PROFILE.aperture_m / math.cos(center - facet)
        assert 10.0 * math.log10(heard / (strength * area * loss * width)) == pytest.approx(0.0, abs=1.0)
