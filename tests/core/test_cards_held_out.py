"""Cards on answers that nobody tuned on: what they say must hold whatever is asked. Seeds from 900 on; those below were tuned on."""

import itertools
import math
from collections import Counter
from dataclasses import replace

import numpy as np
import pytest

from mudlamp.core.advice.answers import Answers, Sky, clashes
from mudlamp.core.advice.styles import Style
from mudlamp.core.advice.windows import Reason
from mudlamp.core.controls import CONTROLS, GHOST_CUT
from mudlamp.core.scene.bottom import Ground
from mudlamp.core.units import FOOT_M
from mudlamp.services.bench.askers import drawn_answers
from mudlamp.services.bench.cues import followed
from mudlamp.services.bench.symptoms import named_first
from mudlamp.services.cards.advising import card_of, doubts_of
from mudlamp.services.water.aboard import Aboard
from mudlamp.services.water.from_answers import fish_place

HANGS_M = Aboard().rig.mount.depth_m


@pytest.fixture(scope="module")
def cards():
    asked = [answers for seed in range(900, 950) if not clashes(answers := drawn_answers(seed))]
    return [{style: card_of(answers, Aboard(), style=style) for style in Style} for answers in asked]


def test_no_card_leaves_a_fish_it_names_outside_the_picture(cards):
    for styles in cards:
        here, window = styles[Style.BALANCED].here, styles[Style.BALANCED].window
        ahead, _ = fish_place(here, window)
        for depth in (here.fish_from_m, here.fish_to_m):
            assert depth <= window.down_to_m
            assert ahead <= window.reach_m
            assert math.hypot(ahead, depth - HANGS_M) <= window.farthest_m(HANGS_M) + 0.01


def test_stepped_controls_start_in_the_band_that_is_printed_and_styles_keep_their_order(cards):
    for styles in cards:
        for card in styles.values():
            for row in card.rows:
                if row.low is not None and row.control != "gain":
                    assert row.low <= float(row.start) <= row.high, (row, card.here)
        raw, balanced, clean = (styles[style].setup.gain for style in Style)
        assert clean <= balanced <= raw


def test_whys_fit_what_was_chosen(cards):
    for styles in cards:
        for card in styles.values():
            here = card.here
            quiet, ghost = card.row("quieting_pings"), card.row("ghost_cut_db")
            if Reason.QUIET_SPOKES in quiet.reasons:
                assert here.other_sonars
                assert quiet.start >= 3.0
            if here.other_sonars:
                assert {Reason.QUIET_SPOKES, Reason.QUIET_HALF_SPOKES} & set(quiet.reasons)
            hard_shallow = here.ground in (Ground.GRAVEL, Ground.ROCK) and here.depth_m < 6.0
            assert (Reason.GHOST_NONE in ghost.reasons) is (ghost.start == GHOST_CUT.off and not hard_shallow)
            assert (Reason.NEAR_NONE in card.row("near_cut_db").reasons) is (card.setup.near_cut_db == 0.0)


def test_punch_answers_to_the_water_and_the_light(cards):
    starts = Counter(styles[Style.BALANCED].setup.punch for styles in cards)
    assert len(starts) >= 5
    assert max(starts.values()) < 0.6 * len(cards)
    noon = Answers(depth_m=6.0, sky=Sky.BRIGHT, sun_rad=1.1)
    dusk = replace(noon, sky=Sky.DARK, sun_rad=-0.1)
    assert card_of(noon, Aboard()).setup.punch > card_of(dusk, Aboard()).setup.punch


@pytest.mark.parametrize("seed", [902, 905, 906, 908, 909])
def test_what_a_gap_could_do_reaches_over_the_start(seed):
    answers = drawn_answers(seed)
    card = card_of(answers, Aboard())
    doubts = doubts_of(answers, Aboard(), card)
    numbers = [(name, ends) for spread in doubts.values() for name, ends in spread.items() if not isinstance(ends[0], str)]
    assert numbers
    assert all(low <= float(card.start.value(CONTROLS[name])) <= high and low < high for name, (low, high) in numbers)


@pytest.mark.parametrize("seed", [901, 904, 907, 911, 915, 918])
def test_gain_moves_a_little_as_the_water_deepens_and_steps_change_once(seed):
    answers = replace(drawn_answers(seed), fish_from_m=None, fish_to_m=None, ice=False)
    cards = [card_of(replace(answers, depth_m=float(feet) * FOOT_M), Aboard()) for feet in range(8, 60, 2)]
    gains = np.array([card.setup.gain for card in cards])
    # Two feet a card: under a step a foot (rounded to whole steps), and five over ten feet.
    assert np.abs(np.diff(gains)).max() <= 3.0
    assert np.abs(gains[5:] - gains[:-5]).max() <= 6.0
    for name in ("near_cut_db", "quieting_pings", "ghost_cut_db", "hide_below_db"):
        steps = [
            CONTROLS[name].strength(getattr(card.setup, name)) if CONTROLS[name].steps else getattr(card.setup, name) for card in cards
        ]
        assert len([1 for a, b in itertools.pairwise(steps) if a != b]) <= 1, (name, steps)


@pytest.fixture(scope="module")
def followers():
    return [
        (style, one) for seed, style in itertools.product(range(900, 912), (Style.BALANCED, Style.CLEAN)) for one in followed(seed, style)
    ]


@pytest.mark.parametrize(("name", "near"), [("gain", 4.0), ("punch", 8.0)])
def test_who_follows_a_cue_from_far_below_or_above_ends_where_the_card_starts(followers, name, near):
    found = [one for style, one in followers if style is Style.BALANCED and one.control == name]
    lost = [one.lost for one in found]
    assert len(found) >= 8
    assert np.median(lost) < 1.0
    assert np.quantile(lost, 0.9) <= 2.0
    assert np.median([one.off for one in found]) <= near


def test_who_follows_a_steps_cue_from_either_end_stops_in_the_band(followers):
    found = [one for _, one in followers if CONTROLS[one.control].steps]
    lost = [one.lost for one in found]
    assert len(found) >= 30
    assert np.mean([one.in_band for one in found]) >= 0.9
    assert np.median(lost) < 1.0
    assert np.quantile(lost, 0.9) <= 2.0


def test_faults_that_are_dialed_in_are_named_first():
    found = named_first(range(900, 925))
    assert np.mean(list(found.values())) >= 15 / 16
    assert min(found.values()) >= 0.85
