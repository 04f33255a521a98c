from dataclasses import replace

"""Which class of fish a track is: priors, names, words and the look that would settle it, on odds that can be checked by hand."""

import numpy as np
import pytest

from mudlamp.core.tracking.classes import (
    CLASS_TRAITS,
    OF_FISH,
    SIGNS,
    ClassForest,
    FishClass,
    Look,
    Priors,
    Word,
    class_odds,
    named,
    settling_look,
)
from mudlamp.core.tracking.forest import Forest
from mudlamp.core.tracking.hand_watch import HAND_TRAITS
from mudlamp.core.tracking.identify import Identifier
from mudlamp.core.tracking.track import Kind
from mudlamp.core.tracking.traits import TRAITS
from tests.core.tracks import together

KINDS = {Kind.FISH: 0.8, Kind.LURE: 0.05, Kind.BAIT: 0.05, Kind.COVER: 0.1}


def test_classes_share_what_is_a_fish_and_what_may_be_wood_is_unknown():
    odds = class_odds(KINDS, np.array([0.5, 0.3, 0.1, 0.05, 0.05]))
    assert sum(odds.values()) == pytest.approx(1.0)
    assert (odds[FishClass.PANFISH], odds[FishClass.UNKNOWN], odds[FishClass.LURE]) == pytest.approx((0.4, 0.1, 0.05))
    assert named(odds) is FishClass.UNKNOWN
    assert named(class_odds(KINDS, np.array([0.7, 0.1, 0.1, 0.05, 0.05]))) is FishClass.PANFISH


def test_priors_lean_the_odds_by_target_and_season():
    usual, cold = Priors(), Priors.of(temperature_degc=4.0)
    assert usual.factors == (1.0,) * 5
    gar = OF_FISH.index(FishClass.GAR)
    assert cold.factors[gar] < 1.0 < Priors.of(temperature_degc=29.0).factors[gar]
    forest = stumps(("length_m", 0.4, 2.0, FishClass.BASS))
    sums = np.zeros((1, 5))
    bass = OF_FISH.index(FishClass.BASS)
    leaned = forest.odds(sums, Priors.of(target=FishClass.BASS))
    assert leaned[0, bass] == pytest.approx(1.5 / 5.5)


def test_each_trait_that_tells_is_under_one_word_at_most():
    named_traits = [trait for sign in SIGNS for trait in sign.traits]
    assert len(named_traits) == len(set(named_traits))
    assert set(named_traits) <= set(CLASS_TRAITS)
    assert not set(CLASS_TRAITS) & set(HAND_TRAITS)


def a_row(**changes):
    row = np.full(len(TRAITS), np.nan)
    for trait, value in changes.items():
        row[TRAITS.index(trait)] = value
    return row


def stumps(*rules):
    """Trees of one question each: (trait, threshold, what more of it adds to which class)."""
    trait, threshold, value, of_class = [], [], [], []
    for name, limit, adds, one in rules:
        trait += [CLASS_TRAITS.index(name), -1, -1]
        threshold += [limit, 0.0, 0.0]
        value += [0.0, 0.0, adds]
        of_class.append(OF_FISH.index(one))
    count = len(rules)
    left, right = np.full(3 * count, -1), np.full(3 * count, -1)
    left[::3], right[::3] = np.arange(1, 3 * count, 3), np.arange(2, 3 * count, 3)
    forest = Forest(
        trait=np.array(trait), threshold=np.array(threshold), left=left, right=right, missing_left=np.ones(3 * count, int),
        value=np.array(value), first=np.arange(0, 3 * count, 3), of_class=np.array(of_class), base=np.zeros(5), warmth=1.0,
    )  # fmt: skip
    typical = np.full(len(CLASS_TRAITS), np.nan)
    for name, middle in (("longest_m", 0.2), ("length_m", 0.2), ("roam_m", 0.1), ("moved_m", 0.1), ("tracks_near", 4.0)):
        typical[CLASS_TRAITS.index(name)] = middle
    return ClassForest(forest=forest, typical=typical)


def test_the_words_are_what_would_cost_the_class_most_were_it_as_usual():
    forest = stumps(
        ("length_m", 0.4, 2.0, FishClass.BASS), ("roam_m", 0.3, 1.0, FishClass.BASS), ("tracks_near", 9.0, 1.5, FishClass.PANFISH)
    )
    bass = OF_FISH.index(FishClass.BASS)
    row = a_row(length_m=0.5, longest_m=0.5, roam_m=0.6, moved_m=0.7, tracks_near=1.0)
    assert forest.sums(row[None])[0].tolist() == [0.0, 3.0, 0.0, 0.0, 0.0]
    # Its length adds two, its way one; that it is alone adds nothing.
    assert forest.words(row, bass) == (Word.LONG, Word.MOVES)
    assert forest.words(a_row(length_m=0.2, longest_m=0.2, roam_m=0.1, moved_m=0.1, tracks_near=4.0), bass) == ()
    crowded = a_row(length_m=0.2, longest_m=0.2, roam_m=0.1, moved_m=0.1, tracks_near=12.0)
    panfish = OF_FISH.index(FishClass.PANFISH)
    assert forest.words(crowded, panfish) == (Word.SCHOOLED,)
    # What is not known may well weigh with the trees, as it was learned, and yet there is no word for it.
    weighs = replace(forest, forest=replace(forest.forest, missing_left=np.zeros_like(forest.forest.missing_left)))
    unknown = a_row(length_m=0.2, longest_m=0.2, roam_m=0.1, moved_m=0.1, tracks_near=np.nan)
    assert weighs.sums(unknown[None])[0, panfish] == 1.5
    assert weighs.words(unknown, panfish) == ()


@pytest.mark.parametrize(
    ("changes", "look"),
    [
        ({"age_s": 1.0}, Look.LONGER),
        ({"age_s": 8.0, "range_m": 15.0}, Look.NEARER),
        ({"age_s": 8.0, "range_m": 8.0, "wide_m": 0.02}, Look.SIDE_ON),
        ({"age_s": 8.0, "range_m": 8.0, "wide_m": 0.3}, Look.NEIGHBORS),
    ],
)
def test_the_look_that_would_settle_it(changes, look):
    odds = class_odds(KINDS, np.array([0.5, 0.4, 0.05, 0.03, 0.02]))
    assert settling_look(odds, a_row(**changes)) is look


def test_what_may_be_wood_is_watched_for_moving():
    odds = class_odds({**KINDS, Kind.FISH: 0.6, Kind.COVER: 0.3}, np.array([0.8, 0.1, 0.05, 0.03, 0.02]))
    assert settling_look(odds, a_row(age_s=8.0, range_m=8.0, wide_m=0.3)) is Look.MOVES


def test_what_is_sure_needs_no_look():
    odds = class_odds(
        {**KINDS, Kind.FISH: 0.98, Kind.COVER: 0.0, Kind.BAIT: 0.01, Kind.LURE: 0.01}, np.array([0.96, 0.01, 0.01, 0.01, 0.01])
    )
    assert settling_look(odds, a_row(age_s=1.0)) is None


def test_without_the_learned_file_no_fish_has_an_identity():
    identifier = Identifier(None)
    assert identifier.look_at(together(), time_s=1.0) is None
