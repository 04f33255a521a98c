import math

import numpy as np
import pytest
from scipy.integrate import quad

from mudlamp.core.casting import _kernels as falling
from mudlamp.core.ping import Fan, Pose
from mudlamp.core.scene import _kernels as relief
from mudlamp.core.scene import _kernels_fish as living
from mudlamp.core.scene.bottom import PENETRATION_M, Feature, FeatureKind, Ground, GroundGrid, Patch, make_bottom
from mudlamp.core.sonar import _kernels_bounces, _kernels_ground
from mudlamp.core.sonar.scatterers import Scatterers
from mudlamp.core.sonar.synthesis import Synthesizer, WaterBody
from mudlamp.core.sonar.transducer import PROFILES, Acquisition, usual_tilt_rad
from mudlamp.core.tracking import _kernels_echoes

PROFILE = PROFILES["test"]
POSE = Pose(x_m=0.0, y_m=0.0, z_m=0.4, heading_rad=0.0, pitch_rad=0.0, roll_rad=0.0, tilt_rad=usual_tilt_rad(Fan.AHEAD, PROFILE))


def bare_synthesizer(bottom=None):
    acquisition = Acquisition(
        fan=Fan.AHEAD, reach_m=12.0, down_to_m=7.0, look_back_m=0.5, tilt_rad=POSE.tilt_rad, aim_rad=0.0, sound_speed_m_s=1482.38
    )
    water = WaterBody(temperature_degc=20.0, secchi_m=8.0, wind_m_s=None, noise=False)
    return Synthesizer(
        profile=PROFILE,
        acquisition=acquisition,
        water=water,
        ground=None if bottom is None else GroundGrid(bottom),
        depth_m=0.4,
        rng=np.random.default_rng(1),
    )


def test_expected_cell_power_is_the_mean_of_many_coherent_sums():
    # Twenty echoes of random phase in one cell: the mean of |sum|^2 over phases is the sum of powers (closed form).
    rng = np.random.default_rng(3)
    synthesizer = bare_synthesizer()
    center = np.array([0.0, 6.0, 3.4])
    place = center + rng.normal(0.0, 0.004, (20, 3))
    amplitude = rng.uniform(0.001, 0.01, 20)
    powers = []
    scatterers = Scatterers(64)
    for number in range(400):
        scatterers.clear()
        scatterers.add(place, amplitude, rng.uniform(0, 2 * math.pi, 20), owner=4)
        ping = synthesizer.ping(scatterers, pose=POSE, number=number, time_s=number * 0.1)
        powers.append(10.0 ** (ping.echo_level_db.max() / 10.0))
    expected = synthesizer.cell_power(scatterers, pose=POSE, position_m=center[None, :], owner=np.array([4])).own[0]
    # 400 exponential draws: one standard error is 5 %; the cell is up to half a cell off its center.
    assert np.mean(powers) == pytest.approx(expected, rel=0.25)


def test_bottom_cells_lie_on_the_bottom_in_the_fan_and_stay_on_the_ground():
    bottom = make_bottom(
        ground=Ground.SAND, depth_m=6.0, slope_east=0.0, slope_north=0.02, relief_m=0.1, relief_length_m=6.0, rng=np.random.default_rng(2)
    )
    synthesizer = bare_synthesizer(bottom)
    first, moved = Scatterers(), Scatterers()
    synthesizer.add_bottom(first, POSE)
    synthesizer.add_bottom(moved, Pose(x_m=0.3, y_m=0.2, z_m=0.4, heading_rad=0.05, pitch_rad=0.0, roll_rad=0.0, tilt_rad=POSE.tilt_rad))
    n = first.count
    assert n > 300
    under = np.array([first.z[i] - bottom.depth_at(first.x[i], first.y[i]) for i in range(n)])
    # The grid's steps of 25 cm against relief of 6 m: under half a centimeter above, and half of the power within ln 2 / 2 of the penetration.
    assert under.min() > -0.005
    power = first.amplitude[:n] ** 2
    shallow = under < 0.5 * math.log(2.0) * PENETRATION_M[Ground.SAND]
    assert power[shallow].sum() / power.sum() == pytest.approx(0.5, abs=0.06)
    spots = {(round(x, 6), round(y, 6)): a for x, y, a in zip(first.x[:n], first.y[:n], first.phase[:n], strict=True)}
    m = moved.count
    shared = [
        (spots[key], phase)
        for x, y, phase in zip(moved.x[:m], moved.y[:m], moved.phase[:m], strict=True)
        if (key := (round(x, 6), round(y, 6))) in spots
    ]
    # Most of the ground is lit from both places, by the same scatterers with the same phases.
    assert len(shared) > 0.6 * n
    assert all(a == b for a, b in shared)


def test_the_ground_grid_holds_plane_features_and_patches():
    features = (
        Feature(kind=FeatureKind.LEDGE, x_m=0.0, y_m=10.0, bearing_rad=0.0, change_m=3.0, width_m=1.0),
        Feature(kind=FeatureKind.HUMP, x_m=6.0, y_m=0.0, bearing_rad=0.0, change_m=-1.0, width_m=2.0),
        Feature(kind=FeatureKind.CHANNEL, x_m=0.0, y_m=-12.0, bearing_rad=0.0, change_m=2.0, width_m=3.0),
    )
    bottom = make_bottom(
        ground=Ground.MUD, depth_m=5.0, slope_east=0.0, slope_north=0.0, relief_m=0.0, relief_length_m=5.0,
        rng=np.random.default_rng(4), features=features, patches=(Patch(ground=Ground.ROCK, x_m=2.0, y_m=2.0, radius_m=1.0),),
    )  # fmt: skip
    # Far up the ledge half the step is none, at its line half, far down all of it (closed form of tanh); likewise the others.
    assert bottom.depth_at(0.0, 4.0) == pytest.approx(5.0, abs=1e-4)
    assert bottom.depth_at(0.0, 10.0) == pytest.approx(6.5, abs=1e-6)
    assert bottom.depth_at(-30.0, 20.0) == pytest.approx(8.0, abs=1e-6)
    assert bottom.depth_at(6.0, 0.0) == pytest.approx(4.0, abs=1e-4)
    assert bottom.depth_at(0.0, -12.0) == pytest.approx(7.0, abs=1e-6)
    assert relief.depth_at.py_func(1.0, 9.5, *bottom.field) == pytest.approx(bottom.depth_at(1.0, 9.5))
    _, west, south, step, depth, kind, rugged, *_ = GroundGrid(bottom).about(0.0, 0.0)
    column, row = round((2.0 - west) / step), round((2.0 - south) / step)
    assert rugged
    assert depth[row, column] == pytest.approx(bottom.depth_at(west + column * step, south + row * step))
    assert kind[row, column] == list(Ground).index(Ground.ROCK)
    assert kind[row, column + 8] == list(Ground).index(Ground.MUD)


def test_behind_a_ledge_no_ground_is_lit():
    drop = Feature(kind=FeatureKind.LEDGE, x_m=0.0, y_m=5.0, bearing_rad=0.0, change_m=3.0, width_m=0.3)
    bottom = make_bottom(
        ground=Ground.SAND, depth_m=2.0, slope_east=0.0, slope_north=0.0, relief_m=0.0, relief_length_m=5.0,
        rng=np.random.default_rng(4), features=(drop,),
    )  # fmt: skip
    lit = Scatterers()
    bare_synthesizer(bottom).add_bottom(lit, POSE)
    # From 0.4 m deep over a lip at (5 m, 2 m) the low ground at 5 m comes into sight 5 * 4.6 / 1.6 = 14.4 m out: never within 12 m.
    north = lit.y[: lit.count]
    assert ((north > 1.0) & (north < 4.8)).sum() > 100
    assert ((north > 6.5) & (north < 11.5)).sum() == 0


def brute_shade(point, origin, post):
    """Walk the straight way in small steps (slow, plain).

    Returns how far it runs inside the post, level with it [m]; whether it enters it; whether it passes wholly within its height or
    wholly outside (not over its edge).
    """
    x, y, radius, top, foot = post
    steps = np.linspace(0.0, 1.0, 20001)[:, None]
    way = origin + steps * (point - origin)
    round_ = np.hypot(way[:, 0] - x, way[:, 1] - y) < radius
    high = (way[:, 2] > top) & (way[:, 2] < foot)
    inside = round_ & high
    whole = not round_.any() or high[round_].all() or not high[round_].any()
    return inside.mean() * np.linalg.norm((point - origin)[:2]), bool(inside.any()), whole


def test_posts_shade_what_stands_behind_them_as_a_walk_along_the_way_says():
    rng = np.random.default_rng(8)
    origin = np.array([0.0, 0.0, 0.4])
    points = np.column_stack((rng.uniform(-2, 2, 300), rng.uniform(1, 14, 300), rng.uniform(0.5, 5, 300)))
    solid, soft = (0.1, 6.0, 0.3, 1.0, 6.0), (0.4, 7.0, 1.0, 0.0, 9.0)
    for post, through, per_m in ((solid, 0.05, 0.0), (soft, 1.0, 0.2)):
        amplitude = np.ones(300)
        columns = [np.array([value]) for value in (*post, through, per_m)]
        x, y, z = (np.ascontiguousarray(points[:, i]) for i in range(3))
        _kernels_ground.shade(x, y, z, amplitude, 0, 300, origin, *columns)
        again = np.ones(300)
        _kernels_ground.shade.py_func(x, y, z, again, 0, 300, origin, *columns)
        np.testing.assert_allclose(again, amplitude)
        for point, kept in zip(points, amplitude, strict=True):
            chord, crossed, whole = brute_shade(point, origin, post)
            if per_m:
                assert kept == pytest.approx(math.exp(-per_m * chord), rel=0.01)
            elif whole and np.hypot(point[0] - post[0], point[1] - post[1]) > 2.5 * post[2]:
                assert (kept < 1.0) == crossed


def test_bounces_seem_to_stand_where_the_image_method_puts_them():
    buffer = Scatterers(16)
    place = np.array([[0.0, 6.0, 1.5]])
    buffer.add(place, np.array([0.02]), np.zeros(1), owner=3)
    origin, depth, keeps = np.array([0.0, 0.0, 0.4]), 2.5, 0.3
    field = (buffer.x, buffer.y, buffer.z, buffer.amplitude, buffer.phase)
    count = _kernels_bounces.bounces(*field, 0, 1, 1, origin, depth, keeps, 0.0, 0.0, 1e-9, 30.0, 1)
    assert count == 4
    # Legs: straight, and to the image at 2 H - z = 3.5 m below the surface (closed form).
    straight, image = math.hypot(6.0, 1.1), math.hypot(6.0, 3.1)
    seen = np.column_stack((buffer.x, buffer.y, buffer.z))[1:4] - origin
    reach = np.linalg.norm(seen, axis=1)
    np.testing.assert_allclose(reach, [(straight + image) / 2, (straight + image) / 2, image])
    np.testing.assert_allclose(seen[0] / reach[0], [0.0, 6.0 / straight, 1.1 / straight])
    np.testing.assert_allclose(seen[1] / reach[1], [0.0, 6.0 / image, 3.1 / image])
    # The echo's own level: one bounce k / (r1 r2), two bounces k^2 / r2^2.
    wanted = 0.02 * np.array([keeps / (straight * image), keeps / (straight * image), keeps**2 / image**2])
    np.testing.assert_allclose(buffer.amplitude[1:4] / reach**2, wanted)


def test_thinned_bounces_keep_the_power_of_all():
    rng = np.random.default_rng(5)
    total = {}
    for stride in (1, 3):
        buffer = Scatterers(40_000)
        place = np.column_stack((rng.normal(0, 0.2, 6000), rng.normal(6.0, 0.2, 6000), rng.uniform(0.6, 2.2, 6000)))
        buffer.add(place, np.full(6000, 0.003), np.zeros(6000), owner=-1)
        field = (buffer.x, buffer.y, buffer.z, buffer.amplitude, buffer.phase)
        count = _kernels_bounces.bounces(*field, 0, 6000, stride, np.array([0.0, 0.0, 0.4]), 2.5, 0.3, 0.5, 0.25, 1e-12, 60.0, 6000)
        ghost = slice(6000, count)
        reach2 = buffer.x[ghost] ** 2 + buffer.y[ghost] ** 2 + (buffer.z[ghost] - 0.4) ** 2
        total[stride] = np.sum((buffer.amplitude[ghost] / reach2) ** 2)
    # 2,000 equal draws of 4 ways: some 3 % of a standard error.
    assert total[3] == pytest.approx(total[1], rel=0.1)


def test_the_second_bottom_echo_comes_from_twice_as_deep():
    buffer = Scatterers(8)
    buffer.add(np.array([[0.0, 0.0, 3.0]]), np.array([0.1]), np.zeros(1), owner=-1)
    field = (buffer.x, buffer.y, buffer.z, buffer.amplitude, buffer.phase)
    assert _kernels_bounces.second_echoes(*field, 0, 1, np.array([0.0, 0.0, 0.4]), 3.0, 0.02, 0.2, 0.25, 1e-9, 40.0, 1) == 2
    # Down 2.6, up 3, down 3, up 2.6 m: half of it is 5.6 m under the transducer (closed form).
    assert buffer.z[1] - 0.4 == pytest.approx(5.6)


def test_a_second_bottom_echo_pays_more_aslant_than_straight_down():
    # Two paths in one: 2 a k / (r1 r2), with k from straight (3 dB) to aslant (14 dB) by the Gaussian share of square facets.
    straight, aslant = 10.0 ** (-3.0 / 20.0), 10.0 ** (-14.0 / 20.0)
    lost = []
    for ahead in (0.0, 3.0, 12.0):
        buffer = Scatterers(8)
        buffer.add(np.array([[0.0, ahead, 3.0]]), np.array([0.1]), np.zeros(1), owner=-1)
        field = (buffer.x, buffer.y, buffer.z, buffer.amplitude, buffer.phase)
        _kernels_bounces.second_echoes(*field, 0, 1, np.array([0.0, 0.0, 0.4]), 3.0, aslant, straight, 0.25, 1e-9, 40.0, 1)
        r1, r2 = math.hypot(ahead, 2.6), math.hypot(ahead, 8.6)
        lost.append(-20.0 * math.log10(buffer.amplitude[1] / (0.5 * (r1 + r2)) ** 2 * r1 * r2 / 0.2))
    assert lost[0] == pytest.approx(3.0, abs=0.1)
    assert lost[0] < lost[1] < lost[2]
    assert lost[2] == pytest.approx(14.0, abs=0.3)


def test_a_late_echo_is_drawn_nearer_by_the_way_of_a_ping_interval():
    buffer = Scatterers(8)
    buffer.add(np.array([[0.0, 9.0, 12.4], [0.0, 3.0, 4.4]]), np.array([0.1, 0.1]), np.zeros(2), owner=-1)
    field = (buffer.x, buffer.y, buffer.z, buffer.amplitude, buffer.phase)
    _kernels_bounces.fold_late(*field, 2, np.array([0.0, 0.0, 0.4]), 10.0, 8.0, 0.2, 3800.0)
    # 15 m away in a 10 m interval: 5 m along the same line; its echo is that of 15 m.
    np.testing.assert_allclose([buffer.y[0], buffer.z[0]], [3.0, 4.4])
    assert buffer.amplitude[0] / 25.0 * 10 ** (-0.2 * 5.0 / 10) == pytest.approx(0.1 / 225.0 * 10 ** (-0.2 * 15.0 / 10))
    np.testing.assert_allclose([buffer.y[1], buffer.amplitude[1]], [3.0, 0.1])


def test_a_component_with_two_far_peaks_is_parted_and_its_power_kept():
    power = np.zeros((30, 60), np.float32)
    b, k = np.meshgrid(np.arange(30), np.arange(60), indexing="ij")
    for beam, bin_, level in ((8, 20, 1.0), (16, 30, 0.6)):
        power += (level * np.exp(-(((b - beam) / 3.0) ** 2 + ((k - bin_) / 4.0) ** 2))).astype(np.float32)
    hit = power > 0.02
    runs = [np.zeros(200, np.int32) for _ in range(4)]
    table, parts = np.zeros((10, 8)), np.zeros((10, 8))
    count, found = _kernels_echoes.components(hit, power, 1, *runs, table)
    assert count == 1
    range_m = (np.arange(60) + 0.5) * 0.03 + 8.0
    after = np.zeros(200, np.int32)

    def split(look_rad, wide_m, tall_m, depth=0.05, most=24):
        return _kernels_echoes.split_components(
            power, found, *runs, after, count, table, range_m, 0.012, look_rad, wide_m, tall_m, depth, most, parts
        )

    assert split(0.0, 0.33, 0.33) == 2
    assert parts[:2, 0].sum() == pytest.approx(table[0, 0], rel=1e-6)
    assert split(0.0, 9.0, 9.0) == 1
    # The weaker one is 0.6 of the stronger.
    assert split(0.0, 0.33, 0.33, depth=0.7) == 1
    assert split(0.0, 0.33, 0.33, most=1) == 1
    # They lie 0.3 m apart along range and 0.83 m across: looking level, that is upright; looking straight down, level.
    level_beam = math.pi / 2.0 + 16 * 0.012
    assert split(level_beam, 9.0, 0.7) == 2
    assert split(level_beam, 9.0, 0.9) == 1
    assert split(16 * 0.012, 0.7, 9.0) == 2
    assert split(16 * 0.012, 9.0, 0.7) == 1


def test_cover_seen_from_a_place_shows_its_fronts_and_its_sticks_square():
    # Facing the sonar, turned 60 deg, turned away; a stick square and end-on; and what echoes alike (closed forms in `turned`).
    away = np.array([0.0, 1.0, 0.0])
    facing = np.array([-away, [math.sin(math.pi / 3), -math.cos(math.pi / 3), 0.0], away, [1.0, 0.0, 0.0], away, np.zeros(3)])
    stick = np.array([False, False, False, True, True, False])
    place = np.tile([0.0, 5.0, 0.4], (6, 1))
    x, y, z = (np.ascontiguousarray(place[:, i]) for i in range(3))
    expected = [2.0, 1.0, 0.0, 1.0, math.sqrt(0.1), 1.0]
    for kernel in (relief.turned, relief.turned.py_func):
        found = np.zeros(6)
        kernel(x, y, z, np.ones(6), facing, stick, np.array([0.0, 0.0, 0.4]), found)
        np.testing.assert_allclose(found, expected, atol=1e-9)


def test_flicker_keeps_the_mean_power_and_a_mirror_stays_as_it_is():
    rng = np.random.default_rng(3)
    count = 4000
    place = rng.uniform(-40.0, 40.0, (3, count))
    for coherent, spread in ((1.0, 0.0), (0.0, 1.0)):
        amplitude, phase = np.ones(count), np.zeros(count)
        _kernels_bounces.flicker(*place, amplitude, phase, 0, count, coherent, 0.7, 5, 2)
        again, turned = np.ones(count), np.zeros(count)
        _kernels_bounces.flicker.py_func(*place, again, turned, 0, count, coherent, 0.7, 5, 2)
        np.testing.assert_allclose(amplitude, again)
        np.testing.assert_allclose(phase, turned)
        # Exponential power: mean 1, standard deviation 1 (closed form).
        assert np.mean(amplitude**2) == pytest.approx(1.0, abs=0.06)
        assert np.std(amplitude**2) == pytest.approx(spread, abs=0.1)


def test_the_depth_between_grid_nodes_is_linear_and_hiding_silences_what_is_behind():
    depth = np.add.outer(2.0 * np.arange(41), 3.0 * np.arange(41)) * 0.25 * 0.1
    for kernel in (_kernels_ground.ground_depth, _kernels_ground.ground_depth.py_func):
        assert kernel(3.3, 4.7, 0.0, 0.0, 0.25, depth) == pytest.approx(0.2 * 4.7 + 0.3 * 3.3)
    wall = np.full((81, 81), 5.0)
    wall[56:65, :] = 3.0
    x, y, z = np.zeros(2), np.array([9.0, 9.0]), np.array([4.5, 1.2])
    for kernel in (_kernels_ground.hide, _kernels_ground.hide.py_func):
        amplitude = np.ones(2)
        kernel(x, y, z, amplitude, 0, 2, np.array([0.0, 0.0, 1.0]), 30.0, -10.0, -10.0, 0.25, wall)
        np.testing.assert_array_equal(amplitude, [0.0, 1.0])


def test_a_swing_and_a_rise_are_what_their_python_says_and_what_a_library_integrates():
    rng = np.random.default_rng(999)
    for _ in range(60):
        away, deep, tip, sink = rng.uniform(2.0, 20.0), rng.uniform(0.5, 9.0), rng.uniform(0.5, 2.5), rng.uniform(0.1, 1.2)
        line = math.hypot(away, deep + tip)
        start, end = math.asin(tip / line), math.asin((deep + tip) / line)
        given = (start, end, line, sink, 200, 1e-3)
        found = falling.swing_seconds(*given)
        assert found == pytest.approx(falling.swing_seconds.py_func(*given), rel=1e-12)
        # Source: SciPy's adaptive quadrature of the same pendulum at its terminal speed.
        assert found == pytest.approx(quad(lambda a, line=line, sink=sink: line / (sink * math.sqrt(math.cos(a))), start, end)[0], rel=2e-3)
        reeled = (away, 0.3 * away, deep, tip, sink, rng.uniform(0.1, 1.5), 0.05)
        risen = falling.risen_depth(*reeled)
        assert risen == pytest.approx(falling.risen_depth.py_func(*reeled), rel=1e-9, abs=1e-9)
        # A step a tenth as long: the same depth within what a step rises.
        assert risen == pytest.approx(falling.risen_depth(*reeled[:-1], 0.005), abs=0.1)


@pytest.mark.parametrize("by_hand", [False, True])
def test_a_fish_that_keeps_to_its_place_by_closed_forms(by_hand):
    hung, cruised, moved, apart = (
        kernel.py_func if by_hand else kernel for kernel in (living.hung, living.cruised, living.moved, living.apart)
    )
    home, still, phase = np.array([1.0, 2.0, 3.0]), np.zeros(3), np.array([0.4, 1.1, 2.0])
    # Far off home it is pulled straight back, at its most; in a long step it takes all of that speed.
    far = hung(home + [600.0, 800.0, 0.0], still, home, phase, 7.0, 1.0)
    np.testing.assert_allclose(far, [-0.6 * living.PULL_M_S, -0.8 * living.PULL_M_S, 0.0], atol=1e-5)
    # Home, it sways within its bounds; in a short step it takes a share of the speed that it wants.
    near = hung(home, still, home, phase, 0.0, 0.05)
    np.testing.assert_allclose(near, 0.1 * living.PULL_HZ * living.SWAY_M * np.sin(phase), rtol=1e-9)
    # On its round it swims along the tangent at its pace, east at the northern end and south at the eastern one.
    rise = living.RISE_M * math.sin(living.RISE * 7.0 + 0.4)
    for turn, place, along in (
        (0.0, [0.0, 3.0 * living.FLAT, rise], [0.3, 0.0, 0.0]),
        (math.pi / 2.0, [3.0, 0.0, rise], [0.0, -0.3 * living.FLAT, 0.0]),
    ):
        np.testing.assert_allclose(cruised(home + place, still, home, 3.0, turn, 0.4, 0.3, 0.25, 7.0, 1.0), along, atol=1e-9)
    # Strayed far, it comes back at twice its usual pace besides.
    back = cruised(home + [0.0, 3.0 * living.FLAT, rise + 50.0], still, home, 3.0, 0.0, 0.4, 0.3, 0.25, 7.0, 1.0)
    np.testing.assert_allclose(back, [0.3, 0.0, -0.5], atol=1e-9)
    # No deeper than it may go, and not out of the water.
    np.testing.assert_allclose(moved(home, np.array([1.0, -1.0, 9.0]), 0.5, 0.25, 4.0), [1.5, 1.5, 4.0])
    np.testing.assert_allclose(moved(home, np.array([1.0, -1.0, -9.0]), 0.5, 0.25, 4.0), [1.5, 1.5, 0.25])
    assert apart(home, home + [2.0, -3.0, 6.0]) == pytest.approx(7.0)
