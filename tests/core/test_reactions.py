import math

import pytest

from mudlamp.core.reactions import LIMITS, FishState, Judge, Reaction, ReactionCause
from mudlamp.core.score.reactions import Reacted, macro_f1, score_reactions

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
    assert events[0].time_s == pytest.approx(LIMITS.no_answer_s, abs=2 * STEP)


def test_half_a_length_toward_the_lure_is_a_look():
    events = told(lambda t: (8.0 + 0.2 * max(t - 2.0, 0.0), 0.0, 4.0), still((9.0, 0.0, 4.0)), 3.2)
    assert tokens(events) == [Reaction.LOOKED]
    assert events[0].time_s == pytest.approx(2.0 + 0.5 * LENGTH / 0.2, abs=2 * STEP)


def test_a_turn_of_thirty_degrees_held_half_a_second_is_a_look():
    events = told(still((8.0, 0.0, 4.0)), still((9.0, 0.0, 4.0)), 4.0, off=lambda t: 1.5 if t < 2.0 else 0.3)
    assert tokens(events) == [Reaction.LOOKED]
    assert events[0].time_s == pytest.approx(2.0 + LIMITS.look_hold_s, abs=2 * STEP)


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
    assert events[0].time_s == pytest.approx(2.0 + LIMITS.bite_s, abs=2 * STEP)


def test_a_shot_that_came_no_nearer_than_two_feet_was_not_shown():
    events = told(still((8.0, 0.0, 4.0)), lambda t: (9.2, 0.0, 4.0) if t < 3 else None, 4.0, shot=lambda t: 1 if t < 3 else None)
    assert tokens(events) == [Reaction.NOT_SHOWN]
    assert events[0].shot == 1


def test_scoring_matches_same_fish_same_token_within_a_second():
    truth = [
        Reacted(time_s=1.0, fish="a", token="looked"),
        Reacted(time_s=5.0, fish="a", token="looked"),
        Reacted(time_s=5.0, fish="b", token="bit"),
    ]
    said = [
        Reacted(time_s=1.8, fish="a", token="looked"),
        Reacted(time_s=7.0, fish="a", token="looked"),
        Reacted(time_s=5.0, fish="a", token="bit"),
    ]
    scores = score_reactions(truth, said)
    assert (scores["looked"].right, scores["looked"].false, scores["looked"].missed) == (1, 1, 1)
    assert scores["looked"].f1 == pytest.approx(0.5)
    assert (scores["bit"].right, scores["bit"].false, scores["bit"].missed) == (0, 1, 1)


def test_macro_f1_leaves_rare_tokens_and_no_answers_out():
    many = [Reacted(time_s=10.0 * i, fish="a", token="looked") for i in range(20)]
    rare = [Reacted(time_s=3.0, fish="a", token="bit")]
    apart = [Reacted(time_s=10.0 * i, fish="a", token="not_shown") for i in range(30)]
    assert macro_f1(score_reactions(many + rare + apart, many)) == pytest.approx(1.0)
    assert macro_f1(score_reactions(rare, rare)) is None


def test_one_told_reaction_settles_only_one_true_one():
    truth = [Reacted(time_s=1.0, fish="a", token="looked"), Reacted(time_s=1.6, fish="a", token="looked")]
    scores = score_reactions(truth, [Reacted(time_s=1.5, fish="a", token="looked")])
    assert (scores["looked"].right, scores["looked"].missed) == (1, 1)
    assert math.isclose(scores["looked"].f1, 2 / 3)


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
