"""The cast's questions as a form: what is asked first, and what is known or usual unless somebody says otherwise."""

import functools
import math
from collections.abc import Mapping
from enum import StrEnum
from typing import Any, get_args

from pydantic import ValidationError
from pydantic.fields import FieldInfo

from mudlamp.core.casting.habit import Habit
from mudlamp.services.cast.asked import CastAsked
from mudlamp.services.edge.forms import PLAIN, Field, FieldKind, Option, Unit

MAIN = ("range_ft", "depth_ft", "lure", "head_oz", "technique", "speed_mph", "heading_deg")
# Where anglers' fish are, more often than not.
START = {"range_ft": "34", "depth_ft": "23", "head_oz": "0.0625"}
LABELS = {
    "range_ft": "Fish, out",
    "depth_ft": "Fish, down",
    "head_oz": "Head",
    "lure": "Lure",
    "sink_ft_s": "Your timed drop",
    "technique": "How",
    "slant": "Your unit shows",
    "transducer_ft": "Transducer, down",
    "thickness_deg": "Beam, thick",
    "spare_db": "Jig over clutter",
    "target": "Fish",
    "above_ft": "Hold over the fish",
    "rod_ft": "Rod",
    "tip_ft": "Rod tip, up",
    "slack": "Line on the drop",
    "speed_mph": "Fish swims",
    "heading_deg": "Swims toward",
    "wind_mph": "Wind",
    "wind_deg": "Wind goes",
    "current_mph": "Current",
    "current_deg": "Current goes",
    "clarity": "Water",
    "temp_f": "Water temperature",
    "mood": "Fish are",
    "long_pct": "You throw too far by",
    "off_deg": "You throw too far right by",
}
UNITS = {"ft": "ft", "oz": "oz", "s": "ft/s", "deg": "deg", "mph": "mph", "db": "dB", "f": "°F", "pct": "%"}
EMPTY = {"technique": "by distance", "slack": "by technique", "sink_ft_s": "by weight", "spare_db": "3, assumed"}
SAYS = {
    "slant": (("true", "along the beam"), ("false", "along the water")),
    "slack": (("true", "slack: falls straight"), ("false", "tight: swings")),
}
SPOKEN = {
    "cast": "cast past, draw over",
    "minnow": "minnow, shaken level",
    "pause": "pause bait",
    "float": "slip float",
    "dock": "shoot a dock",
    "largemouth": "bass",
}
HINTS = {
    "long_pct": "learned from where your casts land; short is less than 0",
    "off_deg": "left is less than 0",
    "heading_deg": "0 straight away, 90 to the right, 180 at you",
    "wind_deg": "from the way to the fish, clockwise",
    "current_deg": "from the way to the fish, clockwise",
}


@functools.cache
def fields() -> dict[str, Field]:
    """Return the fields by name, in their order."""
    return {name: _field(name, info) for name, info in CastAsked.model_fields.items()}


def _field(name: str, info: FieldInfo) -> Field:
    kinds = [kind for kind in get_args(info.annotation) or (info.annotation,) if kind is not type(None)]
    more: dict[str, Any] = {"hint": HINTS.get(name, ""), "empty": EMPTY.get(name, "don't know"), "required": info.is_required()}
    if name in SAYS:
        options = tuple(Option(value=value, label=label) for value, label in SAYS[name])
        more["required"] = name == "slant"
        return Field(name=name, label=LABELS[name], kind=FieldKind.CHOICE, options=options, **more)
    if isinstance(kinds[0], type) and issubclass(kinds[0], StrEnum):
        options = tuple(Option(value=one.value, label=SPOKEN.get(one.value, one.value.replace("_", " "))) for one in kinds[0])
        more["required"] = info.default is not None
        return Field(name=name, label=LABELS[name], kind=FieldKind.CHOICE, options=options, **more)
    unit = name.rsplit("_", 1)[-1]
    return Field(name=name, label=LABELS[name], unit=Unit(name=UNITS[unit]) if unit in UNITS else PLAIN, **more)


def texts_of(asked: CastAsked) -> dict[str, str]:
    """Return what stands in the form."""
    told = asked.model_dump(mode="json")
    return {
        name: ""
        if value is None
        else str(value).lower()
        if isinstance(value, bool)
        else f"{value:g}"
        if isinstance(value, float)
        else str(value)
        for name, value in told.items()
    }


def habit_texts(habit: Habit) -> dict[str, str]:
    """Return an angler's own casting error as it stands in the form."""
    return {"long_pct": f"{100.0 * habit.long:.1f}", "off_deg": f"{math.degrees(habit.right_rad):.1f}"}


def read(given: Mapping[str, str]) -> tuple[CastAsked | None, dict[str, str]]:
    """Return what is asked, or None, with what is wrong by field."""
    typed = {name: text.strip() for name, text in given.items() if name in CastAsked.model_fields and text.strip()}
    try:
        return CastAsked.model_validate(typed), {}
    except ValidationError as error:
        return None, {str(one["loc"][0]): _problem(str(one["loc"][0]), str(one.get("input", ""))) for one in error.errors()}


def _problem(name: str, text: str) -> str:
    bounds = [getattr(one, end) for end in ("ge", "le") for one in CastAsked.model_fields[name].metadata if hasattr(one, end)]
    shown = f"is {text[:20]}: " if text and name in CastAsked.model_fields and not text.startswith("{") else ""
    if len(bounds) == 2:
        return f"{LABELS[name]} {shown}it must be {bounds[0]:g} to {bounds[1]:g} {UNITS.get(name.rsplit('_', 1)[-1], '')}".rstrip()
    return f"{LABELS[name]} {shown}choose one"
