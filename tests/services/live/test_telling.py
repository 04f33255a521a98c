"""What a session tells of its tracks beside what the tracker says itself."""

from types import SimpleNamespace

import numpy as np
import pytest

from mudlamp.core.tracking.track import Kind
from mudlamp.services.live.telling import _cover_of, _off_cover_m


def a_mark(kind, place, *, length_m=0.4, apparent=False):
    return SimpleNamespace(place=place, length_m=length_m, kind=kind, apparent=apparent)


def test_a_fish_is_as_far_off_cover_as_its_edge_is_from_the_nearest_edge():
    rng = np.random.default_rng(998)
    drawn = [
        a_mark(kind, tuple(rng.uniform(0, 12, 2)), length_m=float(rng.uniform(0.1, 1.0)))
        for kind in [Kind.COVER] * 9 + [Kind.FISH] * 6 + [Kind.LURE]
    ]
    cover = _cover_of(drawn)
    for fish in [one for one in drawn if one.kind is Kind.FISH]:
        # Brute force, each piece by itself.
        wanted = min(
            np.hypot(fish.place[0] - one.place[0], fish.place[1] - one.place[1]) - 0.5 * one.length_m - 0.5 * fish.length_m
            for one in drawn
            if one.kind is Kind.COVER
        )
        assert _off_cover_m(fish, cover) == pytest.approx(max(wanted, 0.0))
    assert _off_cover_m(drawn[-2], _cover_of(drawn[9:])) is None


def test_what_only_seems_to_be_there_is_no_cover():
    post, ghost = a_mark(Kind.COVER, (9.0, 3.0)), a_mark(Kind.COVER, (5.5, 3.0), apparent=True)
    fish = a_mark(Kind.FISH, (5.0, 3.0))
    assert _off_cover_m(fish, _cover_of([post, ghost])) == pytest.approx(4.0 - 0.5 * post.length_m - 0.5 * fish.length_m)
    assert _off_cover_m(fish, _cover_of([ghost])) is None
