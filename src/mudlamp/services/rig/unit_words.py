"""What the angler's own unit calls each control and how it counts: a small form a control, and the Gain procedure's two numbers."""

from collections.abc import Mapping

from mudlamp.core.controls import ON_CARD, Control
from mudlamp.core.rig.profile import OwnControl, ScaleKind
from mudlamp.services.edge import forms
from mudlamp.services.edge.controls import EDGE
from mudlamp.services.edge.forms import Field

SCALES = {"percent": "a number, 0 to 100 or so", "steps": "named steps", "offset": "an offset around a default"}
# Controls that an angler's unit may have words for.
WORDED: Mapping[str, Control] = {control.name: control for control in ON_CARD}
THEIRS = (
    forms.number("speckle", "Speckle shows at", -1000.0, 1000.0, required=True),
    forms.number("jig", "The jig vanishes at", -1000.0, 1000.0, required=True),
)


def word_fields(control: Control) -> tuple[Field, ...]:
    """Return the fields of what the angler's unit calls a control and how it counts."""
    return (
        forms.words("label", f"Your unit calls {EDGE[control].label}", longest=40),
        forms.choice("kind", "It counts by", SCALES, ScaleKind),
        forms.number("low", "From", -1000.0, 1000.0),
        forms.number("high", "To", -1000.0, 1000.0),
        forms.number("step", "A step is", 0.01, 100.0),
        forms.words("steps", "Its steps, separated by commas", longest=200, hint="from least to most, as many as ours"),
    )


def word_texts(own: OwnControl | None, control: Control) -> dict[str, str]:
    """Return a control's words as texts of their fields; nothing where none were typed."""
    if own is None:
        return {one.name: "" for one in word_fields(control)}
    values = {"label": own.label, "kind": own.kind, "low": own.low, "high": own.high, "step": own.step, "steps": ", ".join(own.steps)}
    return forms.texts_of(word_fields(control), values)


def read_words(control: Control, given: Mapping[str, object]) -> tuple[OwnControl | None, Mapping[str, str]]:
    """Return a control's own words (None where the label is empty), and messages by field."""
    found = forms.read(word_fields(control), given)
    problems = dict(found.problems)
    label = found.text("label")
    if problems or not label:
        return None, problems
    kind = found.values["kind"]
    if not isinstance(kind, ScaleKind):
        kind = ScaleKind.STEPS if control.steps else ScaleKind.PERCENT
    steps = tuple(part.strip() for part in found.text("steps").split(",") if part.strip())
    if kind is ScaleKind.STEPS and len(steps) != len(control.steps):
        problems["steps"] = f"Its steps are {len(steps)}: they must be {len(control.steps)}, one for each of ours"
    low, high = found.number("low"), found.number("high")
    low, high = 0.0 if low is None else low, 100.0 if high is None else high
    if kind is not ScaleKind.STEPS and high <= low:
        problems["high"] = f"To is {high:g}: it must be more than {low:g}, where the scale begins"
    if problems:
        return None, problems
    step = found.number("step") or 1.0
    return OwnControl(label=label, kind=kind, low=low, high=high, step=step, steps=steps if kind is ScaleKind.STEPS else ()), {}
