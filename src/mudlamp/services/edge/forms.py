"""Forms: fields in the angler's units, read into the core's with a message beside each that is wrong."""

import datetime as dt
import math
from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, field
from enum import StrEnum
from typing import TypedDict, Unpack

from mudlamp.core.units import INCH_M, OUNCE_KG, degc_from_degf, degf_from_degc, feet, meters

EARLIEST_YEAR, LATEST_YEAR = 2000, 2100
# Places behind the point that a kept number has.
DUST = 7


class FieldKind(StrEnum):
    """What is typed or picked."""

    NUMBER = "number"
    CHOICE = "choice"
    CHECK = "check"
    TEXT = "text"
    NOTE = "note"
    DAY = "date"
    TIME = "time"


@dataclass(frozen=True, slots=True, kw_only=True)
class Option:
    """One choice: its value and its label."""

    value: str
    label: str


def _as_it_is(value: float) -> float:
    return value


@dataclass(frozen=True, slots=True, kw_only=True)
class Unit:
    """An angler's unit: its name, and how a number in it becomes the core's and comes back."""

    name: str = ""
    to_core: Callable[[float], float] = _as_it_is
    from_core: Callable[[float], float] = _as_it_is


def _times(name: str, factor: float) -> Unit:
    """Return a unit that is so many of the core's."""
    return Unit(name=name, to_core=lambda value: value * factor, from_core=lambda value: value / factor)


PLAIN = Unit()
FEET = Unit(name="ft", to_core=meters, from_core=feet)
INCHES = _times("in", INCH_M)
OUNCES = _times("oz", OUNCE_KG)
# By the conventional inch of mercury (NIST SP 811).
INCHES_OF_MERCURY = _times("inHg", 3386.389)
DEGREES = Unit(name="deg", to_core=math.radians, from_core=math.degrees)
FAHRENHEIT = Unit(name="deg F", to_core=degc_from_degf, from_core=degf_from_degc)
KILOHERTZ = _times("kHz", 1000.0)
PERCENT = _times("%", 0.01)
WATTS, AMPERE_HOURS, GAUGE = Unit(name="W"), Unit(name="Ah"), Unit(name="AWG")


def multiple(name: str, factor: float) -> Unit:
    """Return a unit of a name that is so many of the core's."""
    return _times(name, factor)


@dataclass(frozen=True, slots=True, kw_only=True)
class Field:
    """A field: its name at the edge, label, kind, unit, bounds and step, choices, and how its value becomes the core's and comes back.

    Not `required`, it may be left empty: the value is None then, and `empty` says so among choices. `core` is the field of the core that it
    sets, as a dotted path. A `whole` number is an integer; a choice's text becomes the core's value by `named` and comes back by `told`.
    """

    name: str
    label: str
    kind: FieldKind = FieldKind.NUMBER
    unit: Unit = PLAIN
    low: float = 0.0
    high: float = 0.0
    step: float = 1.0
    whole: bool = False
    options: tuple[Option, ...] = ()
    hint: str = ""
    empty: str = "don't know"
    required: bool = False
    longest: int = 60
    core: str = ""
    named: Callable[[str], object] = str
    told: Callable[[object], str] = str


class More(TypedDict, total=False):
    """What else a field may be given."""

    step: float
    whole: bool
    hint: str
    empty: str
    required: bool
    longest: int
    core: str


@dataclass(frozen=True, slots=True, kw_only=True)
class Read:
    """A form as it was read: core values by field name (None where empty or wrong), messages by field, and the texts as they were given."""

    values: Mapping[str, object]
    problems: Mapping[str, str]
    texts: Mapping[str, str] = field(default_factory=dict)

    def number(self, name: str) -> float | None:
        """Return the number of a field, or None."""
        value = self.values[name]
        return float(value) if isinstance(value, int | float) else None

    def told(self, name: str) -> float | None:
        """Return the number of a field as it is kept, without the dust of its unit's factor; None where none was given."""
        value = self.number(name)
        return None if value is None else round(value, DUST)

    def text(self, name: str) -> str:
        """Return the text of a field, empty where none was given."""
        value = self.values[name]
        return "" if value is None else str(value)


def number(name: str, label: str, low: float, high: float, unit: Unit = PLAIN, **more: Unpack[More]) -> Field:
    """Return a field for a number."""
    return Field(name=name, label=label, kind=FieldKind.NUMBER, low=low, high=high, unit=unit, **more)


def choice(
    name: str,
    label: str,
    options: Mapping[str, str],
    named: Callable[[str], object] = str,
    told: Callable[[object], str] = str,
    **more: Unpack[More],
) -> Field:
    """Return a field for one of some choices, given as value and label."""
    picked = tuple(Option(value=value, label=words) for value, words in options.items())
    return Field(name=name, label=label, kind=FieldKind.CHOICE, options=picked, named=named, told=told, **more)


def check(name: str, label: str, **more: Unpack[More]) -> Field:
    """Return a field for yes or no: no where it is not given."""
    return Field(name=name, label=label, kind=FieldKind.CHECK, **more)


def day(name: str, label: str, **more: Unpack[More]) -> Field:
    """Return a field for a day: its value is a date."""
    return Field(name=name, label=label, kind=FieldKind.DAY, **more)


def time_of_day(name: str, label: str, **more: Unpack[More]) -> Field:
    """Return a field for a time of day: its value is a time without a zone."""
    return Field(name=name, label=label, kind=FieldKind.TIME, **more)


def words(name: str, label: str, **more: Unpack[More]) -> Field:
    """Return a field for a line of text."""
    return Field(name=name, label=label, kind=FieldKind.TEXT, **more)


def note(name: str, label: str, **more: Unpack[More]) -> Field:
    """Return a field for a text of several lines."""
    return Field(name=name, label=label, kind=FieldKind.NOTE, **more)


def read(fields: Sequence[Field], given: Mapping[str, object]) -> Read:
    """Return a form's values in the core's units; what is wrong has a message that names the field, the value and what is allowed."""
    values: dict[str, object] = {}
    problems: dict[str, str] = {}
    texts = {one.name: _text(given.get(one.name)) for one in fields}
    for one in fields:
        values[one.name] = None
        text = texts[one.name]
        if one.kind is FieldKind.CHECK:
            values[one.name] = text.lower() in ("true", "on", "1", "yes")
        elif text:
            values[one.name] = _parsed(one, text)
            if values[one.name] is None:
                problems[one.name] = f"{one.label} is {text[:40]}: it must be {allowed(one)}"
        elif one.required:
            problems[one.name] = f"{one.label} is empty: it must be {allowed(one)}"
    return Read(values=values, problems=problems, texts=texts)


def _text(value: object) -> str:
    if value is None:
        return ""
    if isinstance(value, bool):
        return "true" if value else ""
    return f"{value:g}" if isinstance(value, float) else str(value).strip()


def _parsed(one: Field, text: str) -> object:
    """Return the core's value of a text, or None where it is not allowed."""
    if one.kind is FieldKind.CHOICE:
        return one.named(text) if text in {option.value for option in one.options} else None
    if one.kind in (FieldKind.TEXT, FieldKind.NOTE):
        return text if len(text) <= one.longest else None
    if one.kind in (FieldKind.DAY, FieldKind.TIME):
        return _when(one, text)
    try:
        value = float(text)
    except ValueError:
        return None
    if not (math.isfinite(value) and one.low <= value <= one.high):
        return None
    return int(value) if one.whole else one.unit.to_core(value)


def _when(one: Field, text: str) -> object:
    try:
        if one.kind is FieldKind.TIME:
            return dt.time.fromisoformat(text).replace(tzinfo=None)
        found = dt.date.fromisoformat(text)
    except ValueError:
        return None
    return found if EARLIEST_YEAR <= found.year < LATEST_YEAR else None


def allowed(one: Field) -> str:
    """Return what may be given, in words."""
    if one.kind is FieldKind.DAY:
        return f"a day as YYYY-MM-DD, from {EARLIEST_YEAR} to {LATEST_YEAR - 1}"
    if one.kind is FieldKind.TIME:
        return "a time of day as HH:MM, 00:00 to 23:59"
    if one.kind is FieldKind.CHOICE:
        return "one of " + ", ".join(option.value for option in one.options)
    if one.kind in (FieldKind.TEXT, FieldKind.NOTE):
        return f"at most {one.longest} characters"
    return f"{one.low:g} to {one.high:g} {one.unit.name}".rstrip()


def texts_of(fields: Sequence[Field], values: Mapping[str, object]) -> dict[str, str]:
    """Return core values as the texts of their fields, in the angler's units."""
    return {one.name: _shown(one, values.get(one.name)) for one in fields}


def _shown(one: Field, value: object) -> str:
    if value is None:
        return ""
    if one.kind is FieldKind.CHECK:
        return "true" if value else ""
    if one.kind is FieldKind.CHOICE:
        return one.told(value)
    if one.kind is FieldKind.NUMBER and isinstance(value, int | float):
        return f"{round(one.unit.from_core(value), 4 if one.step < 0.01 else 2):g}"
    return str(value)
