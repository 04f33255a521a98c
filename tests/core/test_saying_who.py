"""What the angler says of a mark stands, whatever the trees say."""

import pytest

from mudlamp.core.errors import DomainError
from mudlamp.core.tracking.classes import FishClass
from mudlamp.core.tracking.track import Kind
from mudlamp.core.tracking.tracker import Tracker
from mudlamp.formats.learned import shipped
from mudlamp.formats.scene.file import load_scene
from mudlamp.heads.simulated import SimulatedHead

HZ = 15.0


@pytest.fixture
def followed():
    """A tracker on the pear tree after four seconds, and what makes it hear more."""
    head, tracker = SimulatedHead(load_scene("pear-tree"), seed=31), Tracker(shipped())
    told = {"n": 0}

    def hear(seconds):
        for _ in range(round(seconds * HZ)):
            views = tracker.update(head.listen(told["n"] / HZ))
            told["n"] += 1
        return {view.number: view for view in views}

    return tracker, hear(4.0), hear


def test_a_corrected_mark_stays_what_it_was_called(followed):
    tracker, views, hear = followed
    fish = next(view for view in views.values() if view.kind is Kind.FISH and not view.coasting)
    tracker.hold(fish.number, FishClass.CATFISH)
    after = hear(1.0)[fish.number]
    assert after.kind is Kind.FISH
    assert after.said is FishClass.CATFISH
    assert after.identity.name is FishClass.CATFISH
    tracker.hold(fish.number, FishClass.UNKNOWN)
    assert hear(0.5)[fish.number].kind is Kind.COVER
    tracker.hold(fish.number, None)
    assert hear(1.0)[fish.number].said is None


def test_there_is_one_jig_and_it_is_the_one_that_was_named(followed):
    tracker, views, hear = followed
    first, second = [view.number for view in views.values() if view.kind is Kind.FISH and not view.coasting][:2]
    tracker.hold(first, FishClass.LURE)
    assert [number for number, view in hear(0.5).items() if view.kind is Kind.LURE] == [first]
    tracker.hold(second, FishClass.LURE)
    after = hear(0.5)
    assert [number for number, view in after.items() if view.kind is Kind.LURE] == [second]
    assert after[first].said is None


def test_a_mark_that_is_gone_is_refused(followed):
    tracker, _, _ = followed
    with pytest.raises(DomainError, match="track is 99999: it is not followed any more"):
        tracker.hold(99999, FishClass.BASS)
