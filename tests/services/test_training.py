from dataclasses import replace

import numpy as np
import pytest

from mudlamp.core.errors import DomainError
from mudlamp.core.ping import Fan
from mudlamp.core.scene.draw import draw_water
from mudlamp.core.scene.kinds_of_water import NEVER_LEARNED
from mudlamp.core.tracking.classes import CLASS_TRAITS, OF_FISH
from mudlamp.core.tracking.context import CONTEXT, PARTED
from mudlamp.core.tracking.cuts import REACHES
from mudlamp.core.tracking.hand_watch import HAND_TRAITS
from mudlamp.core.tracking.lure_context import LURE_CONTEXT, LURE_OR_NOT
from mudlamp.core.tracking.sizing import EDGES_M, SIZE_TRAITS, STEPS
from mudlamp.core.tracking.track import COVER, FISH, KINDS
from mudlamp.core.tracking.traits import TRAITS
from mudlamp.formats import learned as files
from mudlamp.formats.learned import shipped
from mudlamp.services.training import context as contexts
from mudlamp.services.training import grow as growing
from mudlamp.services.training import learn as learning
from mudlamp.services.training import nets as networks
from mudlamp.services.training import waters as chosen
from mudlamp.services.training.grow import calibration_error
from mudlamp.services.training.lengths import steps_of
from mudlamp.services.training.samples import MOST_COVER, Samples


def few(monkeypatch):
    """Learn few trees, in few steps, on few waters, each drawn as one more kind."""
    for module, rounds in ((learning, 30), (contexts, 20), (networks, 2)):
        monkeypatch.setattr(module, "ROUNDS", rounds)
    monkeypatch.setattr(contexts, "LURE_ROUNDS", 10)
    monkeypatch.setattr(growing, "MOST_STEPS", 15)
    monkeypatch.setattr(chosen, "LEAST_IN_CONTEXT", 2)
    monkeypatch.setattr(chosen, "LEAST_IN_FLAT", 2)
    monkeypatch.setattr(chosen, "MORE_KINDS", 1)


def test_learning_gives_the_same_forest_again_and_takes_kept_samples(tmp_path, monkeypatch):
    few(monkeypatch)
    told = []
    one, card = learning.learn(waters=4, seconds=2.0, folder=tmp_path, workers=2, progress=told.append)
    assert told[-1] == 1.0
    # Four, half as many with all species as often, one begun later, four as other kinds, two of kinds left out; one of the four, and what is
    # like it, is kept aside.
    assert 5 <= card.learned_waters + card.judged_waters <= 11
    assert one.classes.typical.shape == (len(CLASS_TRAITS),)
    assert len(one.lengths.base) == len(STEPS)
    assert 0.0 <= card.lengths.held <= 1.0
    assert set(card.kinds) == {kind.value for kind in KINDS}
    assert card.context.waters in (2, 4)
    assert card.context.last_seed > card.last_seed
    assert len(one.context.base) == len(PARTED)
    assert len(one.lure.base) == len(LURE_OR_NOT)
    # Under a flat fan it is learned on later waters of such kinds, and judged on one that is left out.
    assert card.flat.waters == 4
    assert card.flat.last_seed > card.context.last_seed
    assert len(one.flat.base) == len(PARTED)
    kept = sorted(path.stat().st_mtime_ns for path in tmp_path.iterdir())
    # Context takes its time, and is learned again below.
    monkeypatch.setattr(learning, "_in_context", lambda *_, **__: (one.context, one.lure, card.context))
    monkeypatch.setattr(learning, "_in_flat", lambda *_, **__: (one.flat, card.flat))
    two, again = learning.learn(waters=4, seconds=2.0, folder=tmp_path, workers=1)
    assert sorted(path.stat().st_mtime_ns for path in tmp_path.iterdir()) == kept
    assert again == card
    np.testing.assert_array_equal(one.kinds.forest.value, two.kinds.forest.value)
    np.testing.assert_array_equal(one.kinds.nets.nets[0].weights[0], two.kinds.nets.nets[0].weights[0])
    np.testing.assert_array_equal(one.lengths.value, two.lengths.value)
    # What an angler corrected is learned too: a look that the trees called something else is called what was said.
    look = np.full((1, len(TRAITS)), 0.7)
    said = int(one.kinds.odds(look)[0].argmin())
    corrected = replace(samples(np.full(5, said)), traits=np.full((5, len(TRAITS)), 0.7, np.float32))
    three, of_both = learning.learn(waters=4, seconds=2.0, folder=tmp_path, workers=1, corrections=[corrected])
    assert of_both.corrected == 5
    assert three.kinds.odds(look)[0, said] > 2.0 * one.kinds.odds(look)[0, said]
    monkeypatch.undo()
    few(monkeypatch)
    # Context alone, on the kinds that are there, comes out the same; on kinds of other waters it is not learned.
    blank = replace(one, context=None, flat=None, lure=None)
    for only in ("context", "flat"):
        blank, same = learning.learn_in_context(blank, card, only=only, waters=4, workers=2)
        assert same == card
    np.testing.assert_array_equal(blank.context.value, one.context.value)
    np.testing.assert_array_equal(blank.flat.value, one.flat.value)
    np.testing.assert_array_equal(blank.lure.value, one.lure.value)
    with pytest.raises(DomainError, match="--waters is 9: kinds were learned on other waters"):
        learning.learn_in_context(blank, card, only="flat", waters=9, workers=1)
    with pytest.raises(DomainError, match="no kinds are learned yet"):
        learning.learn_in_context(replace(blank, kinds=None), card, only="context", waters=4, workers=1)


def samples(kinds):
    none = np.full(len(kinds), -1)
    return Samples(
        traits=np.ones((len(kinds), len(TRAITS)), np.float32),
        kinds=kinds,
        species=none,
        side_on=none > 0,
        length_m=np.full(len(kinds), np.nan),
        reaches=np.ones((len(kinds), len(REACHES)), np.float32),
    )


def test_cover_is_thinned_and_weighs_for_what_is_left_out_and_the_hand_is_unknown_in_half():
    kinds = np.full(8000, COVER)
    kinds[:500] = FISH
    found = learning._thinned(samples(kinds), 3)
    kept, fish = found.samples.kinds, found.samples.kinds == FISH
    assert fish.sum() == 500
    assert (kept == COVER).sum() < 1.15 * MOST_COVER
    assert found.weights[fish].sum() == 500
    assert found.weights[~fish].sum() == pytest.approx(7500, rel=0.15)
    unknown = np.isnan(found.samples.traits[:, TRAITS.index(HAND_TRAITS[0])])
    assert 0.45 < unknown.mean() < 0.55
    assert not np.isnan(found.samples.traits[:, : len(TRAITS) - len(HAND_TRAITS)]).any()


def test_waters_to_learn_on_and_to_judge_by_never_meet():
    usual, like_them, judged = chosen.waters_of(200)
    learned = usual + like_them
    assert len(usual) == len({water.seed for water in usual}) == 200
    assert 0.4 < np.mean([water.after_s > 0.0 for water in usual]) < 0.6
    assert not {water.seed for water in learned} & {water.seed for water in judged}
    evenly, later = like_them[: 200 // chosen.EVENLY], like_them[200 // chosen.EVENLY : -400]
    others, more = like_them[-400:-200], like_them[-200:]
    assert all(water.evenly for water in evenly)
    assert len(later) == 200 // chosen.LATER
    assert all(water.after_s and draw_water(water.seed, water.kind).scene.angler is not None for water in later)
    assert [water.seed for water in others] == [water.seed for water in more] == [water.seed for water in usual]
    assert all(len({kind_of(water) for water in same}) == 3 for same in zip(usual, others, more, strict=True))
    assert all(draw_water(water.seed).kind in NEVER_LEARNED for water in judged)
    assert not any(kind_of(water) in NEVER_LEARNED for water in learned)
    after = max(water.seed for water in learned + judged)
    standing, flat = chosen.context_waters(200, after=after)
    assert 2 * (200 // chosen.IN_CONTEXT) < len(standing) < 3 * (200 // chosen.IN_CONTEXT)
    assert len(flat) == 2 * (200 // chosen.IN_FLAT)
    assert after < min(water.seed for water in standing) < max(water.seed for water in standing) < min(water.seed for water in flat)
    assert max(water.seed for water in flat) < 900
    assert all(kind_of(water).fan is Fan.FLAT for water in flat)
    assert not any(kind_of(water).fan is Fan.FLAT for water in standing)
    assert not any(kind_of(water) in NEVER_LEARNED for water in standing + flat)
    for waters in (learned + judged, standing + flat):
        assert len({water.name for water in waters}) == len(waters)


def kind_of(water):
    return draw_water(water.seed, water.kind).kind


def test_calibration_error_of_a_table_by_hand():
    # At 0.75 three of four are right; at 0.95 half are: off by 0.45 in two of six.
    sure, right = np.array([0.75] * 4 + [0.95] * 2), np.array([1, 1, 1, 0, 1, 0], bool)
    assert calibration_error(sure, right) == pytest.approx(0.45 * 2 / 6, abs=1e-4)


def test_what_ships_is_of_this_release():
    learned = shipped()
    panel = learned.kinds
    assert panel is not None
    assert panel.forest.trait.max() < len(TRAITS)
    assert len(panel.forest.base) == len(KINDS)
    assert panel.nets is not None
    assert panel.nets.nodes.shape[0] == len(TRAITS)
    assert panel.odds(np.zeros((1, len(TRAITS)))).shape == (1, len(KINDS))
    assert learned.context is not None
    assert learned.context.trait.max() < len(CONTEXT)
    assert len(learned.context.base) == len(PARTED)
    assert learned.flat is not None
    assert learned.flat.trait.max() < len(CONTEXT)
    assert len(learned.flat.base) == len(PARTED)
    assert learned.lure is not None
    assert learned.lure.trait.max() < len(LURE_CONTEXT)
    assert len(learned.lure.base) == len(LURE_OR_NOT)
    classes = learned.classes
    assert classes is not None
    assert classes.forest.trait.max() < len(CLASS_TRAITS)
    assert len(classes.forest.base) == len(OF_FISH)
    assert learned.lengths is not None
    assert learned.lengths.trait.max() < len(SIZE_TRAITS)
    assert len(learned.lengths.base) == len(STEPS)


@pytest.mark.parametrize(
    ("missing", "still_tells"),
    [
        (files.KINDS_FILE, False),
        (files.NETS_FILE, False),
        (files.CONTEXT_FILE, False),
        (files.FLAT_FILE, False),
        (files.LURE_FILE, False),
        (files.LENGTHS_FILE, True),
    ],
)
def test_a_missing_file_is_told_and_the_rest_goes_on(missing, still_tells, monkeypatch):
    def read(name):
        if name == missing:
            raise FileNotFoundError(name)
        return whole(name)

    whole = files._shipped
    monkeypatch.setattr(files, "_shipped", read)
    found = files.shipped()
    assert found.tells_kinds is still_tells
    assert (found.kinds is None) == (missing == files.KINDS_FILE)
    if missing == files.NETS_FILE:
        # The trees tell alone.
        np.testing.assert_array_equal(found.kinds.odds(np.zeros((1, len(TRAITS)))), found.kinds.forest.odds(np.zeros((1, len(TRAITS)))))


def test_lengths_lie_in_the_step_that_holds_them():
    middles = np.sqrt(EDGES_M[:-1] * EDGES_M[1:])
    assert steps_of(middles).tolist() == list(range(len(STEPS)))
    # What is longer or shorter than all steps lies in the last or the first.
    assert steps_of(np.array([0.01, 9.0])).tolist() == [0, len(STEPS) - 1]
