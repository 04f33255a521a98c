from dataclasses import replace

import pytest

from mudlamp.core.receiver.readings import Readings
from mudlamp.services.wording import erased_line, worded

PLAIN = Readings(
    lure_over_clutter_db=9.0,
    faintest_fish_db=12.0,
    fish_shown_pct=100.0,
    clutter_fill_pct=5.0,
    blown_out_pct=2.0,
    lag_ms=0.0,
    parting_m=0.2,
    erased=(),
)


def said(readings, counts=(8, 8)):
    return {row.name: row for row in worded(readings, counts)}


@pytest.mark.parametrize(("over_db", "word"), [(1.0, "Gone"), (4.0, "Barely there"), (9.0, "Clear"), (20.0, "Bright")])
def test_the_jig_is_a_word_first_and_the_figure_after(over_db, word):
    row = said(replace(PLAIN, lure_over_clutter_db=over_db))["jig"]
    assert row.word == word
    assert row.figure == f"{over_db:+.0f} dB over clutter"


def test_an_erased_jig_is_gone_whatever_its_level():
    row = said(replace(PLAIN, erased=("lure",)))["jig"]
    assert (row.word, row.mood) == ("Gone", "bad")


def test_without_a_lure_or_fish_nothing_is_guessed():
    rows = said(replace(PLAIN, lure_over_clutter_db=None), counts=(0, 0))
    assert rows["jig"].word == "–"
    assert rows["fish"].word == "None in the beam"


def test_fish_are_counted_and_what_is_hidden_is_named():
    rows = said(PLAIN, counts=(6, 8))
    assert (rows["fish"].word, rows["fish"].figure, rows["fish"].mood) == ("6 of 8", "2 hidden", "fair")
    assert erased_line(replace(PLAIN, erased=("fish1", "fish2", "lure"))) == "the jig and 2 fish"
    assert erased_line(PLAIN) == "nothing"


def test_every_bar_stays_within_its_ends():
    worst = replace(PLAIN, lure_over_clutter_db=99.0, clutter_fill_pct=100.0, blown_out_pct=100.0, lag_ms=900.0, parting_m=4.0)
    for row in worded(worst, (1, 8)):
        assert 0.0 <= row.share <= 1.0
        assert row.mood in ("good", "fair", "bad")
