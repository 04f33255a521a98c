"""Symptoms in words: what is seen, what it comes from and how this water speaks about it, what to do, and the scene that shows it."""

from collections.abc import Callable, Mapping
from dataclasses import dataclass, field
from typing import Any

from mudlamp.core.advice.planner import Card
from mudlamp.core.advice.symptoms import Cause, Evidence, Suspect, Symptom, Voice
from mudlamp.core.receiver.setup import ReceiverSetup
from mudlamp.core.units import MPH_M_S, degf_from_degc, feet
from mudlamp.services.edge.controls import receiver_values
from mudlamp.services.words.card import shown

SEEN = {
    Symptom.NO_LURE: "I cannot see my lure",
    Symptom.BLOB: "Fish and brush are one blob",
    Symptom.ALL_BRIGHT: "All is bright, full of snow",
    Symptom.SPOKES: "Flashing spokes",
    Symptom.SLANTING_TREE: "A slanting tree off hard bottom",
    Symptom.SNOW_NEAR_TOP: "Snow near the top",
    Symptom.TARGET_LAGS: "The target lags my rod tip",
    Symptom.DEAD_PATCHES: "Dead patches",
    Symptom.SOLID_BOTTOM: "The bottom is one solid band",
    Symptom.TINY: "Tiny brush, empty glass",
    Symptom.BOTTOM_GONE: "The bottom is gone, fish missing below",
    Symptom.JUMPS: "The picture jumps over a hump",
    Symptom.SWAYS: "The bottom sways",
    Symptom.BENT_BOTTOM: "Bent bottom, broken seams",
    Symptom.WEAK: "Weak and erratic",
    Symptom.SPECKS_RISING: "Specks rising at dusk",
    Symptom.HAZE: "Haze down to 20 ft",
    Symptom.ARROW_OFF: "Arrow and picture disagree",
    Symptom.SIDE_SMEARED: "The side picture is smeared",
}

# What it is; what to do. `{start}` is the card's own start of the control.
CAUSE_WORDS: dict[Cause, tuple[str, str]] = {
    Cause.OFF_BEAM: ("The lure is beside the beam", "Turn the aim a hair each way until it is brightest; brightest is centered."),
    Cause.GAIN_LOW: ("Gain too low", "Gain up, toward {start}, until speckle just shows."),
    Cause.GAIN_HIGH: ("Gain too high", "Gain down, toward {start}, until branches part."),
    Cause.PUNCH_LOW: ("Punch too low", "Punch up, toward {start}."),
    Cause.PUNCH_HIGH: ("Punch too high", "Punch down, toward {start}, until a bump on the bottom shows."),
    Cause.NEAR_CUT_HIGH: ("Near cut takes it close under the boat", "Near cut one step down, then off."),
    Cause.HEAD_LIGHT: ("The head is too small for this water", "A heavier head, or get closer: no setting brings it out."),
    Cause.QUIETING_HIGH: ("Quieting too strong", "One step down, and look again."),
    Cause.GHOST_HIGH: ("Ghost cut takes real weak targets too", "One step down, or off."),
    Cause.OTHER_SONAR: ("A second live sonar", "Quieting up two steps; ask them to turn it off while you fish."),
    Cause.MULTIPATH: ("A bounce off hard, shallow bottom", "Ghost cut one or two steps; or know it, and leave it."),
    Cause.NEAR_FIELD: ("The transducer's own near field, and what floats in it", "Near cut one step, or ignore it."),
    Cause.SURFACE: ("Waves and bubbles at the surface", "Ignore it, or lower the transducer a hand; Near cut one step."),
    Cause.SLOW_UNIT: ("The unit is slow", "Turn off what else it draws; shorten the Reach; nothing else helps."),
    Cause.DOWN_TO_DEEP: ("Down to too deep", "Down to {start}."),
    Cause.DOWN_TO_SHALLOW: ("Down to too small", "Down to {start}."),
    Cause.REACH_LONG: ("Reach too long", "Reach {start}."),
    Cause.AUTO: ("Auto range hunts", "Set both windows by hand."),
    Cause.STEADY: ("Motion leveling, late or off", "Toggle Steady and look which stands still."),
    Cause.SOUND_SPEED: ("Sound speed wrong for this water", "Set it by the water's temperature."),
    Cause.LOW_VOLTAGE: (
        "Under 11.5 V at the unit",
        "Charge; then check cable, length and terminals. Wiring: a qualified person, by the marine standard.",
    ),
    Cause.THRUST: ("Noise of the motor", "Ease the thrust while you look."),
    Cause.INSECTS: ("Insects rising", "Streaks off; know them and look through them."),
    Cause.WAKE: ("A boat's wake still hangs there", "Wait, or look below it."),
    Cause.HEADING: ("The compass is off", "Two slow circles the same way in clear water, then prove it on a post."),
    Cause.MOUNT: (
        "The mount points it wrong",
        "Stowed on the left bow with the propeller inboard: two clicks anticlockwise. Then the aim check.",
    ),
    Cause.BOAT_SPEED: ("The boat's speed", "Side and down pictures want 3.5 to 5 mph. Whoever drives looks out, not down."),
}
# The control that a cause is cured by, where there is one.
CURES = {
    Cause.GAIN_LOW: "gain", Cause.GAIN_HIGH: "gain", Cause.PUNCH_LOW: "punch", Cause.PUNCH_HIGH: "punch", Cause.DOWN_TO_DEEP: "down_to_m",
    Cause.DOWN_TO_SHALLOW: "down_to_m", Cause.REACH_LONG: "reach_m",
}  # fmt: skip

_FIGURES: dict[Cause, Callable[[float], str]] = {
    Cause.OFF_BEAM: lambda value: f"at the fish the beam is {feet(2.0 * value):.1f} ft wide",
    Cause.GAIN_LOW: lambda value: f"yours stands {value:.0f} steps under the card's" if value > 0 else "yours is not under the card's",
    Cause.GAIN_HIGH: lambda value: f"yours stands {value:.0f} steps over the card's" if value > 0 else "yours is not over the card's",
    Cause.PUNCH_LOW: lambda value: f"it stands at {value:g}",
    Cause.PUNCH_HIGH: lambda value: f"it stands at {value:g}",
    Cause.NEAR_CUT_HIGH: lambda value: f"it stands at {value:g} dB" if value else "it is off",
    Cause.HEAD_LIGHT: lambda value: f"it should stand {value:+.0f} dB over clutter here",
    Cause.QUIETING_HIGH: lambda value: f"it stands at {value:g} pings" if value > 1 else "it is off",
    Cause.GHOST_HIGH: lambda value: f"it stands at {value:g} dB" if value else "it is off",
    Cause.OTHER_SONAR: lambda value: f"you told of {value:g}",
    Cause.MULTIPATH: lambda value: f"{feet(value):.0f} ft of water",
    Cause.NEAR_FIELD: lambda value: f"Near cut stands at {value:g} dB",
    Cause.SURFACE: lambda value: f"{value / MPH_M_S:.0f} mph of wind",
    Cause.DOWN_TO_DEEP: lambda value: f"it stands at {feet(value):.0f} ft",
    Cause.DOWN_TO_SHALLOW: lambda value: f"it stands at {feet(value):.0f} ft",
    Cause.REACH_LONG: lambda value: f"it stands at {feet(value):.0f} ft",
    Cause.STEADY: lambda value: f"{value / MPH_M_S:.0f} mph of wind",
    Cause.SOUND_SPEED: lambda value: f"in this water it is {feet(value):.0f} ft/s",
    Cause.LOW_VOLTAGE: lambda value: f"your rig gives it {value:.1f} V",
    Cause.INSECTS: lambda value: f"water of {degf_from_degc(value):.0f} °F",
}
_VOICES = {Voice.FOR: "likely here", Voice.AGAINST: "unlikely here", Voice.SILENT: "cannot be told from here"}


@dataclass(frozen=True, slots=True, kw_only=True)
class SuspectWords:
    """A cause for the page: what it is, how likely here, why, what to do, and whether the bench can show it."""

    cause: str
    what: str
    share: str
    likely: str
    fix: str
    can_show: bool


def _likely(cause: Cause, evidence: Evidence) -> str:
    figure = "" if evidence.figure is None or cause not in _FIGURES else f": {_FIGURES[cause](evidence.figure)}"
    return f"{_VOICES[evidence.voice]}{figure}" if evidence.factor > 0.0 else f"ruled out{figure}"


def suspect_words(suspect: Suspect, card: Card) -> SuspectWords:
    """Return a cause in words."""
    what, fix = CAUSE_WORDS[suspect.cause]
    control = CURES.get(suspect.cause)
    start = "" if control is None else shown(control, card.row(control).start)
    return SuspectWords(
        cause=suspect.cause.value,
        what=what,
        share=f"{100.0 * suspect.share:.0f} %",
        likely=_likely(suspect.cause, suspect.evidence),
        fix=fix.format(start=start),
        can_show=suspect.cause in SHOWS,
    )


@dataclass(frozen=True, slots=True, kw_only=True)
class Show:
    """How the bench shows a fault: what is wrong in the scene (parts of a scene file), and what the controls are set to."""

    faults: Mapping[str, Any] = field(default_factory=dict)
    scene: Mapping[str, Any] = field(default_factory=dict)
    controls: Mapping[str, Any] = field(default_factory=dict)
    cure: Mapping[str, Any] = field(default_factory=dict)


SHOWS: dict[Cause, Show] = {
    Cause.OFF_BEAM: Show(controls={"aim_deg": 12.0}),
    Cause.GAIN_LOW: Show(controls={"gain": 44.0}),
    Cause.GAIN_HIGH: Show(controls={"gain": 92.0}),
    Cause.PUNCH_LOW: Show(controls={"punch": 5.0}),
    Cause.PUNCH_HIGH: Show(controls={"punch": 100.0, "gain": 74.0}),
    Cause.NEAR_CUT_HIGH: Show(controls={"near_cut_db": 18.0}),
    Cause.HEAD_LIGHT: Show(scene={"angler": {"head_oz": 0.0156}}),
    Cause.QUIETING_HIGH: Show(controls={"quieting_pings": 5}),
    Cause.GHOST_HIGH: Show(controls={"ghost_cut_db": 22.0}),
    Cause.OTHER_SONAR: Show(faults={"other_sonar": {"ping_hz": 13.0}}, cure={"quieting_pings": 3}),
    Cause.MULTIPATH: Show(scene={"bottom": {"kind": "rock"}, "depth_most_m": 3.0}, controls={"gain": 74.0}, cure={"ghost_cut_db": 28.0}),
    Cause.NEAR_FIELD: Show(controls={"gain": 78.0}, cure={"near_cut_db": 6.0}),
    Cause.SURFACE: Show(scene={"water": {"wind_m_s": 8.0}}, controls={"gain": 74.0}, cure={"near_cut_db": 6.0}),
    Cause.SLOW_UNIT: Show(faults={"processor_lag_s": 0.5}),
    Cause.DOWN_TO_DEEP: Show(controls={"down_to_ft": 60.0}),
    Cause.DOWN_TO_SHALLOW: Show(controls={"down_to_ft": 8.0}),
    Cause.REACH_LONG: Show(controls={"reach_ft": 100.0}),
    Cause.STEADY: Show(faults={"steady_lag_s": 0.8}, scene={"boat": {"pitch_deg": 3.0}}, controls={"steady": 1}),
    Cause.SOUND_SPEED: Show(controls={"sound_speed_ft_s": 4560}),
    Cause.LOW_VOLTAGE: Show(faults={"supply_v": 10.6}),
    Cause.THRUST: Show(faults={"thrust": 0.8}),
    Cause.INSECTS: Show(scene={"insects": [{"x_m": 0.0, "y_m": 7.0, "radius_m": 7.0, "count": 700}]}),
    Cause.WAKE: Show(scene={"wakes": [{"x_m": 0.0, "y_m": 6.0, "radius_m": 4.0, "age_s": 20.0, "strength_db": -43.0}]}),
    Cause.HEADING: Show(faults={"heading_error_deg": 25.0}),
}


def shown_scene(cause: Cause, keys: Mapping[str, Any]) -> dict[str, Any]:
    """Return a scene's keys with a fault put in."""
    show = SHOWS[cause]
    found = dict(keys) | {"title": f"{CAUSE_WORDS[cause][0]} (shown)", "faults": dict(keys["faults"]) | dict(show.faults)}
    shallow = show.scene.get("depth_most_m")
    for name, part in show.scene.items():
        if isinstance(part, Mapping):
            found[name] = dict(found.get(name, {})) | dict(part)
        elif name != "depth_most_m":
            found[name] = part
    if shallow is not None and found["bottom"]["depth_m"] > shallow:
        # The ghost of hard bottom wants shallow water: its fish come up with it.
        share = shallow / found["bottom"]["depth_m"]
        found["bottom"] = found["bottom"] | {"depth_m": shallow}
        found["fish"] = [fish | {"z_m": fish["z_m"] * share, "rise_m": fish["rise_m"] * share} for fish in found["fish"]]
    return found


def shown_controls(cause: Cause, setup: ReceiverSetup) -> tuple[dict[str, Any], dict[str, Any]]:
    """Return the controls with the fault (set-up A), and those that cure it as far as controls can (set-up B), by their edge names."""
    show = SHOWS[cause]
    right = receiver_values(setup)
    return right | dict(show.controls), right | dict(show.cure)
