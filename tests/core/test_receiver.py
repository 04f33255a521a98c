import itertools
import math
from dataclasses import replace

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from mudlamp.core.advice.auto import auto_down_to, speckle_gain
from mudlamp.core.errors import DomainError
from mudlamp.core.ping import Ping, Pose
from mudlamp.core.receiver import _kernels
from mudlamp.core.receiver.bounces import bottom_under_m
from mudlamp.core.receiver.chain import QUIETING_FAST_S, Receiver
from mudlamp.core.receiver.inks import INKS, lightness
from mudlamp.core.receiver.law import lag_s, near_cut_profile_db, span_db, tvg_db
from mudlamp.core.receiver.readings import ReadingsMeter, parting_m
from mudlamp.core.receiver.screen import Screen, mark_on_screen, scales, visual_angle_arcmin
from mudlamp.core.receiver.trial import changes, cheapest_remedy, present_price, readings_under
from mudlamp.core.scene.model import PointTarget, Post
from mudlamp.core.setup import ReceiverSetup, Window, checked_setup, with_control
from mudlamp.core.units import FOOT_M
from mudlamp.formats.scene.file import load_scene
from mudlamp.heads.simulated import SimulatedHead
from tests.reference.test_echo import lone, place_on_cell

WINDOW = Window(down_to_m=7.3, reach_m=12.2, look_back_m=0.6)


def pictures(pings, setup):
    receiver = Receiver(setup)
    return [receiver.develop(ping) for ping, _, _ in pings]


def measured(pings, setup):
    receiver, meter = Receiver(setup), ReadingsMeter(keep=10_000)
    for ping, rows, _ in pings:
        meter.add(ping, receiver.develop(ping), setup, WINDOW, rows)
    return meter.readings(setup)


def with_lure(pings):
    return [one for one in pings if any(row.kind == "lure" and row.seen for row in one[1])]


def test_more_gain_never_darkens_a_cell_and_never_lowers_clutter(pear_pings):
    dim, hot = (pictures(pear_pings[:4], ReceiverSetup(gain=gain))[-1] for gain in (55.0, 75.0))
    assert np.all(hot >= dim)
    fills = [measured(pear_pings[:12], ReceiverSetup(gain=gain)).clutter_fill_pct for gain in (50.0, 60.0, 70.0, 80.0, 90.0)]
    assert fills == sorted(fills)
    assert fills[-1] > 10.0 > 2.0 > fills[0]


def test_little_gain_erases_the_jig_and_much_brings_it_back(pear_pings):
    pings = with_lure(pear_pings)[:30]
    faint, clear = measured(pings, ReceiverSetup(gain=45.0)), measured(pings, ReceiverSetup(gain=70.0))
    assert "lure" in faint.erased
    assert "lure" not in clear.erased
    assert clear.lure_over_clutter_db > faint.lure_over_clutter_db + 4.0


def test_quieting_calms_the_picture_and_lags(pear_pings):
    raw, calm = (np.array(pictures(pear_pings[:10], ReceiverSetup(gain=80.0, quieting_pings=count))[5:], float) for count in (1, 5))
    flicker = [np.abs(np.diff(each, axis=0)).mean() for each in (raw, calm)]
    assert flicker[1] < 0.5 * flicker[0]
    assert lag_s(5, 0.05) == pytest.approx(0.1)
    lags = [lag_s(count, 0.05) for count in (1, 2, 3, 5)]
    assert lags == sorted(lags)


@pytest.mark.parametrize(("count", "wanted"), [(1, np.mean), (2, np.mean), (3, np.median), (5, np.median)])
def test_quieting_is_the_mean_of_two_pings_and_the_middle_of_more(count, wanted):
    ring = np.random.default_rng(1).normal(-90.0, 5.0, (5, 6, 40)).astype(np.float32)
    out, plain = np.zeros((6, 40), np.float32), np.zeros((6, 40), np.float32)
    _kernels.integrate(ring, 1, count, out)
    _kernels.integrate.py_func(ring, 1, count, plain)
    newest = ring[[(1 - back) % 5 for back in range(count)]]
    np.testing.assert_allclose(out, wanted(newest, axis=0), atol=1e-4)
    np.testing.assert_allclose(plain, out, atol=1e-4)


def constant_pings(levels_db, *, every_s=0.05):
    """Pings of even water at -110 dB with what `levels_db(number)` puts into it: {(beam, bin): level}."""
    setup = SimulatedHead(load_scene("lone"), seed=1).listen(0.0).setup
    pose = Pose(x_m=0, y_m=0, z_m=0.4, heading_rad=0, pitch_rad=0, roll_rad=0, tilt_rad=math.radians(22.5))
    for number in itertools.count():
        level = np.full((192, 700), -110.0, np.float32)
        for (beam, bin_), value in levels_db(number).items():
            level[beam, bin_] = value
        yield Ping(number=number, time_s=number * every_s, pose=pose, setup=setup, echo_level_db=level)


def test_quieting_takes_spokes_of_one_ping_and_with_them_what_moves_fast():
    spoke = constant_pings(lambda number: {(90, 300): -50.0} if number == 6 else {})
    mover = constant_pings(lambda number: {(90, 300 + 2 * number): -50.0})
    still = constant_pings(lambda number: {(90, 300): -50.0})
    for quieting, shown in ((1, (True, True, True)), (3, (False, False, True)), (5, (False, False, True))):
        for pings, wanted in zip((spoke, mover, still), shown, strict=True):
            receiver = Receiver(ReceiverSetup(gain=65.0, quieting_pings=quieting))
            pictures_ = [receiver.develop(next(pings)) for _ in range(8)]
            assert (max(int(picture[88:93, 295:325].max()) for picture in pictures_[5:]) > 40) is wanted
        spoke = constant_pings(lambda number: {(90, 300): -50.0} if number == 6 else {})
        mover = constant_pings(lambda number: {(90, 300 + 2 * number): -50.0})


def test_quieting_settles_with_its_time_constant_and_can_be_run_fast():
    pings = constant_pings(lambda number: {}, every_s=30.0)
    slow, fast = Receiver(ReceiverSetup(quieting_pings=2)), Receiver(ReceiverSetup(quieting_pings=2))
    fast.settling_s = QUIETING_FAST_S
    for _ in range(11):
        ping = next(pings)
        slow.develop(ping)
        fast.develop(ping)
    # After a time constant 63 % (closed form of an exponential), the fast one is done.
    assert slow.settled_pct == pytest.approx(100.0 * (1.0 - math.exp(-1.0)), abs=0.5)
    assert fast.settled_pct > 99.9
    assert Receiver().settled_pct == 100.0


def test_ghost_cut_takes_the_bounce_of_a_post_and_a_weak_fish_that_stands_in_its_place():
    rock = load_scene("rock-shallows")
    post = Post(x_m=0.0, y_m=5.0, radius_m=0.15, height_m=2.0)
    # By the bottom the post's front at 0.9 m seems (r2 - r1) / 2 farther: at r1 = 4.89, r2 = hypot(4.86, 3.7) = 6.11 m, 0.6 m (image method).
    front = 5.0 - 0.14
    here = 0.5 * (math.hypot(front, 0.5) + math.hypot(front, 3.7))
    weak = PointTarget(x_m=0.0, y_m=here * 5.0 / math.hypot(5.0, 0.5), z_m=0.4 + here * 0.5 / math.hypot(5.0, 0.5), ts_db=-58.0)
    shown = {}
    for name, targets in (("ghost", ()), ("fish", (weak,))):
        scene = replace(
            rock, cover=(post,), fish=(), angler=None, targets=targets, bottom=replace(rock.bottom, relief_m=0.0),
            boat=replace(rock.boat, sway_rad=0.0, drift_m=0.0, pitch_rad=0.0),
        )  # fmt: skip
        head = SimulatedHead(scene, seed=1)
        pings = [head.listen(number / 15.0) for number in range(6)]
        setup = pings[0].setup
        beam = int(np.argmin(np.abs(setup.beam_angle_rad - (pings[0].pose.tilt_rad - math.atan2(5.0, 0.5)))))
        cell = int(np.argmin(np.abs(setup.range_m - here)))
        for cut in (0.0, 22.0):
            receiver = Receiver(ReceiverSetup(gain=85.0, ghost_cut_db=cut))
            boxes = [receiver.develop(ping)[beam - 1 : beam + 2, cell - 3 : cell + 4] for ping in pings]
            shown[name, cut] = float(np.mean(boxes))
    assert shown["ghost", 0.0] > 2.0 * shown["ghost", 22.0] + 4.0
    assert shown["fish", 0.0] > 1.5 * shown["fish", 22.0]


def test_the_bounce_filter_finds_the_bottom_under_the_boat():
    rock = load_scene("rock-shallows")
    ping = SimulatedHead(replace(rock, fish=(), cover=(), angler=None, bottom=replace(rock.bottom, relief_m=0.0)), seed=2).listen(0.0)
    found = bottom_under_m(ping.echo_level_db, tvg_db(ping.setup.range_m, ping.setup.absorption_db_m), ping)
    # The strongest of the beams within 20 deg of plumb, and of what lies just under the ground.
    assert 2.05 <= found <= 2.1 / math.cos(math.radians(20.0)) + 0.05


def test_the_speckle_gain_leaves_open_water_dark_and_says_what_it_measured(pear_pings):
    sample = [ping for ping, _, _ in pear_pings[:6]]
    choice = speckle_gain(sample, ReceiverSetup())
    assert 50.0 <= choice.value <= 90.0
    table = lightness(INKS["soot"].table)
    faintest = int(np.argmax(np.abs(table - table[0]) >= 10.0))
    range_m = sample[0].setup.range_m
    downward = np.cos(sample[0].pose.tilt_rad - sample[0].setup.beam_angle_rad)
    open_water = (range_m > 1.5) & (downward[:, None] * range_m < 0.8 * 5.7)
    lit = [np.mean(Receiver(ReceiverSetup(gain=choice.value)).develop(ping)[open_water] >= faintest) for ping in sample]
    # 95 of 100 cells should stay dark; Gain moves in steps of 0.6 dB, and the boat pitches a little.
    assert np.mean(lit) == pytest.approx(0.05, abs=0.02)


def test_auto_down_to_keeps_the_bottom_in_view(pear_pings):
    choice = auto_down_to([ping for ping, _, _ in pear_pings[:6]])
    assert choice.deepest_m == pytest.approx(6.1, abs=0.5)
    assert choice.value == pytest.approx(1.15 * choice.deepest_m)


def test_a_screen_has_two_scales_and_a_visual_angle():
    # 1280 x 800 at Reach 40 and 24 ft: 30 and 33 px a foot with 2 ft of Look-back; Reach 80 over 15 ft: 16 and 53 (common practice).
    screen = Screen()
    near = scales(screen, Window(down_to_m=24 * FOOT_M, reach_m=40 * FOOT_M, look_back_m=2 * FOOT_M))
    far = scales(screen, Window(down_to_m=15 * FOOT_M, reach_m=80 * FOOT_M, look_back_m=0.0))
    assert (near.across_px_m * FOOT_M, near.down_px_m * FOOT_M) == pytest.approx((30.5, 33.3), abs=0.1)
    assert (far.across_px_m * FOOT_M, far.down_px_m * FOOT_M, far.stretch) == pytest.approx((16.0, 53.3, 3.33), abs=0.05)
    # One part in 3437.75 of the distance is a minute of arc (definition).
    assert visual_angle_arcmin(1.0 / 3437.75, 1.0) == pytest.approx(1.0, abs=1e-4)
    mark = mark_on_screen(
        screen, Window(down_to_m=7.3, reach_m=12.2, look_back_m=0.6), across_m=0.15, down_m=0.04, contrast=30.0, least_contrast=10.0
    )
    assert mark.seen
    tiny = mark_on_screen(
        replace(screen, distance_m=3.0),
        Window(down_to_m=36.0, reach_m=36.0, look_back_m=36.0),
        across_m=0.01,
        down_m=0.01,
        contrast=30.0,
        least_contrast=10.0,
    )
    assert not tiny.seen
    assert not mark_on_screen(screen, WINDOW, across_m=0.15, down_m=0.04, contrast=9.0, least_contrast=10.0).seen


def test_the_cheapest_remedy_brings_back_what_is_erased(pear_pings):
    samples = [(ping, rows) for ping, rows, _ in with_lure(pear_pings)[:12]]
    dark = ReceiverSetup(gain=42.0)
    lost = set(readings_under(dark, samples, WINDOW, settling_s=8.0).erased)
    assert lost
    verdict = cheapest_remedy(dark, samples, WINDOW, settling_s=8.0)
    remedy = verdict.remedy
    assert set(verdict.lost) == lost
    assert set(remedy.brings) <= lost
    mended = readings_under(with_control(dark, remedy.control, remedy.value), samples, WINDOW, settling_s=8.0)
    assert not set(remedy.brings) & set(mended.erased)
    # Brute force: no other single change brings back more, or as many for clearly less clutter.
    before = readings_under(dark, samples, WINDOW, settling_s=8.0)
    for _, _, changed in changes(dark):
        other = readings_under(changed, samples, WINDOW, settling_s=8.0)
        back = lost - set(other.erased)
        assert len(back) <= len(remedy.brings)
        if len(back) == len(remedy.brings):
            worse = max(other.clutter_fill_pct - before.clutter_fill_pct, 0) + 0.33 * max(other.blown_out_pct - before.blown_out_pct, 0)
            mine = max(mended.clutter_fill_pct - before.clutter_fill_pct, 0) + 0.33 * max(mended.blown_out_pct - before.blown_out_pct, 0)
            assert mine <= worse + 1e-6
    assert cheapest_remedy(ReceiverSetup(gain=75.0), samples[:5], WINDOW, settling_s=8.0).lost == ()


def test_a_near_cut_that_hides_the_jig_is_its_own_remedy(pear_pings):
    samples = [(ping, rows) for ping, rows, _ in with_lure(pear_pings)[:10]]
    setup = ReceiverSetup(gain=66.0, near_cut_db=18.0)
    if "lure" in readings_under(setup, samples, WINDOW, settling_s=8.0).erased:
        remedy = cheapest_remedy(setup, samples, WINDOW, settling_s=8.0).remedy
        assert "lure" in remedy.brings
    price = present_price(setup, "near_cut_db", samples, WINDOW, settling_s=8.0)
    assert (price.value, price.instead) == (18.0, 0.0)
    assert price.now.lure_over_clutter_db <= price.then.lure_over_clutter_db


def test_near_cut_hides_what_is_near_and_leaves_what_is_far(pear_pings):
    plain, cut = (pictures(pear_pings[:2], ReceiverSetup(gain=85.0, near_cut_db=step))[-1] for step in (0.0, 12.0))
    range_m = pear_pings[0][0].setup.range_m
    far = range_m > 33.5 * FOOT_M
    np.testing.assert_array_equal(plain[:, far], cut[:, far])
    assert np.all(cut <= plain)
    profile = near_cut_profile_db(np.array([0.5, 3 * FOOT_M, 33 * FOOT_M]), 12.0)
    np.testing.assert_allclose(profile, [12.0, 12.0, 0.0], atol=1e-9)


@pytest.mark.parametrize(("beam", "cell"), [(60, 40), (80, 70), (110, 110)])
def test_near_cut_never_raises_a_near_lure(beam, cell):
    _, y_m, z_m = place_on_cell(beam, cell)
    # As strong as a dressed quarter-ounce head.
    _, ping = lone(y_m=y_m, z_m=z_m, ts_db=-51.0)
    shown = [int(Receiver(ReceiverSetup(gain=62.0, near_cut_db=step)).develop(ping)[beam, cell]) for step in (0.0, 6.0, 12.0, 18.0)]
    assert shown == sorted(shown, reverse=True)
    assert shown[0] > shown[3]


def test_ghost_cut_keeps_the_strongest_of_each_range_and_drops_the_weak(pear_pings):
    ping = pear_pings[0][0]
    plain, cut = (pictures(pear_pings[:1], ReceiverSetup(gain=90.0, ghost_cut_db=step))[0] for step in (0.0, 22.0))
    under = ping.echo_level_db.max(axis=0)[None, :] - ping.echo_level_db
    assert np.all(cut[under > 22.01] == 0)
    # Of the rest nothing changes but where a bounce is predicted: there it is gone.
    changed = (cut != plain) & (under < 21.99)
    assert np.all(cut[changed] == 0)
    assert changed.mean() < 0.05


def test_hide_below_draws_nothing_weaker_than_it_says(pear_pings):
    plain, hidden = (pictures(pear_pings[:1], ReceiverSetup(gain=80.0, hide_below_db=step))[0] for step in (0.0, 15.0))
    limit = 255.0 * 15.0 / span_db(50.0)
    assert np.all(hidden[plain < limit - 1] == 0)
    np.testing.assert_array_equal(hidden[plain > limit + 1], plain[plain > limit + 1])


def test_punch_spans_sixty_to_fifteen_decibels():
    assert (span_db(0.0), span_db(100.0)) == (60.0, 15.0)


def test_the_receiver_starts_afresh_on_another_sonar_setup(pear_tree, pear_pings):
    receiver = Receiver(ReceiverSetup(quieting_pings=3))
    for ping, _, _ in pear_pings[:3]:
        receiver.develop(ping)
    other = SimulatedHead(pear_tree, seed=1).listen(0.0)
    np.testing.assert_array_equal(receiver.develop(other), Receiver(ReceiverSetup(quieting_pings=3)).develop(other))


@settings(max_examples=40, deadline=None)
@given(gain=st.floats(0, 100), punch=st.floats(0, 100), seed=st.integers(0, 99))
def test_develop_kernel_is_its_python_and_never_leaves_its_range(gain, punch, seed):
    rng = np.random.default_rng(seed)
    level = rng.uniform(-160, -40, (4, 30)).astype(np.float32)
    lift = rng.uniform(20, 60, 30).astype(np.float32)
    never = np.full(30, -1e6, np.float32)
    arguments = (level, lift + np.float32(0.6 * gain), never, np.float32(-67.0), np.float32(1.0 / span_db(punch)), np.float32(0.0))
    fast, plain = np.empty((4, 30), np.uint8), np.empty((4, 30), np.uint8)
    _kernels.develop(*arguments, fast)
    _kernels.develop.py_func(*arguments, plain)
    assert np.abs(fast.astype(int) - plain.astype(int)).max() <= 1


def test_readings_know_what_could_be_seen_and_what_is_erased(pear_pings):
    readings = measured(pear_pings[:20], ReceiverSetup(gain=20.0))
    seen = {row.id for _, rows, _ in pear_pings[:20] for row in rows if row.seen and row.kind == "fish"}
    assert readings.fish_shown_pct < 100.0
    assert set(readings.erased) - {"lure"} <= seen
    assert measured(pear_pings[:20], ReceiverSetup(gain=70.0)).fish_shown_pct == 100.0


def test_without_truth_the_readings_that_need_it_are_none(pear_pings):
    receiver, meter = Receiver(), ReadingsMeter()
    for ping, _, _ in pear_pings[:3]:
        meter.add(ping, receiver.develop(ping), ReceiverSetup(), WINDOW, None)
    readings = meter.readings(ReceiverSetup())
    assert (readings.lure_over_clutter_db, readings.faintest_fish_db, readings.fish_shown_pct, readings.erased) == (None, None, None, None)
    assert readings.clutter_fill_pct >= 0.0


def test_more_silt_never_raises_the_jig_over_its_clutter(pear_tree):
    found = []
    for secchi in (4.0, 1.4, 0.6):
        scene = replace(pear_tree, water=replace(pear_tree.water, secchi_m=secchi), cover=(), bait=())
        head = SimulatedHead(scene, seed=4)
        pings = [(head.listen(number / 15.0), head.rows(), []) for number in range(75, 120)]
        found.append(measured(pings, ReceiverSetup(gain=78.0)).lure_over_clutter_db)
    assert found == sorted(found, reverse=True)


def test_blown_out_fish_run_together():
    mild, hot = parting_m(ReceiverSetup(punch=50.0), range_m=8.0, beam_width_rad=math.radians(1.06)), None
    hot = parting_m(ReceiverSetup(gain=90.0, punch=100.0), range_m=8.0, beam_width_rad=math.radians(1.06))
    assert hot > mild
    # Two equal echoes cannot part nearer than about a beam width: 1.06 deg at 8 m is 0.148 m.
    assert mild > 0.14


@pytest.mark.parametrize(
    ("field", "value", "said"),
    [
        ("gain", 101.0, "gain is 101: it must be 0 to 100"),
        ("quieting_pings", 4, "quieting_pings is 4: it must be one of 1, 2, 3, 5"),
        ("near_cut_db", 7.0, "near_cut_db is 7.0: it must be one of"),
        ("ink", "rainbow", "ink is rainbow: it must be one of soot"),
    ],
)
def test_a_control_out_of_range_is_named_with_its_range(field, value, said):
    with pytest.raises(DomainError, match=said):
        checked_setup(replace(ReceiverSetup(), **{field: value}))


def test_inks_are_even_and_told_apart_without_color():
    for name in ("soot", "chalk"):
        light = lightness(INKS[name].table)
        steps = np.diff(light)
        assert np.all(steps <= 0) if name == "soot" else np.all(steps >= 0)
        assert abs(light[-1] - light[0]) > 70.0
        assert np.abs(steps).max() < 1.2
    # Lightness of pure sRGB white, black and mid gray 119: CIE 15.
    np.testing.assert_allclose(lightness(np.array([[255, 255, 255], [0, 0, 0], [119, 119, 119]], np.uint8)), [100.0, 0.0, 50.03], atol=0.1)
    for name in ("terrace", "terrace-dusk"):
        shades = np.unique(lightness(INKS[name].table).round(1))
        assert len(shades) == 4
        assert np.diff(shades).min() > 10.0


def test_the_lag_is_by_the_pings_interval_even_when_only_some_pings_are_measured(pear_pings):
    setup = ReceiverSetup(quieting_pings=5)
    receiver, meter = Receiver(setup), ReadingsMeter()
    for ping, rows, _ in pear_pings[:12]:
        picture = receiver.develop(ping)
        if ping.number % 4 == 0:
            meter.add(ping, picture, setup, WINDOW, rows)
    assert meter.readings(setup).lag_ms == pytest.approx(2.0 * 1000.0 / 15.0, rel=1e-6)
