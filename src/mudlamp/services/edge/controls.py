"""The controls as the edge knows them: names with the angler's units, turned into the core's."""

import math
from collections.abc import Callable, Mapping
from dataclasses import dataclass, replace
from typing import Any

from mudlamp.core.errors import DomainError, require_choice, require_range
from mudlamp.core.ping import Fan
from mudlamp.core.receiver import setup as receiver
from mudlamp.core.receiver.inks import INKS
from mudlamp.core.receiver.setup import ReceiverSetup, Window
from mudlamp.core.scene.model import Scene
from mudlamp.core.sonar import transducer
from mudlamp.core.sonar.transducer import Acquisition, usual_tilt_rad
from mudlamp.core.units import FOOT_M, feet, meters


@dataclass(frozen=True, slots=True, kw_only=True)
class Control:
    """One control at the edge: its name with the unit, its core name, how a number at the edge becomes the core's, and its bounds there."""

    name: str
    core: str
    unit: str
    low: float
    high: float
    to_core: Callable[[float], float]
    choices: tuple[float, ...] = ()


def _same(value: float) -> float:
    return value


def _feet(name: str, core: str, bounds: tuple[float, float]) -> Control:
    return Control(name=name, core=core, unit="ft", low=round(feet(bounds[0]), 1), high=round(feet(bounds[1]), 1), to_core=meters)


REACH = _feet("reach_ft", "reach_m", transducer.REACH_M)
DOWN_TO = _feet("down_to_ft", "down_to_m", transducer.DOWN_TO_M)
LOOK_BACK = _feet("look_back_ft", "look_back_m", transducer.LOOK_BACK_M)
TILT = Control(name="tilt_deg", core="tilt_rad", unit="deg", low=transducer.TILT_DEG[0], high=transducer.TILT_DEG[1], to_core=math.radians)
AIM = Control(name="aim_deg", core="aim_rad", unit="deg", low=transducer.AIM_DEG[0], high=transducer.AIM_DEG[1], to_core=math.radians)
SOUND_SPEED = Control(
    name="sound_speed_ft_s",
    core="sound_speed_m_s",
    unit="ft/s",
    low=math.ceil(feet(transducer.SOUND_SPEED_M_S[0])),
    high=math.floor(feet(transducer.SOUND_SPEED_M_S[1])),
    to_core=meters,
)
ACQUISITION = {control.name: control for control in (REACH, DOWN_TO, LOOK_BACK, TILT, AIM, SOUND_SPEED)}

RECEIVER = {
    control.name: control
    for control in (
        Control(name="gain", core="gain", unit="", low=receiver.GAIN[0], high=receiver.GAIN[1], to_core=_same),
        Control(name="near_cut_db", core="near_cut_db", unit="dB", low=0.0, high=18.0, to_core=_same, choices=receiver.NEAR_CUT_DB),
        Control(
            name="quieting_pings", core="quieting_pings", unit="pings", low=1.0, high=5.0, to_core=int, choices=receiver.QUIETING_PINGS
        ),
        Control(name="ghost_cut_db", core="ghost_cut_db", unit="dB", low=0.0, high=34.0, to_core=_same, choices=receiver.GHOST_CUT_DB),
        Control(name="punch", core="punch", unit="", low=receiver.PUNCH[0], high=receiver.PUNCH[1], to_core=_same),
        Control(
            name="hide_below_db",
            core="hide_below_db",
            unit="dB",
            low=receiver.HIDE_BELOW_DB[0],
            high=receiver.HIDE_BELOW_DB[1],
            to_core=_same,
        ),
    )
}


def number(control: Control, value: object) -> float:
    """Return a control's value in the core's unit from a number or its text; raise DomainError naming control, value and range."""
    try:
        parsed = float(value)  # type: ignore[arg-type]
    except (TypeError, ValueError):
        raise DomainError(
            f"{control.name} is {str(value)[:40]}: it must be a number, {control.low:g} to {control.high:g} {control.unit}".rstrip()
        ) from None
    if control.choices and parsed not in control.choices:
        raise DomainError(f"{control.name} is {parsed:g}: it must be one of {', '.join(f'{choice:g}' for choice in control.choices)}")
    require_range(control.name, parsed, control.low, control.high, control.unit)
    return control.to_core(parsed)


def apply_acquisition(acquisition: Acquisition, values: Mapping[str, Any], scene: Scene, *, steady: bool = False) -> Acquisition:
    """Return `acquisition` with edge values set; a new Fan brings its usual tilt unless a tilt is given too.

    `steady` allows the motion leveling to be switched (1 or 0). Raises DomainError for an unknown key or a value out of range.
    """
    others = ("fan", "steady") if steady else ("fan",)
    for name in values:
        if name not in others and name not in ACQUISITION:
            raise DomainError(f"{name} is not a control of the transducer: it must be one of {', '.join((*others, *ACQUISITION))}")
    changed: dict[str, Any] = {
        ACQUISITION[name].core: number(ACQUISITION[name], value) for name, value in values.items() if name in ACQUISITION
    }
    if "steady" in values:
        changed["steady"] = bool(require_choice("steady", str(values["steady"]), ["0", "1"]) == "1")
    if "fan" in values:
        require_choice("fan", str(values["fan"]), [fan.value for fan in Fan])
        fan = Fan(values["fan"])
        changed["fan"] = fan
        if fan is not acquisition.fan:
            changed.setdefault("tilt_rad", usual_tilt_rad(fan, scene.transducer.shape))
    return replace(acquisition, **changed)


def apply_receiver(setup: ReceiverSetup, values: Mapping[str, Any]) -> ReceiverSetup:
    """Return `setup` with edge values set; raise DomainError for an unknown key or a value out of range."""
    changed: dict[str, Any] = {}
    for name, value in values.items():
        if name == "ink":
            changed["ink"] = require_choice("ink", str(value), list(INKS))
        elif name in RECEIVER:
            changed[RECEIVER[name].core] = number(RECEIVER[name], value)
        else:
            raise DomainError(f"{name} is not a control of the receiver: it must be one of {', '.join(RECEIVER)}, ink")
    return replace(setup, **changed)


def apply_window(window: Window, values: Mapping[str, Any]) -> Window:
    """Return `window` with edge values set; raise DomainError for a value out of range."""
    controls = {"reach_ft": REACH, "down_to_ft": DOWN_TO, "look_back_ft": LOOK_BACK}
    return replace(window, **{controls[name].core: number(controls[name], value) for name, value in values.items()})


def window_of(acquisition: Acquisition) -> Window:
    """Return the window that an acquisition shows."""
    return Window(down_to_m=acquisition.down_to_m, reach_m=acquisition.reach_m, look_back_m=acquisition.look_back_m)


def window_values(window: Window) -> dict[str, Any]:
    """Return the window in the edge's names and units."""
    return {
        "reach_ft": round(feet(window.reach_m), 1),
        "down_to_ft": round(feet(window.down_to_m), 1),
        "look_back_ft": round(feet(window.look_back_m), 1),
    }


def acquisition_values(acquisition: Acquisition) -> dict[str, Any]:
    """Return the transducer's controls in the edge's names and units."""
    return {
        "fan": acquisition.fan.value,
        **window_values(window_of(acquisition)),
        "tilt_deg": round(math.degrees(acquisition.tilt_rad), 1),
        "aim_deg": round(math.degrees(acquisition.aim_rad), 1),
        "sound_speed_ft_s": round(acquisition.sound_speed_m_s / FOOT_M),
        "steady": int(acquisition.steady),
    }


def receiver_values(setup: ReceiverSetup) -> dict[str, Any]:
    """Return the receiver's controls in the edge's names and units."""
    return {
        "gain": round(setup.gain, 1),
        "near_cut_db": setup.near_cut_db,
        "quieting_pings": setup.quieting_pings,
        "ghost_cut_db": setup.ghost_cut_db,
        "punch": round(setup.punch, 1),
        "hide_below_db": round(setup.hide_below_db, 1),
        "ink": setup.ink,
    }
