"""What to do next: the rules during a shot, customs, rates and findings against worlds whose truth is known, and moving."""

import numpy as np
import pytest
from scipy import stats

from mudlamp.core.fishing.answers import Count, Presentation, Stage, count_of, presentation
from mudlamp.core.fishing.customs import FIVE_SHOTS, LOOK_AND_LEAVE, NEVER_THERE, TAKES, customs
from mudlamp.core.fishing.during import COLD_CRAPPIE, Act, Situation, Why, call_now
from mudlamp.core.fishing.moving import Spell, Verdict, stay_or_move
from mudlamp.core.fishing.rates import PLAIN_PRIOR, Prior, findings, prior_of, rate_of
from mudlamp.core.reactions import Reaction


def now(last=None, since_s=1.0, **more):
    return Situation(last=last, since_s=since_s, **{"gap_m": 0.6, "above_m": 0.3, "sinks": False, "shown_s": 2.0, "beyond_m": 0.3, **more})


@pytest.mark.parametrize(
    ("situation", "act"),
    [
        (now(Reaction.LOOKED, sinks=True), Act.STOP_LOWERING),
        (now(Reaction.LOOKED), Act.LIFT_AWAY),
        (now(Reaction.FOLLOWED), Act.KEEP_MOVING),
        (now(Reaction.BIT), Act.SET_HOOK),
        (now(Reaction.HIT_WEIGHT), Act.HOLD_OFF),
        (now(Reaction.BACKED_OFF), Act.LEAVE),
        (now(Reaction.REFUSED), Act.LEAVE),
        (now(Reaction.SPOOKED), Act.WIDEN),
        (now(gap_m=3.0), Act.REALIGN),
        (now(gap_m=3.0, above_m=2.9, sinks=True), Act.LET_FALL),
        (now(gap_m=3.0, above_m=2.9), Act.REALIGN),
        (now(gap_m=3.0, above_m=1.0, sinks=True, beyond_m=2.8), Act.LET_FALL),
        (now(gap_m=3.0, above_m=1.0, sinks=True, beyond_m=-2.8), Act.REALIGN),
        (now(above_m=-0.4), Act.LIFT_AWAY),
        (now(shown_s=30.0), Act.LEAVE),
        # What it did a while ago no longer decides.
        (now(Reaction.BIT, since_s=5.0), Act.HOLD),
    ],
)
def test_what_the_fish_did_says_what_to_do(situation, act):
    assert call_now(situation).act is act


def test_a_hold_says_how_much_longer_and_cold_crappie_get_twenty_seconds():
    assert call_now(now(shown_s=3.0)).seconds == pytest.approx(5.0)
    cold = call_now(now(shown_s=3.0), COLD_CRAPPIE)
    assert (cold.act, cold.why, cold.seconds) == (Act.HOLD, Why.NO_ANSWER, pytest.approx(17.0))


def shot(*tokens, **factors):
    return Presentation(factors=factors or {"head": "1/16 oz"}, reactions=frozenset(tokens))


def test_what_never_got_there_is_not_what_was_ignored():
    shots = [shot(Reaction.NOT_SHOWN), shot(Reaction.NO_ANSWER), shot(Reaction.LOOKED, Reaction.FOLLOWED, Reaction.BIT), shot()]
    assert count_of(shots, Stage.ARRIVED) == Count(passed=2, of=3)
    assert count_of(shots, Stage.ANSWERED) == Count(passed=1, of=2)
    assert count_of(shots, Stage.FOLLOWED) == Count(passed=1, of=1)
    assert count_of(shots, Stage.TOOK) == Count(passed=1, of=2)
    assert presentation({}, ["bit", "no such token"]).reactions == {Reaction.BIT}


def test_customs_go_by_the_shots_since_the_last_change():
    looked, ignored = shot(Reaction.LOOKED, Reaction.BACKED_OFF), shot(Reaction.NO_ANSWER)
    assert customs([ignored] * 5) == [FIVE_SHOTS]
    assert customs([looked] * 5) == [FIVE_SHOTS, LOOK_AND_LEAVE]
    assert customs([shot(Reaction.NOT_SHOWN)] * 3) == [NEVER_THERE]
    assert customs([shot(Reaction.BIT)] * 3) == [TAKES]
    assert customs([*[ignored] * 5, shot(Reaction.NO_ANSWER, head="1/32 oz")]) == []
    assert customs([]) == []


def test_intervals_are_those_of_the_beta_posterior():
    rate = rate_of(Count(passed=3, of=10))
    assert (rate.low, rate.high) == pytest.approx(stats.beta.interval(0.9, 3.5, 7.5))
    assert rate_of(Count(passed=0, of=0)).low < 0.01


def test_intervals_recover_known_rates_with_and_without_earlier_trips():
    rng = np.random.default_rng(900)
    plain, pooled = [], []
    for _ in range(400):
        rates = rng.beta(2.0, 6.0, 9)
        counts = [Count(passed=int(rng.binomial(25, one)), of=25) for one in rates]
        prior = prior_of(counts[:-1])
        for held, belief in ((plain, PLAIN_PRIOR), (pooled, prior)):
            rate = rate_of(counts[-1], belief)
            held.append(rate.low <= rates[-1] <= rate.high)
    assert 0.85 <= np.mean(plain) <= 0.95
    assert 0.85 <= np.mean(pooled) <= 0.95


def test_earlier_trips_lean_a_rate_and_two_are_too_few():
    trips = [Count(passed=2, of=20), Count(passed=3, of=20), Count(passed=1, of=20), Count(passed=2, of=20)]
    prior = prior_of(trips)
    assert prior.passed / (prior.passed + prior.failed) == pytest.approx(0.1, abs=0.03)
    assert rate_of(Count(passed=2, of=3), prior).middle < rate_of(Count(passed=2, of=3)).middle
    assert prior_of(trips[:2]) == Prior()
    # Where every shot of all trips passed, the next may still fail.
    sure = rate_of(Count(passed=30, of=30), prior_of([Count(passed=30, of=30)] * 4))
    assert sure.low < 0.985


def trip(rng, rates, shots):
    """A trip's shots, changed now and then; `rates` of takes by head, nothing else matters."""
    heads, colors = list(rates), ["white", "chartreuse", "brown"]
    out = []
    for number in range(shots):
        head = heads[(number // 5) % len(heads)]
        took = rng.random() < rates[head]
        tokens = {Reaction.LOOKED, Reaction.BIT} if took else {Reaction.LOOKED} if rng.random() < 0.4 else {Reaction.NO_ANSWER}
        out.append(Presentation(factors={"head": head, "color": colors[(number // 3) % 3]}, reactions=frozenset(tokens)))
    return out


def test_where_nothing_matters_hardly_a_trip_holds_a_finding_though_one_looks_after_every_shot():
    rng = np.random.default_rng(901)
    trips = 300
    # The evidence is the highest that it ever was: what would have been claimed at any moment is claimed at the end.
    wrong = sum(bool(findings(trip(rng, {"1/16 oz": 0.25, "1/32 oz": 0.25}, 80))) for _ in range(trips))
    assert wrong <= 0.05 * trips


def test_one_take_in_ten_against_one_in_two_is_found_in_most_trips():
    rng = np.random.default_rng(902)
    found = []
    for _ in range(60):
        told = findings(trip(rng, {"1/16 oz": 0.1, "1/32 oz": 0.5}, 80))
        found.append(any(one.factor == "head" and one.better == "1/32 oz" for one in told))
        assert all(one.worse_count.of + one.better_count.of <= 80 for one in told)
    assert np.mean(found) >= 0.6


def test_an_early_lucky_run_is_no_finding():
    shots = [shot(Reaction.BIT, head="1/32 oz")] * 3 + [shot(Reaction.NO_ANSWER, head="1/16 oz")] * 3
    assert findings(shots) == []


def test_move_or_stay_goes_by_the_anglers_own_record():
    record = Spell(takes=30, minutes=300.0)
    assert stay_or_move(Spell(takes=0, minutes=4.0), record).verdict is Verdict.TOO_EARLY
    assert stay_or_move(Spell(takes=0, minutes=40.0), record).verdict is Verdict.MOVE
    assert stay_or_move(Spell(takes=4, minutes=40.0), record).verdict is Verdict.STAY
    # A trophy hunt is allowed its hour; who sees no fish need not wait.
    assert stay_or_move(Spell(takes=0, minutes=40.0), record, is_trophy=True).verdict is Verdict.TOO_EARLY
    assert stay_or_move(Spell(takes=0, minutes=5.0), record, sees_fish=False).verdict is Verdict.MOVE
