import math
from dataclasses import replace

import numpy as np
import pytest

from mudlamp.core.errors import DomainError
from mudlamp.core.ping import Fan, Pose
from mudlamp.core.scene.world import first_acquisition
from mudlamp.core.sonar.scatterers import Scatterers
from mudlamp.core.sonar.transducer import axes, checked, usual_tilt_rad
from mudlamp.formats.scene.file import load_scene
from mudlamp.heads.simulated import SimulatedHead
from tests.reference.test_echo import PROFILE, lone, place_on_cell


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


def test_a_fan_of_one_facet_stays_in_the_pattern_s_table(pear_tree):
    from mudlamp.core.sonar import pattern

    widest = replace(pear_tree, transducer=replace(pear_tree.transducer, facets=1, carrier_hz=1.2e6, fan_rad=math.radians(150.0)))
    shape = widest.transducer.shape
    assert 2.0 * math.sin(shape.fan_rad / 2.0) * shape.aperture_m * shape.carrier_hz / 1390.0 < pattern.TABLE_REACH
    levels = SimulatedHead(widest, seed=1).listen(0.0).echo_level_db
    assert np.isfinite(levels).all()
    assert levels.max() < 60.0
