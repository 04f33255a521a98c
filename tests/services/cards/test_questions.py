import datetime as dt
import math
from zoneinfo import ZoneInfo

import pytest

from mudlamp.core.advice.answers import Technique
from mudlamp.core.scene.species import Species
from mudlamp.core.units import FOOT_M
from mudlamp.services.cards.questions import FIELDS, ask, with_sun
from mudlamp.services.edge import forms

NOW = dt.datetime(2024, 6, 20, 18, 0, tzinfo=dt.UTC)


def test_five_answers_are_enough_and_none_is_too():
    five = ask({"technique": "cast", "target": "bass", "depth_ft": "20", "clarity": "muddy", "bottom": "rock"}, now=NOW)
    assert five.problems == {}
    assert (five.answers.technique, five.answers.target) == (Technique.CAST, Species.LARGEMOUTH)
    assert five.answers.depth_m == pytest.approx(20 * FOOT_M)
    assert five.answers.secchi_m == 0.2
    nothing = ask({}, now=NOW)
    assert nothing.problems == {}
    assert nothing.answers.depth_m is None


def test_where_the_jig_is_gone_counts_before_the_word():
    found = ask({"clarity": "clear", "jig_gone_ft": "2"}, now=NOW)
    assert found.answers.secchi_m == pytest.approx(2 * FOOT_M)


# The message names field, value and range, and stands by the field that is wrong.
@pytest.mark.parametrize(
    ("given", "field", "said"),
    [
        ({"depth_ft": "-4"}, "depth_ft", "Depth here is -4: it must be 4 to 190 ft"),
        ({"depth_ft": "deep"}, "depth_ft", "Depth here is deep: it must be 4 to 190 ft"),
        ({"depth_ft": "nan"}, "depth_ft", "Depth here is nan: it must be 4 to 190 ft"),
        ({"jig_gone_ft": "-1"}, "jig_gone_ft", "White jig gone at is -1: it must be 0.3 to 60 ft"),
        ({"depth_ft": "20", "fish_to_ft": "30"}, "fish_to_ft", "Fish down to is 30 ft: it must be 0 to 20 ft, where the bottom is"),
        ({"depth_ft": "20", "fish_from_ft": "25"}, "fish_from_ft", "Fish from is 25 ft: it must be 0 to 20 ft"),
        ({"fish_from_ft": "12", "fish_to_ft": "10"}, "fish_from_ft", "Fish from is 12 ft: it must be 0 to 10 ft"),
        ({"depth_ft": "20", "deepest_ft": "15"}, "deepest_ft", "Deepest water in range is 15 ft: it must be 20 ft"),
        ({"ice": "on", "water_f": "60"}, "water_f", "Water temperature is 60 deg F: under ice it must be 32 to 41 deg F"),
        ({"ice": "on", "wind_mph": "9"}, "wind_mph", "Wind is 9 mph: under ice it must be 0 mph"),
        ({"ice": "on", "technique": "pitch"}, "technique", "How you fish is pitch: through ice it must be drop or scan"),
        ({"technique": "net"}, "technique", "How you fish is net: it must be one of vertical, pitch, cast, scan"),
        ({"latitude_deg": "35"}, "longitude_deg", "Longitude is empty: it must be given along with the other"),
        ({"at": "noon"}, "at", r"Time is noon: it must be like 2026-05-01T13:30"),
    ],
)
def test_what_cannot_be_is_told_by_the_field_that_is_wrong_and_the_rest_is_kept(given, field, said):
    found = ask({"target": "crappie"} | given, now=NOW)
    assert found.answers is None
    assert list(found.problems) == [field]
    assert found.problems[field].startswith(said)
    assert found.texts["target"] == "crappie"
    for name, text in given.items():
        assert found.texts[name] == text


def test_the_sun_is_worked_out_for_place_and_time():
    given = {"latitude_deg": "35", "longitude_deg": "-90"}
    noon = ask(given, now=NOW)
    # 78.436 deg: tests/reference/rig.toml.
    assert math.degrees(noon.answers.sun_rad) == pytest.approx(78.436, abs=0.02)
    assert ask(given | {"at": "2024-06-20T12:00"}, now=NOW).answers.sun_rad == pytest.approx(math.radians(12.928), abs=4e-4)
    dark = with_sun(noon.answers, noon.texts, NOW + dt.timedelta(hours=12))
    assert dark.sun_rad < 0.0
    assert with_sun(noon.answers, {}, NOW) == noon.answers


def test_what_is_typed_comes_back_as_it_was():
    given = {"depth_ft": "17.3", "slope_deg": "4", "wind_mph": "7", "water_f": "58", "other_sonars": "1", "habit": "set_once"}
    found = forms.read(FIELDS, given)
    assert found.problems == {}
    again = forms.texts_of(FIELDS, found.values)
    assert {name: again[name] for name in given} == given


def test_a_time_without_a_zone_is_on_the_clock_that_the_angler_reads():
    place = {"latitude_deg": "35", "longitude_deg": "-90", "at": "2026-06-21T13:00"}
    chicago = ask(place, now=NOW.astimezone(ZoneInfo("America/Chicago"))).answers.sun_rad
    london = ask(place, now=NOW.astimezone(dt.UTC)).answers.sun_rad
    # An hour after noon by daylight time at 90 deg west the midsummer sun stands near its highest, 78 deg; at 13:00 UTC it is morning there.
    assert math.degrees(chicago) > 70.0
    assert math.degrees(london) < 35.0
