import copy
import pickle

import pytest
from hypothesis import given
from hypothesis import strategies as st

from mudlamp.core.controls import CONTROLS, ORDER, Part
from mudlamp.core.errors import DomainError
from mudlamp.core.setup import ReceiverSetup, Setting, Setup, Window, settings_of, stored_setup, values_of, with_settings

WINDOW = Window(down_to_m=7.3, reach_m=12.2, look_back_m=0.6)


def allowed(control):
    if control.names:
        return st.sampled_from(control.names)
    return st.sampled_from(control.steps) if control.steps else st.floats(control.low, control.high)


SETUPS = st.fixed_dictionaries({control.name: allowed(control) for control in ORDER})


@given(SETUPS)
def test_a_set_up_survives_its_codec(values):
    receiver = with_settings(ReceiverSetup(), *settings_of(values))
    window = with_settings(WINDOW, *settings_of(values))
    stored = values_of(window, receiver)
    assert stored_setup(stored, Setup(receiver=ReceiverSetup(), window=WINDOW)) == Setup(receiver=receiver, window=window)
    assert set(stored) == {control.name for control in ORDER if control.part is not Part.TRANSDUCER}


def test_a_control_is_itself_in_another_process_too():
    for control in ORDER:
        assert pickle.loads(pickle.dumps(control)) is control  # noqa: S301 - our own bytes
        assert copy.deepcopy(Setting(control=control, value=1.0)).control is control


def test_the_table_is_whole():
    assert list(CONTROLS.values()) == list(ORDER)
    for control in ORDER:
        low, high = control.bounds
        assert control.names or low < high
        assert control.off is None or control.off in control.steps or low <= control.off <= high
        with pytest.raises(DomainError, match=control.name):
            control.checked("nothing of the kind")
