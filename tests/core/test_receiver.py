from dataclasses import replace

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from mudlamp.core.errors import DomainError
from mudlamp.core.receiver import _kernels
from mudlamp.core.receiver.chain import Receiver, lag_s, near_cut_profile_db, span_db
from mudlamp.core.receiver.inks import INKS, lightness
from mudlamp.core.receiver.readings import ReadingsMeter, parting_m
from mudlamp.core.receiver.setup import ReceiverSetup, Window, checked_setup
from mudlamp.core.units import FOOT_M
from mudlamp.heads.simulated import SimulatedHead

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


def test_quieting_is_a_mean_over_pings(pear_pings):
    ring = np.random.default_rng(1).normal(-90.0, 5.0, (5, 6, 40)).astype(np.float32)
    out = np.zeros((6, 40), np.float32)
    _kernels.integrate(ring, 1, 3, out)
    np.testing.assert_allclose(out, ring[[1, 0, 4]].mean(axis=0), atol=1e-4)


def test_near_cut_hides_what_is_near_and_leaves_what_is_far(pear_pings):
    plain, cut = (pictures(pear_pings[:2], ReceiverSetup(gain=85.0, near_cut_db=step))[-1] for step in (0.0, 12.0))
    range_m = pear_pings[0][0].setup.range_m
    far = range_m > 33.5 * FOOT_M
    np.testing.assert_array_equal(plain[:, far], cut[:, far])
    assert np.all(cut <= plain)
    profile = near_cut_profile_db(np.array([0.5, 3 * FOOT_M, 33 * FOOT_M]), 12.0)
    np.testing.assert_allclose(profile, [12.0, 12.0, 0.0], atol=1e-9)


def test_ghost_cut_keeps_the_strongest_of_each_range_and_drops_the_weak(pear_pings):
    ping = pear_pings[0][0]
    plain, cut = (pictures(pear_pings[:1], ReceiverSetup(gain=90.0, ghost_cut_db=step))[0] for step in (0.0, 22.0))
    under = ping.echo_level_db.max(axis=0)[None, :] - ping.echo_level_db
    assert np.all(cut[under > 22.01] == 0)
    np.testing.assert_array_equal(cut[under < 21.99], plain[under < 21.99])


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
    arguments = (level, lift + np.float32(0.6 * gain), never, never, np.float32(-67.0), np.float32(1.0 / span_db(punch)), np.float32(0.0))
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
    mild, hot = parting_m(ReceiverSetup(punch=50.0), range_m=8.0, carrier_hz=900e3, speed_m_s=1480.0), None
    hot = parting_m(ReceiverSetup(gain=90.0, punch=100.0), range_m=8.0, carrier_hz=900e3, speed_m_s=1480.0)
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
