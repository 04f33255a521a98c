import dataclasses

import numpy as np
import pytest

from mudlamp.core.casting.lures import LureKind
from mudlamp.core.errors import RecordingError
from mudlamp.core.hand import Doing, HandEvent
from mudlamp.core.plane import GroundPlane
from mudlamp.core.scene.world import World
from mudlamp.core.tracking.classes import FishClass
from mudlamp.core.tracking.hand_watch import FLIGHT_S, HAND_TRAITS, Does, HandWatch
from mudlamp.core.tracking.track import Kind
from mudlamp.core.tracking.tracker import Tracker
from mudlamp.core.units import OUNCE_KG
from mudlamp.formats.hand import hand_line, read_hand
from mudlamp.formats.learned import shipped
from tests.core.tracks import a_track, together


def traits_of(hand, place, time_s, *, born=0.0):
    row = hand.traits(np.array([place]), np.array([born]), time_s=time_s, is_flat=False)[0]
    return dict(zip(HAND_TRAITS, row, strict=True))


def test_the_hand_says_where_a_lure_can_be_and_nothing_before_its_first_word(pear_pings):
    plane, hand = GroundPlane.of(pear_pings[0][0]), HandWatch()
    assert np.isnan(list(traits_of(hand, (9.0, 2.0), 1.0).values())).all()
    hand.take(HandEvent(time_s=0.0, do=Doing.TIED, lure=LureKind.JIG, head_kg=OUNCE_KG / 16), plane)
    assert not hand.is_out
    assert traits_of(hand, (9.0, 2.0), 1.0)["hand_out_s"] == -1.0
    hand.take(HandEvent(time_s=2.0, do=Doing.THROW, ahead_m=9.0, across_m=0.2), plane)
    said = traits_of(hand, (plane.origin[0] + 9.5, 1.0), 2.0 + FLIGHT_S + 3.0, born=3.4)
    assert said["landing_off_m"] == pytest.approx(0.5)
    assert said["hand_out_s"] == pytest.approx(3.0)
    assert said["born_after_s"] == pytest.approx(3.4 - 2.0 - FLIGHT_S)
    hand.take(HandEvent(time_s=6.0, do=Doing.REEL), plane)
    assert traits_of(hand, (9.0, 1.0), 9.0)["hand_does"] == Does.REELING
    hand.take(HandEvent(time_s=10.0, do=Doing.STOW), plane)
    assert not hand.is_out


def test_a_world_writes_down_what_its_angler_does(pear_tree):
    world = World(pear_tree, seed=4)
    done = []
    for step in range(1, 500):
        world.advance(0.1 * step)
        done += world.hand()
    doing = [event.do for event in done]
    assert doing[0] is Doing.TIED
    assert {Doing.THROW, Doing.REEL, Doing.STOW} <= set(doing)
    throws = [event for event in done if event.do is Doing.THROW]
    assert all(3.0 < event.ahead_m < 14.0 and abs(event.across_m) < 5.0 for event in throws)
    assert [event.time_s for event in done] == sorted(event.time_s for event in done)


def test_with_the_lure_in_the_hand_nothing_in_the_water_is_it(pear_pings):
    tracker, plane = Tracker(shipped()), GroundPlane.of(pear_pings[0][0])
    tracker.hand.take(HandEvent(time_s=0.0, do=Doing.TIED, lure=LureKind.JIG, head_kg=OUNCE_KG / 16), plane)
    for ping, _, _ in pear_pings[:150]:
        assert not any(view.kind is Kind.LURE for view in tracker.update(ping))


def test_one_lure_at_a_time_and_none_from_the_ping_on_at_which_it_is_stowed(pear_pings):
    tracker = Tracker(shipped())
    named = 0
    for ping, _, _ in pear_pings:
        lures = [view for view in tracker.update(ping) if view.kind is Kind.LURE]
        assert len(lures) <= 1
        named += len(lures)
        if named > 20 and lures:
            break
    assert named > 20
    stowed = [HandEvent(time_s=ping.time_s, do=Doing.STOW)]
    assert not any(view.kind is Kind.LURE for view in tracker.update(pear_pings[ping.number + 1][0], stowed))


def test_a_hand_file_is_read_as_it_was_written(tmp_path):
    events = [
        HandEvent(time_s=0.0, do=Doing.TIED, lure=LureKind.MINNOW, head_kg=OUNCE_KG / 8),
        HandEvent(time_s=1.5, do=Doing.THROW, ahead_m=9.25, across_m=-0.5),
        HandEvent(time_s=4.0, do=Doing.REEL),
    ]
    path = tmp_path / "hand.jsonl"
    path.write_bytes(b"".join(hand_line(event) for event in reversed(events)))
    found = read_hand(path)
    assert [event.do for event in found] == [event.do for event in events]
    assert found[0].head_kg == pytest.approx(OUNCE_KG / 8, rel=1e-4)
    assert (found[1].ahead_m, found[1].across_m) == (9.25, -0.5)


@pytest.mark.parametrize(
    ("text", "said"),
    [
        ('{"t": 1, "do": "jump"}', "line 1: do is 'jump': it must be"),
        ('{"t": 1, "do": "reel"}\n{"t": -1, "do": "reel"}', "line 2: t is '-1': it must be"),
        ('{"t": 1, "do": "throw", "ahead_m": 5}', "line 1 is a throw without ahead_m and across_m"),
        ('{"t": 1, "do": "throw", "ahead_m": 5000, "across_m": 0}', "line 1: ahead_m is '5000': it must be"),
        ("reel", "line 1"),
    ],
)
def test_a_bad_hand_file_is_refused_by_line_and_field(tmp_path, text, said):
    path = tmp_path / "hand.jsonl"
    path.write_text(text)
    with pytest.raises(RecordingError, match=said.replace("(", r"\(")):
        read_hand(path)


def test_the_hand_counts_the_shots_and_when_each_was_out(pear_pings):
    watch, plane = HandWatch(), GroundPlane.of(pear_pings[0][0])

    def done(time_s, do):
        watch.take(HandEvent(time_s=time_s, do=do, ahead_m=8.0, across_m=0.0), plane)

    done(2.0, Doing.THROW)
    done(9.0, Doing.REEL)
    assert [watch.shot_at(time_s) for time_s in (1.0, 2.0, 10.0)] == [None, 1, 1]
    done(12.0, Doing.STOW)
    # What is asked a little late, of the shot that just ended, is known; and a throw ends the one before.
    assert [watch.shot_at(time_s) for time_s in (11.9, 13.0)] == [1, None]
    done(15.0, Doing.THROW)
    done(20.0, Doing.THROW)
    assert [watch.shot_at(time_s) for time_s in (16.0, 25.0)] == [2, 3]


@pytest.mark.parametrize(("said", "stays"), [(None, False), (FishClass.LURE, True)])
def test_a_hidden_lure_is_carried_to_where_it_should_be_unless_the_angler_named_it(pear_pings, said, stays):
    tracker, (ping, _, _) = Tracker(shipped()), pear_pings[0]
    tracker.update(ping)
    tracker.line.take(HandEvent(time_s=ping.time_s, do=Doing.THROW, ahead_m=9.0, across_m=0.0), ping.pose)
    noise = np.random.default_rng(1)
    silent = [
        dataclasses.replace(one, echo_level_db=noise.normal(-90.0, 0.1, one.echo_level_db.shape).astype(np.float32))
        for one, _, _ in pear_pings[1:40]
    ]
    for one in silent[:-1]:
        tracker.update(one)
    lure = a_track(77, (8.0, 1.0), confirmed=True, told=9, said=said, seen_s=one.time_s, roster=tracker.roster)
    lure.kind, lure.odds = Kind.LURE, {Kind.FISH: 0.05, Kind.LURE: 0.9, Kind.COVER: 0.05, Kind.BAIT: 0.0}
    tracker.tracks = together(lure)
    tracker.update(silent[-1])
    assert list(tracker.tracks) == [lure]
    where = (8.0, 1.0) if stays else tracker.line.place
    assert lure.place == pytest.approx(where, abs=0.05)
