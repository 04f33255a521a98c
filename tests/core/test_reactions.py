import math

import pytest

from mudlamp.core.fish_judge import FishState
from mudlamp.core.judge import Judge, TruthJudge
from mudlamp.core.reactions import TRUTH_LIMITS, Eye, Reaction, ReactionCause, limits_of
from mudlamp.core.score.reactions import Claim, Happened, macro_f1, score_reactions

LENGTH = 0.3
BOAT = (0.0, 0.0, 0.0)
STEP = 1.0 / 15.0


def told(fish_at, lure_at, seconds, *, holds=lambda t: False, off=lambda t: None, shot=lambda t: 1, others=()):
    """Judge a fish and lure that move as functions of time; return (token, cause, time) in order."""
    judge = Judge()
    found = []
    for number in range(round(seconds / STEP)):
        t = number * STEP
        fish = [FishState(id="a", place=fish_at(t), length_m=LENGTH, off_lure_rad=off(t), holds_lure=holds(t))]
        fish += [FishState(id=name, place=where(t), length_m=LENGTH, off_lure_rad=None, holds_lure=False) for name, where in others]
        found += judge.update(time_s=t, fish=fish, lure=lure_at(t), boat=BOAT, shot=shot(t))
    return found


def tokens(events, fish="a"):
    return [event.token for event in events if event.fish == fish]


def still(place):
    return lambda t: place


def test_a_fish_that_does_nothing_near_the_lure_gives_no_answer():
    events = told(still((8.0, 0.0, 4.0)), still((8.3, 0.0, 3.8)), 7.0)
    assert tokens(events) == [Reaction.NO_ANSWER]
    assert events[0].time_s == pytest.approx(TRUTH_LIMITS.no_answer_s, abs=2 * STEP)


def test_half_a_length_toward_the_lure_is_a_look():
    events = told(lambda t: (8.0 + 0.2 * max(t - 2.0, 0.0), 0.0, 4.0), still((9.0, 0.0, 4.0)), 3.2)
    assert tokens(events) == [Reaction.LOOKED]
    assert events[0].time_s == pytest.approx(2.0 + 0.5 * LENGTH / 0.2, abs=2 * STEP)


def test_a_turn_of_thirty_degrees_held_half_a_second_is_a_look():
    events = told(still((8.0, 0.0, 4.0)), still((9.0, 0.0, 4.0)), 4.0, off=lambda t: 1.5 if t < 2.0 else 0.3)
    assert tokens(events) == [Reaction.LOOKED]
    assert events[0].time_s == pytest.approx(2.0 + TRUTH_LIMITS.look_hold_s, abs=2 * STEP)


def test_a_far_lure_is_not_looked_at():
    assert tokens(told(lambda t: (8.0 + 0.2 * t, 0.0, 4.0), still((14.0, 0.0, 4.0)), 4.0)) == []


def lure_swims(t):
    return (9.0 - 0.3 * t, 0.0, 4.0)


def test_going_with_a_moving_lure_for_a_second_is_a_follow_and_a_turn_away_refuses_it():
    def fish(t):
        return (9.5 - 0.3 * t, 0.0, 4.1) if t < 3.0 else (9.5 - 0.9 + 0.35 * (t - 3.0), 0.0, 4.1 + 0.2 * (t - 3.0))

    found = tokens(told(fish, lure_swims, 5.5))
    assert found[:2] in ([Reaction.LOOKED, Reaction.FOLLOWED], [Reaction.FOLLOWED, Reaction.REFUSED])
    assert Reaction.REFUSED in found
    assert Reaction.BACKED_OFF not in found


def test_drifting_off_without_having_followed_is_backing_off():
    found = tokens(told(lambda t: (8.5 - 0.25 * max(t - 2.0, 0.0), 0.0, 4.0), still((9.0, 0.0, 4.0)), 5.0))
    assert found == [Reaction.BACKED_OFF]


def test_a_lure_that_leaves_a_still_fish_is_no_reaction():
    assert tokens(told(still((8.5, 0.0, 4.0)), lambda t: (9.0 + 0.4 * t, 0.0, 4.0), 4.0)) == []


def test_a_burst_away_is_a_spook_with_its_cause():
    def flees(t):
        return (8.0 - 1.5 * max(t - 2.0, 0.0), 0.0, 4.0) if t < 2.6 else (7.1, 0.0, 4.0)

    by_lure = told(flees, still((8.4, 0.0, 4.0)), 4.5)
    assert [(event.token, event.cause) for event in by_lure] == [(Reaction.SPOOKED, ReactionCause.LURE)]
    by_boat = told(lambda t: (4.0 + 1.5 * min(max(t - 2.0, 0.0), 0.6), 0.0, 4.0), lambda t: None, 4.5)
    assert [(event.token, event.cause) for event in by_boat] == [(Reaction.SPOOKED, ReactionCause.BOAT)]


def test_three_that_leave_together_left_with_the_school():
    def flees(x):
        return lambda t: (x - 1.5 * min(max(t - 2.0, 0.0), 0.6), 0.0, 4.0)

    events = told(flees(8.0), still((9.0, 0.0, 4.0)), 4.5, others=(("b", flees(8.3)), ("c", flees(7.8))))
    assert {(event.fish, event.token) for event in events} == {(name, Reaction.LEFT_WITH_SCHOOL) for name in "abc"}
    alone = told(flees(8.0), still((9.0, 0.0, 4.0)), 4.5, others=(("b", flees(8.3)),))
    assert {event.token for event in alone} == {Reaction.SPOOKED}


def test_a_bite_is_told_once_and_what_follows_is_no_new_reaction():
    def pulled(t):
        return (8.0 - 0.6 * max(t - 2.0, 0.0), 0.0, 4.0)

    events = told(pulled, pulled, 12.0, holds=lambda t: t > 2.0)
    assert tokens(events) == [Reaction.BIT]
    assert events[0].time_s == pytest.approx(2.0 + TRUTH_LIMITS.bite_s, abs=2 * STEP)


def test_a_shot_that_came_no_nearer_than_two_feet_was_not_shown():
    events = told(still((8.0, 0.0, 4.0)), lambda t: (9.2, 0.0, 4.0) if t < 3 else None, 4.0, shot=lambda t: 1 if t < 3 else None)
    assert tokens(events) == [Reaction.NOT_SHOWN]
    assert events[0].shot == 1


def happened(time_s, fish, token, **more):
    return Happened(time_s=time_s, fish=fish, token=token, **more)


def claim(time_s, fish, token, **more):
    return Claim(time_s=time_s, fish=fish, token=token, told_s=time_s + 0.5, **more)


def test_scoring_matches_same_fish_same_token_within_a_second():
    truth = [happened(1.0, "a", "looked"), happened(5.0, "a", "looked"), happened(5.0, "b", "bit")]
    scores = score_reactions(truth, [claim(1.8, "a", "looked"), claim(7.0, "a", "looked"), claim(5.0, "a", "bit")])
    looked, bit = scores["looked"], scores["bit"]
    assert (looked.claims, looked.right, looked.full, looked.full_found) == (2, 1, 2, 1)
    assert looked.f1("full") == pytest.approx(0.5)
    assert looked.errors_s == (pytest.approx(0.8),)
    assert looked.delays_s == (pytest.approx(1.3),)
    assert (bit.claims, bit.right, bit.full_found) == (1, 0, 0)


def test_a_claim_that_matches_what_no_picture_shows_is_not_false_and_only_what_shows_is_asked_for():
    truth = [happened(1.0, "a", "looked", visible=False), happened(9.0, "a", "looked", fair=False), happened(20.0, "a", "looked")]
    told = [claim(1.2, "a", "looked"), claim(9.1, "a", "looked"), claim(30.0, "a", "looked", fair=False)]
    score = score_reactions(truth, told)["looked"]
    assert (score.claims, score.right) == (2, 2)
    assert (score.full, score.full_found, score.visible, score.visible_found) == (2, 1, 1, 0)
    assert score.precision == 1.0


def test_macro_f1_leaves_rare_tokens_and_no_answers_out():
    many = [happened(10.0 * i, "a", "looked") for i in range(20)]
    rare = [happened(3.0, "a", "bit")]
    apart = [happened(10.0 * i, "a", "not_shown") for i in range(30)]
    told = [claim(one.time_s, "a", "looked") for one in many]
    assert macro_f1(score_reactions(many + rare + apart, told), "full") == pytest.approx(1.0)
    assert macro_f1(score_reactions(rare, []), "full") is None


def test_one_told_reaction_settles_only_one_true_one():
    score = score_reactions([happened(1.0, "a", "looked"), happened(1.6, "a", "looked")], [claim(1.5, "a", "looked")])["looked"]
    assert (score.full_found, score.full) == (1, 2)
    assert math.isclose(score.f1("full"), 2 / 3)


def test_the_limits_of_truth_are_frozen():
    # Common practice, no source: 2 ft of notice for crappie in stained or cold water, 6 ft for bass in clear water; follow 3 ft and 8 ft.
    stained = limits_of(Eye.PANFISH, secchi_m=0.5, temperature_degc=20.0)
    assert (stained.notice_m, stained.follow_m) == (0.61, 0.91)
    assert limits_of(Eye.PANFISH, secchi_m=5.0, temperature_degc=6.0) == stained
    clear = limits_of(Eye.BASS, secchi_m=3.0, temperature_degc=20.0)
    assert (clear.notice_m, clear.follow_m, clear.look_within_m) == (1.83, 2.44, 2.44)
    between = limits_of(Eye.BASS, secchi_m=1.5, temperature_degc=13.0)
    assert stained.notice_m < between.notice_m < clear.notice_m
    figures = {name: getattr(TRUTH_LIMITS, name) for name in TRUTH_LIMITS.__dataclass_fields__}
    assert figures == {
        "notice_m": 0.61, "missed_by_m": 1.39, "no_answer_s": 5.0, "no_answer_l": 0.5, "look_within_m": 1.8, "look_l": 0.5, "look_s": 3.0,
        "look_turn_rad": pytest.approx(math.radians(30.0)), "look_hold_s": 0.5, "follow_m": 0.91, "follow_s": 1.0, "follow_share": 0.5,
        "lure_moves_m_s": 0.1, "bite_s": 0.3, "back_off_l": 1.0, "back_off_l_s": 1.5, "refuse_l": 0.5, "refuse_s": 2.0, "spook_l_s": 3.0,
        "spook_s": 0.3, "school_count": 3, "school_m": 1.5, "school_s": 0.7, "repeat_s": 6.0, "after_bite_s": 4.0, "touch_m": 0.0914,
        "weight_within_m": 8.0,
    }  # fmt: skip


def test_a_rush_that_ends_in_a_bite_or_passes_the_lure_is_no_flight():
    def rushes(t):
        return (8.0 + 1.5 * min(max(t - 2.0, 0.0), 0.6), 0.0, 4.0)

    # At the lure it bites; past it, aside of it, it missed.
    assert tokens(told(rushes, still((9.0, 0.0, 4.0)), 4.5, holds=lambda t: t > 2.6)) == [Reaction.LOOKED, Reaction.BIT]
    assert Reaction.SPOOKED not in tokens(told(rushes, still((8.5, 0.0, 4.8)), 4.5))


def test_what_a_landed_fish_does_when_it_is_let_go_is_no_reaction():
    def fish(t):
        return (8.0, 0.0, 4.0) if t < 3.0 else (3.0 - 1.8 * min(t - 3.0, 0.8), 0.0, 0.5)

    found = tokens(told(fish, lambda t: fish(t) if t < 3.0 else None, 6.0, holds=lambda t: 1.0 < t < 3.0))
    assert found == [Reaction.BIT]


def test_a_lure_that_swims_through_a_fishs_notice_unanswered_was_not_answered():
    events = told(still((8.0, 0.0, 4.0)), lambda t: (9.5 - 0.5 * t, 0.0, 3.9), 6.0)
    assert tokens(events) == [Reaction.NO_ANSWER]
    # It is told when the lure has left.
    assert events[0].time_s == pytest.approx((9.5 - 8.0 + TRUTH_LIMITS.notice_m) / 0.5, abs=0.2)


def judged_truth(off, seconds=6.0):
    """Judge a fish that turns or moves to a lure; its middle stays where it is."""
    judge, found = TruthJudge(), []
    for number in range(round(seconds / STEP)):
        t = number * STEP
        state = FishState(id="a", place=(8.0, 0.0, 4.0), length_m=LENGTH, off_lure_rad=off(t), holds_lure=False)
        found += judge.update(time_s=t, fish=[state], middles=[(7.85, 0.0, 4.0)], lure=(9.0, 0.0, 4.0), boat=BOAT, shot=1)
    return found + judge.close()


def test_truth_says_whether_a_perfect_picture_shows_a_reaction():
    turned = judged_truth(lambda t: 1.5 if t < 2.0 else 0.3)
    assert [(one.token, one.visible) for one in turned] == [(Reaction.LOOKED, False)]

    judge, found = TruthJudge(), []
    for number in range(round(6.0 / STEP)):
        t = number * STEP
        place = (8.0 + 0.2 * max(t - 2.0, 0.0), 0.0, 4.0)
        state = FishState(id="a", place=place, length_m=LENGTH, off_lure_rad=0.2, holds_lure=t > 4.0)
        found += judge.update(time_s=t, fish=[state], middles=[(place[0] - 0.15, 0.0, 4.0)], lure=(9.0, 0.0, 4.0), boat=BOAT, shot=1)
    found += judge.close()
    assert [(one.token, one.visible) for one in found] == [(Reaction.LOOKED, True), (Reaction.BIT, True)]


def judged_weight(fish_at, lure, weight, seconds=1.5):
    judge, found = Judge(), []
    for number in range(round(seconds / STEP)):
        t = number * STEP
        fish = [FishState(id="a", place=fish_at(t), length_m=LENGTH, off_lure_rad=None, holds_lure=False)]
        found += judge.update(time_s=t, fish=fish, lure=lure, boat=BOAT, shot=1, weight=weight)
    return tokens(found)


def test_a_fish_at_the_weight_above_the_lure_hits_it():
    lure, weight = (5.0, 0.0, 4.0), (5.0, 0.0, 3.5)
    assert Reaction.HIT_WEIGHT in judged_weight(still((5.05, 0.0, 3.5)), lure, weight)
    # At the lure itself, passing by, or with no weight above it, it does not.
    assert Reaction.HIT_WEIGHT not in judged_weight(still((5.05, 0.0, 3.95)), lure, weight)
    assert Reaction.HIT_WEIGHT not in judged_weight(lambda t: (5.4 - 1.2 * t, 0.0, 3.5), lure, weight)
    assert Reaction.HIT_WEIGHT not in judged_weight(still((5.05, 0.0, 3.5)), lure, None)
    # Farther than 8 m nobody can tell.
    assert Reaction.HIT_WEIGHT not in judged_weight(still((12.05, 0.0, 3.5)), (12.0, 0.0, 4.0), (12.0, 0.0, 3.5))
