import re
from dataclasses import replace

import pytest

from mudlamp.core.advice.answers import Answers, BottomShape, Habit, Technique, situation
from mudlamp.core.advice.forecast import Gear
from mudlamp.core.advice.planner import plan
from mudlamp.core.advice.retune import StaleCause, moved
from mudlamp.core.advice.symptoms import Cause, Facts, Symptom, ranked
from mudlamp.core.advice.windows import Reason
from mudlamp.core.controls import ON_CARD
from mudlamp.core.rig.profile import Mount, OwnControl, Power, RigProfile, ScaleKind
from mudlamp.core.scene.bottom import Ground
from mudlamp.core.scene.species import Species
from mudlamp.core.setup import ReceiverSetup, Setup, Window
from mudlamp.core.sonar.transducer import PROFILES
from mudlamp.core.units import FOOT_M
from mudlamp.services.cards.shows import SHOWS
from mudlamp.services.edge.controls import LABELS
from mudlamp.services.words import card as card_words
from mudlamp.services.words import cues
from mudlamp.services.words.labels import labels_of, say
from mudlamp.services.words.symptoms import CAUSE_WORDS, SEEN, suspect_words

GEAR = Gear(profile=PROFILES["demo"])


def card(**answers):
    return plan(situation(Answers(**answers)), GEAR)


def test_every_reason_cause_symptom_and_notice_has_its_words():
    assert set(card_words.WHY) == set(Reason)
    assert set(CAUSE_WORDS) == set(Cause)
    assert set(SEEN) == set(Symptom)
    assert set(SHOWS) <= set(Cause)
    assert set(card_words.STALE_WORDS) == set(StaleCause)
    assert set(cues.STOP_CUES) == {control.name for control in ON_CARD}
    for text in [*cues.STOP_CUES.values(), *sum(card_words.WHY.values(), ()), *sum(CAUSE_WORDS.values(), ())]:
        assert "{" not in say(text, {**LABELS, "start": "40"})


def test_a_steps_cue_says_how_much_of_mid_water_may_be_lit():
    assert cues.step_cue("quieting_pings", 2, 6.4) == "Step up until less than one dot in 16 of mid-water is lit: here, 2 pings."
    assert cues.step_cue("quieting_pings", 1, 2.3) == "Leave it off. One step, if more than one dot in 45 of mid-water is lit."
    assert cues.step_cue("ghost_cut_db", 34.0, 4.0).endswith("If your jig goes with it, one step back.")
    assert cues.step_cue("ghost_cut_db", 34.0, None) == "Set it to 34 dB and leave it: a step less looks the same here."
    stops = cues.Stops(speckle_gain=None, solid_punch=None, lit_limits_pct={})
    assert cues.cue("ghost_cut_db", 0.0, stops) == cues.GHOST_OFF_CUE
    assert cues.cue("near_cut_db", 0.0, stops) == cues.STOP_CUES["near_cut_db"]
    assert cues.cue("hide_below_db", 6.0, stops) == "Raise it until the snow goes and the jig stays: here, 6 dB."


@pytest.mark.parametrize(("over", "first"), [(11.0, Reason.GAIN_OVER_SPECKLE), (0.0, None), (-20.0, Reason.GAIN_JIG)])
def test_why_gain_starts_where_it_does_goes_by_what_is_measured_once_it_is(over, first):
    row = card().row("gain")
    stops = cues.Stops(speckle_gain=row.start - over, solid_punch=None, lit_limits_pct={})
    assert row.reasons[0] in cues.SPECKLE_REASONS
    assert cues.reasons_seen(row, None) == row.reasons
    assert cues.reasons_seen(row, stops) == (first or row.reasons[0], *row.reasons[1:])
    assert cues.reasons_seen(card().row("punch"), stops) == card().row("punch").reasons


def test_a_move_is_spoken_as_to_a_deck_hand():
    before, after = (
        Setup(
            receiver=ReceiverSetup(gain=66.0, quieting_pings=pings),
            window=Window(down_to_m=down * FOOT_M, reach_m=out * FOOT_M, look_back_m=0.6),
        )
        for pings, down, out in ((1, 24, 42), (3, 18, 30))
    )
    said = card_words.spoken(moved(before, after))
    assert said == "Down to 24 → 18. Reach 42 → 30. Quieting 1 ping → 3 pings. Leave Gain alone."
    assert card_words.spoken(moved(before, before)) == "Leave everything alone."
    # Spoken in the words that the angler typed for their own unit.
    own = labels_of(RigProfile(words={"reach_m": OwnControl(label="Forward", kind=ScaleKind.PERCENT)}))
    assert "Forward 42 → 30." in card_words.spoken(moved(before, after), own)


@pytest.mark.parametrize(
    ("control", "low", "high", "said"),
    [
        ("down_to_m", 22 * FOOT_M, 25 * FOOT_M, "22 to 25 ft"),
        ("gain", 62.0, 72.0, "62 to 72"),
        ("near_cut_db", 0.0, 6.0, "0 to 6 dB"),
        ("quieting_pings", 1.0, 2.0, "1 to 2 pings"),
        ("ghost_cut_db", 0.0, 34.0, "off to 34 dB"),
        ("hide_below_db", 0.0, 0.0, "off"),
        ("ink", None, None, ""),
    ],
)
def test_a_band_says_its_unit_once(control, low, high, said):
    assert card_words.band_words(control, low, high) == said


def test_what_is_not_known_is_said_with_what_it_costs():
    lines = card_words.doubt_lines({"ground": {"gain": (66.0, 62.0), "punch": (50.0, 40.0)}, "wind_m_s": {}, "sky": {}})
    assert lines == [
        "You don't know what the bottom is: Gain could be 66 to 62, Punch could be 50 to 40.",
        "Not knowing the wind and the sky changes nothing on this card.",
    ]
    assert card_words.doubt_lines({}) == []


def test_a_card_says_what_it_is_for_and_what_the_lure_will_be():
    found = card(depth_m=20 * FOOT_M, target=Species.LARGEMOUTH, technique=Technique.CAST, ground=Ground.GRAVEL)
    assert card_words.headline(found) == "Casting to bass, 20 ft over gravel, fish at 9 to 17 ft (assumed)"
    at = replace(found, here=replace(found.here, fish_from_m=0.5, fish_to_m=0.7))
    assert card_words.headline(at).endswith(", fish at 2 ft (assumed)")
    assert "dB over clutter, expected" in card_words.lure_line(found)
    assert card_words.lure_line(replace(found, lure_over_db=1.0)).endswith("no setting brings it out.")
    assert card_words.lure_line(replace(found, lure_over_db=None)) == "No lure is out."
    assert card_words.why_line(found.rows[0].reasons).endswith(".")
    assert len(card_words.why_more(found.rows[0].reasons)) > 30


def test_setting_once_is_set_against_setting_always_in_figures():
    keep = card_words.habit_line(card(depth_m=20 * FOOT_M))
    # 23 ft against 25: 8 % smaller. Plain arithmetic.
    assert "Down to would be 25 ft: everything 8 % smaller" in keep
    assert "Down to 25 ft instead of 23" in card_words.habit_line(card(depth_m=20 * FOOT_M, habit=Habit.SET_ONCE))
    deep = card(depth_m=100 * FOOT_M, fish_from_m=6.0, fish_to_m=12.0, shape=BottomShape.FLAT)
    assert card_words.habit_line(deep) == "Set once or at every move: the same here."


def test_flat_is_offered_in_the_mounts_own_clicks_where_it_works():
    rig = RigProfile(mount=Mount(click_rad=0.1308996938995747, turned=True))
    # 70 deg by clicks of 7.5: 9. Common practice (one angler) for 70.
    assert "70° from plumb, 9 clicks" in card_words.flat_line(card(depth_m=8 * FOOT_M), rig)
    assert card_words.flat_line(card(depth_m=30 * FOOT_M), rig) == ""


def test_a_weak_supply_comes_before_all_else():
    assert card_words.power_line(RigProfile()) == ""
    weak = RigProfile(power=Power(gauge=18, unit_w=90.0))
    assert re.match(r"Battery first: \d+\.\d V at the unit\.", card_words.power_line(weak))


def test_suspects_are_told_with_their_figure_and_the_cards_own_start():
    found = card()
    facts = Facts(
        card=found, setup=replace(found.setup, gain=40.0, quieting_pings=5), window=found.window, thickness_rad=0.314, unit_v=10.9
    )
    for symptom in Symptom:
        for suspect in ranked(symptom, facts):
            words = suspect_words(suspect, found)
            assert "{" not in words.fix
            assert words.share.endswith(" %")
            assert words.likely
    low = suspect_words(next(one for one in ranked(Symptom.NO_LURE, facts) if one.cause is Cause.GAIN_LOW), found)
    assert low.likely == f"likely here: yours is {found.setup.gain - 40.0:.0f} steps under the card's"
    assert f"toward {found.setup.gain:.0f}" in low.fix
    volts = suspect_words(ranked(Symptom.WEAK, facts)[0], found)
    assert "your rig gives it 10.9 V" in volts.likely
