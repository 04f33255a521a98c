"""Lures thrown by advice arrive; the whole figure is `./lamp bench casts`."""

from mudlamp.services.bench.casts import throws_on

# Drawn waters that nothing was set on, with crappie or bass in reach.
SEEDS = range(1300, 1309)


def test_lures_thrown_by_advice_arrive_far_more_often_than_without():
    thrown = [one for seed in SEEDS for one in throws_on(seed)]
    assert len(thrown) >= 12
    advised, naive = (sum(getattr(one, who) for one in thrown) / len(thrown) for who in ("advised", "naive"))
    # The bar for many waters is half, and twice the naive; so few of them scatter.
    assert advised >= 0.4
    assert advised >= 1.4 * naive


def test_a_water_without_crappie_or_bass_in_reach_has_no_throws():
    assert throws_on(1301) == []
