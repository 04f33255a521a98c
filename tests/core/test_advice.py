import math
from dataclasses import replace

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from mudlamp.core.advice.answers import (
    Answers,
    BottomShape,
    Clash,
    CoverKind,
    Goal,
    Habit,
    Sky,
    Technique,
    checked_answers,
    clashes,
    situation,
    with_guess,
)
from mudlamp.core.advice.forecast import Forecast, Gear, _over_threshold, candidates
from mudlamp.core.advice.planner import gain_band, plan, trade_bands
from mudlamp.core.advice.retune import StaleCause, Watch, kept, moved, stale
from mudlamp.core.advice.styles import STYLES, Figures, Style, cleaning_steps, objective_of, score
from mudlamp.core.advice.symptoms import CAUSES, EVIDENCE, Cause, Facts, Symptom, Voice, ranked
from mudlamp.core.advice.windows import Reason, down_to, flat_suits, reach, whole_feet_m
from mudlamp.core.errors import DomainError
from mudlamp.core.receiver.screen import Screen
from mudlamp.core.rig.mount import MountKind, StowSide
from mudlamp.core.scene.bottom import Ground
from mudlamp.core.scene.species import Species
from mudlamp.core.setup import ReceiverSetup, Setup, Window
from mudlamp.core.sonar.transducer import PROFILES
from mudlamp.core.units import FOOT_M
from mudlamp.formats.scene.file import stock_scenes
from mudlamp.services.bench.cards import aboard_of_scene, answers_of_scene

GEAR = Gear(profile=PROFILES["demo"])


def feet_of(depth_ft=20.0, **more):
    return Answers(depth_m=depth_ft * FOOT_M, **more)


def card(**answers):
    return plan(situation(Answers(**answers)), GEAR)


# Common practice, no source: the usual margins.
@pytest.mark.parametrize(
    ("answers", "low", "high"),
    [
        (feet_of(14), 16, 19),
        (feet_of(17.3), 19, 23),
        (feet_of(20.3), 22, 26),
        (feet_of(29.7), 31, 35),
        (feet_of(26.5, shape=BottomShape.SLOPE), 31, 36),
        (feet_of(26.5, slope_rad=0.2), 31, 36),
        (feet_of(8, never_under_m=15 * FOOT_M), 15, 15),
        (feet_of(100, fish_from_m=20 * FOOT_M, fish_to_m=40 * FOOT_M, secchi_m=5.0), 40, 50),
    ],
)
def test_down_to_is_whole_feet_within_the_trades_margins(answers, low, high):
    found = plan(situation(answers), GEAR).window.down_to_m / FOOT_M
    assert low <= found <= high
    assert found == pytest.approx(round(found), abs=1e-9)


# Common practice, no source.
@pytest.mark.parametrize("depth_ft", [8, 15, 25, 40])
@pytest.mark.parametrize("cover", [CoverKind.OPEN, CoverKind.BRUSH])
def test_reach_keeps_to_the_trades_bands(depth_ft, cover):
    def reach_ft(technique, **more):
        return reach(situation(feet_of(depth_ft, technique=technique, cover=cover, **more))).start / FOOT_M

    assert 15 <= reach_ft(Technique.VERTICAL) <= 32
    assert 38 <= reach_ft(Technique.SCAN) <= 52
    assert 38 <= reach_ft(Technique.SCAN, goal=Goal.TROPHY) <= 52
    assert 45 <= reach_ft(Technique.CAST) <= 85
    assert 45 <= reach_ft(Technique.CAST, shape=BottomShape.BROKEN) <= 85


def test_suspended_fish_are_cast_at_from_farther_and_set_once_is_deeper():
    here = situation(feet_of(100, fish_from_m=6.0, fish_to_m=12.0, technique=Technique.CAST))
    assert here.suspended
    assert Reason.CAST_FAR in reach(here).reasons
    assert Reason.SUSPENDED in down_to(here).reasons
    keep, once = (down_to(situation(feet_of(20, habit=habit))).start for habit in (Habit.KEEP_SETTING, Habit.SET_ONCE))
    assert once > keep
    assert down_to(situation(feet_of(20, deepest_m=30 * FOOT_M))).start > 30 * FOOT_M
    assert flat_suits(situation(feet_of(8)))
    assert not flat_suits(situation(feet_of(20)))


@given(st.floats(1.0, 60.0))
def test_whole_feet_never_cut_off(depth_m):
    assert whole_feet_m(depth_m) >= depth_m - 0.01 * FOOT_M


@pytest.mark.parametrize("scene", stock_scenes(), ids=lambda scene: scene.name)
def test_gain_starts_within_the_trades_range_on_every_stock_scene(scene):
    # Common practice, no source: 50 to 76. One figure (Balanced's enough_db) was set, on the pear tree alone.
    found = plan(situation(answers_of_scene(scene)), aboard_of_scene(scene).gear)
    assert 50.0 <= found.setup.gain <= 76.0


def test_styles_are_objectives_that_differ_as_they_say():
    for answers in ({"secchi_m": 4.0}, {}, {"secchi_m": 0.2}, {"ground": Ground.ROCK, "depth_m": 3.0}, {"other_sonars": 1}):
        found = card(**answers).setups
        assert found[Style.CLEAN].quieting_pings > found[Style.RAW].quieting_pings
        assert found[Style.RAW].gain >= found[Style.CLEAN].gain
    assert STYLES[Style.RAW].clutter < STYLES[Style.BALANCED].clutter < STYLES[Style.CLEAN].clutter
    scan = objective_of(Style.BALANCED, Technique.SCAN, Goal.TABLE)
    assert scan.lure < STYLES[Style.BALANCED].lure


def test_what_the_water_is_decides_what_the_card_says():
    beside = card(other_sonars=1)
    assert beside.setup.quieting_pings == 3
    assert Reason.QUIET_SPOKES in beside.row("quieting_pings").reasons
    assert card(secchi_m=0.2).setup.quieting_pings == 2
    # Fifteen feet over rock one step of Ghost cut takes the jig with the false tree: measured so, and forecast so.
    kept = card(ground=Ground.ROCK, depth_m=4.5)
    assert kept.setup.ghost_cut_db == 0.0
    assert kept.row("ghost_cut_db").reasons == (Reason.GHOST_READ_THROUGH,)
    assert card(ground=Ground.ROCK, depth_m=3.0).setups[Style.CLEAN].ghost_cut_db > 0.0
    assert card(ground=Ground.MUD).setup.ghost_cut_db == 0.0
    low_sun, day = card(sun_rad=0.1), card(sun_rad=0.8)
    assert low_sun.setup.gain == day.setup.gain - 2.0
    assert card(sky=Sky.DARK).setup.ink == "chalk"
    assert plan(situation(Answers()), GEAR, screen=Screen(diagonal_m=0.2)).setup.ink == "terrace"
    assert gain_band(situation(Answers(secchi_m=0.2)))[1] > gain_band(situation(Answers(secchi_m=4.0)))[1]
    for row in card().rows:
        assert row.reasons
    # The lighter the head, the hotter the Gain has to start.
    light, heavy = (plan(situation(Answers()), replace(GEAR, lure_ts_db=level)).setup.gain for level in (-57.0, -50.0))
    assert light > heavy


def test_the_card_is_in_the_order_of_the_rail_and_equal_answers_give_equal_cards():
    first, second = card(secchi_m=1.0), card(secchi_m=1.0)
    assert first == second
    assert [row.control for row in first.rows] == [
        "down_to_m", "reach_m", "gain", "near_cut_db", "quieting_pings", "ghost_cut_db", "punch", "hide_below_db", "ink",
    ]  # fmt: skip
    for row in first.rows[:-1]:
        assert row.low <= row.high


def test_speckle_passes_a_threshold_as_often_as_dice_say():
    # Brute force: exponential powers, the middle of several (two: the mean of decibels).
    rng = np.random.default_rng(5)
    draws = rng.exponential(1.0, (5, 400_000))
    for threshold in (0.3, 1.0, 2.5):
        share = np.array([threshold])
        assert _over_threshold(share, 1)[0] == pytest.approx(np.mean(draws[0] > threshold), abs=0.003)
        assert _over_threshold(share, 2)[0] == pytest.approx(np.mean(np.sqrt(draws[0] * draws[1]) > threshold), abs=0.003)
        assert _over_threshold(share, 3)[0] == pytest.approx(np.mean(np.median(draws[:3], axis=0) > threshold), abs=0.003)
        assert _over_threshold(share, 5)[0] == pytest.approx(np.mean(np.median(draws, axis=0) > threshold), abs=0.003)


def test_the_forecast_knows_which_way_each_control_goes():
    here = situation(Answers(secchi_m=0.4))
    forecast = Forecast(here, GEAR, Window(down_to_m=7.0, reach_m=9.0, look_back_m=0.6))
    base = ReceiverSetup(gain=68.0)
    tried = [
        base,
        replace(base, gain=80.0),
        replace(base, quieting_pings=5),
        replace(base, near_cut_db=18.0),
        replace(base, hide_below_db=30.0),
    ]
    found = forecast.figures(candidates(tried))
    plain, hot, quiet, near, hidden = range(5)
    assert found.clutter[hot] > found.clutter[plain] > found.clutter[quiet]
    assert found.lag_s[quiet] > found.lag_s[plain] == 0.0
    assert found.lure_over_db[near] < found.lure_over_db[plain]
    assert found.lure_shown[hidden] == 0.0 < found.lure_shown[plain]
    assert found.clutter[hidden] < found.clutter[plain]
    assert found.blown[hot] > 0.0
    assert forecast.fade_at_db(9.0) > forecast.fade_at_db(3.0) > 0.0


def test_a_score_is_a_mean_of_desires_from_nothing_to_a_hundred():
    objective = STYLES[Style.BALANCED]
    worst = Figures(
        lure_over_db=0.0, lure_shown=0.0, fish_over_db=0.0, fish_shown=0.0, clutter=1.0, blown=1.0, lag_s=1.0, parting_m=9.0, steps=20.0
    )
    best = Figures(
        lure_over_db=40.0, lure_shown=1.0, fish_over_db=40.0, fish_shown=1.0, clutter=0.0, blown=0.0, lag_s=0.0, parting_m=0.1, steps=0.0
    )
    assert float(score(objective, worst)) == 0.0
    assert float(score(objective, best)) == pytest.approx(100.0)
    # Without a lure its desire is left out, not counted as lost.
    assert float(score(objective, replace(best, lure_over_db=None, lure_shown=None))) == pytest.approx(100.0)
    assert cleaning_steps(6.0, 3, 34.0, 4.0) == 1 + 2 + 1 + 1


@pytest.mark.parametrize(
    ("answers", "clash"),
    [
        (Answers(depth_m=5.0, fish_to_m=6.0), Clash.FISH_UNDER_BOTTOM),
        (Answers(depth_m=5.0, fish_from_m=6.0), Clash.FISH_UNDER_BOTTOM),
        (Answers(fish_from_m=4.0, fish_to_m=3.0), Clash.FISH_UPSIDE_DOWN),
        (Answers(depth_m=5.0, deepest_m=4.0), Clash.DEEPEST_ABOVE_DEPTH),
        (Answers(ice=True, temperature_degc=15.0), Clash.ICE_IN_WARM_WATER),
        (Answers(ice=True, wind_m_s=3.0), Clash.WIND_UNDER_ICE),
        (Answers(ice=True, technique=Technique.CAST), Clash.CAST_UNDER_ICE),
    ],
)
def test_answers_that_cannot_both_be_true_clash(answers, clash):
    assert clashes(answers) == [clash]


def test_gaps_are_filled_and_named():
    nothing = situation(Answers())
    assert {"depth_m", "secchi_m", "ground"} <= set(nothing.assumed)
    assert clashes(Answers()) == []
    told = situation(Answers(depth_m=6.0, fish_to_m=5.0, ice=True))
    assert "depth_m" not in told.assumed
    assert told.technique is Technique.VERTICAL
    assert told.wind_m_s == 0.0
    assert situation(Answers(fish_to_m=20.0)).depth_m > 20.0
    low, high = (situation(with_guess(Answers(), "depth_m", end)).depth_m for end in (0, 1))
    assert low < nothing.depth_m < high
    with pytest.raises(DomainError, match="secchi_m is -1 m"):
        checked_answers(Answers(secchi_m=-1.0))


def set_up(down_to_ft=24, reach_ft=42, **receiver):
    window = Window(down_to_m=down_to_ft * FOOT_M, reach_m=reach_ft * FOOT_M, look_back_m=0.6)
    return Setup(receiver=ReceiverSetup(**receiver), window=window)


def test_a_move_says_only_what_changes_the_biggest_first():
    before, after = set_up(gain=66.0, punch=50.0), set_up(18, 30, gain=67.0, punch=52.0)
    move = moved(before, after)
    assert [change.control for change in move.changes] == ["down_to_m", "reach_m"]
    assert move.left == ("gain", "near_cut_db", "quieting_pings", "ghost_cut_db", "punch", "hide_below_db", "ink")
    assert moved(before, before).changes == ()
    inked = moved(set_up(gain=60.0), set_up(gain=72.0, ink="chalk"))
    assert [change.control for change in inked.changes] == ["gain", "ink"]


def test_what_a_move_leaves_stays_as_it_was_set():
    shallow, deep = card(depth_m=12 * FOOT_M), card(depth_m=24 * FOOT_M)
    running = Setup(receiver=replace(deep.setup, gain=shallow.setup.gain + 1.0, punch=90.0), window=deep.window)
    found = kept(shallow, running)
    assert found.receiver.gain == shallow.setup.gain + 1.0
    # Far from the start and in its band still: left alone. Out of it: set anew.
    assert found.receiver.punch == 90.0
    assert kept(shallow, replace(running, receiver=replace(running.receiver, punch=96.0))).receiver.punch == shallow.setup.punch
    assert found.window.down_to_m == shallow.window.down_to_m


def test_a_card_grows_stale_by_sun_and_wind_but_nobody_is_disturbed():
    fresh = Watch(sun_then_rad=0.8, sun_now_rad=0.8, age_s=600.0, since_notice_s=None, shot_out=False)
    assert stale(fresh) is None
    assert stale(replace(fresh, sun_now_rad=0.1)) is StaleCause.SUN_LOW
    assert stale(replace(fresh, sun_now_rad=-0.1)) is StaleCause.DUSK
    assert stale(replace(fresh, sun_then_rad=0.1)) is StaleCause.SUN_UP
    assert stale(replace(fresh, age_s=7300.0)) is StaleCause.WIND
    assert stale(replace(fresh, sun_now_rad=-0.1, shot_out=True)) is None
    assert stale(replace(fresh, sun_now_rad=-0.1, since_notice_s=19 * 60.0)) is None
    assert stale(replace(fresh, sun_now_rad=-0.1, since_notice_s=21 * 60.0)) is StaleCause.DUSK


def facts(**changes):
    found = card()
    base = Facts(card=found, setup=found.setup, window=found.window, thickness_rad=math.radians(18))
    return replace(base, **changes)


def test_every_symptom_has_causes_and_shares_that_sum_to_one():
    for symptom in Symptom:
        found = ranked(symptom, facts())
        assert [suspect.cause for suspect in found]
        # Dead patches with Quieting and Ghost cut off: every usual cause is ruled out.
        assert sum(suspect.share for suspect in found) == pytest.approx(0.0 if symptom is Symptom.DEAD_PATCHES else 1.0)
        assert [suspect.share for suspect in found] == sorted((suspect.share for suspect in found), reverse=True)
    assert {cause for causes in CAUSES.values() for cause in causes} == set(Cause)
    assert set(EVIDENCE) <= set(Cause)


def first(symptom, **changes):
    return ranked(symptom, facts(**changes))[0].cause


def test_causes_are_ranked_by_what_this_rig_and_water_say():
    setup = facts().setup
    assert first(Symptom.NO_LURE) is Cause.OFF_BEAM
    assert first(Symptom.NO_LURE, setup=replace(setup, gain=setup.gain - 15.0)) is Cause.GAIN_LOW
    assert first(Symptom.TARGET_LAGS, setup=replace(setup, quieting_pings=5)) is Cause.QUIETING_HIGH
    assert first(Symptom.TARGET_LAGS, setup=replace(setup, quieting_pings=1)) is Cause.SLOW_UNIT
    assert first(Symptom.WEAK, unit_v=10.9) is Cause.LOW_VOLTAGE
    assert first(Symptom.WEAK, unit_v=12.7, setup=replace(setup, gain=setup.gain - 10.0)) is Cause.GAIN_LOW
    assert first(Symptom.ARROW_OFF, mount=MountKind.POLE, stow=StowSide.LEFT) is Cause.MOUNT
    assert first(Symptom.ARROW_OFF, mount=MountKind.MOTOR_SHAFT) is Cause.HEADING
    wide = replace(facts().window, reach_m=30.0)
    assert first(Symptom.TINY, window=wide) is Cause.REACH_LONG
    assert first(Symptom.SUDDENLY_DIM) is Cause.GRASS
    assert first(Symptom.NO_LURE, setup=replace(setup, near_cut_db=18.0)) is Cause.NEAR_CUT_HIGH
    # The farther off, the likelier.
    shares = [
        next(
            one.share for one in ranked(Symptom.NO_LURE, facts(setup=replace(setup, gain=setup.gain - off))) if one.cause is Cause.GAIN_LOW
        )
        for off in (0.0, 4.0, 8.0, 16.0, 30.0)
    ]
    assert shares == sorted(shares)
    assert shares[0] < 0.05
    ruled = next(one for one in ranked(Symptom.NO_LURE, facts()) if one.cause is Cause.QUIETING_HIGH)
    assert (ruled.share, ruled.evidence.voice) == (0.0, Voice.AGAINST)


def test_trade_bands_hold_the_choices_they_offer_balanced():
    for ground in Ground:
        for others in (0, 1):
            for name, band in trade_bands(situation(Answers(ground=ground, other_sonars=others, depth_m=4.0))).items():
                choices = band.choices[Style.BALANCED]
                assert min(choices) >= band.low or name in ("ghost_cut_db",)
                assert max(choices) <= band.high


def test_bass_are_told_from_crappie():
    assert reach(situation(Answers(target=Species.LARGEMOUTH, technique=Technique.SCAN))).start == pytest.approx(45 * FOOT_M)
    assert reach(situation(Answers(target=Species.CRAPPIE, technique=Technique.SCAN))).start == pytest.approx(40 * FOOT_M)
