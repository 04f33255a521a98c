"""Kinds told alone, then among others: with trees that always say the same."""

import numpy as np
import pytest

from mudlamp.core.tracking.classify import KINDS
from mudlamp.core.tracking.forest import Forest
from mudlamp.core.tracking.kinds import BESIDE_M, KindTeller
from mudlamp.core.tracking.learned import Learned
from mudlamp.core.tracking.track import Kind, Track
from mudlamp.core.tracking.traits import TRAITS


def always(kind):
    """A forest of one leaf a class, which says one kind whatever the traits are."""
    none, four = np.full(len(KINDS), -1), np.arange(len(KINDS))
    return Forest(
        trait=none,
        threshold=np.zeros(len(KINDS)),
        left=none,
        right=none,
        missing_left=np.zeros(len(KINDS), np.int64),
        value=np.where(four == KINDS.index(kind), 3.0, 0.0),
        first=four,
        of_class=four,
        base=np.zeros(len(KINDS)),
        warmth=1.0,
    )


def track(number, ahead_m, *, born_s=0.0, kind=Kind.COVER):
    made = Track(
        number=number,
        born_s=born_s,
        first=(ahead_m, 3.0),
        state=np.array([ahead_m, 3.0, 0.0, 0.0]),
        covariance=np.eye(4),
        level_db=-40.0,
        length_m=0.3,
        seen_s=5.0,
        confirmed=True,
        kind=kind,
    )
    made.told = 5
    return made


def told(learned, tracks):
    odds = KindTeller(learned).odds(tracks, tracks, np.zeros((len(tracks), len(TRAITS))), time_s=5.0)
    return [max(one, key=one.__getitem__) for one in odds]


@pytest.mark.parametrize(("among", "kind"), [(None, Kind.COVER), (always(Kind.BAIT), Kind.BAIT)])
def test_what_is_told_among_others_has_the_last_word(among, kind):
    assert told(Learned(kinds=always(Kind.COVER), among=among), [track(1, 5.0), track(2, 9.0)]) == [kind, kind]


def test_what_came_up_right_beside_a_fish_is_told_alone_for_it_may_be_its_other_end():
    fish = track(1, 5.0, kind=Kind.FISH)
    beside = track(2, 5.0 + 0.9 * BESIDE_M, born_s=2.0)
    farther = track(3, 5.0 - 1.1 * BESIDE_M, born_s=2.0)
    older = track(4, 5.0 + 0.9 * BESIDE_M, born_s=-2.0)
    learned = Learned(kinds=always(Kind.COVER), among=always(Kind.FISH))
    assert told(learned, [fish, beside, farther, older]) == [Kind.FISH, Kind.COVER, Kind.FISH, Kind.FISH]
    assert fish.context is not None
