"""Bait that tightens and bursts: in the water against what its members do, and as it is told of what is followed."""

from types import SimpleNamespace

import numpy as np
import pytest

from mudlamp.core.chance import stream
from mudlamp.core.scene.bait import FLUNG, TIGHT, Cloud
from mudlamp.core.scene.fish import Mode
from mudlamp.core.scene.model import BaitCloud
from mudlamp.core.scene.world import World
from mudlamp.core.tracking.bait_watch import BaitDoing, BaitWatch, spread_ratio
from mudlamp.core.tracking.track import Kind
from mudlamp.core.tracking.tracker import Tracker
from mudlamp.formats.learned import shipped
from mudlamp.formats.scene.file import load_scene
from mudlamp.heads.simulated import SimulatedHead

HZ = 15.0


def a_cloud():
    return Cloud("bait1", BaitCloud(x_m=0.0, y_m=8.0, z_m=4.0, radius_m=1.0, count=120), stream(1, "bait"))


def reach(cloud, time_s):
    """How far the members are from their middle, by their own places."""
    places = cloud.places_m(time_s)
    return float(np.linalg.norm(places - places.mean(axis=0), axis=1).max())


def test_bait_draws_together_before_a_hunter_and_eases_again():
    cloud, at_ease = a_cloud(), reach(a_cloud(), 0.0)
    for n in range(150):
        place = cloud.center_m(n / HZ) + [2.0, 0.0, 0.0]
        cloud.step(time_s=n / HZ, dt_s=1 / HZ, hunters_m=place[None], charging=np.array([False]))
    assert reach(cloud, 10.0) < (TIGHT + 0.2) * at_ease
    for n in range(150, 600):
        cloud.step(time_s=n / HZ, dt_s=1 / HZ, hunters_m=np.zeros((0, 3)), charging=np.zeros(0, bool))
    assert reach(cloud, 40.0) == pytest.approx(at_ease, rel=0.15)


def test_bait_bursts_when_a_hunter_shoots_through_and_not_before():
    cloud = a_cloud()
    # Three seconds beside it, then through it at 2 m/s.
    for n in range(90):
        away = max(2.0 - 2.0 * max(n / HZ - 3.0, 0.0), -2.0)
        cloud.step(time_s=n / HZ, dt_s=1 / HZ, hunters_m=(cloud.center_m(n / HZ) + [away, 0.0, 0.0])[None], charging=np.array([n >= 45]))
        if n == 44:
            assert cloud.size < 1.0
        if n == 75:
            # A second later it has flown apart; its reach is told as it is.
            assert 0.8 * FLUNG < cloud.size < TIGHT + FLUNG + 0.2
            assert cloud.radius_m == pytest.approx(1.0 * cloud.size)


def test_what_flies_apart_near_the_top_stays_in_the_water():
    cloud = Cloud("bait1", BaitCloud(x_m=0.0, y_m=8.0, z_m=0.7, radius_m=1.0, count=120), stream(1, "bait"))
    for n in range(20):
        cloud.step(time_s=n / HZ, dt_s=1 / HZ, hunters_m=cloud.center_m(n / HZ)[None], charging=np.array([True]))
    assert cloud.size > 1.5
    assert cloud.places_m(20 / HZ)[:, 2].min() >= 0.0


def test_a_giant_over_bait_stalks_it_shoots_through_it_and_goes_home():
    world = World(load_scene("giant-over-bait"), seed=1)
    (cloud,) = world.clouds
    (giant,) = [one for one in world.fish if one.species.value == "largemouth"]
    modes, sizes = [], []
    for n in range(int(120 * HZ)):
        world.advance((n + 1) / HZ)
        modes.append(giant.mode)
        sizes.append(cloud.size)
    first = modes.index(Mode.CHARGE)
    assert Mode.STALK in modes[:first]
    assert sizes[first] < 0.8
    assert max(sizes[first : first + 45]) > 1.3
    assert Mode.HOLD in modes[first:]


# What is followed of it.


def test_a_spread_is_what_the_same_places_grew_by_however_they_moved_and_turned():
    rng = np.random.default_rng(5)
    before = rng.normal(0.0, 1.0, (30, 2))
    turn = np.array([[np.cos(0.4), -np.sin(0.4)], [np.sin(0.4), np.cos(0.4)]])
    assert spread_ratio(before, 1.7 * before @ turn + [3.0, -1.0]) == pytest.approx(1.7)
    # Four that jumped anywhere change the middle little; what stood on one spot tells nothing.
    now = 0.6 * before
    now[:4] = rng.normal(0.0, 8.0, (4, 2))
    assert spread_ratio(before, now) == pytest.approx(0.6, rel=0.05)
    assert spread_ratio(0.01 * before, before) is None


def told(sizes, *, echoes=14, noise_m=0.03, kind=Kind.BAIT, drift_m_s=0.2):
    """What a watch tells of echoes strewn over a meter that are so far apart (a size a ping)."""
    rng, watch, events = np.random.default_rng(3), BaitWatch(), []
    spots = rng.normal(0.0, 0.45, (echoes, 2))
    for n, size in enumerate(sizes):
        places = [8.0 + drift_m_s * n / HZ, 4.0] + size * spots + rng.normal(0.0, noise_m, (echoes, 2))
        tracks = [SimpleNamespace(number=i, place=tuple(place), kind=kind, coasting=False) for i, place in enumerate(places)]
        watch.update(tracks, n / HZ)
        events += watch.events
    return events, watch


def test_a_cloud_that_draws_together_and_bursts_is_told_each_once():
    calm, closing = np.ones(60), np.linspace(1.0, 0.5, 45)
    flies = np.concatenate((np.linspace(0.5, 1.3, 9), np.full(30, 1.3)))
    events, watch = told(np.concatenate((calm, closing, flies)))
    assert [one.doing for one in events] == [BaitDoing.TIGHTENS, BaitDoing.BURSTS]
    tight, burst = events
    assert 4.0 < tight.time_s < 7.5
    assert tight.after_m < tight.before_m
    assert 7.0 < burst.time_s < 8.5
    assert burst.after_m > burst.before_m
    assert burst.place == pytest.approx((8.0 + 0.2 * burst.time_s, 4.0), abs=0.4)
    assert {doing for _, doing in watch.clouds} == {BaitDoing.BURSTS}
    # Said for a while, told again only later.
    events, watch = told(np.concatenate((calm, closing, flies, np.full(90, 1.3))))
    assert [one.doing for one in events] == [BaitDoing.TIGHTENS, BaitDoing.BURSTS]
    assert {doing for _, doing in watch.clouds} == {None}


@pytest.mark.parametrize("changes", [{"echoes": 4}, {"kind": Kind.FISH}, {"kind": Kind.COVER}], ids=["too few", "fish", "cover"])
def test_nothing_is_told_of_what_is_no_cloud(changes):
    assert told(np.concatenate((np.ones(60), np.linspace(1.0, 0.4, 30), np.linspace(0.4, 1.4, 30))), **changes)[0] == []


def test_a_calm_cloud_that_mills_about_is_left_alone():
    assert told(1.0 + 0.08 * np.sin(np.arange(900) / HZ), noise_m=0.08)[0] == []


def test_a_burst_is_told_of_pings():
    # Water on which nothing was set; the hunt is drawn from the seed.
    head, tracker, watch = SimulatedHead(load_scene("ledge"), seed=1), Tracker(shipped()), BaitWatch()
    (cloud,) = head.world.clouds
    was, burst_s, events = 1.0, None, []
    for n in range(int(20 * HZ)):
        ping = head.listen(n / HZ)
        if burst_s is None and cloud.size > was + 0.04:
            burst_s = ping.time_s
        was = cloud.size
        (row,) = [one for one in head.rows() if one.kind == "bait"]
        assert row.radius_m == cloud.radius_m
        watch.update(tracker.update(ping), ping.time_s)
        events += [one for one in watch.events if one.doing is BaitDoing.BURSTS]
    assert burst_s is not None
    assert [0.0 < one.time_s - burst_s < 3.0 for one in events] == [True]
