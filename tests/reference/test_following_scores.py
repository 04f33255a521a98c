"""How following is scored, against published implementations: GOSPA of a tracking library, HOTA of the authors' own package."""

import numpy as np
import pytest

from mudlamp.core.score.gospa import gospa
from mudlamp.formats.scene.file import load_scene
from mudlamp.services.bench.compared import Story, compare, published_gospa
from mudlamp.services.bench.libraries import Way


@pytest.mark.parametrize("seed", range(6))
def test_gospa_is_the_library_s(seed):
    # Rahmathullah, Garcia-Fernandez and Svensson (2017), as implemented in a general-purpose tracking library.
    rng = np.random.default_rng(seed)
    truth, tracks = (rng.uniform(0.0, 4.0, (int(rng.integers(0, 9)), 2)) for _ in range(2))
    assert gospa(truth, tracks, cutoff_m=1.0).distance_m == pytest.approx(published_gospa(truth, tracks), abs=1e-9)


def followed(*numbers):
    """Two fish over as many pings as there are pairs of track numbers: each is followed without an error."""
    story = Story()
    for pair in numbers:
        story.gospa_m.append(0.0)
        story.fish.append(["a", "b"])
        story.tracks.append(list(pair))
        story.alike.append(np.eye(2))
    return story.figures().hota


def test_hota_falls_where_tracks_change_fish():
    # Luiten and others (2021), equations 5 to 9, by hand: with all found, HOTA is the root of how well identities are kept.
    assert followed(*[(1, 2)] * 10) == pytest.approx(1.0)
    # Half the time each track is on the other fish: of 15 pings with the fish or the track, five are right.
    half = followed(*[(1, 2)] * 5, *[(2, 1)] * 5)
    assert half == pytest.approx((1.0 / 3.0) ** 0.5, abs=1e-3)


def test_ours_and_the_library_s_ways_follow_the_same_echoes():
    found = compare([load_scene("pear-tree")], seed=903, seconds=0.6)
    row = found.scenes["pear-tree"]
    assert set(row) == {"ours", *Way}
    # The same echoes and the same lives: what differs is who gets which echo.
    assert max(one.gospa_m for one in row.values()) - min(one.gospa_m for one in row.values()) < 0.4
    assert found.mean["ours"] == row["ours"]
