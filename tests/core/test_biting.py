"""A bite as tracks show it: the fish's own echo is gone, the lure's has grown as loud as the fish was."""

import numpy as np
import pytest

from mudlamp.core.tracking.biting import Strikes
from mudlamp.core.tracking.roster import MEANS
from mudlamp.core.tracking.track import Kind
from tests.core.tracks import a_track

STEP = 1.0 / 15.0
FISH_DB, LURE_DB = -42.0, -60.0


def made(number, kind, place, level_db):
    means = np.zeros(len(MEANS))
    means[0] = level_db
    track = a_track(number, place, level_db=level_db, means=means, confirmed=True)
    track.kind, track.odds = kind, {Kind.FISH: 0.9, Kind.LURE: 0.1}
    return track


def told(*, gap_m=0.4, after_db=-43.0, silent=True, heard=True, many=1, seconds=5.0):
    """Let fish and the lure be heard for three seconds, then the fish no more, and the lure as loud as given; return the strikes."""
    strikes, found = Strikes(), []
    school = [made(3 + number, Kind.FISH, (8.0, 4.0), FISH_DB) for number in range(many)]
    lure = made(2, Kind.LURE, (8.0 + gap_m, 4.0), LURE_DB)
    for number in range(round(seconds / STEP)):
        t = number * STEP
        struck = t > 3.0
        if not (struck and silent):
            for fish in school:
                fish.own_s = fish.seen_s = t
        lure.own_s = lure.seen_s = t
        if struck or heard:
            lure.fixes.add(t, lure.place, after_db if struck else LURE_DB)
        found += strikes.update(school, lure, t)
    return found


def test_a_fish_that_dashes_at_the_lure_bit():
    (strike,) = told()
    assert strike.fish == 3
    assert strike.time_s == pytest.approx(3.1, abs=0.2)
    assert strike.odds == 0.9


@pytest.mark.parametrize(
    "case", [{"gap_m": 1.5}, {"after_db": LURE_DB + 3.0}, {"after_db": FISH_DB - 10.0}, {"silent": False}, {"heard": False}]
)
def test_far_off_or_with_a_faint_lure_or_one_never_heard_or_still_heard_it_did_not(case):
    assert told(**case) == []


@pytest.mark.parametrize(("many", "strikes"), [(2, 1), (3, 0), (4, 0)])
def test_of_two_fish_beside_the_lure_one_has_it_and_of_a_school_nobody_can_say(many, strikes):
    assert len(told(many=many)) == strikes
