import math

import pytest
from hypothesis import given

from mudlamp.core.controls import CONTROLS, ORDER
from mudlamp.core.errors import DomainError
from mudlamp.core.ping import Fan
from mudlamp.core.receiver.inks import INKS
from mudlamp.core.setup import ReceiverSetup, with_settings
from mudlamp.core.sonar.transducer import Acquisition
from mudlamp.services.edge.controls import EDGE, LABELS, edge_values, read_settings, stored_edge_values
from tests.core.test_controls import SETUPS


@given(SETUPS)
def test_the_edge_reads_what_it_shows(values):
    shown = stored_edge_values(values)
    again = {setting.control.name: setting.value for setting in read_settings(shown, ORDER)}
    for control in ORDER:
        if control.names:
            assert again[control.name] == values[control.name]
        else:
            # Rounded to the digits of the edge's unit, and no farther off.
            assert abs(again[control.name] - values[control.name]) <= 0.51 * EDGE[control].scale * 10.0 ** -EDGE[control].digits


def test_feet_and_degrees_become_meters_and_radians_and_come_back():
    acquisition = Acquisition(
        fan=Fan.AHEAD, reach_m=12.0, down_to_m=6.0, look_back_m=0.6, tilt_rad=1.0, aim_rad=0.0, sound_speed_m_s=1470.0
    )
    given = read_settings({"reach_ft": "30", "fan": "flat", "tilt_deg": 80, "quieting_pings": "3", "ink": "chalk"}, ORDER)
    changed, receiver = with_settings(acquisition, *given), with_settings(ReceiverSetup(), *given)
    # 1 ft is 0.3048 m: by definition (international foot, 1959).
    assert (changed.reach_m, changed.tilt_rad) == (pytest.approx(9.144), pytest.approx(math.radians(80.0)))
    values = edge_values(changed, receiver)
    assert [values[name] for name in ("reach_ft", "fan", "tilt_deg", "quieting_pings", "ink")] == [30.0, "flat", 80.0, 3, "chalk"]


@pytest.mark.parametrize(
    ("given", "said"),
    [
        ({"gain": 500}, "gain is 500: it must be 0 to 100"),
        ({"gain": "loud"}, "gain is loud: it must be a number, 0 to 100"),
        ({"gain": "nan"}, "gain is nan: it must be a number"),
        ({"reach_ft": 4}, "reach_ft is 4 ft: it must be 9.8 to 120.1 ft"),
        ({"quieting_pings": 4}, "quieting_pings is 4 pings: it must be one of 1, 2, 3, 5"),
        ({"ink": "mud"}, "ink is mud: it must be one of"),
        ({"shine": 1}, "shine is not a control here: it must be one of"),
    ],
)
def test_what_is_not_allowed_is_named_with_what_is(given, said):
    with pytest.raises(DomainError) as caught:
        read_settings(given, ORDER)
    assert str(caught.value).startswith(said)


def test_every_control_has_its_word_and_a_slider_within_its_bounds():
    assert set(CONTROLS) == set(LABELS) == {one.name for one in EDGE}
    assert len(set(LABELS.values())) == len(ORDER)
    assert EDGE[CONTROLS["ink"]].titles.keys() == INKS.keys()
    for edge in EDGE.values():
        if edge.slider is not None:
            assert edge.bounds[0] <= edge.slider.low < edge.slider.high <= edge.bounds[1]
