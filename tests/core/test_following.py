"""How following is scored, on cases that can be counted by hand."""

import math
from dataclasses import replace

import numpy as np
import pytest

from mudlamp.core.scene.truth import SideWatch, TruthRow
from mudlamp.core.score.following import Following, FollowingScore
from mudlamp.core.score.labels import labels_of, labels_with_doubles
from mudlamp.core.tracking.track import Kind
from mudlamp.core.tracking.views import TrackView

FISH = TruthRow(
    time_s=0.0, id="fish1", kind="fish", species="crappie", x_m=0.0, y_m=8.0, z_m=3.0, length_m=0.3, heading_rad=0.0, speed_m_s=0.0,
    range_m=8.0, angle_rad=0.0, across_rad=0.0, over_db=20.0, in_fan=True, seen=True,
)  # fmt: skip
VIEW = TrackView(
    number=1, kind=Kind.FISH, odds={}, place=(0.0, 0.0), world=(0.0, 0.0, 0.0), range_m=8.0, angle_rad=0.0, velocity_m_s=(0.0, 0.0),
    length_m=0.3, level_db=-40.0, coasting=False, age_s=1.0,
)  # fmt: skip


def test_a_fish_is_side_on_when_its_side_was_seen_for_a_second():
    watch, normal = SideWatch(), np.array([1.0, 0.0, 0.0])
    said = []
    for number, (turn_deg, seen) in enumerate([(0.0, True)] * 12 + [(40.0, True)] + [(180.0, True)] * 5 + [(10.0, False)]):
        row = replace(FISH, time_s=0.1 * number, heading_rad=math.radians(turn_deg), seen=seen)
        said.append(watch.watched([row], normal)[0].side_on)
    assert said == [False] * 10 + [True] * 2 + [False] * 7
    bait = replace(FISH, kind="bait")
    assert watch.watched([bait], normal) == [bait]


def scored(pings):
    score = FollowingScore()
    for number, (truth, views) in enumerate(pings):
        score.add(number / 10.0, truth, views, {"fish2"})
    return score.result()


def test_coverage_switches_and_gospa_of_one_fish():
    followed = [([FISH], [VIEW])] * 10
    by_another = [([FISH], [replace(VIEW, number=2)])] * 10
    alone = [([FISH], [])] * 20
    found = scored([*followed, *by_another, *alone])
    assert (found.seen, found.covered, found.switches, found.false_tracks) == (40, 20, 1, 0)
    # A missed fish costs half the cut squared: GOSPA (1/2)^(1/2) m; a fish followed exactly, nothing.
    assert found.gospa_m == pytest.approx(0.5 * 0.5**0.5)
    assert found.figures()["switches_per_fish_min"] == pytest.approx(1 / (40 * 0.1 / 60), rel=0.05)


def test_a_track_on_nothing_is_false_after_eight_pings_and_one_on_an_unseen_fish_is_not():
    far = replace(VIEW, range_m=12.0)
    unseen = replace(FISH, seen=False)
    assert scored([([FISH], [far])] * 7).false_tracks == 0
    assert scored([([FISH], [far])] * 9).false_tracks == 1
    found = scored([([unseen], [VIEW])] * 9)
    assert (found.false_tracks, found.seen, found.gospa_m) == (0, 0, 0.0)


def test_hard_fish_and_the_lure_are_counted_apart():
    lure = replace(FISH, id="lure", kind="lure", range_m=5.0)
    other = replace(FISH, id="fish2", range_m=10.0)
    named = replace(VIEW, number=3, kind=Kind.LURE, range_m=5.1)
    found = scored([([FISH, other, lure], [VIEW, named]), ([FISH], [named])])
    assert (found.hard_seen, found.hard_covered) == (1, 0)
    assert (found.lure_seen, found.lure_covered, found.lure_named, found.lure_right, found.lure_stray) == (1, 1, 2, 1, 1)
    total = Following.total([found, found])
    assert (total.seen, total.gospa_m) == (2 * found.seen, pytest.approx(found.gospa_m))


def test_labels_go_to_the_nearest_track_and_what_is_doubtful_gets_none():
    cloud = replace(FISH, id="bait1", kind="bait", range_m=15.0, radius_m=1.0)
    views = [replace(VIEW, number=number, range_m=range_m) for number, range_m in ((1, 8.05), (2, 8.2), (3, 8.9), (4, 14.2), (5, 5.02))]
    lure = replace(FISH, id="lure", kind="lure", range_m=5.0)
    assert [label and label.kind for label in labels_of(views, [FISH, cloud, lure])] == [Kind.FISH, None, Kind.COVER, Kind.BAIT, Kind.LURE]
    # A second mark of a fish that has its own is its double; of a fish that has none it stays doubtful, as does what cannot be seen.
    second = labels_with_doubles(views, [FISH, cloud, lure])[1]
    assert (second.kind, second.row, second.double) == (Kind.COVER, FISH, True)
    beside = [replace(VIEW, number=1, range_m=8.4)]
    assert labels_with_doubles(beside, [FISH]) == [None]
    assert labels_with_doubles(views[:2], [replace(FISH, seen=False)]) == [None, None]
