"""Symptoms in words: what is seen, what it comes from, how this water speaks about it, and what to do."""

from collections.abc import Callable, Mapping
from dataclasses import dataclass

from mudlamp.core.advice.planner import Card
from mudlamp.core.advice.symptoms import Cause, Evidence, Suspect, Symptom, Voice
from mudlamp.core.controls import DOWN_TO, GAIN, NEAR_CUT, PUNCH, REACH
from mudlamp.core.units import MPH_M_S, degf_from_degc, feet
from mudlamp.services.edge.controls import EDGE, LABELS
from mudlamp.services.words.labels import say

SEEN = {
    Symptom.NO_LURE: "I can't see my lure",
    Symptom.BLOB: "Fish and brush are one blob",
    Symptom.ALL_BRIGHT: "Everything is bright, full of snow",
    Symptom.SPOKES: "Flashing spokes",
    Symptom.SLANTING_TREE: "A slanting tree off hard bottom",
    Symptom.SNOW_NEAR_TOP: "Snow near the top",
    Symptom.TARGET_LAGS: "The jig lags my rod tip",
    Symptom.DEAD_PATCHES: "Dead patches",
    Symptom.SOLID_BOTTOM: "The bottom is one solid band",
    Symptom.TINY: "Tiny brush, empty screen",
    Symptom.BOTTOM_GONE: "Bottom gone, fish missing below",
    Symptom.JUMPS: "The picture jumps over a hump",
    Symptom.SWAYS: "The bottom sways",
    Symptom.BENT_BOTTOM: "Bent bottom, broken seams",
    Symptom.WEAK: "Weak and erratic",
    Symptom.SUDDENLY_DIM: "Suddenly dim",
    Symptom.SPECKS_RISING: "Specks rising at dusk",
    Symptom.HAZE: "Haze down to 20 ft",
    Symptom.ARROW_OFF: "Arrow and picture disagree",
    Symptom.SIDE_SMEARED: "The side picture is smeared",
}

# What it is; what to do. `{start}` is the card's own start of the control.
CAUSE_WORDS: dict[Cause, tuple[str, str]] = {
    Cause.OFF_BEAM: ("The lure is off to one side", "Turn your aim a hair each way until it is brightest. Brightest is centered."),
    Cause.GAIN_LOW: ("{gain} too low", "{gain} up, toward {start}, until speckle just shows."),
    Cause.GAIN_HIGH: ("{gain} too high", "{gain} down, toward {start}, until branches split."),
    Cause.PUNCH_LOW: ("{punch} too low", "{punch} up, toward {start}."),
    Cause.PUNCH_HIGH: ("{punch} too high", "{punch} down, toward {start}, until a bump on the bottom shows."),
    Cause.NEAR_CUT_HIGH: ("{near_cut_db} hides it close to the boat", "{near_cut_db} one step down, then off."),
    Cause.HEAD_LIGHT: ("The head is too small for this water", "A heavier head, or get closer. No setting brings it out."),
    Cause.QUIETING_HIGH: ("{quieting_pings} too strong", "One step down, then look again."),
    Cause.GHOST_HIGH: ("{ghost_cut_db} takes real but weak fish too", "One step down, or off."),
    Cause.OTHER_SONAR: ("A second live sonar", "{quieting_pings} up two steps, or ask them to turn it off while you fish."),
    Cause.CONSOLE: ("Your console sonar is on", "Turn it off, or to standby: a harmonic of it falls into this picture as broken rings."),
    Cause.MULTIPATH: ("A bounce off hard, shallow bottom", "{ghost_cut_db} one or two steps. Or learn to know it and leave it."),
    Cause.NEAR_FIELD: ("The transducer's near field, and what floats in it", "{near_cut_db} one step, or ignore it."),
    Cause.SURFACE: ("Waves and bubbles at the surface", "Ignore it, or lower the transducer a hand's width. {near_cut_db} one step."),
    Cause.SLOW_UNIT: ("The unit is slow", "Turn off whatever else it draws and shorten {reach_m}. Nothing else helps."),
    Cause.DOWN_TO_DEEP: ("{down_to_m} too deep", "{down_to_m} {start}."),
    Cause.DOWN_TO_SHALLOW: ("{down_to_m} too shallow", "{down_to_m} {start}."),
    Cause.REACH_LONG: ("{reach_m} too long", "{reach_m} {start}."),
    Cause.AUTO: ("Auto range is hunting", "Take depth and range off auto."),
    Cause.STEADY: ("Motion leveling late or off", "Toggle {steady} and see which holds still."),
    Cause.SOUND_SPEED: ("{sound_speed_m_s} wrong for this water", "Set it by the water temperature."),
    Cause.LOW_VOLTAGE: (
        "Under 11.5 V at the unit",
        "Charge it. Then check cable, length and terminals. Leave wiring to a qualified person and the marine standard.",
    ),
    Cause.THRUST: ("Motor noise", "Ease off the thrust while you look."),
    Cause.INSECTS: ("Insects rising", "Streaks off. Know them and look past them."),
    Cause.WAKE: ("A boat wake is still hanging there", "Wait, or look below it."),
    Cause.HEADING: ("The compass is off", "Two slow circles the same way in open water, then check your aim on a post."),
    Cause.MOUNT: (
        "The mount points it wrong",
        "Stowed on the left bow with the propeller inboard: two clicks counterclockwise. Then check your aim.",
    ),
    Cause.GRASS: ("Grass on the transducer", "Lift it, with the motor off, and wipe the grass off. Then look again."),
    Cause.BOAT_SPEED: ("The boat's speed", "Side and down pictures need 3.5 to 5 mph. Whoever drives looks out, not down."),
}
# The control that a cause is cured by, where there is one.
CURES = {
    Cause.GAIN_LOW: GAIN, Cause.GAIN_HIGH: GAIN, Cause.PUNCH_LOW: PUNCH, Cause.PUNCH_HIGH: PUNCH, Cause.DOWN_TO_DEEP: DOWN_TO,
    Cause.DOWN_TO_SHALLOW: DOWN_TO, Cause.REACH_LONG: REACH,
}  # fmt: skip

_FIGURES: dict[Cause, Callable[[float], str]] = {
    Cause.OFF_BEAM: lambda value: f"at the fish the beam is {feet(2.0 * value):.1f} ft wide",
    Cause.GAIN_LOW: lambda value: f"yours is {value:.0f} steps under the card's" if value > 0 else "yours is not under the card's",
    Cause.GAIN_HIGH: lambda value: f"yours is {value:.0f} steps over the card's" if value > 0 else "yours is not over the card's",
    Cause.PUNCH_LOW: lambda value: f"yours is at {value:g}",
    Cause.PUNCH_HIGH: lambda value: f"yours is at {value:g}",
    Cause.NEAR_CUT_HIGH: lambda value: f"yours is at {value:g} dB" if value else "yours is off",
    Cause.HEAD_LIGHT: lambda value: f"it should stand {value:+.0f} dB over clutter here",
    Cause.QUIETING_HIGH: lambda value: f"yours is at {value:g} pings" if value > 1 else "yours is off",
    Cause.GHOST_HIGH: lambda value: f"yours is at {value:g} dB" if value else "yours is off",
    Cause.OTHER_SONAR: lambda value: f"you entered {value:g}",
    Cause.MULTIPATH: lambda value: f"{feet(value):.0f} ft of water",
    Cause.NEAR_FIELD: lambda value: f"{LABELS[NEAR_CUT.name]} is at {value:g} dB",
    Cause.SURFACE: lambda value: f"{value / MPH_M_S:.0f} mph of wind",
    Cause.DOWN_TO_DEEP: lambda value: f"yours is at {feet(value):.0f} ft",
    Cause.DOWN_TO_SHALLOW: lambda value: f"yours is at {feet(value):.0f} ft",
    Cause.REACH_LONG: lambda value: f"yours is at {feet(value):.0f} ft",
    Cause.STEADY: lambda value: f"{value / MPH_M_S:.0f} mph of wind",
    Cause.SOUND_SPEED: lambda value: f"here it is {feet(value):.0f} ft/s",
    Cause.LOW_VOLTAGE: lambda value: f"your rig gives it {value:.1f} V",
    Cause.INSECTS: lambda value: f"{degf_from_degc(value):.0f} °F water",
}
NOT_OFF = "It stands where the card has it: look elsewhere."
# Under this factor a control is as good as where it should be.
LEFT_ALONE = 0.3
_VOICES = {Voice.FOR: "likely here", Voice.AGAINST: "unlikely here", Voice.SILENT: "can't tell from here"}


@dataclass(frozen=True, slots=True, kw_only=True)
class SuspectWords:
    """A cause for the page: what it is, how likely here, why, what to do."""

    cause: str
    what: str
    share: str
    likely: str
    fix: str


def _likely(cause: Cause, evidence: Evidence) -> str:
    figure = "" if evidence.figure is None or cause not in _FIGURES else f": {_FIGURES[cause](evidence.figure)}"
    return f"{_VOICES[evidence.voice]}{figure}" if evidence.factor > 0.0 else f"ruled out{figure}"


def suspect_words(suspect: Suspect, card: Card, labels: Mapping[str, str] = LABELS) -> SuspectWords:
    """Return a cause in words."""
    what, fix = CAUSE_WORDS[suspect.cause]
    control = CURES.get(suspect.cause)
    start = "" if control is None else EDGE[control].shown(card.row(control.name).start)
    return SuspectWords(
        cause=suspect.cause.value,
        what=say(what, labels),
        share=f"{100.0 * suspect.share:.0f} %",
        likely=_likely(suspect.cause, suspect.evidence),
        fix=NOT_OFF if control is not None and suspect.evidence.factor < LEFT_ALONE else say(fix, {**labels, "start": start}),
    )
