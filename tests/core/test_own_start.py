import datetime as dt
from dataclasses import replace

import numpy as np
import pytest
from sklearn.gaussian_process import GaussianProcessRegressor
from sklearn.gaussian_process.kernels import DotProduct

from mudlamp.core.advice.answers import Answers, situation
from mudlamp.core.advice.own_start import MOST_STEPS, SPREADS, Ended, Kind, Shift, shift_of, shifted, shifted_start
from mudlamp.core.advice.retune import kept_from
from mudlamp.core.advice.styles import Style
from mudlamp.core.controls import GAIN, PUNCH
from mudlamp.services.cards.advising import card_of, start_for
from mudlamp.services.water.aboard import Aboard

HERE = Kind.of(situation(Answers(secchi_m=1.4)))
DAY = dt.date(2026, 5, 1)


def ended(over, *, day=0, control=GAIN, **kind):
    return Ended(control=control, over=over, kind=replace(HERE, **kind), day=DAY + dt.timedelta(days=day))


def test_nothing_noted_shifts_nothing_and_each_control_is_its_own():
    assert shift_of([], HERE, GAIN) is None
    assert shift_of([ended(5.0)], HERE, PUNCH) is None


def test_one_day_alone_moves_it_little_and_many_days_nearly_all_the_way():
    spread = SPREADS[GAIN]
    one = shift_of([ended(6.0)], HERE, GAIN)
    # One observation of a normal mean: the prior's share. Closed form.
    prior = spread.angler**2 + 3.0 * spread.kind**2
    assert one.steps == pytest.approx(6.0 * prior / (prior + spread.day**2 + spread.tap**2))
    many = shift_of([ended(6.0, day=day) for day in range(12)], HERE, GAIN)
    assert one.steps < many.steps < 6.0
    assert many.doubt < one.doubt
    assert many.days == 12
    # Twelve taps of one day are one day.
    assert shift_of([ended(6.0)] * 12, HERE, GAIN).doubt > many.doubt
    assert shift_of([ended(90.0, day=day) for day in range(9)], HERE, GAIN).steps == MOST_STEPS[GAIN]


def test_what_was_noted_on_other_water_counts_less():
    here, elsewhere = (
        [ended(6.0, day=day, **kind) for day in range(3)] for kind in ({}, {"clarity": "muddy", "light": "dark", "technique": "cast"})
    )
    assert shift_of(elsewhere, HERE, GAIN).steps < shift_of(here, HERE, GAIN).steps
    assert shift_of(elsewhere, HERE, GAIN).doubt > shift_of(here, HERE, GAIN).doubt


def test_it_is_the_posterior_of_a_gaussian_process_with_the_same_effects():
    """Held to scikit-learn's regression (Rasmussen and Williams 2006, algorithm 2.1) on one-hot effects scaled by their spreads."""
    rng = np.random.default_rng(1)
    kinds = [replace(HERE, clarity=str(rng.choice(["clear", "muddy"])), light=str(rng.choice(["bright", "dark"]))) for _ in range(8)]
    known = [
        Ended(control=GAIN, over=float(rng.normal(3.0, 4.0)), kind=kind, day=DAY + dt.timedelta(days=int(rng.integers(4))))
        for kind in kinds
    ]
    spread, names = SPREADS[GAIN], sorted({value for kind in (*kinds, HERE) for value in (kind.clarity, kind.technique, kind.light)})
    days = sorted({one.day for one in known})

    def row(kind, day):
        effects = [spread.kind * (name in (kind.clarity, kind.technique, kind.light)) for name in names]
        return [spread.angler, *effects, *(spread.day * (day == each) for each in days)]

    model = GaussianProcessRegressor(kernel=DotProduct(sigma_0=0.0, sigma_0_bounds="fixed"), alpha=spread.tap**2, optimizer=None)
    model.fit(np.array([row(one.kind, one.day) for one in known]), np.array([one.over for one in known]))
    mean, deviation = model.predict(np.array([row(HERE, None)]), return_std=True)
    found = shift_of(known, HERE, GAIN)
    assert (found.steps, found.doubt) == (pytest.approx(mean[0], abs=1e-6), pytest.approx(deviation[0], abs=1e-6))


def test_a_shifted_card_starts_there_in_every_style_and_leaves_the_rest():
    card = card_of(Answers(secchi_m=1.4), Aboard())
    own = shifted(card, {"gain": Shift(steps=3.2, doubt=1.0, days=5)})
    for style in Style:
        assert own.setups[style].gain == card.setups[style].gain + 3.0
        assert own.row("gain").styles[style] == own.setups[style].gain
    assert own.row("gain").start == own.setup.gain
    assert own.row("punch") == card.row("punch")


def test_a_move_does_not_take_an_anglers_own_steps_away():
    ours, shifts = start_for(Answers(secchi_m=1.4), Aboard()), {"gain": Shift(steps=9.0, doubt=1.0, days=8)}
    own = shifted_start(ours, shifts)
    assert own.setup.receiver.gain == ours.setup.receiver.gain + 9.0
    assert kept_from(own.setup, own.bands, own.setup) == own.setup
    # By our own bands the same set-up would be turned back.
    assert kept_from(ours.setup, ours.bands, own.setup).receiver.gain == ours.setup.receiver.gain
