import pytest
from pydantic import ValidationError

from mudlamp.core.errors import DomainError
from mudlamp.services.cast.asked import CastAsked, cast_of


def test_the_cast_of_the_contract_is_whole_and_in_feet():
    found = cast_of(CastAsked(range_ft=34, depth_ft=23, head_oz=0.0625))
    assert found.horizontal_ft == pytest.approx(26.2, abs=0.1)
    assert found.lead_ft is None
    assert found.side_tolerance_ft == pytest.approx(5.4, abs=0.1)
    assert found.said == "Throw fifteen past him, count 25."
    assert "3 dB (assumed)" in found.why


@pytest.mark.parametrize(
    ("changes", "said"),
    [
        ({"range_ft": 12.0, "depth_ft": 11.0}, "Drop it one past him, count ten, draw it over him."),
        ({"range_ft": 17.0, "depth_ft": 6.0}, "Throw right at him, count"),
        ({"speed_mph": 0.7, "heading_deg": 90.0}, "ahead of him"),
        ({"wind_mph": 25.0, "wind_deg": 90.0}, "to his left"),
        ({"speed_mph": 1.2, "heading_deg": 180.0}, "comes under the boat"),
        ({"range_ft": 120.0, "depth_ft": 8.0}, "Too far to cast"),
    ],
)
def test_what_an_angler_is_told(changes, said):
    assert said in cast_of(CastAsked(**{"range_ft": 34.0, "depth_ft": 23.0, **changes})).said


def test_reasons_name_the_pause_the_knot_and_the_free_line():
    def why(technique, **more):
        return cast_of(CastAsked(range_ft=25, depth_ft=12, technique=technique, **more)).why

    assert "Pause 5 s." in why("pause", temp_f=53.6)
    assert "Stop knot 10 ft" in why("float")
    assert "5 ft free under the tip" in why("dock")
    assert "turns a second" in why("minnow")
    shallow = cast_of(CastAsked(range_ft=40, depth_ft=2, head_oz=0.5, technique="cast")).why
    assert "the lure holds just under the surface, over him" in shallow
    assert " 0 ft" not in shallow
    assert "Stop knot 4 in over the lure" in cast_of(CastAsked(range_ft=20, depth_ft=1, head_oz=0.03, technique="float")).why
    under = cast_of(CastAsked(range_ft=20, depth_ft=10, head_oz=2, speed_mph=6, heading_deg=180)).why
    assert "by then he is under the boat" in under
    assert "Throw now" not in under
    assert "too close: stay" in why("cast", clarity="clear", mood="wary")
    assert "taken as straight away" in why("cast", speed_mph=0.3)
    assert "taken as" not in why("cast", speed_mph=0.3, heading_deg=0)
    assert "You can wait" in why("cast", speed_mph=0.3, heading_deg=0)


def test_a_fish_deeper_than_its_range_is_refused_in_feet():
    with pytest.raises(DomainError, match=r"depth_ft is 30: 10 ft away along the beam it can be 11.3 ft at most"):
        cast_of(CastAsked(range_ft=10, depth_ft=30))


@pytest.mark.parametrize("bad", [{"range_ft": 500}, {"depth_ft": 0}, {"head_oz": 5}, {"spare_db": float("nan")}, {"what": 1}])
def test_figures_out_of_range_are_refused(bad):
    with pytest.raises(ValidationError):
        CastAsked(**{"range_ft": 34, "depth_ft": 23, **bad})
