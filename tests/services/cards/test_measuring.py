import datetime as dt
import io
import re
import uuid
from dataclasses import asdict, replace

import numpy as np
import pytest
from PIL import Image

from mudlamp.core.advice.answers import CoverKind
from mudlamp.core.advice.forecast import Forecast, candidates
from mudlamp.core.advice.looks import Side, Sign
from mudlamp.core.advice.lure_seen import LureSeen
from mudlamp.core.advice.styles import Style
from mudlamp.core.controls import CONTROLS, GAIN
from mudlamp.core.errors import DomainError
from mudlamp.core.rig.profile import BoxedLure
from mudlamp.core.setup import Setting, with_control
from mudlamp.core.units import OUNCE_KG, feet
from mudlamp.services.cards.advising import Cost, batch_of, readings_of
from mudlamp.services.cards.lure import lure_seen
from mudlamp.services.cards.measuring import looks_of, settings_seen, sights_of
from mudlamp.services.cards.pictures import Pictures
from mudlamp.services.cards.questions import ask
from mudlamp.services.cards.sight import lure_waters, sight
from mudlamp.services.cards.stored import Measured, made_plan
from mudlamp.services.water.aboard import Aboard
from mudlamp.services.words.card import cost_words, good_enough, seen_line
from mudlamp.services.words.looks import jig_words, look_words, sight_lines

NOW = dt.datetime(2026, 5, 1, 18, 0, tzinfo=dt.UTC)


def plan_for(aboard=None, **answers):
    texts = {"technique": "pitch", "target": "crappie", "depth_ft": "20", "clarity": "stained", "bottom": "sand"} | answers
    found = ask(texts, now=NOW)
    assert found.answers is not None, found.problems
    return made_plan(found.answers, aboard or Aboard(), style=Style.BALANCED)


@pytest.fixture(scope="module")
def pear():
    return plan_for()


def test_what_a_picture_says_is_what_the_receiver_shows(pear):
    card, batch = pear.card, batch_of(pear.card, pear.aboard, seed=900)
    looks = looks_of(card, batch)
    assert list(looks) == ["down_to_m", "reach_m", "gain", "punch"]
    low, right, high = looks["gain"]
    assert (low.side, right.value, high.side) == (Side.LOW, card.setup.gain, Side.HIGH)
    gone = readings_of(with_control(card.setup, GAIN.name, low.value), card, batch)
    assert (low.sign is Sign.NO_LURE) is ("lure" in gone.erased)
    hot = readings_of(with_control(card.setup, GAIN.name, high.value), card, batch)
    assert (high.sign is Sign.GRAINY) is (hot.clutter_fill_pct > readings_of(card.setup, card, batch).clutter_fill_pct + 6.0)
    assert look_words(CONTROLS["gain"], low).startswith("Too low: ")


def test_a_step_less_lets_another_sonars_spokes_through():
    made = plan_for(other_sonars="1")
    raw = made_plan(made.answers, made.aboard, style=Style.RAW)
    assert raw.card.setup.quieting_pings == 2
    low, *_ = looks_of(raw.card, batch_of(raw.card, raw.aboard, seed=900))["quieting_pings"]
    assert (low.value, low.sign) == (1.0, Sign.SPOKES)


@pytest.mark.parametrize(("ice", "left"), [(True, (0.7, 1.05)), (False, (0.0, 0.6))])
def test_quieting_clears_what_moves_and_the_forecast_knows_that_nothing_does_under_ice(ice, left):
    # Shallow and clear: hardly any noise, so that all speckle comes from what is there. Second method: the real receiver.
    made = plan_for(depth_ft="8", clarity="clear", ice="yes" if ice else "no", technique="vertical")
    forecast = Forecast(made.card.here, made.aboard.gear, made.card.window)
    setups = [replace(made.card.setup, gain=74.0, quieting_pings=count) for count in (1, 3)]
    batches = [batch_of(made.card, made.aboard, seed=seed) for seed in (900, 901)]
    measured = [np.mean([readings_of(setup, made.card, batch).clutter_fill_pct for batch in batches]) / 100.0 for setup in setups]
    expected = forecast.figures(candidates(setups)).clutter
    for once, quiet in (measured, expected):
        assert left[0] <= quiet / once <= left[1]


@pytest.mark.parametrize("seed", [900, 901, 902])
def test_a_jig_near_the_surface_is_in_the_picture_of_its_own_waters(seed):
    made = plan_for(depth_ft="5", fish_from_ft="1.6", fish_to_ft="2.5", technique="vertical")
    lit = [
        any(row.kind == "lure" and row.in_fan for row in rows) for _, rows in batch_of(made.card, made.aboard, seed=seed).samples if rows
    ]
    assert len(lit) > 5
    assert np.mean(lit) > 0.7


def test_the_jig_is_drawn_in_its_ring_and_gone_from_it_when_gain_is_too_low(pear):
    pictures, key = Pictures(), uuid.uuid4()
    looks = {one.side: one for one in looks_of(pear.card, batch_of(pear.card, pear.aboard, seed=900))["gain"]}

    def darkest(side):
        png = pictures.png(key, pear, pear.card.start, changed=Setting(control=GAIN, value=looks[side].value))
        pixels = np.asarray(Image.open(io.BytesIO(png)).convert("RGBA")).astype(int)
        # The first ring is the jig's: its middle is where the accent's leftmost and rightmost pixels are.
        accent = (abs(pixels[:, :, :3] - (91, 31, 94)).sum(axis=2) < 12) & (pixels[:, :, 3] > 0)
        rows, columns = np.nonzero(accent)
        left = columns.min()
        row = int(np.median(rows[columns <= left + 3]))
        inside = pixels[row - 8 : row + 9, left + 8 : left + 25, :3].sum(axis=2)
        return inside.min()

    # Nothing but bare paper where it is gone.
    assert darkest(Side.LOW) > 600 > darkest(Side.RIGHT)
    with pytest.raises(DomainError, match="size is huge: it must be one of small, medium, large"):
        pictures.png(key, pear, pear.card.start, size="huge")


def test_a_weak_jig_in_deep_water_is_lost_nearer_and_less_gain_loses_it_sooner():
    deep = {"depth_ft": "70", "fish_from_ft": "40", "fish_to_ft": "45", "technique": "cast"}
    tiny = plan_for(Aboard(lure=BoxedLure(head_kg=OUNCE_KG / 64.0)), **deep)
    heavy = plan_for(Aboard(lure=BoxedLure(head_kg=OUNCE_KG / 2.0)), **deep)
    near, far = (sights_of(one, lure_waters(one.card, one.aboard, seed=900)).lure[Style.BALANCED] for one in (tiny, heavy))
    assert not near.past_end
    assert near.farthest_m + near.doubt_m < far.farthest_m
    waters = lure_waters(tiny.card, tiny.aboard, seed=901)
    dark = sight(with_control(tiny.card.setup, GAIN.name, 20.0), waters)
    assert dark.farthest_m < 0.5 * sight(tiny.card.setup, waters).farthest_m
    lines = sight_lines(tiny.card, dict.fromkeys(Style, near), far)
    assert lines[0].startswith(f"You'll see this jig to {feet(near.farthest_m):.0f} ft, give or take ")
    assert lines[1] == "Raw, Balanced and Clean show it as far."
    # What was looked at is open water.
    lines = sight_lines(plan_for(cover="brush").card, dict.fromkeys(Style, near), far)
    assert lines[0].startswith("Clear of the cover you'll see this jig to ")


def test_a_jig_that_is_lost_in_speckle_is_not_called_clear():
    # Far out in mud and wind; the same water from near by.
    water = {"clarity": "muddy", "wind_mph": "15", "depth_ft": "30", "bottom": "mud"}
    lost, near = (plan_for(Aboard(), technique=how, **water) for how in ("cast", "vertical"))
    found = [
        lure_seen(one.card, one.aboard, [batch_of(one.card, one.aboard, seed=seed) for seed in (900, 901, 902)]) for one in (lost, near)
    ]
    assert found[0].bare_db > 2.0
    assert found[0].over_db - found[0].bare_db < 6.0
    assert "clear" not in seen_line(found[0], CoverKind.OPEN)
    assert found[1].bare_db < 1.5
    assert "clear" in seen_line(found[1], CoverKind.OPEN)
    assert "where bare water has +1;" in seen_line(replace(found[1], bare_db=1.0), CoverKind.OPEN)
    assert "where bare water has" not in seen_line(replace(found[1], bare_db=0.9), CoverKind.OPEN)


def test_a_setting_that_dims_the_jig_is_told_by_how_far_out_it_still_shows():
    plan = plan_for(Aboard(lure=BoxedLure(head_kg=OUNCE_KG / 64.0)), depth_ft="70", fish_from_ft="40", fish_to_ft="45", technique="cast")
    waters = lure_waters(plan.card, plan.aboard, seed=901)
    row = replace(plan.card.row("gain"), styles=plan.card.row("gain").styles | {Style.CLEAN: 20.0})
    card = replace(plan.card, rows=tuple(row if one.control == "gain" else one for one in plan.card.rows))
    nothing = Cost(lure_over_clutter_db=0.2, faintest_fish_db=None, clutter_fill_pct=0.0, lag_ms=0.0)
    costs = {one.control: dict.fromkeys(Style, nothing) for one in card.rows}
    costs["gain"] = costs["gain"] | {Style.CLEAN: replace(nothing, lure_over_clutter_db=-9.0)}
    found = settings_seen(card, costs, waters)
    assert list(found) == ["gain"]
    assert list(found["gain"]) == [Style.CLEAN]
    own = sight(card.setup, waters)
    dimmed = found["gain"][Style.CLEAN]
    assert dimmed == sight(with_control(card.setup, "gain", 20.0), waters)
    said = jig_words(dimmed, own)
    assert re.fullmatch(r"jig to \d+ ft, not \d+|jig shows nowhere", said)
    assert cost_words(asdict(costs["gain"][Style.CLEAN]), jig=said) == said
    assert cost_words(asdict(costs["gain"][Style.CLEAN]), jig=jig_words(own, own)) == "jig -9 dB"


def test_a_card_ends_with_a_pitch_that_lands_where_the_fish_are(pear):
    assert good_enough(pear.card, hidden=False) == "Pitch 15 ft. If you watched it fall all the way, go fish."
    assert "watch your line" in good_enough(pear.card, hidden=True)
    seen = {
        hidden: Measured(costs={}, lure=LureSeen(over_db=9.0, low_db=1.0, high_db=12.0, hidden=hidden, of=6)) for hidden in (0, 1, 3, 4)
    }
    assert [one.hides_lure for one in seen.values()] == [False, True, True, True]
    assert good_enough(plan_for(technique="vertical").card, hidden=False).startswith("Lower your jig to 13 ft.")
