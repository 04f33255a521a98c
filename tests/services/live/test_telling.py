"""What a session tells of its tracks beside what the tracker says itself."""

from types import SimpleNamespace

import numpy as np
import pytest

from mudlamp.core.tracking.track import Kind
from mudlamp.services.live.telling import _cover_of, _off_cover_m


def test_a_fish_is_as_far_off_cover_as_its_edge_is_from_the_nearest_edge():
    rng = np.random.default_rng(998)
    drawn = [
        SimpleNamespace(place=tuple(rng.uniform(0, 12, 2)), length_m=float(rng.uniform(0.1, 1.0)), kind=kind)
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
