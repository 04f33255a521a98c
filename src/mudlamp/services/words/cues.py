"""What to look for while a control is set: in this water, once it is measured; else by common practice."""

from collections.abc import Mapping
from dataclasses import dataclass

from mudlamp.core.advice.planner import Row
from mudlamp.core.advice.windows import Reason
from mudlamp.core.controls import CONTROLS, DOWN_TO, GAIN, GHOST_CUT, HIDE_BELOW, INK, NEAR_CUT, PUNCH, QUIETING, REACH, Value
from mudlamp.services.edge.controls import LABELS, of
from mudlamp.services.words.labels import say

# Texts name controls by their core names in braces.
STOP_CUES = {
    DOWN_TO.name: "The bottom line sits clear of the lower edge with a finger's width below it. Fish lie on it: never cut it off.",
    REACH.name: "The farthest fish you would cast to is two thirds of the way across. Aim first, then shorten as you close in.",
    GAIN.name: "Up until your jig is a clear dot while single fish still split. Measured, this line says where speckle comes in.",
    NEAR_CUT.name: "Lower a jig under the boat. If it disappears above 5 ft, take the step back.",
    QUIETING.name: "Twitch the rod tip: the echo must move with your hand. Stop at the first step that ends the flicker.",
    GHOST_CUT.name: "The slanting false tree is gone and your jig beside the real one is not. Stop at that step.",
    PUNCH.name: "Fish are bold, and the bottom is not one solid band: you can still pick out a bump on it.",
    HIDE_BELOW.name: "Leave it off while the jig is small. With a very hot {gain}, raise it until the snow goes and the jig stays.",
    INK.name: "At arm's length, in this light, you can tell three strengths apart.",
}
GHOST_OFF_CUE = "Leave it off. One step, if a slanting false tree hides fish; back, if your jig goes with it."
# Gain that starts so many steps over where mid-water turns grainy is not held by speckle; nor is one so many under.
OVER_STEPS, UNDER_STEPS = 3.0, 12.0
SPECKLE_REASONS = (Reason.GAIN_SPECKLE, Reason.GAIN_JIG, Reason.GAIN_STRONG)
# With fewer lit than one in so many, mid-water is black to the eye.
MOST_DOTS = 200


@dataclass(frozen=True, slots=True, kw_only=True)
class Stops:
    """Where a control shows that it is too high, as it is measured on a water; None where it never does, or always.

    Gain shows it where mid-water turns grainy, Punch where the strongest marks fill in solid. A stepped control stops where no more than
    `lit_limits_pct` of mid-water is lit [%], by core name: None where a step less looks the same.
    """

    speckle_gain: float | None
    solid_punch: float | None
    lit_limits_pct: Mapping[str, float | None]


def cue(control: str, start: Value, stops: Stops, labels: Mapping[str, str] = LABELS) -> str:
    """Return what to look for while a control is set on this water: how far its start is from where it shows that it is too high."""
    if control == GAIN.name:
        return gain_cue(float(start), stops.speckle_gain)
    if control == PUNCH.name and stops.solid_punch is not None:
        return punch_cue(float(start), stops.solid_punch)
    if control in stops.lit_limits_pct:
        return step_cue(control, float(start), stops.lit_limits_pct[control])
    if control == HIDE_BELOW.name and start != HIDE_BELOW.off:
        return f"Raise it until the snow goes and the jig stays: here, {of(control).shown(start)}."
    return GHOST_OFF_CUE if control == GHOST_CUT.name and start == GHOST_CUT.off else stop_cue(control, labels)


def reasons_seen(row: Row, stops: Stops | None) -> tuple[Reason, ...]:
    """Return why a row's control starts where it does; what is forecast of speckle gives way to where it comes in, once that is measured."""
    if stops is None or stops.speckle_gain is None or row.control != GAIN.name or row.reasons[0] not in SPECKLE_REASONS:
        return row.reasons
    over = float(row.start) - stops.speckle_gain
    first = Reason.GAIN_OVER_SPECKLE if over >= OVER_STEPS else Reason.GAIN_JIG if over <= -UNDER_STEPS else None
    return row.reasons if first is None else (first, *row.reasons[1:])


def step_cue(control: str, start: float, limit_pct: float | None) -> str:
    """Return what to look for while a stepped control is set on this water, measured: how much of mid-water may be lit where it stops."""
    if limit_pct is None:
        return f"Set it to {of(control).shown(start)} and leave it: a step less looks the same here."
    dots = f"one dot in {dots_of(limit_pct)} of mid-water is lit"
    if start == CONTROLS[control].off:
        return f"Leave it off. One step, if more than {dots}."
    jig = " If your jig goes with it, one step back." if control == GHOST_CUT.name else ""
    return f"Step up until less than {dots}: here, {of(control).shown(start)}.{jig}"


def dots_of(share_pct: float) -> int:
    """Return of how many dots one is, in a number that is easy to say."""
    dots = 100.0 / share_pct
    return min(round(dots) if dots < 20.0 else 5 * round(dots / 5.0), MOST_DOTS)


def gain_cue(start: float, speckle_gain: float | None) -> str:
    """Return what to look for while Gain is set on this water, measured: where mid-water turns grainy, and how far from there the start is."""
    if speckle_gain is None:
        return "Mid-water stays clean here. Up until your jig is a clear dot, and no farther: single fish must still split."
    return f"Up until mid-water turns grainy, one dot in twenty{_from_there(round(start - speckle_gain), 'the jig needs')}"


def punch_cue(start: float, solid_punch: float) -> str:
    """Return what to look for while Punch is set on this water, measured: where marks fill in solid, and how far from there the start is."""
    return f"Up until the strongest marks fill in solid, a sixth of all{_from_there(5 * round((start - solid_punch) / 5.0), 'small marks need')}"


def _from_there(steps: int, needs: str) -> str:
    if steps == 0:
        return ", and stop there."
    return f", then back {-steps}." if steps < 0 else f", then {steps} more: {needs} them."


def stop_cue(control: str, labels: Mapping[str, str] = LABELS) -> str:
    """Return what to look for while a control is set."""
    return say(STOP_CUES[control], labels)
