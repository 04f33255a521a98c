"""A set-up: what the receiver does and what of a ping the picture shows; and the one codec to and from stored values, in SI."""

import dataclasses
from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any, ClassVar, Protocol, TypeVar

from mudlamp.core.controls import CONTROLS, FAN, ORDER, RECEIVER, STEADY, WINDOW, Control, Value
from mudlamp.core.errors import DomainError
from mudlamp.core.ping import Fan


@dataclass(frozen=True, slots=True, kw_only=True)
class ReceiverSetup:
    """A set-up of the receiver. `hide_below_db` 0 is off; `ghost_cut_db` 0 is off; `quieting_pings` 1 is off."""

    gain: float = 65.0
    near_cut_db: float = 0.0
    quieting_pings: int = 1
    ghost_cut_db: float = 0.0
    punch: float = 50.0
    hide_below_db: float = 0.0
    ink: str = "soot"


@dataclass(frozen=True, slots=True, kw_only=True)
class Window:
    """What of a ping the picture shows: down to a depth, ahead to a reach, behind the boat by a look-back [m]."""

    down_to_m: float
    reach_m: float
    look_back_m: float

    def farthest_m(self, depth_m: float) -> float:
        """Return how far a picture of this window goes along any beam [m], from a transducer so deep [m]: nothing farther is drawn."""
        return max(self.reach_m, self.down_to_m - depth_m)

    def within(self, other: "Window") -> "Window":
        """Return what of this window lies within another."""
        return Window(**{one.name: min(getattr(self, one.name), getattr(other, one.name)) for one in WINDOW})


@dataclass(frozen=True, slots=True, kw_only=True)
class Setup:
    """A set-up: the receiver's controls, and the window."""

    receiver: ReceiverSetup
    window: Window

    def value(self, control: Control) -> Value:
        """Return what a control stands at."""
        return value_of(self.receiver if control in RECEIVER else self.window, control)


@dataclass(frozen=True, slots=True, kw_only=True)
class Setting:
    """A control at a value, in the core's unit."""

    control: Control
    value: Value


class Controlled(Protocol):
    """The role: a frozen dataclass some of whose fields are controls (ReceiverSetup, Window, an Acquisition)."""

    __dataclass_fields__: ClassVar[dict[str, dataclasses.Field[Any]]]


Held = TypeVar("Held", bound=Controlled)


def value_of(held: Controlled, control: Control) -> Value:
    """Return what a control stands at: numbers as floats, names as text."""
    found = getattr(held, control.name)
    return str(found) if control.names else float(found)


def values_of(*held: Controlled) -> dict[str, Value]:
    """Return controls by name, in the order of the table: the form in which a set-up is stored."""
    fields = {name: one for one in held for name in one.__dataclass_fields__}
    return {control.name: value_of(fields[control.name], control) for control in ORDER if control.name in fields}


def with_settings(held: Held, *settings: Setting) -> Held:
    """Return `held` with controls at other values, those of other parts left out; raise DomainError for a value that is not allowed."""
    changed = {one.control.name: _field(one) for one in settings if one.control.name in held.__dataclass_fields__}
    return dataclasses.replace(held, **changed) if changed else held


def _field(setting: Setting) -> object:
    """Return a setting's value as the field holds it."""
    control, value = setting.control, setting.control.checked(setting.value)
    if control is FAN:
        return Fan(str(value))
    if control is STEADY:
        return bool(value)
    return int(value) if control.whole else value


def with_control(setup: ReceiverSetup, control: str, value: float) -> ReceiverSetup:
    """Return `setup` with one control of the receiver, by its name, at a value."""
    return with_settings(setup, Setting(control=CONTROLS[control], value=value))


def settings_of(values: Mapping[str, Value]) -> tuple[Setting, ...]:
    """Return stored values as settings; raise DomainError for a name that is no control's."""
    unknown = next((name for name in values if name not in CONTROLS), None)
    if unknown is not None:
        raise DomainError(f"{unknown} is not a control: it must be one of {', '.join(CONTROLS)}")
    return tuple(Setting(control=CONTROLS[name], value=value) for name, value in values.items())


def stored_setup(values: Mapping[str, Value], like: Setup) -> Setup:
    """Return a stored set-up; what is not among the values is as in `like`."""
    settings = settings_of(values)
    return Setup(receiver=with_settings(like.receiver, *settings), window=with_settings(like.window, *settings))


def checked_setup(setup: ReceiverSetup) -> ReceiverSetup:
    """Return `setup` where every control is allowed; raise DomainError naming the first that is not."""
    for control in RECEIVER:
        control.checked(getattr(setup, control.name))
    return setup
