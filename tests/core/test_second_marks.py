"""Second marks: one end of a long fish is none of its own; two fish are two."""

import numpy as np
import pytest

from mudlamp.core.tracking.bottom_line import BottomLine
from mudlamp.core.tracking.classes import FishClass
from mudlamp.core.tracking.roster import Roster
from mudlamp.core.tracking.second_marks import IS_SECOND, LIT_DB, LONG_M, MOST_NEAR, NEAR_M, WITHIN, called, goes_as, lit_between_db, note
from mudlamp.core.tracking.sizing import Size
from mudlamp.core.tracking.track import COVER, FISH, LURE
from mudlamp.core.tracking.tracker import LET_GO, NAMED, Tracker
from mudlamp.core.tracking.traits import gaps_to
from mudlamp.core.tracking.views import views_of
from tests.core.test_tracking import SETUP, ping_of
from tests.core.tracks import a_plane, a_track, together

CARP_M = 0.7
LIT = np.ones((len(SETUP.beam_angle_rad), len(SETUP.range_m)), np.float32)


@pytest.fixture
def roster():
    return Roster()


def a_mark(roster, number, place, *, length_m=CARP_M, born_s=0.0, kind=FISH):
    track = a_track(number, place, roster=roster, born_s=born_s)
    roster.kind[track.row] = kind
    track.size = None if length_m is None else Size(length_m=length_m, low_m=0.8 * length_m, high_m=1.2 * length_m)
    return track


def told(*tracks, times=12, power=LIT):
    """Let second marks be noted and named so often, all of them as likely fish as they are now; return what each is called."""
    everyone = together(*tracks)
    roster, rows = everyone.roster, everyone.rows
    likely = roster.kind[rows].copy()
    for _ in range(times):
        note(everyone, everyone, gaps_to(everyone, everyone), power=power, setup=SETUP, plane=a_plane())
        roster.kind[rows] = called(roster, rows, likely)
        roster.told[rows] += 1
    return roster.kind[rows].tolist()


def pair(roster, apart_m, **later):
    return a_mark(roster, 1, (8.0, 3.0)), a_mark(roster, 2, (8.0 + apart_m, 3.0), **{"born_s": 1.0} | later)


@pytest.mark.parametrize("share", [0.2, 0.95])
def test_what_keeps_within_a_fish_is_its_other_end(roster, share):
    assert told(*pair(roster, share * WITHIN * CARP_M)) == [FISH, COVER]


def test_a_fish_its_own_length_off_is_another(roster):
    assert told(*pair(roster, 1.05 * WITHIN * CARP_M)) == [FISH, FISH]


def cell(place):
    """Return the beam and range bin of a place in the plane."""
    range_m, angle_rad = a_plane().polar(np.array([place]))
    return int(np.abs(SETUP.beam_angle_rad - angle_rad[0]).argmin()), int(np.abs(SETUP.range_m - range_m[0]).argmin())


@pytest.mark.parametrize(("gap_db", "wanted"), [(LIT_DB + 1.0, COVER), (LIT_DB - 1.0, FISH)])
def test_two_echoes_with_dark_water_between_them_are_two_fish(roster, gap_db, wanted):
    first, second = pair(roster, 0.5)
    power = np.full_like(LIT, 10.0 ** (gap_db / 10.0))
    for track in (first, second):
        power[cell(track.place)] = 1.0
    assert told(first, second, power=power) == [FISH, wanted]


def test_what_lies_between_is_seen_in_the_cells_of_the_line_between():
    rng = np.random.default_rng(7)
    power = rng.exponential(1.0, LIT.shape).astype(np.float32)
    first, second = np.array([[6.0, 3.0], [9.0, 2.0]]), np.array([[6.4, 3.1], [9.0, 2.6]])
    for got, a, b in zip(lit_between_db(power, SETUP, a_plane(), first, second), first, second, strict=True):
        # Brute force, place by place.
        darkest = min(
            max(power[beam, bin + off] for off in (-1, 0, 1)) for beam, bin in (cell(a + n / 12.0 * (b - a)) for n in range(3, 10))
        )
        ends = [max(power[beam + i, bin + j] for i in (-1, 0, 1) for j in range(-3, 4)) for beam, bin in (cell(a), cell(b))]
        assert got == pytest.approx(10.0 * np.log10(darkest / min(ends)), abs=1e-6)


def test_outside_the_picture_its_rim_counts():
    far = np.array([[200.0, 3.0]])
    assert lit_between_db(LIT, SETUP, a_plane(), far, far + 0.3) == pytest.approx(0.0)


def test_either_end_may_know_the_length(roster):
    first, second = pair(roster, 0.3)
    first.size = None
    assert told(first, second) == [FISH, COVER]


def test_short_fish_are_as_many_as_their_marks(roster):
    first, second = pair(roster, 0.1, length_m=0.95 * LONG_M)
    first.size = second.size
    assert told(first, second) == [FISH, FISH]


def test_without_lengths_every_mark_stands_for_itself(roster):
    first, second = pair(roster, 0.1, length_m=None)
    first.size = None
    assert told(first, second) == [FISH, FISH]


def test_wood_beside_a_fish_takes_nothing_from_it(roster):
    assert told(a_mark(roster, 1, (8.0, 3.0), kind=COVER), a_mark(roster, 2, (8.2, 3.0), born_s=1.0)) == [COVER, FISH]


def test_in_a_school_marks_lie_that_near_anyway(roster):
    about = [
        a_mark(roster, 3 + n, (8.0 + 0.7 * NEAR_M * np.cos(n), 3.0 + 0.7 * NEAR_M * np.sin(n)), length_m=0.3) for n in range(MOST_NEAR + 1)
    ]
    assert told(*pair(roster, 0.3), *about)[1] == FISH


def test_of_three_marks_on_a_fish_one_is_left(roster):
    assert told(*pair(roster, 0.3), a_mark(roster, 3, (7.8, 3.0), born_s=2.0)) == [FISH, COVER, COVER]


def test_a_second_mark_that_swims_off_is_a_fish_again(roster):
    first, second = pair(roster, 0.3)
    told(first, second)
    second.state = np.array((10.0, 3.0, 0.0, 0.0))
    roster.kind[second.row] = FISH
    assert told(first, second, times=4)[1] == COVER
    roster.kind[second.row] = FISH
    assert told(first, second, times=12)[1] == FISH


def test_it_is_not_told_after_one_look(roster):
    first, second = pair(roster, 0.3)
    for track in (first, second):
        roster.told[track.row] = 30
    assert told(first, second, times=1) == [FISH, FISH]
    assert 0.0 < roster.second[second.row] < IS_SECOND


def test_others_see_which_marks_are_no_thing_of_their_own(roster):
    first, second = pair(roster, 0.3)
    told(first, second)
    ghost = a_mark(roster, 3, (9.5, 3.0), kind=COVER)
    roster.ghost[ghost.row] = 1.0
    seen = views_of(together(first, second, ghost), a_plane(), ping_of(LIT, 1), BottomLine())
    assert [view.apparent for view in seen] == [False, True, True]


def test_what_the_angler_calls_a_fish_is_one(roster):
    first, second = pair(roster, 0.3)
    second.said = FishClass.ROUGH
    assert told(first, second) == [FISH, FISH]


def test_a_second_mark_that_is_let_go_must_be_as_likely_as_a_new_fish(roster):
    first, second = pair(roster, 0.3)
    told(first, second)
    roster.told[second.row], roster.second[second.row] = 40, 0.0
    for odds, wanted in ((0.5 * (LET_GO + NAMED), COVER), (NAMED + 0.01, FISH), (0.5 * (LET_GO + NAMED), FISH)):
        roster.odds[second.row, [FISH, COVER]] = odds, 1.0 - odds
        Tracker._name(together(second))
        assert roster.kind[second.row] == wanted


def test_a_second_mark_goes_as_a_fish_until_it_is_the_lure(roster):
    first, second = pair(roster, 0.3)
    told(first, second)
    rows = together(first, second).rows
    assert goes_as(roster, rows).tolist() == [FISH, FISH]
    roster.kind[second.row] = LURE
    assert goes_as(roster, rows).tolist() == [FISH, LURE]
