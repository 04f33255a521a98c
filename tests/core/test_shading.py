"""What stands before what: ground before objects and water, posts before water, and which side of a thing is seen."""

import itertools
import math
from dataclasses import replace

import numpy as np
import pytest

from mudlamp.core.ping import Fan
from mudlamp.core.scene.bottom import Feature, FeatureKind
from mudlamp.core.scene.model import FishHabit, PointTarget, Post, Tree, Weeds
from mudlamp.core.sonar import _kernels_ground, _kernels_water
from mudlamp.core.sonar.pattern import across_db
from mudlamp.formats.scene.file import load_scene
from mudlamp.heads.simulated import SimulatedHead
from tests.core.looking import bare, box, cell_of, db, flat_ground, mean_power

PEAR = load_scene("pear-tree")


def hump(height_m):
    """A round rise of the ground 5 m ahead, in 6.1 m of water."""
    return Feature(kind=FeatureKind.HUMP, x_m=0.0, y_m=5.0, bearing_rad=0.0, change_m=-height_m, width_m=1.5)


def behind_a_hump(height_m):
    features = (hump(height_m),) if height_m > 0.0 else ()
    target = PointTarget(x_m=0.0, y_m=9.0, z_m=3.5, ts_db=-20.0)
    scene = bare(PEAR, targets=(target,), surface=False, noise=False, bottom=flat_ground(PEAR, features=features))
    head = SimulatedHead(scene, seed=1)
    ping = head.listen(0.2)
    (row,) = head.rows()
    return float(box(ping.echo_level_db, ping, 9.0, 3.5).max()), row.seen


def test_taller_ground_never_strengthens_what_is_behind_it_and_the_truth_says_the_same():
    # Relation, and closed form: the line of sight from 0.4 m down to 3.5 m at 9 m passes 5 m ahead 2.1 m deep.
    heights = (0.0, 2.0, 3.0, 4.5, 5.5)
    found = [behind_a_hump(height) for height in heights]
    levels = [level for level, _ in found]
    for before, after in itertools.pairwise(levels):
        assert after <= before + 0.5
    assert [seen for _, seen in found] == [6.1 - height > 2.2 for height in heights]
    assert levels[0] - levels[-1] > 20.0


def test_cover_and_fish_under_a_ledges_lip_are_gone():
    ledge = load_scene("ledge")
    post = Post(x_m=0.0, y_m=13.2, radius_m=0.15, height_m=1.0)
    open_ = bare(ledge, cover=(post,), surface=False, noise=False, bottom=flat_ground(ledge, depth_m=8.6))
    hidden = replace(open_, bottom=flat_ground(ledge, features=ledge.bottom.features))
    level = {}
    for name, scene in (("open", open_), ("hidden", hidden)):
        power, _, ping = mean_power(scene)
        level[name] = float(db(box(power, ping, 13.1, 7.9).max()))
    assert level["open"] - level["hidden"] > 15.0


def test_the_march_over_the_ground_is_its_closed_form():
    # A wall of ground 2 m high from 4 to 6 m north, on a grid of 25 cm; the ray to a place is a straight line.
    depth = np.full((81, 81), 5.0)
    depth[56:65, :] = 3.0
    grid = (-10.0, -10.0, 0.25, depth)
    origin = np.array([0.0, 0.0, 1.0])
    for north, z in ((9.0, 3.0), (9.0, 4.5), (3.0, 4.9), (8.0, 2.0)):
        at_wall = [1.0 + (z - 1.0) * y / north for y in (4.0, 6.0) if y < north]
        expected = any(one > 3.0 + 0.1 for one in at_wall)
        for kernel in (_kernels_ground.is_behind, _kernels_ground.is_behind.py_func):
            assert bool(kernel(origin, 0.0, north, z - 1.0, *grid)) is expected
    # A ray straight down meets the ground at its depth.
    assert _kernels_water.ground_range(origin, 0.0, 0.0, 1.0, 20.0, *grid) == pytest.approx(4.0, abs=0.02)
    assert _kernels_water.ground_range.py_func(origin, 0.0, 0.8, 0.6, 20.0, *grid) == pytest.approx(2.0 / 0.6 * 1.5, abs=0.5)


def test_the_water_behind_a_post_keeps_the_share_that_passes_it():
    posts = np.array([[0.0], [4.0], [0.3], [0.0], [20.0], [10.0 ** (-26.0 / 20.0)], [0.0]])
    origin, grid = np.array([0.0, 0.0, 0.4]), (0.0, 0.0, 1.0, np.zeros((2, 2)))
    forward, right, down = np.array([0.0, 1.0, 0.0]), np.array([1.0, 0.0, 0.0]), np.array([0.0, 0.0, 1.0])
    phi = np.linspace(-0.24, 0.24, 41)
    weight = 10.0 ** (across_db(phi, math.radians(18.0)) / 10.0)
    weight /= weight.sum()
    share = np.zeros((300, 3), np.float32)
    angles = np.array([-0.2, 0.0, 0.2])
    arguments = (origin, forward, down, right, angles, phi, weight, False, posts, False, *grid, 0.05)
    _kernels_water.water_share(*arguments, share)
    # An upright fan: the post takes the middle of its thickness, all beams alike; what passes beside it is the rest of a Gaussian.
    hit = np.abs(np.sin(phi)) < 0.3 / 4.0
    assert share[40, 1] == pytest.approx(1.0)
    assert share[200, 1] == pytest.approx(float(weight[~hit].sum()) + float(weight[hit].sum()) * 10.0**-2.6, abs=0.03)
    again = np.zeros_like(share)
    _kernels_water.water_share.py_func(*arguments, again)
    np.testing.assert_allclose(share, again, atol=1e-5)
    # A flat fan: the beam that looks at the post loses nearly all, those beside it nothing.
    flat = np.zeros((300, 3), np.float32)
    _kernels_water.water_share(np.array([0.0, 0.0, 8.0]), forward, right, -down, angles, phi, weight, True, posts, False, *grid, 0.05, flat)
    assert flat[200, 1] < 0.02
    assert flat[200, 0] == flat[200, 2] == pytest.approx(1.0)


def test_a_piling_has_its_dark_lane_in_dirty_water():
    piling = load_scene("piling")
    dirty = replace(piling.water, secchi_m=0.2)
    scene = bare(
        piling, water=dirty, surface=False, noise=False, bottom=None, cover=(Post(x_m=0.0, y_m=6.0, radius_m=0.25, height_m=None),)
    )
    power, head, ping = mean_power(scene, fan=Fan.FLAT, tilt_rad=math.radians(88.0))
    beam, cell = 96, int(np.argmin(np.abs(ping.setup.range_m - 8.0)))
    lane = power[beam - 1 : beam + 2, cell : cell + 60].mean()
    beside = np.concatenate((power[beam - 40 : beam - 20, cell : cell + 60], power[beam + 20 : beam + 40, cell : cell + 60])).mean()
    assert db(beside) - db(lane) > 6.0
    assert head.scatterers > 20


def test_haze_ends_at_the_ground_of_each_beam_and_fills_the_deep_side_of_a_ledge():
    ledge = load_scene("ledge")
    dirty = replace(ledge.water, secchi_m=0.2, wind_m_s=0.0)
    scene = bare(ledge, water=dirty, noise=False, bottom=flat_ground(ledge, features=ledge.bottom.features))
    head = SimulatedHead(scene, seed=1)
    ping = head.listen(0.2)
    haze = db(head._synthesizer._mean_reverberation(ping.pose, 0.2))
    deep, cell = cell_of(ping, 15.0, 6.6)
    above, other = cell_of(ping, 15.0, 4.8)
    # 6.6 m is under the lip's depth (5.2 m): no cliff there, the two differ by their range alone.
    expected = -20.0 * math.log10(ping.setup.range_m[cell] / ping.setup.range_m[other])
    assert haze[cell, deep] - haze[other, above] == pytest.approx(expected, abs=1.5)
    under, _ = cell_of(ping, 4.0, 5.2)
    # Under the ground there is none.
    assert head._synthesizer._share[int(np.argmin(np.abs(ping.setup.range_m - 8.5))), under] == 0.0


def test_a_post_shows_its_front_alone():
    scene = bare(PEAR, surface=False, noise=False, bottom=None, cover=(Post(x_m=0.0, y_m=8.0, radius_m=0.4, height_m=6.0),))
    head = SimulatedHead(replace(scene, bottom=flat_ground(PEAR)), seed=1)
    head.listen(0.2)
    buffer = head._scatterers
    cover = slice(0, buffer.first_object)
    power = buffer.amplitude[cover] ** 2
    front = buffer.y[cover] < 8.0
    assert power[front].sum() > 0.98 * power.sum()
    # Four times the square of the cosine keeps the mean of a round post: its area times its strength (-27 dB a square meter).
    area = 2.0 * math.pi * 0.4 * 6.0
    assert db(power.sum()) == pytest.approx(db(area * 10.0**-2.7), abs=1.2)


def test_limbs_and_trunk_outshine_twigs_and_the_tree_can_be_told():
    head = SimulatedHead(bare(PEAR, cover=(Tree(x_m=0.0, y_m=8.2, height_m=2.3, spread_m=1.1),)), seed=1)
    head.listen(0.2)
    buffer = head._scatterers
    power = np.sort(buffer.amplitude[: buffer.first_object] ** 2)[::-1]
    assert power[: len(power) // 3].sum() > 0.8 * power.sum()


@pytest.mark.parametrize("radius_m", [1.5, 3.0, 5.0])
def test_a_weed_beds_strength_an_area_does_not_fall_with_its_size_and_it_stands_over_mud(radius_m):
    weeds = load_scene("weed-edge")
    bed = Weeds(x_m=0.0, y_m=10.0, radius_m=radius_m, height_m=1.4, habit=FishHabit.PACKED)
    scene = bare(weeds, surface=False, noise=False, bottom=flat_ground(weeds), cover=(bed,))
    head = SimulatedHead(scene, seed=1)
    head.listen(0.2)
    # 14 stalks of 8 points at -53 dB a square meter (ours): the world's own points, before what stands before them.
    cover = head.world._standing.points
    strength = float(np.sum(cover.amplitude[: cover.first_object] ** 2)) / (math.pi * radius_m**2)
    assert db(strength) == pytest.approx(db(14.0 * 8.0 * 10.0**-5.3), abs=0.6)
    if radius_m == 3.0:
        power, _, ping = mean_power(scene)
        cells = (ping.setup.range_m > 7.5) & (ping.setup.range_m < 9.5)
        assert db(power[86:106, cells].mean()) - db(power[150:180, cells].mean()) > 6.0


def test_a_pocket_is_dark_floor_between_bright_sides():
    weeds = load_scene("weed-edge")
    bed = Weeds(x_m=0.0, y_m=10.0, radius_m=3.0, height_m=1.5, habit=FishHabit.PACKED, pocket_x_m=0.0, pocket_y_m=9.5, pocket_m=1.3)
    power, _, ping = mean_power(bare(weeds, bottom=flat_ground(weeds), cover=(bed,)))

    def level(x, y):
        angle, cell = math.atan2(x, y), int(np.argmin(np.abs(ping.setup.range_m - math.hypot(x, y))))
        beam = int(np.argmin(np.abs(ping.setup.beam_angle_rad - angle)))
        return float(db(power[beam - 2 : beam + 3, cell - 15 : cell + 16].mean()))

    sides = [level(x, 9.6) for x in (-1.9, 1.9)]
    assert min(sides) - level(0.0, 9.6) > 6.0
