import math
from dataclasses import replace

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from mudlamp.core.ping import Fan, Ping, Pose, SonarSetup
from mudlamp.core.plane import GroundPlane
from mudlamp.core.tracking import _kernels_echoes, _kernels_history, associate, filter
from mudlamp.core.tracking.detect import MULTIPLIER, Detector, _unlike_dots
from mudlamp.core.tracking.history import Fixes
from mudlamp.core.tracking.track import Kind
from mudlamp.core.tracking.tracker import LET_GO, NAMED, SURELY, Tracker
from mudlamp.formats.learned import shipped
from tests.core.tracks import a_track, together

SETUP = SonarSetup(
    fan=Fan.AHEAD,
    beam_angle_rad=np.radians((np.arange(192) + 0.5) * 135.0 / 192 - 67.5),
    range_m=(np.arange(700) + 0.5) * 12.2 / 700,
    carrier_hz=900e3,
    pulse_s=50e-6,
    source_level_db=205.0,
    absorption_db_m=0.18,
    sound_speed_m_s=1480.0,
    thickness_rad=math.radians(20.0),
    beam_width_rad=0.0185,
)
POSE = Pose(x_m=1.0, y_m=2.0, z_m=0.4, heading_rad=0.0, pitch_rad=0.0, roll_rad=0.0, tilt_rad=math.radians(22.5))
TVG = 40.0 * np.log10(SETUP.range_m) + 2.0 * 0.18 * SETUP.range_m


def blob(power, beam, bin_, level_db, bins=2.1):
    """Add an echo, as wide as the beam and, if no other width is given, the pulse, to a (beam, range_bin) power after TVG."""
    b, k = np.meshgrid(np.arange(192), np.arange(700), indexing="ij")
    power += 10.0 ** (level_db / 10.0) * np.exp(-4 * math.log(2) * (((b - beam) / 1.5) ** 2 + ((k - bin_) / bins) ** 2))


def ping_of(power, number, rng=None, setup=SETUP):
    """A ping of so much power, with the speckle of `rng` where there is one."""
    speckled = power * (1.0 if rng is None else rng.exponential(1.0, power.shape)) + 1e-12
    return Ping(
        number=number, time_s=number / 15.0, pose=POSE, setup=setup, echo_level_db=(10 * np.log10(speckled) - TVG).astype(np.float32)
    )


def test_false_alarms_stay_rare_in_correlated_speckle(pear_tree):
    from mudlamp.heads.simulated import SimulatedHead

    bare = replace(pear_tree, cover=(), fish=(), bait=(), bottom=None, surface=False)
    head, detector = SimulatedHead(bare, seed=2), Detector()
    counts = [len(detector.detect(head.listen(number / 15.0))) for number in range(30)]
    # Noise alone after TVG lies under the floor at these ranges or gives fewer than one detection in ten pings.
    assert np.mean(counts[3:]) < 1.0


def test_a_target_is_found_where_it_is():
    rng = np.random.default_rng(1)
    detector = Detector()
    for number in range(3):
        power = np.full((192, 700), 1e-8)
        blob(power, 60, 400, -38.0)
        found = detector.detect(ping_of(power, number, rng))
    assert found.range_m[0] == pytest.approx(SETUP.range_m[400], abs=0.03)
    assert found.angle_rad[0] == pytest.approx(SETUP.beam_angle_rad[60], abs=math.radians(0.7))
    ahead = SETUP.range_m[400] * math.sin(POSE.tilt_rad - SETUP.beam_angle_rad[60])
    assert found.place[0, 0] - 2.0 == pytest.approx(ahead, abs=0.1)
    assert found.level_db[0] == pytest.approx(-38.0, abs=3.0)


def test_two_fish_side_by_side_part():
    rng = np.random.default_rng(3)
    detector = Detector()
    for number in range(3):
        power = np.full((192, 700), 1e-8)
        blob(power, 60, 400, -38.0)
        blob(power, 65, 402, -39.0)
        found = detector.detect(ping_of(power, number, rng))
    assert np.count_nonzero(found.level_db > -46.0) == 2


def test_of_two_fish_one_over_the_other_each_is_seen_and_a_long_fish_is_one():
    # Looking level: 0.23 m apart across the beams is upright, 0.23 m apart along range may be one fish's head and tail.
    level = int(np.argmin(np.abs(POSE.tilt_rad - SETUP.beam_angle_rad - math.pi / 2.0))) + 10
    over, behind = np.full((192, 700), 1e-8), np.full((192, 700), 1e-8)
    for power, other in ((over, (level + 3, 370)), (behind, (level, 383))):
        blob(power, level, 370, -38.0, bins=9.0)
        blob(power, *other, -39.0, bins=9.0)
    assert len(Detector().detect(ping_of(over, 0))) == 2
    assert len(Detector().detect(ping_of(behind, 0))) == 1


def found_of(power, places, setup=SETUP):
    """How many of some places (beam, range_bin) are found within half a foot."""
    found = Detector().detect(ping_of(power, 0, setup=setup))
    away = [np.hypot(found.range_m - setup.range_m[k], setup.range_m[k] * (found.angle_rad - setup.beam_angle_rad[b])) for b, k in places]
    return sum(one.min() < 0.15 for one in away)


@pytest.mark.parametrize("count", [20, 30, 40])
def test_in_a_school_no_fish_hides_its_neighbors(count):
    rng, power = np.random.default_rng(1), np.full((192, 700), 1e-8)
    places = []
    # A school 7 by 14 ft, 15 in and more apart.
    while len(places) < count:
        b, k = int(rng.integers(60, 110)), int(rng.integers(340, 460))
        if all(math.hypot((b - i) * 0.086, (k - j) * 0.0174) > 0.38 for i, j in places):
            places.append((b, k))
            blob(power, b, k, -38.0, bins=5.0)
    assert found_of(power, places) == count


def test_under_a_flat_fan_the_bottoms_dots_do_not_crowd_out_the_fish():
    rng, power = np.random.default_rng(5), np.full((192, 700), 1e-8)
    for _ in range(1500):
        b, k = rng.integers(4, 188), rng.integers(200, 690)
        power[b - 2 : b + 3, k - 3 : k + 4] += 10 ** rng.normal(-3.7, 0.2) * np.outer(np.hanning(7)[1:-1], np.hanning(9)[1:-1])
    places = [(40, 300), (70, 420), (100, 520), (130, 610), (150, 380)]
    for place in places:
        blob(power, *place, -36.0, bins=14.0)
    assert found_of(power, places, replace(SETUP, fan=Fan.FLAT)) == len(places)


def test_under_a_flat_fan_a_mark_is_worth_more_the_thicker_it_is_and_the_louder_for_its_range():
    # Power, its first moments over bin and beam, and the second one over bin: marks 3 bins thick at 100 to 400 bins, ever louder with range.
    at, peak = np.repeat([100.0, 200.0, 300.0, 400.0], 5), np.repeat([1e-6, 1e-5, 1e-4, 1e-3], 5)
    one = np.ones(len(at))
    rows = np.column_stack((one, at, one, at**2 + 9.0, one, one, peak, one))
    rows[7, 6] *= 10.0
    rows[13, 3] += 40.0
    worth = _unlike_dots(rows, 0.02)
    assert set(np.argsort(-worth)[:2].tolist()) == {7, 13}
    np.testing.assert_allclose(np.delete(worth, [7, 13]), worth[0])
    assert worth[7] - worth[0] == pytest.approx(0.1)


def test_blended_power_is_the_running_mean_of_linear_power():
    level = np.random.default_rng(1).uniform(-180, -30, (3, 50)).astype(np.float32)
    tvg = np.linspace(0, 60, 50).astype(np.float32)
    mean = np.full((3, 50), 1e-9, np.float32)
    scratch = np.zeros(50, np.float32)
    _kernels_echoes.blend_power(level, tvg, 0.25, scratch.view(np.int32), scratch, mean)
    wanted = 0.25e-9 + 0.75 * 10.0 ** ((level.astype(float) + tvg) / 10.0)
    np.testing.assert_allclose(mean, wanted, rtol=3e-4)


def test_threshold_kernel_agrees_with_brute_force():
    rng = np.random.default_rng(5)
    power = rng.exponential(1.0, (40, 90)).astype(np.float32)
    power[20, 45] = 60.0
    last = np.full(40, 80, np.int64)
    guard, reference, beam_guard, beam_reference = 3, 8, 2, 6
    hit = np.zeros((40, 90), np.bool_)
    _kernels_echoes.threshold(
        power,
        guard,
        reference,
        beam_guard,
        beam_reference,
        MULTIPLIER,
        1e-9,
        last,
        np.zeros(91),
        np.zeros((41, 90), np.float32),
        np.zeros(90, np.float32),
        hit,
    )
    for b in range(beam_guard + beam_reference, 40 - beam_guard - beam_reference):
        for k in range(guard + reference, 80 - guard - reference - 1):
            before = power[b, k - guard - reference : k - guard].mean()
            after = power[b, k + guard + 1 : k + guard + 1 + reference].mean()
            left = power[b - beam_guard - beam_reference : b - beam_guard, k].mean()
            right = power[b + beam_guard + 1 : b + beam_guard + 1 + beam_reference, k].mean()
            level = max(min(before, after), min(left, right))
            if abs(power[b, k] / (MULTIPLIER * level) - 1.0) > 1e-4:
                assert hit[b, k] == (power[b, k] > MULTIPLIER * level)
    assert hit[20, 45]
    assert not hit[:, 80:].any()


def test_components_join_neighbors_and_sum_them():
    hit = np.zeros((8, 30), np.bool_)
    hit[2, 5:9] = hit[3, 8:12] = hit[6, 20:22] = True
    power = np.ones((8, 30), np.float32)
    runs = [np.zeros(50, np.int32) for _ in range(4)]
    table = np.zeros((10, 8))
    count, found = _kernels_echoes.components(hit, power, 1, *runs, table)
    assert (count, found) == (2, 3)
    assert sorted(table[:2, 5]) == [2.0, 8.0]
    big = table[np.argmax(table[:2, 5])]
    assert big[1] / big[0] == pytest.approx(np.mean([5, 6, 7, 8, 8, 9, 10, 11]))


def test_the_bottom_is_learned_from_pings(pear_pings, pear_tree):
    tracker = Tracker(shipped())
    for ping, _, _ in pear_pings[:40]:
        tracker.update(ping)
    for ahead in (2.0, 5.0, 9.0):
        assert tracker.detector.bottom.depth_m(ahead) == pytest.approx(pear_tree.bottom.depth_m, abs=0.5)
    assert tracker.detector.bottom.depth_m(500.0) is None


def test_a_boat_that_swings_far_from_the_worlds_origin_follows_the_same_fish(pear_pings):
    near, far = Tracker(shipped()), Tracker(shipped())
    assert max(ping.pose.heading_rad for ping, _, _ in pear_pings) - min(ping.pose.heading_rad for ping, _, _ in pear_pings) > 0.05
    for ping, _, _ in pear_pings[:150]:
        moved = replace(ping, pose=replace(ping.pose, x_m=ping.pose.x_m + 640.0, y_m=ping.pose.y_m - 910.0))
        here, there = near.update(ping), far.update(moved)
    assert len(here) > 5
    assert [(one.number, one.kind) for one in there] == [(one.number, one.kind) for one in here]
    for a, b in zip(here, there, strict=True):
        assert (b.range_m, b.angle_rad) == (pytest.approx(a.range_m, abs=1e-6), pytest.approx(a.angle_rad, abs=1e-6))
        assert (b.world[0], b.world[1]) == (pytest.approx(a.world[0] + 640.0, abs=1e-6), pytest.approx(a.world[1] - 910.0, abs=1e-6))
        # To others the place counts from the world's origin: as the boat sees it, it is the same.
        seen, told = GroundPlane.of(ping).from_boat(a.place), GroundPlane.of(moved).from_boat(b.place)
        assert told == (pytest.approx(seen[0], abs=1e-6), pytest.approx(seen[1], abs=1e-6))


@pytest.mark.parametrize("unsaid", ["heading_rad", "x_m", "y_m"])
def test_a_pose_that_is_not_said_spoils_no_later_ping(pear_pings, unsaid):
    tracker = Tracker(shipped())
    for number, (ping, _, _) in enumerate(pear_pings[:75]):
        views = tracker.update(replace(ping, pose=replace(ping.pose, **{unsaid: math.nan})) if number in (0, 40, 41) else ping)
    assert len(views) > 5
    assert all(math.isfinite(one.range_m) and math.isfinite(one.world[0]) for one in views)


@given(u=st.floats(0.5, 9.0), z=st.floats(1.0, 6.0), heading=st.floats(-3.0, 3.0))
def test_plane_and_polar_places_are_each_others_inverse(u, z, heading):
    pose = Pose(x_m=3.0, y_m=-2.0, z_m=0.4, heading_rad=heading, pitch_rad=0.02, roll_rad=0.0, tilt_rad=0.4)
    plane = GroundPlane.of(Ping(number=0, time_s=0.0, pose=pose, setup=SETUP, echo_level_db=np.zeros((192, 700), np.float32)))
    place = np.array([[plane.origin[0] + u, z]])
    range_m, angle = (float(found[0]) for found in plane.polar(place))
    look = pose.tilt_rad + pose.pitch_rad - angle
    assert range_m * math.sin(look) == pytest.approx(u, abs=1e-9)
    assert 0.4 + range_m * math.cos(look) == pytest.approx(z, abs=1e-9)
    x, y, depth = plane.world(place)[0]
    assert math.hypot(x - 3.0, y + 2.0) == pytest.approx(u, abs=1e-9)
    assert depth == z


def test_a_place_under_a_flat_fan_is_told_ahead_and_to_the_right():
    pose = Pose(x_m=3.0, y_m=-2.0, z_m=0.4, heading_rad=math.pi / 2, pitch_rad=0.0, roll_rad=0.0, tilt_rad=math.radians(80))
    ping = Ping(number=0, time_s=0.0, pose=pose, setup=replace(SETUP, fan=Fan.FLAT), echo_level_db=np.zeros((192, 700), np.float32))
    plane = GroundPlane.of(ping)
    # Heading east: five meters east is ahead, two meters south is to the right.
    assert plane.from_boat((8.0, -4.0)) == pytest.approx((5.0, 2.0))
    assert plane.turned((0.0, -1.0)) == pytest.approx((0.0, 1.0))
    _, angle = plane.polar(np.array([[8.0, -4.0]]))
    # Along the center line it is 5 m over the sine of the tilt. Plain geometry.
    assert angle[0] == pytest.approx(math.atan2(2.0, 5.0 / math.sin(math.radians(80))))


def test_the_filter_agrees_with_the_textbook_on_one_track():
    state, covariance = np.array([[0.0, 0.0, 1.0, 0.5]]), np.array([np.diag([0.1, 0.2, 0.3, 0.4])])
    state, covariance = filter.predict(state, covariance, 0.5, np.array([filter.ACCELERATION_M_S2]))
    np.testing.assert_allclose(state, [[0.5, 0.25, 1.0, 0.5]])
    noise = np.array([[[0.05, 0.01], [0.01, 0.04]]])
    off = np.array([0.7, 0.2]) - state[0, :2]
    # The Mahalanobis distance squared by its definition.
    wanted = off @ np.linalg.inv(covariance[0, :2, :2] + noise[0]) @ off
    np.testing.assert_allclose(filter.distances(state, covariance, np.array([[0.7, 0.2]]), noise), [[wanted]])
    new, smaller = filter.update(state, covariance, np.array([[0.7, 0.2]]), noise)
    h = np.eye(2, 4)
    gain = covariance[0] @ h.T @ np.linalg.inv(h @ covariance[0] @ h.T + noise[0])
    np.testing.assert_allclose(new[0], state[0] + gain @ (np.array([0.7, 0.2]) - state[0, :2]))
    np.testing.assert_allclose(smaller[0], (np.eye(4) - gain @ h) @ covariance[0], atol=1e-12)


def test_assignment_is_the_cheapest_of_all_and_keeps_the_gate():
    rng = np.random.default_rng(8)
    for _ in range(20):
        cost = rng.uniform(0.0, 20.0, (3, 3))
        rows, columns = associate.assign(cost)
        capped = np.minimum(cost, associate.GATE)
        import itertools

        best = min(sum(capped[i, order[i]] for i in range(3)) for order in itertools.permutations(range(3)))
        total = sum(cost[i, j] for i, j in zip(rows, columns, strict=True)) + associate.GATE * (3 - len(rows))
        assert total == pytest.approx(best)
        assert np.all(cost[rows, columns] < associate.GATE)


def test_smoothing_recovers_a_straight_line_in_noise():
    rng = np.random.default_rng(4)
    fixes = Fixes()
    for step in range(30):
        t = step / 15.0
        noise = rng.normal(0.0, 0.05, 2)
        fixes.add(t, (0.3 * t + noise[0], 2.0 + noise[1]), -40.0)
    assert fixes.smoothed(at_s=1.0, half_s=0.45) == pytest.approx((0.3, 2.0), abs=0.05)
    assert fixes.smoothed(at_s=9.0, half_s=0.45) is None


def test_fixes_of_a_straight_way_give_its_speed_and_forget_what_is_old():
    fixes = Fixes()
    # 40 s at 25 a second: many times the room there is.
    for step in range(1000):
        t = step / 25.0
        fixes.add(t, (0.5 * t, 10.0 - 0.25 * t), -40.0)
    assert len(fixes) == pytest.approx(6.0 * 25, abs=2)
    ahead, down, span = fixes.travel(since_s=t - 3.0)
    # The middles of first and last quarter lie three quarters of the span apart, less one step.
    apart = span * (1.0 - 18.0 / 74.0) if span > 2.9 else math.nan
    assert (ahead, down) == pytest.approx((0.5 * apart, -0.25 * apart), rel=0.02)
    assert fixes.fast_steps(at_s=t - 1.0, half_s=0.45, speed_m_s=0.5) == (22, pytest.approx(math.hypot(0.5, 0.25)))
    assert fixes.fast_steps(at_s=t - 1.0, half_s=0.45, speed_m_s=0.6)[0] == 0
    assert fixes.smoothed(at_s=t - 1.0, half_s=0.45) == pytest.approx((0.5 * (t - 1.0), 10.0 - 0.25 * (t - 1.0)), abs=1e-6)


@pytest.mark.parametrize("name", ["line_fit", "travel", "fast_steps"])
def test_kernels_of_fixes_are_their_python(name):
    rng = np.random.default_rng(8)
    time, place = np.sort(rng.uniform(0.0, 4.0, 60)), rng.normal(0.0, 1.0, (60, 2))
    rest = {"line_fit": (2.0, 0.6), "travel": (1.5,), "fast_steps": (2.0, 0.6, 3.0)}[name]
    one, two = np.zeros(4), np.zeros(4)
    kernel = getattr(_kernels_history, name)
    assert kernel(time, place, 5, 55, *rest, one) == pytest.approx(kernel.py_func(time, place, 5, 55, *rest, two))
    np.testing.assert_allclose(one, two)


def test_fish_in_the_open_are_followed_and_called_fish(pear_pings):
    tracker = Tracker(shipped())
    right = there = 0
    for ping, rows, _ in pear_pings:
        tracks = tracker.update(ping)
        if ping.time_s < 4.0:
            continue
        for row in rows:
            if row.kind == "fish" and row.seen and row.over_db > 15.0:
                there += 1
                near = [
                    one for one in tracks if math.hypot(one.range_m - row.range_m, (one.angle_rad - row.angle_rad) * row.range_m) < 0.45
                ]
                right += any(one.kind is Kind.FISH for one in near)
    assert there > 400
    assert right / there > 0.7


def test_a_falling_jig_is_told_from_the_fish(pear_pings):
    tracker = Tracker(shipped())
    right = there = 0
    for ping, rows, _ in pear_pings:
        tracks = tracker.update(ping)
        for row in rows:
            if row.kind == "lure" and row.seen and ping.time_s > 6.0:
                there += 1
                right += any(one.kind is Kind.LURE and abs(one.range_m - row.range_m) < 0.4 for one in tracks)
    assert there > 40
    # A jig is named only when it has sunk far enough to show that it travels: the first seconds of each throw do not count for it.
    assert right / there > 0.3


def test_a_lost_ping_leaves_the_tracks_as_they_were(pear_pings):
    tracker = Tracker(shipped())
    for ping, _, _ in pear_pings[:60]:
        before = {one.number for one in tracker.update(ping) if one.kind is Kind.FISH and one.age_s > 2.0}
    after = {one.number for one in tracker.update(pear_pings[63][0])}
    assert before
    assert before <= after


def names_of(*odds):
    """What a mark is called as fish becomes as likely as that, one telling after the other."""
    track, names = a_track(1, (8.0, 3.0)), []
    for fish in odds:
        track.told += 1
        track.odds = {Kind.FISH: fish, Kind.COVER: 1.0 - fish}
        Tracker._name(together(track))
        names.append(track.kind)
    return names


def test_a_sure_fish_is_named_at_once_a_likely_one_after_some_tellings_and_neither_loses_its_name_by_one_look():
    fish, cover = Kind.FISH, Kind.COVER
    assert names_of(SURELY + 0.02, 0.3, 0.3, LET_GO - 0.1, 0.3) == [fish, fish, fish, cover, cover]
    assert names_of(NAMED + 0.1, NAMED + 0.1, NAMED + 0.1, NAMED + 0.1, 0.3) == [cover, cover, cover, fish, fish]


def seen_for_s(rise_m_s):
    """How long a mark that rises for two seconds from 1.3 m under the surface, and is then gone, is still followed [s]."""
    rng, tracker, last_s = np.random.default_rng(3), Tracker(), 0.0
    for number in range(70):
        power = np.full((192, 700), 1e-7)
        if number < 30:
            deep = 1.3 - rise_m_s * number / 15.0
            place = np.array([[POSE.y_m + 5.0, deep]])
            range_m, angle_rad = GroundPlane.of(ping_of(power, number)).polar(place)
            blob(power, np.argmin(np.abs(SETUP.beam_angle_rad - angle_rad[0])), np.argmin(np.abs(SETUP.range_m - range_m[0])), -38.0)
        views = tracker.update(ping_of(power, number, rng))
        last_s = number / 15.0 if views else last_s
    return last_s - 2.0


def test_what_rose_out_of_the_water_is_not_followed_above_it():
    assert seen_for_s(0.0) > 1.0
    assert 0.3 < seen_for_s(0.45) < 0.9


def test_the_tracker_takes_nothing_but_pings(pear_pings):
    one, two = Tracker(shipped()), Tracker(shipped())
    for ping, _, _ in pear_pings[:20]:
        assert one.update(ping) == two.update(ping)


def test_a_known_fish_keeps_on_as_it_does_unless_it_has_just_darted_off_or_is_beside_the_lure():
    tracker = Tracker()
    fish = {"confirmed": True, "kind": Kind.FISH}
    tracks = [
        a_track(1, (8.0, 3.0), roster=tracker.roster, **fish),
        a_track(2, (13.0, 3.0), roster=tracker.roster, **fish),
        a_track(3, (13.0, 4.0), roster=tracker.roster, **(fish | {"confirmed": False})),
        a_track(4, (14.0, 4.0), roster=tracker.roster, **(fish | {"kind": Kind.COVER})),
        a_track(6, (15.0, 4.0), roster=tracker.roster, **fish),
    ]
    tracker.roster.bolted_s[tracks[-1].row] = 9.0
    tracker.tracks = together(*tracks)
    calm, known, darts = filter.FISH_M_S2, filter.ACCELERATION_M_S2, filter.DART_M_S2
    # A step of 0.5 s adds its square times the acceleration's to the speed's variance.
    start = 1.0 + 0.25 * np.array([calm**2, calm**2, known**2, known**2, darts**2])
    np.testing.assert_allclose(tracker._predict(0.5, 10.0)[1][:, 2, 2], start)
    lure = a_track(5, (9.0, 3.0), roster=tracker.roster, confirmed=True, kind=Kind.LURE)
    tracker.tracks = together(*tracks, lure)
    after = tracker._predict(0.5, 10.0)[1][:, 2, 2] - np.append(start, 1.0)
    np.testing.assert_allclose(after, 0.25 * np.array([known**2, calm**2, known**2, known**2, darts**2, known**2]))
