"""The controls at the edge: our word for each, the angler's unit, and numbers turned into the core's and back.

This is the one place that spells a control's label. What a control is, and what it may be set to, stands in `core/controls.py`.
"""

import math
from collections.abc import Iterable, Mapping
from dataclasses import dataclass

from mudlamp.core import controls as core
from mudlamp.core.controls import Control, Value
from mudlamp.core.errors import DomainError
from mudlamp.core.receiver.inks import INKS
from mudlamp.core.setup import Controlled, Setting, values_of
from mudlamp.core.units import FOOT_M


@dataclass(frozen=True, slots=True, kw_only=True)
class Slider:
    """What a slider covers, in the edge's unit, and its step."""

    low: float
    high: float
    step: float = 1.0


@dataclass(frozen=True, slots=True, kw_only=True)
class EdgeControl:
    """A control at the edge: its name with the angler's unit, our word, the unit, how many of the core's units are one of it.

    `caption` stands beside the control where the unit alone would not do; `zero` is how a 0 is shown; `titles` are the words for names.
    """

    control: Control
    name: str
    label: str
    unit: str = ""
    scale: float = 1.0
    digits: int = 1
    slider: Slider | None = None
    caption: str = ""
    zero: str = "0"
    titles: Mapping[str, str] | None = None

    @property
    def bounds(self) -> tuple[float, float]:
        """The lowest and the highest value, in the edge's unit."""
        low, high = self.control.bounds
        return round(low / self.scale, self.digits), round(high / self.scale, self.digits)

    @property
    def allowed(self) -> str:
        """What may be given, in words."""
        if self.control.names:
            return f"one of {', '.join(self.control.names)}"
        if self.control.steps:
            return f"one of {', '.join(f'{step:g}' for step in self.control.steps)}"
        low, high = self.bounds
        return f"{low:g} to {high:g} {self.unit}".rstrip()

    def read(self, given: object) -> Setting:
        """Return a setting from a number, a name or its text; raise DomainError naming control, value and what is allowed."""
        if self.control.names:
            value: Value = str(given)
            right = value in self.control.names
        else:
            value = _number(given)
            low, high = self.bounds
            right = value in self.control.steps if self.control.steps else math.isfinite(value) and low <= value <= high
        if not right:
            shown = f"{value:g} {self.unit}".rstrip() if isinstance(value, float) and math.isfinite(value) else str(given)[:40]
            what = "" if isinstance(value, str) or math.isfinite(value) else "a number, "
            raise DomainError(f"{self.name} is {shown}: it must be {what}{self.allowed}")
        return Setting(control=self.control, value=value if isinstance(value, str) else self.control.held(value * self.scale))

    def value(self, value: Value) -> Value:
        """Return a core value in the edge's unit, rounded."""
        return value if isinstance(value, str) else round(value / self.scale, self.digits) + 0.0

    def shown(self, value: Value) -> str:
        """Return a core value as it is shown, with its unit: whole feet and degrees."""
        if isinstance(value, str):
            return (self.titles or {}).get(value, value)
        if self.titles is not None:
            return self.titles[f"{value:g}"]
        number = value / self.scale
        if self.slider is not None:
            number = round(number) if self.slider.step >= 1.0 and self.scale != 1.0 else round(number, 1)
        if number == 0.0 and self.zero != "0":
            return self.zero
        unit = self.unit.removesuffix("s") if self.control.whole and number == 1 else self.unit
        return f"{number:g}{'' if unit == '°' else ' '}{unit}".rstrip()

    def bare(self, value: Value) -> str:
        """Return a core value without its unit where everybody knows it: feet."""
        return self.shown(value).removesuffix(f" {self.unit}") if self.unit == "ft" else self.shown(value)


def _number(given: object) -> float:
    try:
        return float(given)  # type: ignore[arg-type]  # whatever cannot be a number is none
    except (TypeError, ValueError, OverflowError):
        return math.nan


def _feet(control: Control, name: str, label: str, slider: Slider) -> EdgeControl:
    return EdgeControl(control=control, name=name, label=label, unit="ft", scale=FOOT_M, slider=slider)


def _degrees(control: Control, name: str, label: str, slider: Slider) -> EdgeControl:
    return EdgeControl(control=control, name=name, label=label, unit="°", scale=math.radians(1.0), slider=slider)


def _steps(control: Control, label: str, unit: str, *, caption: str = "", zero: str = "0") -> EdgeControl:
    return EdgeControl(control=control, name=control.name, label=label, unit=unit, caption=caption, zero=zero)


FAN = EdgeControl(control=core.FAN, name="fan", label="Fan", titles={"ahead": "Ahead", "below": "Below", "flat": "Flat"})
DOWN_TO = _feet(core.DOWN_TO, "down_to_ft", "Down to", Slider(low=8.0, high=60.0))
REACH = _feet(core.REACH, "reach_ft", "Reach", Slider(low=12.0, high=110.0))
GAIN = EdgeControl(control=core.GAIN, name="gain", label="Gain", slider=Slider(low=0.0, high=100.0))
NEAR_CUT = _steps(core.NEAR_CUT, "Near cut", "dB", caption="dB at 3 ft")
QUIETING = _steps(core.QUIETING, "Quieting", "pings")
GHOST_CUT = _steps(core.GHOST_CUT, "Ghost cut", "dB", caption="dB under", zero="off")
PUNCH = EdgeControl(control=core.PUNCH, name="punch", label="Punch", slider=Slider(low=0.0, high=100.0))
HIDE_BELOW = EdgeControl(
    control=core.HIDE_BELOW, name="hide_below_db", label="Hide below", unit="dB", slider=Slider(low=0.0, high=30.0), zero="off"
)
INK = EdgeControl(control=core.INK, name="ink", label="Ink", titles={name: ink.title for name, ink in INKS.items()})
AIM = _degrees(core.AIM, "aim_deg", "aim", Slider(low=-60.0, high=60.0))
TILT = _degrees(core.TILT, "tilt_deg", "Tilt", Slider(low=0.0, high=110.0))
LOOK_BACK = _feet(core.LOOK_BACK, "look_back_ft", "Look-back", Slider(low=0.0, high=30.0))
SOUND_SPEED = EdgeControl(
    control=core.SOUND_SPEED,
    name="sound_speed_ft_s",
    label="Sound speed",
    unit="ft/s",
    scale=FOOT_M,
    digits=0,
    slider=Slider(low=4560.0, high=5060.0, step=10.0),
)
STEADY = EdgeControl(control=core.STEADY, name="steady", label="Steady", titles={"0": "off", "1": "on"})

_ALL = (FAN, DOWN_TO, REACH, GAIN, NEAR_CUT, QUIETING, GHOST_CUT, PUNCH, HIDE_BELOW, INK, AIM, TILT, LOOK_BACK, SOUND_SPEED, STEADY)
EDGE: Mapping[Control, EdgeControl] = {one.control: one for one in _ALL}
BY_NAME: Mapping[str, EdgeControl] = {one.name: one for one in _ALL}
# Our words by the core's names: what texts that name a control are filled with.
LABELS: Mapping[str, str] = {one.control.name: one.label for one in _ALL}


def of(name: str) -> EdgeControl:
    """Return a control by its core name."""
    return EDGE[core.CONTROLS[name]]


def read_settings(given: Mapping[str, object], allowed: Iterable[Control], *, what: str = "here") -> tuple[Setting, ...]:
    """Return settings by their edge names; raise DomainError for a name that is not allowed, and for a value that is not."""
    names = [EDGE[control].name for control in allowed]
    for name in given:
        if name not in names:
            raise DomainError(f"{name[:40]} is not a control {what}: it must be one of {', '.join(names)}")
    return tuple(BY_NAME[name].read(value) for name, value in given.items())


def edge_values(*held: Controlled) -> dict[str, Value]:
    """Return the controls of set-ups by their edge names, in the edge's units."""
    return {of(name).name: of(name).value(value) for name, value in values_of(*held).items()}


def stored_edge_values(values: Mapping[str, Value]) -> dict[str, Value]:
    """Return stored values, by core names in SI, by their edge names in the edge's units."""
    return {of(name).name: of(name).value(value) for name, value in values.items()}
