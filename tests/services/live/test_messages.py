import json
import pickle
import re

import pytest

from mudlamp.core.controls import GAIN, REACH
from mudlamp.core.errors import DomainError
from mudlamp.core.units import FOOT_M
from mudlamp.services.live.messages import SetAuto, SetControls, SetPace, parse_command
from mudlamp.services.water.hands import ThrowAt


@pytest.mark.parametrize(
    ("message", "said"),
    [
        ({"type": "set", "values": {"gain": 500}}, "gain is 500: it must be 0 to 100"),
        ({"type": "set", "values": {"gain": float("inf")}}, "gain is inf: it must be a number, 0 to 100"),
        ({"type": "set", "values": {"gain": 40}, "side": "c"}, "side is 'c': it must be"),
        ({"type": "set", "values": {"shine": 1}}, "shine is not a control here: it must be one of fan"),
        ({"type": "set", "values": [1]}, "values is not a set of controls"),
        ({"type": "dance"}, "command is dance: it must be one of set, pace"),
        ({"type": "throw", "ahead_m": "x"}, "ahead_m"),
        ({"type": "auto", "control": "punch"}, "control is punch: it must be one of"),
        ({"type": "pace", "pace": "sideways"}, "pace is 'sideways': it must be 'run'"),
        ([1], "it must be an object"),
    ],
)
def test_a_command_that_cannot_be_is_refused_by_name_before_it_gets_to_a_session(message, said):
    with pytest.raises(DomainError, match=re.escape(said)):
        parse_command(json.dumps(message).replace("Infinity", "1e999"))


def test_a_command_comes_out_typed_in_the_cores_units_and_survives_the_pipe():
    command = parse_command('{"type": "set", "seq": 7, "side": "b", "values": {"gain": 40, "reach_ft": 30}}')
    assert isinstance(command, SetControls)
    assert (command.seq, command.side) == (7, "b")
    assert {one.control: one.value for one in command.values} == {GAIN: 40.0, REACH: pytest.approx(30 * FOOT_M)}
    for text, kind in (
        ('{"type": "auto", "control": "gain", "on": false}', SetAuto),
        ('{"type": "pace", "pace": "replay", "share": 0.5}', SetPace),
        ('{"type": "throw", "ahead_m": 8}', ThrowAt),
    ):
        found = parse_command(text)
        assert isinstance(found, kind)
        assert pickle.loads(pickle.dumps(found)) == found  # noqa: S301 - our own bytes
