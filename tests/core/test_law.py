"""One law: whole pictures by the kernel, single cells by auto-tune, thresholds by the forecast."""

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from mudlamp.core.controls import GHOST_CUT, HIDE_BELOW, NEAR_CUT, QUIETING
from mudlamp.core.receiver import _kernels, law
from mudlamp.core.receiver.chain import MOST_PINGS, Receiver
from mudlamp.core.receiver.inks import INKS, SHOWN_LIGHTNESS, first_shown, lightness
from mudlamp.core.setup import ReceiverSetup

SETUPS = st.builds(
    ReceiverSetup,
    gain=st.floats(0, 100),
    near_cut_db=st.sampled_from(NEAR_CUT.steps),
    quieting_pings=st.sampled_from([int(step) for step in QUIETING.steps]),
    ghost_cut_db=st.sampled_from(GHOST_CUT.steps),
    punch=st.floats(0, 100),
    hide_below_db=st.one_of(st.just(0.0), st.floats(0, HIDE_BELOW.high)),
    ink=st.sampled_from(sorted(INKS)),
)
RANGE_M = np.linspace(0.3, 30.0, 60)


@settings(max_examples=150, deadline=None)
@given(SETUPS, st.integers(0, 999))
def test_a_picture_and_single_cells_come_of_the_same_law(setup, seed):
    rng = np.random.default_rng(seed)
    level = rng.uniform(-160.0, -40.0, (5, len(RANGE_M))).astype(np.float32)
    gone = rng.uniform(-150.0, -80.0, len(RANGE_M)).astype(np.float32)
    lift = (law.tvg_db(RANGE_M, 0.05) + law.lift_db(setup, RANGE_M)).astype(np.float32)
    span = float(law.span_db(setup.punch))
    picture = np.empty(level.shape, np.uint8)
    _kernels.develop(level, lift, gone, np.float32(law.BLACK_DB), np.float32(1.0 / span), np.float32(setup.hide_below_db / span), picture)
    cells = law.brightness(level, lift, gone, setup)
    # They differ by rounding alone, except for a cell on the very edge of Hide below.
    edge = np.abs(level + lift - law.BLACK_DB - setup.hide_below_db) < 1e-3
    assert np.abs(picture - cells)[~edge].max() <= 0.51


@pytest.mark.parametrize("gain", [40.0, 65.0, 90.0])
@pytest.mark.parametrize("punch", [0.0, 50.0, 100.0])
def test_the_receiver_with_all_that_cleans_off_is_the_law_itself(pear_pings, gain, punch):
    setup = ReceiverSetup(gain=gain, punch=punch, near_cut_db=12.0, hide_below_db=3.0, quieting_pings=1, ghost_cut_db=0.0)
    ping = pear_pings[0][0]
    lift = law.tvg_db(ping.setup.range_m, ping.setup.absorption_db_m) + law.lift_db(setup, ping.setup.range_m)
    never = np.full(len(ping.setup.range_m), law.NEVER_DB, np.float32)
    cells = law.brightness(ping.echo_level_db, lift.astype(np.float32), never, setup)
    edge = np.abs(ping.echo_level_db + lift - law.BLACK_DB - setup.hide_below_db) < 1e-3
    assert np.abs(Receiver(setup).develop(ping) - cells)[~edge].max() <= 0.51


@settings(max_examples=150, deadline=None)
@given(SETUPS, st.floats(-30.0, 90.0))
def test_a_level_shows_on_bare_ground_just_where_the_forecast_says(setup, over_black_db):
    threshold = float(law.shows_over_db(setup.ink, setup.punch, setup.hide_below_db))
    if abs(over_black_db - threshold) < float(law.span_db(setup.punch)) / law.FULL:
        return
    level = np.array([law.BLACK_DB + over_black_db], np.float32)
    bright = law.brightness(level, np.zeros(1, np.float32), np.full(1, law.NEVER_DB, np.float32), setup)
    assert (bright[0] >= first_shown(setup.ink) - 0.5) == (over_black_db > threshold)


@pytest.mark.parametrize("name", sorted(INKS))
def test_the_first_step_that_shows_is_the_first_the_eye_parts_from_the_ground(name):
    light = lightness(INKS[name].table)
    apart = np.abs(light - light[0]) >= SHOWN_LIGHTNESS
    step = first_shown(name)
    assert apart[step]
    assert not apart[:step].any()


@given(st.floats(0.0, 100.0))
def test_gain_and_its_inverse(gain):
    assert law.gain_for(float(law.gain_db(gain))) == pytest.approx(gain, abs=1e-9)


def test_what_the_chain_keeps_is_what_quieting_may_ask_for():
    assert max(QUIETING.steps) <= MOST_PINGS
    assert set(law.QUIETING_OVER_NOISE_DB) == set(QUIETING.steps)
    assert set(law.NEAR_CUT_NONE_M) == set(NEAR_CUT.steps)
