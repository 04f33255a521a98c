import numpy as np

from mudlamp.core.tracking.classify import KINDS
from mudlamp.core.tracking.hand_watch import HAND_TRAITS
from mudlamp.core.tracking.track import Kind
from mudlamp.core.tracking.traits import TRAITS
from mudlamp.formats.learned import shipped_forest
from mudlamp.services.training import learn as learning
from mudlamp.services.training.samples import Samples


def test_learning_gives_the_same_forest_again_and_takes_kept_samples(tmp_path, monkeypatch):
    told = []
    one, card = learning.learn(waters=8, seconds=4.0, folder=tmp_path, workers=2, progress=told.append)
    assert told[-1] == 1.0
    assert card.learned_waters + card.judged_waters == 8
    assert set(card.kinds) == {kind.value for kind in KINDS}
    kept = sorted(path.stat().st_mtime_ns for path in tmp_path.iterdir())
    two, again = learning.learn(waters=8, seconds=4.0, folder=tmp_path, workers=1)
    assert sorted(path.stat().st_mtime_ns for path in tmp_path.iterdir()) == kept
    assert again == card
    np.testing.assert_array_equal(one.value, two.value)


def test_cover_is_thinned_and_the_hand_unknown_in_half():
    kinds = np.full(8000, KINDS.index(Kind.COVER))
    kinds[:500] = KINDS.index(Kind.FISH)
    found = learning._thinned(Samples(traits=np.ones((8000, len(TRAITS)), np.float32), kinds=kinds), 3)
    assert (found.kinds == KINDS.index(Kind.FISH)).sum() == 500
    assert (found.kinds == KINDS.index(Kind.COVER)).sum() < 1.1 * learning.MOST_COVER
    unknown = np.isnan(found.traits[:, TRAITS.index(HAND_TRAITS[0])])
    assert 0.45 < unknown.mean() < 0.55
    assert not np.isnan(found.traits[:, : len(TRAITS) - len(HAND_TRAITS)]).any()


def test_what_ships_is_of_this_release():
    forest = shipped_forest()
    assert forest is not None
    assert forest.trait.max() < len(TRAITS)
    assert len(forest.base) == len(KINDS)
