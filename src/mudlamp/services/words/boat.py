"""What boat mode says: outcomes, the moves, how an entry reads in the log."""

from collections.abc import Mapping, Sequence

from mudlamp.core.controls import Control, Value
from mudlamp.core.reactions import Reaction
from mudlamp.services.edge.controls import LABELS, of
from mudlamp.services.words.cast import number

# As they stand on the buttons, in their order.
OUTCOMES = {
    Reaction.NOT_SHOWN.value: "Never got there",
    Reaction.NO_ANSWER.value: "Ignored it",
    Reaction.LOOKED.value: "Looked",
    Reaction.FOLLOWED.value: "Followed",
    Reaction.BACKED_OFF.value: "Backed off",
    Reaction.REFUSED.value: "Refused",
    Reaction.SPOOKED.value: "Spooked",
    Reaction.LEFT_WITH_SCHOOL.value: "Left with school",
    Reaction.HIT_WEIGHT.value: "Hit weight",
    Reaction.BIT.value: "Bit",
}
AFTER_BITE = {"missed": "Missed", "hooked": "Hooked", "lost": "Lost", "landed": "Landed"}
# How a fish that is on ends.
AFTER_HOOKED = {token: AFTER_BITE[token] for token in ("lost", "landed")}
EVERY_OUTCOME = OUTCOMES | AFTER_BITE
CAUTION = "Whoever runs the boat looks out, not down. Life jacket and cut-off lanyard on. Hooks: mind who stands behind you."
RECORDING = "Recording on your unit?"


def setting_aloud(control: Control, value: Value, labels: Mapping[str, str] = LABELS) -> str:
    """Return a control at a value as a voice says it, in the words of the angler's unit where they were typed."""
    shown = of(control.name).bare(value)
    whole = shown if not shown.isdecimal() else number(int(shown))
    return f"{labels[control.name]} {whole}."


def entry_line(kind: str, values: Mapping[str, object]) -> str:
    """Return an entry as it reads in the log."""
    if kind == "outcome":
        rod, deep = values.get("lure") or values.get("rod_name") or "", values.get("depth_ft")
        said = EVERY_OUTCOME.get(str(values.get("token")), str(values.get("token")))
        return ", ".join(str(part) for part in (said, rod, f"{deep:g} ft down" if isinstance(deep, int | float) else "") if part)
    if kind == "move":
        deep = values.get("depth_ft")
        return f"Moved: {deep:g} ft, {values.get('clarity', '?')}" if isinstance(deep, int | float) else "Moved"
    if kind == "tied":
        return f"Tied on: {values.get('lure', '?')}"
    return "Recording on" if values.get("on") else "Not recording"


def counted(entries: Sequence[Mapping[str, object]]) -> str:
    """Return how many of each outcome there were, in one line."""
    tally: dict[str, int] = {}
    for one in entries:
        said = EVERY_OUTCOME.get(str(one.get("token")))
        if said:
            tally[said] = tally.get(said, 0) + 1
    return ", ".join(f"{said} {count}" for said, count in sorted(tally.items(), key=lambda pair: -pair[1]))
