"""Our kernel of trees against the library that grew them (scikit-learn, histogram gradient boosting)."""

import numpy as np
import pytest

from mudlamp.core.errors import DomainError
from mudlamp.formats.learned import read_forest, write_forest
from mudlamp.services.training.grow import fitting_warmth, forest_of, grow


@pytest.fixture(scope="module", params=[3, 2])
def grown(request):
    rng = np.random.default_rng(1)
    traits = rng.normal(0.0, 1.0, (4000, 4))
    kinds = (traits[:, 0] + 0.5 * rng.normal(0.0, 1.0, 4000) > 0.3).astype(np.int64) + (traits[:, 1] > 1.0)
    # Of two kinds the library keeps one sum, of more one each.
    kinds = np.minimum(kinds, request.param - 1)
    traits[rng.random(traits.shape) < 0.1] = np.nan
    return grow(traits, kinds, np.ones(4000), of=int(kinds.max()) + 1, rounds=100, leaves=20), traits, kinds


def test_odds_are_the_library_s(grown):
    model, traits, _ = grown
    np.testing.assert_allclose(forest_of(model).odds(traits), model.predict_proba(traits), atol=1e-9)


def test_a_forest_is_the_same_read_back_and_no_other_is_taken(grown, tmp_path):
    model, traits, _ = grown
    forest = forest_of(model, warmth=1.3)
    path = tmp_path / "kinds.npz"
    write_forest(path, forest, traits=["a", "b", "c", "d"], kinds=["x", "y", "z"])
    found = read_forest(path.read_bytes(), traits=["a", "b", "c", "d"], kinds=["x", "y", "z"])
    np.testing.assert_allclose(found.odds(traits), forest.odds(traits), atol=1e-6)
    with pytest.raises(DomainError, match="another release"):
        read_forest(path.read_bytes(), traits=["a", "b", "c", "e"], kinds=["x", "y", "z"])


def test_the_temperature_that_fits_is_found(grown):
    model, traits, kinds = grown
    forest = forest_of(model)
    rng = np.random.default_rng(2)
    # Kinds drawn from the odds at a temperature of 2 are fitted best by it.
    sums = forest.sums(traits) / 2.0
    odds = np.exp(sums) / np.exp(sums).sum(axis=1, keepdims=True)
    drawn = np.array([rng.choice(len(row), p=row) for row in odds])
    assert fitting_warmth(forest.sums(traits), drawn, np.ones(len(drawn))) == pytest.approx(2.0, abs=0.15)
    assert len(kinds) == len(drawn)


def test_a_trait_that_never_varies_or_is_never_known_tells_nothing(grown):
    model, traits, kinds = grown
    of = int(kinds.max()) + 1
    # Of many samples the library looks at 200,000 to lay its bins: what few of them know must not depend on which.
    traits, kinds = np.tile(traits, (60, 1)), np.tile(kinds, 60)
    rare = np.full(len(traits), np.nan)
    rare[:3] = [1.0, 2.0, 3.0]
    more = np.column_stack((traits, np.full(len(traits), 7.0), np.full(len(traits), np.nan), rare))
    forest = forest_of(grow(more, kinds, np.ones(len(kinds)), of=of, rounds=10, leaves=20))
    assert set(forest.trait.tolist()) <= {-1, 0, 1, 2, 3}
    assert len(model.classes_) == of
