"""What disturbs the picture, each with its cause: seams, wrong sound speed, ghosts, shadows, other sonars, motor, battery, waves."""

import math
from dataclasses import replace

import numpy as np
import pytest

from mudlamp.core.ping import Fan
from mudlamp.core.scene.boat import drift_m_s, pose_at, steadied
from mudlamp.core.scene.drifting import BUBBLE_LIFE_S, Bubbles, Plume, Swarm
from mudlamp.core.scene.model import Boat, Faults, Insects, PointTarget, Post, Wake
from mudlamp.core.scene.world import first_acquisition
from mudlamp.core.sonar.interference import Disturbance, OtherSonar, burst_starts, noise_profile
from mudlamp.core.sonar.transducer import PROFILES
from mudlamp.formats.scene.file import load_scene
from mudlamp.heads.simulated import SimulatedHead

LONE = load_scene("lone")


def quiet(scene, **changes):
    """A scene without surface and noise, so that what is left has one cause."""
    return replace(scene, surface=False, noise=False, **changes)


def levels(scene, *, pings=1, seed=1, at=0.0, **acquisition):
    head = SimulatedHead(scene, seed=seed, acquisition=replace(first_acquisition(scene), **acquisition))
    return np.mean([10.0 ** (head.listen(at + number * 0.2).echo_level_db / 10.0) for number in range(pings)], axis=0), head


def test_facets_differ_by_their_gain_and_dip_at_the_seam():
    profile = PROFILES["demo"]
    scene = quiet(LONE, transducer=replace(LONE.transducer, profile="demo", fan=Fan.BELOW))
    found = {}
    # On the centers of beams, which stand 126 / 192 deg apart.
    first, middle, last, edge = (126.0 / 192.0 * step for step in (-63.5, 0.5, 63.5, 31.5))
    for degrees in (first, middle, last, edge):
        a = math.radians(degrees)
        # Below: beam a points a behind plumb; the target stands 8 m away on it.
        target = PointTarget(x_m=0.0, y_m=-8.0 * math.sin(a), z_m=0.4 + 8.0 * math.cos(a), ts_db=-30.0)
        power, _ = levels(replace(scene, targets=(target,)), fan=Fan.BELOW, tilt_rad=0.0)
        facet = slice(64, 128) if abs(degrees) < 21.0 else slice(None)
        found[degrees] = 10.0 * math.log10(power[facet, 60:].max())
    assert found[first] - found[last] == pytest.approx(profile.facet_gain_db[0] - profile.facet_gain_db[2], abs=0.3)
    # Just before the seam at 21 deg the dip is nearly whole: (sin a / sin 21)^16 of it (closed form).
    dip = profile.seam_dip_db * (math.sin(math.radians(edge)) / math.sin(math.radians(21.0))) ** 16
    assert found[middle] - found[edge] == pytest.approx(dip, abs=0.3)


@pytest.mark.parametrize("beam_deg", [-60.0, -30.0, 10.0, 30.0, 55.0])
def test_a_wrong_sound_speed_bends_by_the_steering_law_within_each_facet(beam_deg):
    # sin(shown - facet) = (c' / c) sin(true - facet): physics of delay steering; the sounder believes in 4 % more.
    ratio, true = 1.04, math.radians(beam_deg)
    tilt = math.radians(22.5)
    range_m = 9.0
    target = PointTarget(x_m=0.0, y_m=range_m * math.sin(tilt - true), z_m=0.4 + range_m * math.cos(tilt - true), ts_db=-20.0)
    scene = quiet(replace(LONE, targets=(target,)))
    right = first_acquisition(scene).sound_speed_m_s
    power, head = levels(scene, sound_speed_m_s=right * ratio)
    beam, bin_ = np.unravel_index(np.argmax(power[:, 60:]), power[:, 60:].shape)
    facet = math.radians(45.0) * round(beam_deg / 45.0)
    shown = facet + math.asin(ratio * math.sin(true - facet))
    setup = head._synthesizer.setup
    assert setup.beam_angle_rad[beam] == pytest.approx(shown, abs=setup.beam_step_rad)
    assert setup.range_m[bin_ + 60] == pytest.approx(range_m * ratio, abs=2.0 * setup.bin_m)


def test_over_hard_shallow_bottom_a_post_throws_a_leaning_ghost_and_over_mud_none():
    rock = load_scene("rock-shallows")
    ghost = {}
    for ground in ("rock", "mud"):
        scene = quiet(
            rock, cover=(Post(x_m=0.0, y_m=6.0, radius_m=0.15, height_m=2.2),), fish=(), angler=None,
            bottom=replace(rock.bottom, ground=ground, relief_m=0.0),
        )  # fmt: skip
        power, head = levels(scene, pings=8)
        setup = head._synthesizer.setup
        # The top of the post is 0.3 m deep: the echo by the bottom seems (r2 - r1) / 2 farther along the same beam (image method).
        front = 6.0 - 0.14
        straight, image = front, math.hypot(front, 2 * 2.5 - 0.3 - 0.4)
        beam = int(np.argmin(np.abs(setup.beam_angle_rad - (head.acquisition.tilt_rad - math.pi / 2))))
        cell = int(np.argmin(np.abs(setup.range_m - 0.5 * (straight + image))))
        ghost[ground] = 10.0 * math.log10(power[max(beam - 2, 0) : beam + 4, cell - 6 : cell + 6].mean())
    assert ghost["rock"] - ghost["mud"] > 6.0


def test_the_second_bottom_echo_is_drawn_twice_as_deep():
    rock = load_scene("rock-shallows")
    scene = replace(rock, noise=False, cover=(), fish=(), angler=None, bottom=replace(rock.bottom, relief_m=0.0))
    power, head = levels(scene, pings=6, fan=Fan.BELOW, tilt_rad=0.0, down_to_m=8.0, reach_m=8.0)
    setup = head._synthesizer.setup
    column = power[92:100].mean(axis=0)
    depth = 2.5 - 0.4
    first, second = (int(np.argmin(np.abs(setup.range_m - r))) for r in (depth, depth + 2.5))
    between = int(np.argmin(np.abs(setup.range_m - 3.6)))
    assert column[second - 8 : second + 9].max() > 10.0 * column[between - 8 : between + 9].max()
    assert column[first - 8 : first + 9].max() > column[second - 8 : second + 9].max()


def test_pings_too_fast_bring_the_bottom_of_the_ping_before():
    deep = load_scene("clear-deep")
    scene = quiet(deep, fish=(), bait=(), angler=None, bottom=replace(deep.bottom, depth_m=15.0, relief_m=0.0, slope_north=0.0))
    acquisition = replace(first_acquisition(scene), fan=Fan.BELOW, tilt_rad=0.0, reach_m=10.0, down_to_m=10.0)
    found = {}
    for ping_hz in (None, 70.0):
        head = SimulatedHead(scene, seed=1, acquisition=acquisition, ping_hz=ping_hz)
        power = np.mean([10.0 ** (head.listen(number / 5.0).echo_level_db / 10.0) for number in range(4)], axis=0)
        setup = head._synthesizer.setup
        # 14.6 m down, the interval is c / (2 * 70) = 10.6 m: the bottom shows 4 m away (closed form).
        cell = int(np.argmin(np.abs(setup.range_m - (14.6 - head._synthesizer._wavelength_m * 900e3 / 140.0))))
        found[ping_hz] = 10.0 * math.log10(power[90:102, cell - 12 : cell + 13].max())
    assert found[70.0] - found[None] > 20.0


def test_a_piling_throws_its_shadow_on_the_bottom_behind_it():
    piling = load_scene("piling")
    bare = quiet(piling, fish=(), bait=(), cover=(), angler=None, bottom=replace(piling.bottom, relief_m=0.0))
    post = Post(x_m=0.0, y_m=7.0, radius_m=0.5, height_m=None)
    # Twelve grounds: one has some forty echoes there, whose mean alone may be 0.8 dB off.
    seeds = range(1, 13)
    open_, shaded = (sum(levels(scene, seed=seed)[0] for seed in seeds) for scene in (bare, replace(bare, cover=(post,))))
    head = SimulatedHead(bare, seed=1)
    setup = head._synthesizer.setup
    # Bottom at 11 m of range; a post of 1 m across stands in the middle of 2.2 m of fan there: about two fifths of
    # the power come from ground that is dark (Gaussian beam, closed form: 2.3 dB).
    cells = slice(*(int(np.argmin(np.abs(setup.range_m - r))) for r in (10.6, 11.4)))
    down = math.acos((6.7 - 0.4) / 11.0)
    beam = int(np.argmin(np.abs(setup.beam_angle_rad - (head.acquisition.tilt_rad - down))))
    loss = 10.0 * math.log10(open_[beam - 3 : beam + 4, cells].mean() / shaded[beam - 3 : beam + 4, cells].mean())
    assert loss == pytest.approx(2.3, abs=0.9)


def test_a_fish_behind_a_piling_is_there_and_not_seen():
    scene = load_scene("piling")
    hidden = replace(scene.fish[1], count=1, x_m=0.0, y_m=9.6, z_m=3.9, spread_m=0.0, rise_m=0.0)
    plain = replace(scene, boat=replace(scene.boat, sway_rad=0.0, drift_m=0.0), fish=(hidden,), angler=None, bait=())
    with_post = SimulatedHead(replace(plain, cover=(Post(x_m=0.0, y_m=8.0, radius_m=0.4, height_m=None),)), seed=2)
    without = SimulatedHead(replace(plain, cover=()), seed=2)
    for head, seen in ((with_post, False), (without, True)):
        head.listen(0.0)
        (row,) = head.rows()
        assert row.seen is seen


def test_another_sonar_comes_when_it_likes_in_the_beams_that_look_at_it():
    other = OtherSonar(ping_hz=13.0, angle_rad=math.radians(-40.0), level_db=-70.0)
    scene = replace(LONE, noise=True, targets=(), faults=Faults(other_sonar=other))
    head = SimulatedHead(scene, seed=3)
    setup = head._synthesizer.setup
    beam = int(np.argmin(np.abs(setup.beam_angle_rad - other.angle_rad)))
    disturbed = []
    for number in range(60):
        level = head.listen(number / 20.0).echo_level_db
        disturbed.append(float(level[beam - 3 : beam + 4, 100:].max() - np.median(level[150:, 100:])) > 20.0)
    # A pulse every 77 ms with a tail of 6 ms, heard in a window of 40 ms: in some six of ten pings, never in all.
    assert 0.35 < np.mean(disturbed) < 0.85
    starts = burst_starts(other.ping_hz, window_s=1.0, rng=np.random.default_rng(1))
    np.testing.assert_allclose(np.diff(starts), 1.0 / 13.0)


def test_thrust_and_a_low_battery_raise_noise_and_weaken_echoes():
    healthy, weak = Disturbance(supply_v=11.6), Disturbance(supply_v=11.0)
    assert (healthy.noise_db, healthy.source_db, healthy.dropout_chance) == (0.0, 0.0, 0.0)
    assert weak.noise_db > 0.0
    assert weak.source_db < 0.0
    assert weak.dropout_chance > 0.0
    range_m = np.linspace(0.1, 12.0, 400)
    noise = [
        noise_profile(Disturbance(thrust=t), quiet_power=1.0, range_m=range_m, speed_m_s=1480.0, turn_rad=0.0).mean()
        for t in (0.0, 0.4, 1.0)
    ]
    assert noise[0] == 1.0
    assert noise == sorted(noise)
    scene = replace(LONE, noise=False)
    full, _ = levels(scene)
    low, _ = levels(replace(scene, faults=Faults(supply_v=11.3)))
    assert 10.0 * math.log10(full.max() / low.max()) == pytest.approx(6.0 * 0.2, abs=0.05)


def test_a_flat_battery_drops_pings():
    head = SimulatedHead(replace(LONE, noise=True, faults=Faults(supply_v=9.5)), seed=1)
    heard = [float(head.listen(number / 20.0).echo_level_db.max()) > -100.0 for number in range(60)]
    assert 0.2 < np.mean(heard) < 0.75


def test_steady_levels_the_fan_and_a_late_sensor_makes_it_worse():
    boat = Boat(x_m=0.0, y_m=0.0, heading_rad=0.0, speed_m_s=0.0, sway_rad=0.0, drift_m=0.0, pitch_rad=math.radians(3.0))
    left = {}
    for lag_s in (0.0, 1.35):
        swing = []
        for time_s in np.arange(0.0, 8.0, 0.05):
            pose = pose_at(boat, time_s=time_s, depth_m=0.4, tilt_rad=0.5, aim_rad=0.0)
            really, told = steadied(pose, boat, time_s=time_s, lag_s=lag_s)
            swing.append(really.pitch_rad)
            assert told.pitch_rad == 0.0
        left[lag_s] = float(np.max(np.abs(swing)))
    assert left[0.0] == pytest.approx(0.0, abs=1e-12)
    # Half a wave late the correction adds to the swing: twice as much (closed form).
    assert left[1.35] == pytest.approx(2.0 * math.radians(3.0), rel=0.01)


def test_a_boat_that_nothing_holds_goes_with_current_and_wind():
    boat = Boat(
        x_m=0.0, y_m=0.0, heading_rad=0.0, speed_m_s=0.0, sway_rad=0.0, drift_m=0.0, pitch_rad=0.0,
        held=False, wind_from_rad=math.radians(270.0), current_m_s=0.1, current_toward_rad=0.0,
    )  # fmt: skip
    assert drift_m_s(boat, 5.0) == pytest.approx((0.15, 0.1))
    assert drift_m_s(replace(boat, held=True), 5.0) == (0.0, 0.0)


def test_flat_too_near_level_brings_the_surface_and_too_steep_a_thin_slice_of_bottom():
    weeds = load_scene("weed-edge")
    bare = replace(weeds, cover=(), fish=(), angler=None, noise=False, water=replace(weeds.water, wind_m_s=4.0))
    lit = {}
    for tilt_deg in (60.0, 80.0, 89.0):
        power, head = levels(bare, pings=3, tilt_rad=math.radians(tilt_deg))
        setup = head._synthesizer.setup
        strong = 10.0 * np.log10(power[80:112].mean(axis=0)) + 40.0 * np.log10(setup.range_m) > -68.0
        lit[tilt_deg] = strong
        near = slice(*(int(np.argmin(np.abs(setup.range_m - r))) for r in (2.0, 4.0)))
        surface = 10.0 * math.log10(head._synthesizer._mean_reverberation(head._pose, 0.0)[near, 96].mean())
        lit[f"surface {tilt_deg}"] = surface
    assert lit["surface 89.0"] > lit["surface 80.0"] + 2.0 > lit["surface 60.0"] + 2.0
    assert lit[80.0].sum() > lit[60.0].sum() > 0


def test_insects_rise_bubbles_go_and_wakes_fade():
    swarm = Swarm(Insects(x_m=0.0, y_m=5.0, radius_m=3.0, count=50, rise_m_s=0.05), 6.0, np.random.default_rng(1))
    before, after = swarm.places_m(0.0)[:, 2], swarm.places_m(1.0)[:, 2]
    risen = (before - after)[before - after > 0]
    assert len(risen) > 45
    assert np.mean(risen) == pytest.approx(0.05, rel=0.15)
    plume = Plume(Wake(x_m=0.0, y_m=5.0, radius_m=3.0, depth_m=6.1, strength_db=-46.0, age_s=0.0), np.random.default_rng(1))
    assert plume.places_m(0.0)[:, 2].max() < 6.3
    assert np.sum(plume.amplitude(90.0) ** 2) == pytest.approx(0.5 * np.sum(plume.amplitude(0.0) ** 2))
    bubbles = Bubbles(np.random.default_rng(1))
    bubbles.add(np.array([0.0, 5.0, 3.0]), count=10, spread_m=0.1, time_s=0.0)
    bubbles.step(time_s=1.0, dt_s=1.0)
    assert len(bubbles.now(1.0)[0]) == 10
    bubbles.step(time_s=BUBBLE_LIFE_S + 0.1, dt_s=0.1)
    assert len(bubbles.now(BUBBLE_LIFE_S + 0.1)[0]) == 0
