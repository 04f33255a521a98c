"""The bag and the day in short, by cases worked out by hand."""

import datetime as dt
import uuid
from dataclasses import replace

import pytest

from mudlamp.core.fish_weight import Weighed, standard_weight_kg
from mudlamp.core.fishing.bag import best_of, kept_of, weight_of
from mudlamp.core.fishing.day import day_of
from mudlamp.core.records.trips import BagRule, Catch
from mudlamp.core.units import INCH_M

NOON = dt.datetime(2026, 10, 24, 12, 0, tzinfo=dt.UTC)


def caught(**changes):
    base = Catch(
        id=uuid.uuid4(), owner=uuid.UUID(int=5), trip_id=None, session_id=None, source="real", at=NOON, species="largemouth", length_m=None,
        weight_kg=None, guess_m=None, kept=True, lure="", rod="", presentation="", depth_m=None, track="", session_s=None, note="",
    )  # fmt: skip
    return replace(base, **changes)


def rule(**changes):
    return replace(BagRule(id=uuid.uuid4(), owner=None, species="crappie", most=15, wanted=10, least_m=10 * INCH_M), **changes)


def test_what_was_weighed_counts_and_else_the_published_weight_of_its_length():
    weighed = weight_of(caught(weight_kg=1.5, length_m=0.4))
    assert (weighed.mass_kg, weighed.is_computed) == (1.5, False)
    by_length = weight_of(caught(length_m=0.4))
    assert by_length.mass_kg == standard_weight_kg(Weighed.LARGEMOUTH, 0.4)
    assert by_length.is_computed
    # Of which nobody said which crappie it is, it is the commoner one; a gar has no published weight here.
    assert weight_of(caught(species="crappie", length_m=0.3)).mass_kg == standard_weight_kg(Weighed.BLACK_CRAPPIE, 0.3)
    assert weight_of(caught(species="gar", length_m=0.9)) is None


def test_the_bag_counts_what_was_kept_against_ones_own_entries():
    fish = [caught(species="crappie", length_m=inches * INCH_M, kept=inches != 9.0) for inches in (12.0, 9.5, 9.0, 10.0)]
    (crappie,) = kept_of(fish, [rule()])
    assert (crappie.count, crappie.most, crappie.wanted, crappie.short, crappie.is_over) == (3, 15, 10, 1, False)
    assert kept_of(fish, [rule(most=2)])[0].is_over
    # What was kept without an entry is told, too; an entry of which nothing was kept is told as none.
    assert [(one.species, one.count) for one in kept_of([caught()], [rule()])] == [("crappie", 0), ("largemouth", 1)]


def test_a_tournament_counts_the_five_heaviest_and_says_which_goes_out():
    fish = [caught(weight_kg=mass, at=NOON + dt.timedelta(minutes=i)) for i, mass in enumerate((1.0, 2.0, 0.8, 1.5, 1.2, 0.9, 3.0))]
    best = best_of(fish)
    assert best.total_kg == pytest.approx(3.0 + 2.0 + 1.5 + 1.2 + 1.0)
    assert best.goes_out.weight_kg == 1.0
    assert sorted(one.weight_kg for one in best.culled) == [0.8, 0.9]
    # With four in the bag nothing goes out yet; one without weight or length is not counted; one let go is none of the bag.
    four = best_of([*fish[:4], caught(), caught(weight_kg=9.0, kept=False)])
    assert (four.goes_out, four.unweighed, len(four.fish)) == (None, 1, 4)
    # Of two equal ones the earlier stays.
    ties = best_of([caught(weight_kg=1.0, at=NOON + dt.timedelta(minutes=9 - i)) for i in range(6)])
    assert ties.goes_out.at == NOON + dt.timedelta(minutes=8)
    assert ties.culled[0].at == NOON + dt.timedelta(minutes=9)


def test_a_day_in_short_names_the_best_rod_and_the_middle_depth():
    day = day_of(
        [
            caught(rod="Long one", lure="1/16 white", depth_m=4.0, length_m=0.30),
            caught(rod="Long one", lure="1/32 gray", depth_m=5.0, length_m=0.33, kept=False),
            caught(rod="Caster", lure="1/16 white", depth_m=9.0),
            caught(),
        ]
    )
    assert (day.fish, day.kept, day.longest.length_m) == (4, 3, 0.33)
    assert [(one.name, one.count) for one in day.rods] == [("Long one", 2), ("Caster", 1)]
    assert [(one.name, one.count) for one in day.lures] == [("1/16 white", 2), ("1/32 gray", 1)]
    assert day.depth_m == (4.5, 5.0, 7.0)
    assert day_of([]).depth_m is None
