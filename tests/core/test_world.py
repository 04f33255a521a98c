import itertools
import math
from dataclasses import replace

import numpy as np
import pytest

from mudlamp.core.casting.heads import sink_speed_m_s
from mudlamp.core.casting.lure_on_line import FLIGHT_S, STOWED_LINE_M, Lure, LureState
from mudlamp.core.casting.lures import LureKind, tackle
from mudlamp.core.hand import Doing
from mudlamp.core.scene.shots import Outcome
from mudlamp.core.scene.truth import SEEN_OVER_DB
from mudlamp.core.scene.world import World
from mudlamp.core.units import OUNCE_KG
from mudlamp.formats.scene.file import load_scene

TIP = np.array([0.0, 1.2, -1.6])


def thrown(y_m=8.0):
    lure = Lure(OUNCE_KG / 16.0, tackle(kind=LureKind.JIG, head_kg=OUNCE_KG / 16.0))
    lure.throw(x_m=0.0, y_m=y_m, time_s=0.0)
    t = 0.0
    while lure.state is LureState.FLYING:
        t += 0.05
        lure.step(time_s=t, dt_s=0.05, tip_m=TIP, bottom_m=6.0)
    return lure, t


def run(lure, t, seconds, bottom_m=6.0):
    for _ in range(round(seconds / 0.05)):
        t += 0.05
        lure.step(time_s=t, dt_s=0.05, tip_m=TIP, bottom_m=bottom_m)
    return t


def test_a_thrown_jig_lands_where_it_was_thrown_and_sinks_at_its_speed():
    lure, t = thrown()
    assert t == pytest.approx(FLIGHT_S, abs=0.06)
    np.testing.assert_allclose(lure.position_m[:2], [0.0, 8.0])
    run(lure, t, 4.0)
    assert lure.position_m[2] == pytest.approx(0.05 + 4.0 * sink_speed_m_s(mass_kg=OUNCE_KG / 16.0), rel=0.02)
    np.testing.assert_allclose(lure.position_m[:2], [0.0, 8.0])


def test_on_a_tight_line_it_swings_on_an_arc_and_slower_than_it_sank():
    lure, t = thrown()
    t = run(lure, t, 6.0)
    lure.close_bail(TIP)
    length, before = np.linalg.norm(lure.position_m - TIP), lure.position_m.copy()
    run(lure, t, 3.0)
    assert np.linalg.norm(lure.position_m - TIP) == pytest.approx(length, abs=1e-6)
    assert lure.position_m[1] < before[1]
    assert 0.0 < lure.position_m[2] - before[2] < 3.0 * sink_speed_m_s(mass_kg=OUNCE_KG / 16.0)


def test_reeling_brings_it_in_and_ends_at_the_rod():
    lure, t = thrown()
    t = run(lure, t, 5.0)
    lure.reel(True, TIP)
    distances = []
    for _ in range(12):
        t = run(lure, t, 1.0)
        distances.append(np.linalg.norm(lure.position_m - TIP))
    assert all(b <= a + 1e-9 for a, b in itertools.pairwise(distances))
    assert lure.state is LureState.STOWED


def test_a_lure_that_hangs_near_the_rod_stays_in_the_water_until_it_is_reeled_in():
    lure, _ = thrown()
    lure.hang(TIP + [0.0, 0.4, 2.1], TIP)
    t = run(lure, 0.0, 4.0)
    assert lure.state is LureState.TIGHT
    assert lure.line_m < STOWED_LINE_M
    lure.reel(True, TIP)
    run(lure, t, 1.0)
    assert lure.state is LureState.STOWED


def test_a_reel_held_while_it_flies_takes_hold_as_it_comes_down(pear_tree):
    world = World(pear_tree, seed=3)
    world.scripted = False
    world.hand()
    world.throw(0.0, 9.0)
    world.advance(0.3)
    world.reel(True)
    assert [one.do for one in world.hand()] == [Doing.THROW]
    world.advance(4.0)
    assert [one.do for one in world.hand()] == [Doing.REEL]
    assert world.lure.state is LureState.TIGHT
    world.advance(30.0)
    assert world.lure.state is LureState.STOWED


def test_it_never_falls_through_the_bottom_and_lifting_raises_it():
    lure, t = thrown()
    t = run(lure, t, 40.0, bottom_m=5.0)
    assert lure.position_m[2] <= 5.0
    lure.close_bail(TIP)
    lure.lift(1.0)
    assert lure.lift_wanted_m == 1.0
    lure.lift(9.0)
    assert lure.lift_wanted_m == 2.0


def test_the_same_seed_lives_the_same_life(pear_tree):
    one, two, other = World(pear_tree, seed=3), World(pear_tree, seed=3), World(pear_tree, seed=4)
    for world in (one, two, other):
        world.advance(20.0)
    places = [np.array([fish.position_m for fish in world.fish]) for world in (one, two, other)]
    np.testing.assert_array_equal(places[0], places[1])
    assert np.abs(places[0] - places[2]).max() > 0.05


def test_fish_stay_in_the_water_and_near_home_when_nobody_fishes(pear_tree):
    world = World(pear_tree, seed=6, scripted=False)
    world.advance(30.0)
    for fish in world.fish:
        assert 0.2 < fish.position_m[2] < world.bottom_m(*fish.position_m[:2])
        assert np.linalg.norm(fish.position_m - fish.home_m) < 0.6
    assert not world.shots


def test_the_scripted_angler_throws_soon_and_fish_answer(pear_tree):
    world = World(pear_tree, seed=7)
    world.advance(3.0)
    assert world.shots
    from mudlamp.core.scene.world import first_acquisition

    acquisition = first_acquisition(pear_tree)
    events = []
    while world.time_s < 60.0:
        world.advance(world.time_s + 0.1)
        events += world.judge(world.pose(acquisition), acquisition.fan)
    assert any(event.time_s < 30.0 for event in events)
    assert {event.token.value for event in events} & {"looked", "followed", "bit"}


def test_eager_fish_bite_more_than_lockjawed_ones(pear_tree):
    def bites(mood):
        scene = replace(pear_tree, fish=tuple(replace(group, mood=mood) for group in pear_tree.fish[:2]))
        world = World(scene, seed=2, longest_step_s=0.1)
        world.advance(150.0)
        return sum(shot.outcome is not None for shot in world.shots)

    assert bites(0.95) > bites(0.05)


def test_a_hooked_fish_is_landed_lost_or_was_missed(pear_tree):
    scene = replace(pear_tree, fish=tuple(replace(group, mood=0.95) for group in pear_tree.fish[:2]))
    world = World(scene, seed=5, longest_step_s=0.1)
    world.advance(200.0)
    outcomes = {shot.outcome for shot in world.shots if shot.end_s is not None}
    assert outcomes <= {None, Outcome.MISSED, Outcome.LOST, Outcome.LANDED}
    assert Outcome.LANDED in outcomes


def test_throwing_again_ends_the_shot_before(pear_tree):
    world = World(pear_tree, seed=1, scripted=False)
    world.throw(0.0, 8.0)
    world.advance(3.0)
    world.throw(0.5, 7.0)
    assert [shot.number for shot in world.shots] == [1, 2]
    assert world.shots[0].end_s == pytest.approx(3.0)
    assert world.shot == 2


def test_truth_says_what_is_in_the_fan_and_what_could_be_seen(pear_pings):
    for ping, rows, _ in pear_pings[::60]:
        for row in rows:
            offset = np.array([row.x_m - ping.pose.x_m, row.y_m - ping.pose.y_m, row.z_m - ping.pose.z_m])
            assert row.range_m == pytest.approx(np.linalg.norm(offset), abs=1e-6)
            if row.seen:
                assert row.in_fan
                assert row.over_db >= SEEN_OVER_DB
                assert abs(row.across_rad) <= math.radians(9.0)
        assert {row.kind for row in rows} >= {"fish", "bait"}


def test_a_lone_target_stands_far_over_bare_water():
    from mudlamp.heads.simulated import SimulatedHead

    head = SimulatedHead(load_scene("lone"), seed=1)
    head.listen(0.0)
    (row,) = head.rows()
    assert (row.kind, row.seen) == ("point", True)
    assert row.over_db > 30.0
    assert row.range_m == pytest.approx(math.hypot(10.0, 4.6), abs=1e-6)


def test_another_head_is_tied_on_and_falls_as_its_weight_has_it():
    """The speeds stand in the ratio that drag has them: the library's sinking speed for each (`fluids`' own check is in tests/reference)."""
    world = World(load_scene("pear-tree"), seed=3, scripted=False)
    falls = []
    for head_kg in (OUNCE_KG / 16.0, OUNCE_KG / 4.0):
        world.throw(0.0, 8.0)
        world.advance(world.time_s + 0.4)
        world.tie(head_kg)
        # What was out came in, and its shot ended.
        assert (world.lure.state, world.shots[-1].end_s) == (LureState.STOWED, pytest.approx(world.time_s))
        world.throw(0.0, 8.0)
        world.advance(world.time_s + 3.0)
        start, at = float(world.lure.position_m[2]), world.time_s
        world.advance(at + 1.0)
        falls.append((float(world.lure.position_m[2]) - start) / (world.time_s - at))
    scene = world.scene.angler
    wanted = [
        tackle(kind=scene.lure, head_kg=one, material=scene.material, line=scene.line).sink_m_s for one in (OUNCE_KG / 16.0, OUNCE_KG / 4.0)
    ]
    assert falls == pytest.approx(wanted, rel=0.05)
    tied = [one.head_kg for one in world.hand() if one.do is Doing.TIED]
    assert tied == pytest.approx([scene.head_kg, OUNCE_KG / 16.0, OUNCE_KG / 4.0])
