import math

import numpy as np
import pytest

from mudlamp.core.ping import Fan
from mudlamp.core.tracking.context import FAR_M, SUREST
from mudlamp.core.tracking.learned import Learned
from mudlamp.core.tracking.lure_choice import by_look
from mudlamp.core.tracking.lure_context import LURE_CONTEXT, log_odds_of, lure_context_of, with_lure
from mudlamp.core.tracking.telling import KindTeller
from mudlamp.core.tracking.track import COVER, KINDS, LURE, Kind
from mudlamp.core.tracking.traits import TRAITS, gaps_to
from tests.core.test_context import always
from tests.core.tracks import a_plane, a_track, together


def told(number, place, *, velocity=(0.0, 0.0), lead=math.nan):
    track = a_track(number, place)
    track.state[2:] = velocity
    track.lead, track.traits, track.told = lead, np.arange(len(TRAITS), dtype=np.float64), 3
    track.born_s, track.seen_s, track.own_s = 10.0, 19.5, 19.0
    return track


def odds(*lures):
    rows = np.tile([(1.0 - np.array(lures)) / 3.0], (len(KINDS), 1)).T
    rows[:, LURE] = lures
    return rows


def context(due, everyone, odds):
    due, everyone = together(*due), together(*everyone)
    traits = np.array([track.traits for track in due])
    rows = lure_context_of(due, everyone, gaps_to(everyone, due), traits=traits, odds=odds, plane=a_plane(), time_s=20.0)
    return [dict(zip(LURE_CONTEXT, row, strict=True)) for row in rows]


def test_the_likeliest_lure_stands_over_the_next_and_the_others_under_it():
    tracks = [told(n, (8.0 + n, 3.0)) for n in range(3)]
    first, second, third = context(tracks, tracks, odds(0.8, 0.5, 0.1))
    lead = [math.log(p / (1.0 - p)) for p in (0.8, 0.5, 0.1)]
    assert first["lure_lead_over"] == pytest.approx(lead[0] - lead[1])
    assert second["lure_lead_over"] == pytest.approx(lead[1] - lead[0])
    assert third["lure_lead_over"] == pytest.approx(lead[2] - lead[0])
    # One in ten is under what counts as somewhat likely.
    assert [one["lures_like"] for one in (first, second, third)] == [2, 2, 2]
    alone = context(tracks[:1], tracks[:1], odds(0.8))[0]
    assert alone["lure_lead_over"] == pytest.approx(lead[0] + SUREST)
    assert alone["nearest_m"] == alone["fish_away_m"] == FAR_M
    assert math.isnan(alone["fish_closes_m_s"])


def test_where_and_how_it_goes_is_told_as_seen_from_the_boat():
    track = told(1, (8.0, 3.0), velocity=(-0.4, 0.1))
    one = context([track], [track], odds(0.4))[0]
    assert one["ahead_m"] == pytest.approx(8.0 - a_plane().origin[0])
    assert (one["down_m"], one["ahead_m_s"], one["down_m_s"]) == (3.0, -0.4, 0.1)
    assert (one["age_s"], one["seen_ago_s"], one["heard_ago_s"], one["looks"]) == (10.0, 0.5, 1.0, 3)
    assert one["look_crowd"] == TRAITS.index("crowd")


def test_a_fish_that_comes_for_it_closes_in_and_wood_does_not_count():
    lure = told(1, (8.0, 3.0))
    wood, fish = told(2, (8.2, 3.0), lead=-3.0), told(3, (9.0, 3.0), velocity=(-0.5, 0.3), lead=2.0)
    one = context([lure], [lure, wood, fish], odds(0.6))[0]
    assert one["fish_away_m"] == pytest.approx(1.0)
    assert one["fish_closes_m_s"] == pytest.approx(0.5)
    assert one["nearest_m"] == pytest.approx(0.2)
    assert one["tracks"] == 3


def test_leads_are_never_too_sure():
    assert log_odds_of(np.array([[1.0, 0.0, 0.5, 0.2]]))[0] == pytest.approx([SUREST, -SUREST, 0.0, math.log(0.25)])


def test_what_the_lure_leaves_is_parted_as_before():
    told_odds = np.array([[0.2, 0.5, 0.1, 0.2], [0.0, 1.0, 0.0, 0.0]])[:, [0, 1, 2, 3]]
    found = with_lure(told_odds, np.array([0.1, 0.3]))
    np.testing.assert_allclose(found.sum(axis=1), 1.0)
    np.testing.assert_allclose(found[:, LURE], [0.1, 0.3])
    others = [n for n in range(len(KINDS)) if n != LURE]
    np.testing.assert_allclose(found[0, others] / found[0, others].sum(), told_odds[0, others] / told_odds[0, others].sum())
    # Where nothing was left to part, what is no lure is cover.
    assert found[1, COVER] == pytest.approx(0.7)


@pytest.mark.parametrize(("fan", "learned", "lure"), [(Fan.AHEAD, True, 0.9), (Fan.FLAT, True, 0.2), (Fan.AHEAD, False, 0.2)])
def test_the_lure_is_told_in_context_but_under_a_flat_fan_or_where_that_was_not_learned(fan, learned, lure):
    shares = {Kind.FISH: 0.4, Kind.LURE: 0.2, Kind.BAIT: 0.1, Kind.COVER: 0.3}
    teller = KindTeller(Learned(kinds=always(*(shares[kind] for kind in KINDS)), lure=always(0.1, 0.9) if learned else None))
    track = told(1, (8.0, 3.0))
    one = together(track)
    teller.tell(one, one, gaps_to(one, one), plane=a_plane(fan=fan), beam_width_rad=0.02, time_s=20.0)
    assert track.odds[Kind.LURE] == pytest.approx(lure)
    assert track.odds[Kind.FISH] == pytest.approx((1.0 - lure) * 0.5)
    assert sum(track.odds.values()) == pytest.approx(1.0)
    assert (track.lure_context is None) == (fan is Fan.FLAT)


def with_lure_odds(number, odds):
    track = told(number, (8.0, 3.0))
    track.confirmed, track.odds = True, {Kind.LURE: odds, Kind.FISH: 1.0 - odds}
    return track


@pytest.mark.parametrize(
    ("odds", "in_context", "is_out", "named"),
    [(0.35, True, False, True), (0.2, True, False, False), (0.35, False, False, False), (0.35, False, True, True)],
)
def test_a_lure_told_in_context_or_known_to_be_out_is_named_from_lower_odds_than_by_its_look_alone(odds, in_context, is_out, named):
    track = with_lure_odds(1, odds)
    track.lure_context = np.zeros(len(LURE_CONTEXT)) if in_context else None
    found = by_look(together(track), before=None, is_out=is_out, time_s=20.0)
    assert (found is not None) == named


def test_who_has_the_name_keeps_it_against_one_a_little_likelier_until_it_is_unlikely():
    def named(held, other):
        tracks = [with_lure_odds(1, held), with_lure_odds(2, other)]
        found = by_look(together(*tracks), before=1, is_out=True, time_s=20.0)
        return None if found is None else found.number

    assert named(0.4, 0.6) == 1
    assert named(0.4, 0.8) == 2
    assert named(0.2, 0.05) == 1
    assert named(0.1, 0.05) is None
