from dataclasses import replace

import pytest

from mudlamp.core.receiver.readings import Readings
from mudlamp.core.receiver.trial import Remedy
from mudlamp.core.setup import ReceiverSetup
from mudlamp.services.words.readings import Estimate, differences, erased_line, remedy_words, worded

PLAIN = Readings(
    lure_over_clutter_db=9.0,
    bare_over_clutter_db=0.0,
    faintest_fish_db=12.0,
    fish_shown_pct=100.0,
    clutter_fill_pct=5.0,
    blown_out_pct=2.0,
    lag_ms=0.0,
    parting_m=0.2,
    contrast=30.0,
    erased=(),
)


NOBODY = Estimate(sure=0, followed=0, lure=False)


def said(readings, counts=(8, 8), estimate=NOBODY):
    return {row.name: row for row in worded(readings, counts, estimate)}


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
    for row in worded(worst, (1, 8), NOBODY):
        assert 0.0 <= row.share <= 1.0
        assert row.mood in ("good", "fair", "bad")


def test_where_no_truth_is_known_the_trackers_estimate_is_called_one():
    rows = said(replace(PLAIN, lure_over_clutter_db=None, erased=None), estimate=Estimate(sure=3, followed=5, lure=True))
    assert (rows["jig"].word, rows["jig"].figure) == ("Followed", "estimated by the tracker")
    assert (rows["fish"].word, rows["fish"].figure) == ("5 followed", "estimated: 3 of them sure")
    assert erased_line(replace(PLAIN, erased=None)) == "needs simulated water"


def test_a_remedy_says_what_it_brings_back_and_for_what():
    remedy = Remedy(control="gain", value=66.0, brings=("fish2", "fish5", "lure"), added_fill_pct=3.2)
    assert remedy_words(remedy, ReceiverSetup(gain=60.0)) == "Gain 60 → 66 brings back the jig and 2 fish, for 3 % more clutter"
    cut = Remedy(control="ghost_cut_db", value=0.0, brings=("fish2",), added_fill_pct=-0.2)
    assert remedy_words(cut, ReceiverSetup(ghost_cut_db=22.0)) == "Ghost cut 22 dB → off brings back 1 fish, for no more clutter"
    assert "No single control" in remedy_words(None, ReceiverSetup())


def test_the_twins_difference_says_which_set_up_is_better():
    hot = replace(PLAIN, lure_over_clutter_db=12.0, clutter_fill_pct=22.0, parting_m=0.2)
    rows = {row.title: row for row in differences(PLAIN, hot)}
    assert (rows["Jig over clutter"].difference, rows["Jig over clutter"].better) == ("+3 dB", "b")
    assert (rows["Clutter"].difference, rows["Clutter"].better) == ("+17 %", "a")
    assert (rows["Lag"].difference, rows["Lag"].better) == ("same", "")
    assert differences(PLAIN, replace(PLAIN, lure_over_clutter_db=None))[0].a == "–"
    # Under half a decibel below nothing is nothing, not "-0".
    assert differences(replace(PLAIN, lure_over_clutter_db=-0.3), PLAIN)[0].a == "0 dB"
