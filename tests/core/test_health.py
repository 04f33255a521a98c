"""The tracker on pings that go wrong: it says what is wrong, starts anew where it must, and follows again."""

from dataclasses import replace

import numpy as np
import pytest

from mudlamp.core.hand import Doing, HandEvent
from mudlamp.core.tracking.health import TOLD_S, Trouble
from mudlamp.core.tracking.track import Kind
from mudlamp.core.tracking.tracker import Tracker
from mudlamp.formats.learned import shipped
from mudlamp.services.words.trouble import NOTHING_LEARNED, WORDS, trouble_words


@pytest.fixture
def warm(pear_pings):
    """A tracker after three seconds of the pear tree, the pings after that, and the time between two."""
    tracker = Tracker(shipped())
    for ping, *_ in pear_pings[:45]:
        tracker.update(ping)
    assert tracker.health.troubles(pear_pings[44][0].time_s) == ()
    rest = [ping for ping, *_ in pear_pings[45:]]
    return tracker, rest, rest[1].time_s - rest[0].time_s


def follow(tracker, pings):
    return [tracker.update(ping) for ping in pings][-1]


def test_lost_pings_are_told_and_what_was_followed_goes(warm):
    tracker, rest, _ = warm
    known = {track.number for track in tracker.tracks if track.confirmed}
    assert follow(tracker, rest[30:31]) == []
    assert tracker.health.troubles(rest[30].time_s) == (Trouble.LOST_PINGS,)
    again = follow(tracker, rest[31:60])
    assert len(again) > 3
    assert not known & {view.number for view in again}
    assert Trouble.LOST_PINGS not in tracker.health.troubles(rest[30].time_s + TOLD_S + 0.1)


def test_a_few_lost_pings_lose_no_track(warm):
    tracker, rest, _ = warm
    known = {track.number for track in tracker.tracks if track.confirmed and track.score > 0.9}
    after = {view.number for view in follow(tracker, rest[6:14])}
    assert tracker.health.troubles(rest[13].time_s) == (Trouble.LOST_PINGS,)
    assert len(known & after) > 0.7 * len(known)


def test_a_heading_that_jumps_starts_all_anew(warm):
    tracker, rest, _ = warm
    turned = [replace(ping, pose=replace(ping.pose, heading_rad=ping.pose.heading_rad + 0.4)) for ping in rest[:30]]
    assert tracker.update(turned[0]) == []
    assert tracker.health.troubles(turned[0].time_s) == (Trouble.HEADING,)
    assert len(follow(tracker, turned[1:])) > 3


@pytest.mark.parametrize(
    ("trouble", "make"), [(Trouble.SILENT, lambda level: np.full_like(level, -320.0)), (Trouble.FROZEN, lambda level: level)]
)
def test_pings_that_tell_nothing_end_no_track_at_once_and_start_none(warm, trouble, make):
    tracker, rest, step_s = warm
    known = {track.number for track in tracker.tracks if track.confirmed}
    still = make(rest[0].echo_level_db)
    pings = [replace(rest[0], echo_level_db=still, time_s=rest[0].time_s + n * step_s, number=rest[0].number + n) for n in range(60)]
    after = follow(tracker, pings[:6])
    assert known & {view.number for view in after}
    assert all(view.coasting for view in after)
    assert trouble in tracker.health.troubles(pings[5].time_s)
    assert follow(tracker, pings[6:]) == []


def test_a_jig_that_does_not_move_is_told(pear_pings):
    tracker = Tracker()
    first = pear_pings[0][0]
    # What does not move at all is taken for the jig here: only whether that is noticed counts.
    tracker._name_the_lure = lambda time_s: None
    tracker.update(first, [HandEvent(time_s=first.time_s, do=Doing.THROW, ahead_m=8.0, across_m=0.0)])
    for n, (ping, *_) in enumerate(pear_pings[1:130]):
        tracker.update(ping)
        for track in tracker.tracks:
            still = track.fixes.travel(since_s=ping.time_s - 6.0)
            track.kind = Kind.LURE if n > 90 and still and np.hypot(*still[:2]) < 0.1 and still[2] > 5.0 else Kind.COVER
        tracker._watch_the_lure(ping.time_s)
    assert Trouble.SNAGGED in tracker.health.troubles(ping.time_s)


def test_each_trouble_has_words_and_the_newest_is_said():
    assert set(WORDS) == set(Trouble)
    assert trouble_words((Trouble.FROZEN, Trouble.HEADING), learned=True) == WORDS[Trouble.FROZEN]
    assert trouble_words((), learned=False) == NOTHING_LEARNED
    assert trouble_words((), learned=True) == ""
