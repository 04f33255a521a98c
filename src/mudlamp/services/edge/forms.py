"""Forms: fields in the angler's units, read from text into the core's units, with a message beside each that is wrong."""

import math
from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, field
from enum import StrEnum
from typing import Any


class FieldKind(StrEnum):
    """What is typed or picked."""

    NUMBER = "number"
    CHOICE = "choice"
    CHECK = "check"
    TEXT = "text"


@dataclass(frozen=True, slots=True, kw_only=True)
class Option:
    """One choice: its value and how it is called."""

    value: str
    label: str


def _same(value: Any) -> Any:
    return value


@dataclass(frozen=True, slots=True, kw_only=True)
class Field:
    """A field: its name at the edge, label, kind, unit, bounds and step, choices, and how its value becomes the core's and comes back.

    Not `required`, it may be left empty: the value is None then, and `empty` says so among choices.
    """

    name: str
    label: str
    kind: FieldKind = FieldKind.NUMBER
    unit: str = ""
    low: float = 0.0
    high: float = 0.0
    step: float = 1.0
    options: tuple[Option, ...] = ()
    hint: str = ""
    empty: str = "don't know"
    required: bool = False
    longest: int = 60
    to_core: Callable[[Any], Any] = _same
    from_core: Callable[[Any], Any] = _same


@dataclass(frozen=True, slots=True, kw_only=True)
class Read:
    """A form as it was read: core values by field name (None where empty or wrong), messages by field, and the texts as they were given."""

    values: Mapping[str, Any]
    problems: Mapping[str, str]
    texts: Mapping[str, str] = field(default_factory=dict)


def number(name: str, label: str, low: float, high: float, unit: str = "", **more: Any) -> Field:
    """Return a field for a number."""
    return Field(name=name, label=label, kind=FieldKind.NUMBER, low=low, high=high, unit=unit, **more)


def choice(name: str, label: str, options: Mapping[str, str], **more: Any) -> Field:
    """Return a field for one of some choices, given as value and label."""
    picked = tuple(Option(value=value, label=words) for value, words in options.items())
    return Field(name=name, label=label, kind=FieldKind.CHOICE, options=picked, **more)


def check(name: str, label: str, **more: Any) -> Field:
    """Return a field for yes or no: no where it is not given."""
    return Field(name=name, label=label, kind=FieldKind.CHECK, **more)


def words(name: str, label: str, **more: Any) -> Field:
    """Return a field for a line of text."""
    return Field(name=name, label=label, kind=FieldKind.TEXT, **more)


def read(fields: Sequence[Field], given: Mapping[str, Any]) -> Read:
    """Return a form's values in the core's units; what is wrong has a message that names the field, the value and what is allowed."""
    values: dict[str, Any] = {}
    problems: dict[str, str] = {}
    texts = {one.name: _text(given.get(one.name)) for one in fields}
    for one in fields:
        values[one.name] = None
        text = texts[one.name]
        if one.kind is FieldKind.CHECK:
            values[one.name] = text.lower() in ("true", "on", "1", "yes")
            continue
        if not text:
            if one.required:
                problems[one.name] = f"{one.label} is empty: it must be {_allowed(one)}"
            continue
        parsed = _parsed(one, text)
        if parsed is None:
            problems[one.name] = f"{one.label} is {text[:40]}: it must be {_allowed(one)}"
        else:
            values[one.name] = one.to_core(parsed)
    return Read(values=values, problems=problems, texts=texts)


def _text(value: Any) -> str:
    if value is None:
        return ""
    if isinstance(value, bool):
        return "true" if value else ""
    return f"{value:g}" if isinstance(value, float) else str(value).strip()


def _parsed(one: Field, text: str) -> Any:
    if one.kind is FieldKind.CHOICE:
        return text if text in {option.value for option in one.options} else None
    if one.kind is FieldKind.TEXT:
        return text if len(text) <= one.longest else None
    try:
        value = float(text)
    except ValueError:
        return None
    return value if math.isfinite(value) and one.low <= value <= one.high else None


def _allowed(one: Field) -> str:
    if one.kind is FieldKind.CHOICE:
        return "one of " + ", ".join(option.value for option in one.options)
    if one.kind is FieldKind.TEXT:
        return f"at most {one.longest} characters"
    return f"{one.low:g} to {one.high:g} {one.unit}".rstrip()


def texts_of(fields: Sequence[Field], values: Mapping[str, Any]) -> dict[str, str]:
    """Return core values as the texts of their fields, in the angler's units."""
    found = {}
    for one in fields:
        value = values.get(one.name)
        if value is None:
            found[one.name] = ""
        elif one.kind is FieldKind.CHECK:
            found[one.name] = "true" if value else ""
        else:
            shown = one.from_core(value)
            found[one.name] = f"{round(shown, 4 if one.step < 0.01 else 2):g}" if isinstance(shown, float) else str(shown)
    return found
