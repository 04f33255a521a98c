import math

import numpy as np
import pytest

from mudlamp.core.ping import Fan
from mudlamp.core.tracking.context import ABOUT_M, CONTEXT, FAR_M, PARTED, SUREST, context_of, leads_of, remember, weighed
from mudlamp.core.tracking.forest import Forest
from mudlamp.core.tracking.learned import Learned
from mudlamp.core.tracking.telling import KindTeller
from mudlamp.core.tracking.track import KINDS, LURE, Kind
from mudlamp.core.tracking.traits import TRAITS, gaps_to
from tests.core.tracks import a_plane, a_track, together

NEVER_TOLD = math.nan
SEEN = {"beam_width_rad": 0.02, "time_s": 0.0}


def told(number, place, lead=NEVER_TOLD):
    track = a_track(number, place)
    track.lead, track.leads = lead, np.array([lead, lead**2, lead, lead])
    track.traits, track.told = np.arange(len(TRAITS), dtype=np.float64), 1
    return track


def odds(tracks):
    return np.full((len(tracks), len(KINDS)), 0.25)


def context(due, everyone):
    due, everyone = together(*due), together(*everyone)
    traits = np.array([track.traits for track in due])
    said = {"traits": traits, "odds": odds(due), "newest": np.zeros(len(due))}
    rows = context_of(due, everyone, gaps_to(everyone, due), plane=a_plane(), **said, **SEEN)
    return [dict(zip(CONTEXT, row, strict=True)) for row in rows]


def test_a_lead_is_the_logarithm_of_the_odds_and_never_too_sure():
    shares = np.array([[0.7, 0.1, 0.15, 0.05], [0.01, 0.01, 0.01, 0.97]])
    np.testing.assert_allclose(leads_of(np.log(shares) + 3.0), np.log(shares[:, 0] / (1.0 - shares[:, 0])))
    assert leads_of(np.array([[50.0, 0.0, 0.0, 0.0], [-50.0, 0.0, 0.0, 0.0]])).tolist() == [SUREST, -SUREST]


def test_what_was_said_is_remembered_and_extremes_fade():
    track = told(1, (8.0, 3.0))
    leads = [2.0, -4.0, 1.0, 0.0, 0.0]
    for number, lead in enumerate(leads, start=1):
        track.told = number
        remember(track.roster, together(track).rows, np.array([lead]), np.array([lead]))
    mean, square, most, least = track.leads
    assert track.lead == 0.0
    assert mean == pytest.approx(np.mean(leads))
    assert square == pytest.approx(np.mean(np.square(leads)))
    # They were 2 and -4 and have come a little nearer since, but not far in three tellings.
    assert 1.7 < most < 2.0
    assert -4.0 < least < -3.5


def test_leads_about_a_track_are_those_within_each_distance_and_not_its_own():
    rng = np.random.default_rng(3)
    everyone = [told(n, tuple(rng.uniform((5.0, 1.0), (12.0, 5.0))), rng.normal(-1.0, 2.0)) for n in range(30)]
    everyone[7] = told(7, everyone[7].place)
    due = [track for track in everyone[::3] if not math.isnan(track.lead)]
    for track, row in zip(due, context(due, everyone), strict=True):
        others = [(math.dist(one.place, track.place), one.lead) for one in everyone if one is not track and not math.isnan(one.lead)]
        for radius in ABOUT_M:
            near = [lead for away, lead in others if away < radius]
            assert row[f"about_{radius:g}_m_count"] == len(near)
            if near:
                assert row[f"about_{radius:g}_m_mean"] == pytest.approx(np.mean(near))
                assert row[f"about_{radius:g}_m_most"] == max(near)
                assert row[f"about_{radius:g}_m_over"] == pytest.approx(track.lead - np.mean(near))
        assert row["fish_away_m"] == pytest.approx(min([FAR_M, *(away for away, lead in others if lead > 0.0)]))
        assert row["tall_m"] == TRAITS.index("tall_m")


def test_who_is_alone_has_nothing_about_it():
    alone, other = told(1, (8.0, 3.0), 1.0), told(2, (25.0, 3.0), 2.0)
    row, _ = context([alone, other], [alone, other])
    assert row["about_5_m_count"] == 0
    assert math.isnan(row["about_5_m_mean"])
    assert math.isnan(row["about_5_m_most"])
    assert row["fish_away_m"] == FAR_M


def test_context_parts_what_the_lure_leaves():
    own, parted = np.array([[0.3, 0.2, 0.1, 0.4]]), np.array([[0.75, 0.05, 0.2]])
    shares = dict(zip(KINDS, weighed(own, parted)[0], strict=True))
    assert shares[Kind.LURE] == own[0, LURE]
    assert [shares[kind] for kind in PARTED] == pytest.approx([0.6, 0.04, 0.16])
    assert sum(shares.values()) == pytest.approx(1.0)


def always(*base):
    """A forest whose one leaf adds nothing: it says the same of everything."""
    nothing = np.zeros(1, dtype=np.int64)
    return Forest(
        trait=nothing - 1,
        threshold=np.zeros(1),
        left=nothing,
        right=nothing,
        missing_left=nothing,
        value=np.zeros(1),
        first=nothing,
        of_class=nothing,
        base=np.log(base),
        warmth=1.0,
    )


@pytest.mark.parametrize(
    ("fan", "parts", "fish"),
    [
        (Fan.AHEAD, {"context"}, 0.72),
        (Fan.FLAT, {"context"}, 0.3),
        (Fan.FLAT, {"flat"}, 0.72),
        (Fan.BELOW, {"flat"}, 0.3),
        (Fan.AHEAD, set(), 0.3),
    ],
)
def test_context_weighs_what_the_trees_say_by_what_was_learned_of_such_a_fan(fan, parts, fish):
    shares = {Kind.FISH: 0.3, Kind.LURE: 0.1, Kind.BAIT: 0.2, Kind.COVER: 0.4}
    parted = {Kind.FISH: 0.8, Kind.BAIT: 0.05, Kind.COVER: 0.15}
    weighing = always(*(parted[kind] for kind in PARTED))
    teller = KindTeller(Learned(kinds=always(*(shares[kind] for kind in KINDS)), **dict.fromkeys(parts, weighing)))
    tracks = together(told(1, (8.0, 3.0)), told(2, (8.5, 3.0)))
    for _ in range(3):
        teller.tell(tracks, tracks, gaps_to(tracks, tracks), plane=a_plane(fan=fan), **SEEN)
    assert tracks[0].odds[Kind.FISH] == pytest.approx(fish)
    assert tracks[0].odds[Kind.LURE] == pytest.approx(0.1)
    # What it is weighed by is kept: it is what context is learned from.
    assert dict(zip(CONTEXT, tracks[0].context, strict=True))["about_1_m_count"] == 1
