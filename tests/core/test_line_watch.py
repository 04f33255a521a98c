"""Where the lure should be: the reckoning against closed forms and the simulated water, and which track is then the lure."""

import math
from dataclasses import replace

import numpy as np
import pytest

from mudlamp.core.casting.fall import REEL_M_S
from mudlamp.core.casting.lure_on_line import FLIGHT_S, ROD_AHEAD_M, ROD_HEIGHT_M, LureState
from mudlamp.core.casting.lures import LureKind, tackle
from mudlamp.core.hand import Doing, HandEvent
from mudlamp.core.ping import Fan, Pose
from mudlamp.core.plane import FanPlane, GroundPlane
from mudlamp.core.scene.draw import draw_water
from mudlamp.core.scene.world import World, first_acquisition
from mudlamp.core.tracking.line_watch import LOST_M, LineWatch
from mudlamp.core.tracking.lure_choice import FAR_M, HIDDEN_S, by_line
from mudlamp.core.tracking.track import Kind
from mudlamp.core.units import OUNCE_KG
from tests.core.tracks import a_plane, a_track, together

POSE = Pose(x_m=0.0, y_m=0.0, z_m=0.4, heading_rad=0.0, pitch_rad=0.0, roll_rad=0.0, tilt_rad=1.2)
HEAD_KG = OUNCE_KG / 16.0
SINK_M_S = tackle(kind=LureKind.JIG, head_kg=HEAD_KG).sink_m_s
LANDED_S = 1.0 + FLIGHT_S


class Fishing:
    """A reckoning with a jig thrown 10 m ahead at 1 s, from a boat that lies still."""

    def __init__(self):
        self.line, self.now_s = LineWatch(), 0.0
        self.does(Doing.TIED, lure=LureKind.JIG, head_kg=HEAD_KG)
        self.until(1.0)
        self.does(Doing.THROW, ahead_m=10.0, across_m=0.0)

    def does(self, do, **more):
        self.line.take(HandEvent(time_s=self.now_s, do=do, **more), POSE)

    def until(self, time_s, *, seen=None, bottom_m=None):
        while self.now_s < time_s - 1e-9:
            self.now_s += 0.05
            self.line.advance(self.now_s, a_plane(), POSE, bottom_m)
            if seen is not None:
                self.line.lean_on(seen(self.now_s))


def test_a_thrown_jig_is_nowhere_until_it_lands_and_then_sinks_at_its_own_speed():
    fishing = Fishing()
    fishing.until(LANDED_S - 0.1)
    assert fishing.line.place is None
    fishing.until(LANDED_S + 6.0)
    ahead, down = fishing.line.place
    assert ahead == pytest.approx(10.0)
    assert down == pytest.approx(6.0 * SINK_M_S, abs=0.1)
    assert fishing.line.speed_m_s == pytest.approx([0.0, SINK_M_S], abs=1e-3)
    fishing.does(Doing.STOW)
    assert fishing.line.place is None


def test_it_lies_on_the_bottom_where_one_is_known():
    fishing = Fishing()
    fishing.until(LANDED_S + 20.0, bottom_m=3.0)
    assert fishing.line.place[1] == pytest.approx(3.0, abs=0.05)


def test_a_reeled_jig_is_as_far_from_the_rod_tip_as_there_is_line():
    fishing = Fishing()
    fishing.until(LANDED_S + 6.0)
    tip = (ROD_AHEAD_M, -ROD_HEIGHT_M)
    before = math.dist(fishing.line.place, tip)
    fishing.does(Doing.REEL)
    fishing.until(LANDED_S + 10.0)
    assert math.dist(fishing.line.place, tip) == pytest.approx(before - 4.0 * REEL_M_S, abs=0.02)


def test_where_it_was_seen_sets_right_how_it_sinks_from_then_on():
    said, fishing = Fishing(), Fishing()

    def true(time_s):
        return 10.3, 0.8 * SINK_M_S * (time_s - LANDED_S)

    fishing.until(LANDED_S + 1.0)
    fishing.until(LANDED_S + 9.0, seen=true)
    for one in (said, fishing):
        one.until(LANDED_S + 15.0)
    assert math.dist(fishing.line.place, true(fishing.now_s)) < 0.25 * math.dist(said.line.place, true(fishing.now_s))
    assert (fishing.line.spread_m < said.line.spread_m).all()


def test_a_mark_that_stands_still_does_not_hold_it_back():
    fishing = Fishing()
    fishing.until(LANDED_S + 2.0)
    still = fishing.line.place
    fishing.until(LANDED_S + 12.0, seen=lambda _time_s: still)
    assert fishing.line.place[1] - still[1] > 0.5 * 10.0 * SINK_M_S


def test_after_lifts_that_nobody_measured_it_may_be_anywhere():
    fishing = Fishing()
    fishing.until(LANDED_S + 3.0)
    doubt = []
    while fishing.line.place is not None and len(doubt) < 100:
        doubt.append(float(fishing.line.spread_m.max()))
        fishing.does(Doing.LIFT)
        fishing.until(fishing.now_s + 0.1)
    assert doubt == sorted(doubt)
    assert len(doubt) < 100
    assert fishing.line.spread_m.max() > LOST_M


FISHED = [seed for seed in range(900, 930) if (water := draw_water(seed)).scene.angler is not None and water.kind.fan is Fan.AHEAD][:3]


@pytest.mark.parametrize("seed", FISHED)
def test_on_drawn_water_the_jig_is_where_it_is_reckoned(seed):
    water = draw_water(seed)
    world, line, off = World(water.scene, seed=seed), LineWatch(), []
    for step in range(1, 600):
        world.advance(0.1 * step)
        pose = world.pose(first_acquisition(water.scene))
        for event in world.hand():
            line.take(event, pose)
        plane = GroundPlane(FanPlane(fan=Fan.AHEAD, tilt_rad=pose.tilt_rad, depth_m=pose.z_m), pose)
        line.advance(world.time_s, plane, pose, None)
        if world.lure is not None and world.lure.state in (LureState.SINKING, LureState.TIGHT) and line.place is not None:
            off.append(math.dist(line.place, plane.project(*world.lure.position_m.tolist())))
    assert len(off) > 50
    assert np.median(off) < 0.4


def test_a_pose_that_says_nothing_is_passed_over_and_made_up_for():
    fishing, sound = Fishing(), Fishing()
    for one in (fishing, sound):
        one.until(LANDED_S + 2.0)
    nowhere = replace(POSE, x_m=math.nan, heading_rad=math.nan)
    fishing.line.take(HandEvent(time_s=fishing.now_s, do=Doing.STOP), nowhere)
    fishing.line.advance(fishing.now_s + 0.5, a_plane(), nowhere, None)
    for one in (fishing, sound):
        one.does(Doing.STOP)
    fishing.now_s += 0.95
    sound.until(sound.now_s + 1.0)
    fishing.until(sound.now_s)
    assert fishing.line.place == pytest.approx(sound.line.place, abs=0.02)


def fished(tracks, *, before=None, at_s=0.0):
    fishing = Fishing()
    fishing.until(LANDED_S + 6.0)
    return by_line(together(*tracks(fishing.line)), fishing.line, before=before, time_s=at_s)


def mark(line, number, *, off=(0.0, 0.0), looks=0.05, goes=None, **more):
    """A track so far off where the lure should be, that looks as much like it, and goes so fast: as it should where nothing is said."""
    at = (line.place[0] + off[0], line.place[1] + off[1])
    track = a_track(number, at, confirmed=True, told=3, odds={Kind.LURE: looks}, **({"covariance": 0.01 * np.eye(4)} | more))
    track.state[2:] = line.speed_m_s if goes is None else goes
    return track


def test_what_goes_as_the_lure_should_is_it_though_another_mark_looks_more_like_it():
    chosen, sure = fished(lambda line: [mark(line, 1, off=(1.2, 0.9), looks=0.6, goes=(0.0, 0.0)), mark(line, 2)])
    assert chosen.number == 2
    assert sure


def test_nothing_is_the_lure_far_from_where_it_should_be_nor_what_was_silent_for_long():
    assert fished(lambda line: [mark(line, 1, off=(FAR_M + 0.1, 0.0), looks=0.98)]) == (None, False)
    assert fished(lambda line: [mark(line, 1)], at_s=HIDDEN_S + 0.1) == (None, False)
    assert fished(lambda line: []) == (None, False)


def test_who_has_the_name_holds_on_to_it_a_little():
    def both(line):
        return [mark(line, 1, off=(0.1, 0.0)), mark(line, 2)]

    assert fished(both)[0].number == 2
    assert fished(both, before=1)[0].number == 1
