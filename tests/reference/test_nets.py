"""Our networks and their scaling against the libraries that learned them (scikit-learn), and NumPy's interpolation."""

from dataclasses import replace

import numpy as np
import pytest
from sklearn.neural_network import MLPClassifier

from mudlamp.core.errors import DomainError
from mudlamp.core.tracking import _kernels_scaling
from mudlamp.core.tracking.forest import odds_of
from mudlamp.core.tracking.nets import Net, Nets, Panel
from mudlamp.formats import learned as files
from mudlamp.formats.learned import read_nets, write_nets
from mudlamp.services.training.grow import forest_of, grow
from mudlamp.services.training.nets import learn_nets, panel_of

# Few samples are few steps for a network.
MANY = 40_000


@pytest.fixture(scope="module")
def samples():
    rng = np.random.default_rng(3)
    traits = rng.normal(0.0, 2.0, (MANY, 5))
    traits[:, 3] = rng.integers(0, 2, MANY)
    kinds = (traits[:, 0] * traits[:, 1] > 0.0).astype(np.int64) + (traits[:, 2] > 2.0)
    traits[rng.random(MANY) < 0.2, 4] = np.nan
    return traits, kinds, rng.uniform(0.5, 2.0, MANY)


@pytest.fixture(scope="module")
def learned(samples):
    return learn_nets(*samples, of=3)


@pytest.mark.filterwarnings("ignore:Stochastic Optimizer")
def test_a_network_gives_the_odds_of_the_library_s(samples):
    traits, kinds = samples[0][:3000], samples[1][:3000]
    model = MLPClassifier((16, 8), max_iter=3, random_state=0).fit(traits[:, :4], kinds)
    ours = Net(weights=tuple(model.coefs_), added=tuple(model.intercepts_))
    np.testing.assert_allclose(odds_of(ours.sums(traits[:, :4]), 1.0), model.predict_proba(traits[:, :4]), atol=1e-9)


def test_scaling_is_numpy_s_interpolation_from_both_sides(samples, learned):
    # Source: where nodes are alike, the mean of interpolation from the left and from the right, as scikit-learn's quantile transform has it.
    traits = np.ascontiguousarray(samples[0][:500, :4])
    probes = traits + np.random.default_rng(0).choice([0.0, 9.0, -9.0, 0.01], traits.shape)
    ours = np.empty(probes.shape)
    _kernels_scaling.scale(probes, learned.nodes[:4], learned.heights, ours)
    for number, nodes in enumerate(learned.nodes[:4]):
        left = np.interp(probes[:, number], nodes, learned.heights)
        right = -np.interp(-probes[:, number], -nodes[::-1], -learned.heights[::-1])
        np.testing.assert_allclose(ours[:, number], 0.5 * (left + right), atol=1e-9)


def test_the_kernel_compiled_and_plain_are_the_same_and_what_is_not_known_lies_in_the_middle(samples, learned):
    traits = samples[0][:200].copy()
    compiled, plain = np.empty(traits.shape), np.empty(traits.shape)
    _kernels_scaling.scale(traits, learned.nodes, learned.heights, compiled)
    _kernels_scaling.scale.py_func(traits, learned.nodes, learned.heights, plain)
    np.testing.assert_array_equal(compiled, plain)
    inputs = learned.inputs(traits)
    unknown = np.isnan(traits[:, 4])
    assert (inputs[unknown, 4] == 0.0).all()
    np.testing.assert_array_equal(inputs[:, 5], unknown)


def test_networks_and_trees_together_err_less_than_the_trees(samples, learned):
    traits, kinds, weights = samples
    rng = np.random.default_rng(4)
    fresh = rng.normal(0.0, 2.0, (2000, 5))
    fresh[:, 3] = rng.integers(0, 2, 2000)
    true = (fresh[:, 0] * fresh[:, 1] > 0.0).astype(np.int64) + (fresh[:, 2] > 2.0)
    forest = forest_of(grow(traits, kinds, weights, of=3, rounds=8, leaves=20))
    panel = panel_of(forest, learned, traits, kinds, weights)

    def loss(odds):
        return -np.log(odds[np.arange(len(true)), true]).mean()

    assert loss(panel.odds(fresh)) < loss(forest.odds(fresh)) - 0.02
    np.testing.assert_allclose(panel.odds(fresh).sum(axis=1), 1.0)
    both = np.sqrt(forest.odds(fresh) * odds_of(learned.sums(fresh), 1.0)) ** (1.0 / panel.warmth)
    np.testing.assert_allclose(panel.odds(fresh), both / both.sum(axis=1, keepdims=True), atol=1e-9)
    assert Panel(forest=forest).odds(fresh) == pytest.approx(forest.odds(fresh))


def test_learned_again_it_is_the_same(samples, learned):
    again = learn_nets(*samples, of=3)
    np.testing.assert_array_equal(again.sums(samples[0]), learned.sums(samples[0]))


def test_networks_are_the_same_read_back_and_no_others_are_taken(learned, tmp_path, monkeypatch):
    path = tmp_path / "nets.npz"
    monkeypatch.setattr(files, "TRAITS", ("a", "b", "c", "d", "e"))
    write_nets(path, replace(learned, warmth=1.25))
    found = read_nets(path.read_bytes())
    assert isinstance(found, Nets)
    assert found.warmth == pytest.approx(1.25)
    traits = np.random.default_rng(5).normal(0.0, 2.0, (50, 5))
    np.testing.assert_allclose(found.sums(traits), learned.sums(traits), atol=1e-5)
    monkeypatch.setattr(files, "TRAITS", ("a", "b", "c", "d", "x"))
    with pytest.raises(DomainError, match="another release"):
        read_nets(path.read_bytes())
