import pytest

from mudlamp.core.fishing.guessing import guessing
from mudlamp.core.tracking.classes import FishClass, Identity
from mudlamp.core.tracking.side import Side
from mudlamp.core.tracking.sizing import Size
from mudlamp.core.units import FOOT_M, INCH_M, MPH_M_S
from mudlamp.services.words.fish import (
    NO_LENGTH,
    SWEEP,
    Measured,
    aside_words,
    fact_words,
    guess_words,
    guessing_words,
    size_words,
)

BASS = Identity(odds={FishClass.BASS: 0.8}, name=FishClass.BASS, words=(), look=None)
SURE = Size(length_m=15.0 * INCH_M, low_m=12.0 * INCH_M, high_m=19.0 * INCH_M)
RIGHT = Side(across_m=2.0 * FOOT_M, low_m=1.0 * FOOT_M, high_m=3.0 * FOOT_M)


def fish(**more):
    usual = {"ahead_m": 24.0 * FOOT_M, "depth_m": 12.0 * FOOT_M, "over_bottom_m": 6.0 * FOOT_M, "toward": (0.0, 0.0)}
    return Measured(**{**usual, "size": SURE, "side": RIGHT, "identity": BASS, **more})


def test_a_fish_in_words():
    assert size_words(SURE, BASS) == "15 in (12 to 19), about 1.8 lb"
    assert fact_words(fish(), None) == "24 ft out, 12 down, 6 off bottom · holds still · 2 ft right"


def test_what_is_not_known_is_said_and_never_guessed():
    found = fact_words(fish(size=None, side=None, identity=None, over_bottom_m=None, toward=(-MPH_M_S, 0.1)), None)
    assert size_words(None, None) == NO_LENGTH
    assert found == f"24 ft out, 12 down · 1.0 mph toward you · {SWEEP}"
    # Both ends were not seen: no length, whatever the middle.
    assert size_words(Size(length_m=0.4, low_m=0.15, high_m=1.0), BASS) == NO_LENGTH
    assert "lb" not in size_words(SURE, None)


FLAT = {"depth_m": None, "over_bottom_m": None, "side": None}


@pytest.mark.parametrize(
    ("right_m", "toward", "said"),
    [
        (1.5, (0.0, 0.0), "24 ft out · holds still · 5 ft right"),
        (-1.5, (0.1, 0.5), "24 ft out · 1.1 mph to the right, 1.3 lengths/s · 5 ft left"),
        (0.1, (0.1, -0.5), "24 ft out · 1.1 mph to the left, 1.3 lengths/s · straight off the bow"),
    ],
)
def test_a_flat_fan_shows_left_and_right_and_no_depth(right_m, toward, said):
    assert fact_words(fish(**FLAT, right_m=right_m, toward=toward), None) == said


def test_under_a_flat_fan_the_jig_is_seen_beside_the_fish_without_a_sweep():
    assert fact_words(fish(**FLAT, right_m=1.0), fish(**FLAT, right_m=0.4)).endswith("jig 2 ft left of it: next throw 2 ft right")


def test_a_guess_beside_the_measured_fish():
    assert guess_words(20.0 * INCH_M, SURE) == "you guess 20 in: 33 % over"
    assert guess_words(10.5 * INCH_M, SURE) == "you guess 10.5 in: 30 % under"
    # The measure has a doubt of its own: within it nobody is wrong.
    assert guess_words(17.0 * INCH_M, SURE) == "you guess 17 in: as measured, within its doubt"
    assert guess_words(17.0 * INCH_M, None) == "you guess 17 in, not measured yet"
    assert guessing_words(guessing([(0.4, 0.3)])) == ""
    high = guessing([(0.36, 0.3), (0.5, 0.4), (0.24, 0.2), (0.48, 0.4)])
    assert guessing_words(high) == "4 guessed fish measured: you guess 21 % high (17 to 25)"
    assert guessing_words(guessing([(0.3, 0.36), (0.4, 0.5), (0.2, 0.24)])).startswith("3 guessed fish measured: you guess 18 % low (")
    assert guessing_words(guessing([(0.3, 0.4), (0.5, 0.4), (0.3, 0.3)])).endswith("neither high nor low beyond chance")


@pytest.mark.parametrize(
    ("toward", "way"), [((0.5, 0.1), "away"), ((-0.5, 0.1), "toward you"), ((0.1, 0.5), "sinking"), ((0.1, -0.5), "rising")]
)
def test_a_fish_that_moves_is_said_to_in_lengths_a_second(toward, way):
    assert f"1.1 mph {way}, 1.3 lengths/s" in fact_words(fish(toward=toward), None)


def test_the_beam_stays_on_the_fish_and_the_lure_is_what_moves():
    assert aside_words(0.6, out_m=3.0) == "jig 2 ft right of it: swing the rod tip left"
    assert aside_words(-0.6, out_m=9.0) == "jig 2 ft left of it: next throw 2 ft right"
    assert aside_words(0.1, out_m=3.0) == "jig in line"
    lure = fish(size=None, side=Side(across_m=0.0, low_m=-0.2, high_m=0.2))
    assert fact_words(fish(), lure).endswith("jig 2 ft left of it: next throw 2 ft right")


@pytest.mark.parametrize(
    ("off_m", "said"), [(None, ""), (0.05, ", in the cover"), (0.2, ", 1 ft off cover"), (1.2, ", 4 ft off cover"), (3.5, "")]
)
def test_cover_is_spoken_of_where_a_fish_is_by_it(off_m, said):
    assert f"12 down, 6 off bottom{said} · " in fact_words(fish(off_cover_m=off_m), None)
