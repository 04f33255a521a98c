"""The Rig page's forms: fields in the angler's units, section by section, and how they become a rig profile."""

import math
from collections.abc import Callable, Mapping
from dataclasses import dataclass, replace
from typing import Any

from pydantic import TypeAdapter

from mudlamp.core.casting.lures import Line, LureKind, Material
from mudlamp.core.receiver.screen import Screen
from mudlamp.core.rig.mount import MountKind, StowSide
from mudlamp.core.rig.power import Chemistry
from mudlamp.core.rig.profile import Mount, Others, OwnControl, OwnTransducer, Power, RigProfile, ScaleKind
from mudlamp.core.units import INCH_M, OUNCE_KG, POUND_KG, degc_from_degf, degf_from_degc, feet, meters
from mudlamp.services.edge import forms
from mudlamp.services.edge.forms import Field, Read
from mudlamp.services.words.card import LABELS

GRAVITY_M_S2 = 9.80665
NEWTON_A_POUND = POUND_KG * GRAVITY_M_S2
PROFILE = TypeAdapter(RigProfile)


def _inches(name: str, label: str, low: float, high: float, **more: Any) -> Field:
    return forms.number(
        name,
        label,
        low,
        high,
        "in",
        step=0.1,
        required=True,
        to_core=lambda value: value * INCH_M,
        from_core=lambda value: value / INCH_M,
        **more,
    )


def _feet(name: str, label: str, low: float, high: float, **more: Any) -> Field:
    return forms.number(name, label, low, high, "ft", step=0.1, required=True, to_core=meters, from_core=feet, **more)


def _degrees(name: str, label: str, low: float, high: float, **more: Any) -> Field:
    return forms.number(name, label, low, high, "deg", step=0.5, required=True, to_core=math.radians, from_core=math.degrees, **more)


def _watts(name: str, label: str, **more: Any) -> Field:
    return forms.number(name, label, 0.0, 2000.0, "W", required=True, **more)


def _enum(name: str, label: str, kind: Any, labels: Mapping[str, str], **more: Any) -> Field:
    return forms.choice(name, label, labels, required=True, to_core=kind, from_core=lambda value: value.value, **more)


MOUNTS = {
    "motor_shaft": "on the motor's shaft",
    "motor_head": "on the motor's head",
    "pole": "own pole on the gunwale",
    "turret": "powered turret",
    "stern": "stern bracket",
    "ice": "hand pole through ice",
}
MOUNT_COSTS = {
    MountKind.MOTOR_SHAFT: "Turning the beam turns the boat, and position hold fights the aim. Needs the compass calibrated.",
    MountKind.MOTOR_HEAD: "Low: it sees 40 to 60 ft back under dock floats, and it is exposed to stumps. Needs the compass calibrated.",
    MountKind.POLE: "Independent of the motor, and the handle tells the direction; one hand is on it.",
    MountKind.TURRET: "Position hold while you aim; about 10 turns a minute for a quick pan; more draw on the battery.",
    MountKind.STERN: "At anchor only: it looks where the stern looks.",
    MountKind.ICE: "Your hand turns it; straight down it is cleanest. Ice: thickness by local advice, never alone.",
}


@dataclass(frozen=True, slots=True, kw_only=True)
class Section:
    """A section of the Rig page: its fields, how a rig gives their values, and how read values are put into a rig."""

    name: str
    title: str
    fields: tuple[Field, ...]
    take: Callable[[RigProfile], Mapping[str, Any]]
    put: Callable[[RigProfile, Mapping[str, Any]], RigProfile]


TRANSDUCER = Section(
    name="transducer",
    title="Transducer",
    fields=(
        _degrees("fan_deg", "Fan", 60.0, 150.0, hint="all elements together; on its plate or in its papers"),
        _degrees("thickness_deg", "Thickness", 8.0, 40.0, hint="the fan's width across"),
        forms.number(
            "carrier_khz",
            "Carrier",
            400.0,
            1200.0,
            "kHz",
            required=True,
            to_core=lambda value: value * 1000.0,
            from_core=lambda value: value / 1000.0,
        ),
        forms.number("beams", "Beams", 16, 1024, required=True, to_core=int, hint="the picture here is made of 192"),
        forms.number("facets", "Facets", 1, 4, required=True, to_core=int, hint="elements stitched into the fan"),
    ),
    take=lambda rig: {
        "fan_deg": rig.transducer.fan_rad,
        "thickness_deg": rig.transducer.thickness_rad,
        "carrier_khz": rig.transducer.carrier_hz,
        "beams": rig.transducer.beams,
        "facets": rig.transducer.facets,
    },
    put=lambda rig, values: replace(
        rig,
        transducer=OwnTransducer(
            fan_rad=values["fan_deg"],
            thickness_rad=values["thickness_deg"],
            carrier_hz=values["carrier_khz"],
            beams=values["beams"],
            facets=values["facets"],
        ),
    ),
)
MOUNT = Section(
    name="mount",
    title="Mount and aim",
    fields=(
        _enum("kind", "Carried", MountKind, MOUNTS),
        _feet("ahead_ft", "Ahead of the middle", -30.0, 30.0, hint="of the boat; behind it is minus"),
        _feet("depth_ft", "Depth", 0.4, 6.0, hint="how deep the transducer hangs"),
        _degrees("click_deg", "A click of tilt", 0.5, 45.0, hint="the mount's own; often 10"),
        _enum(
            "stow",
            "Stowed on the",
            StowSide,
            {"none": "not on a bow", "left": "left bow, propeller inboard", "right": "right bow, propeller inboard"},
        ),
        forms.check("turned", "Housing turned over for Flat"),
        _degrees("aim_deg", "Aim correction", -180.0, 180.0, hint="from the aim check; clockwise is plus"),
    ),
    take=lambda rig: {
        "kind": rig.mount.kind,
        "ahead_ft": rig.mount.ahead_m,
        "depth_ft": rig.mount.depth_m,
        "click_deg": rig.mount.click_rad,
        "stow": rig.mount.stow,
        "turned": rig.mount.turned,
        "aim_deg": rig.mount.aim_rad,
    },
    put=lambda rig, values: replace(
        rig,
        mount=Mount(
            kind=values["kind"],
            ahead_m=values["ahead_ft"],
            depth_m=values["depth_ft"],
            click_rad=values["click_deg"],
            stow=values["stow"],
            turned=values["turned"],
            aim_rad=values["aim_deg"],
        ),
    ),
)
INK_WORDS = {
    "soot": "dark on paper",
    "chalk": "light on dark",
    "terrace": "three strengths, dark on paper",
    "terrace-dusk": "three strengths, light on dark",
}
SCREEN = Section(
    name="screen",
    title="Your unit's screen",
    fields=(
        _inches("diagonal_in", "Diagonal", 4.0, 23.0),
        forms.number("width_px", "Pixels across", 200, 4000, required=True, to_core=int),
        forms.number("height_px", "Pixels down", 200, 4000, required=True, to_core=int),
        _inches("distance_in", "Eye to screen", 8.0, 110.0),
        forms.choice("ink", "Ink", INK_WORDS, empty="by the light", hint="the nearest to what your unit shows"),
    ),
    take=lambda rig: {
        "diagonal_in": rig.screen.diagonal_m,
        "width_px": rig.screen.width_px,
        "height_px": rig.screen.height_px,
        "distance_in": rig.screen.distance_m,
        "ink": rig.ink,
    },
    put=lambda rig, values: replace(
        rig,
        ink=values["ink"],
        screen=Screen(
            diagonal_m=values["diagonal_in"], width_px=values["width_px"], height_px=values["height_px"], distance_m=values["distance_in"]
        ),
    ),
)
POWER = Section(
    name="power",
    title="Power",
    fields=(
        _enum("chemistry", "Battery", Chemistry, {"flooded": "lead, flooded", "agm": "lead, AGM", "lithium": "lithium (LiFePO4)"}),
        forms.number("capacity_ah", "Capacity", 1.0, 400.0, "Ah", required=True),
        forms.number(
            "charge_pct",
            "Charged to",
            0.0,
            100.0,
            "%",
            required=True,
            to_core=lambda value: value / 100.0,
            from_core=lambda value: value * 100.0,
        ),
        _feet("cable_ft", "Cable, one way", 0.5, 98.0, hint="battery to unit; both conductors are counted"),
        forms.number("gauge", "Wire gauge", 4, 22, "AWG", required=True, to_core=int),
        forms.number(
            "ambient_f", "Temperature of the cable", 0.0, 140.0, "deg F", required=True, to_core=degc_from_degf, from_core=degf_from_degc
        ),
        _watts("unit_w", "Unit"),
        _watts("sonar_w", "Live sonar's box"),
        _watts("computer_w", "Small computer aboard", hint="one that runs this, say"),
        forms.check("computer_on_cable", "The computer hangs on the unit's cable"),
        _watts("other_w", "Other loads", hint="on cables of their own"),
    ),
    take=lambda rig: {
        "chemistry": rig.power.chemistry,
        "capacity_ah": rig.power.capacity_ah,
        "charge_pct": rig.power.charge,
        "cable_ft": rig.power.cable_m,
        "gauge": rig.power.gauge,
        "ambient_f": rig.power.ambient_degc,
        "unit_w": rig.power.unit_w,
        "sonar_w": rig.power.sonar_w,
        "computer_w": rig.power.computer_w,
        "computer_on_cable": rig.power.computer_on_cable,
        "other_w": rig.power.other_w,
    },
    put=lambda rig, values: replace(
        rig,
        power=Power(
            chemistry=values["chemistry"],
            capacity_ah=values["capacity_ah"],
            charge=values["charge_pct"],
            cable_m=values["cable_ft"],
            gauge=values["gauge"],
            ambient_degc=values["ambient_f"],
            unit_w=values["unit_w"],
            sonar_w=values["sonar_w"],
            computer_w=values["computer_w"],
            computer_on_cable=values["computer_on_cable"],
            other_w=values["other_w"],
        ),
    ),
)
OTHERS = Section(
    name="others",
    title="What else transmits",
    fields=(
        forms.check("console", "A console sonar"),
        forms.number("live", "Other live transducers aboard", 0, 6, required=True, to_core=int),
        forms.words("motor", "Motor", longest=60, hint="as you call it"),
    ),
    take=lambda rig: {"console": rig.others.console, "live": rig.others.live, "motor": rig.others.motor},
    put=lambda rig, values: replace(rig, others=Others(console=values["console"], live=values["live"], motor=values["motor"] or "")),
)
SECTIONS = {section.name: section for section in (TRANSDUCER, MOUNT, SCREEN, POWER, OTHERS)}

# The angler's own words: a line a control.
SCALES = {"percent": "a number, 0 to 100 or so", "steps": "named steps", "offset": "an offset about a default"}
STEPPED = ("near_cut_db", "quieting_pings", "ghost_cut_db")


def word_fields(control: str) -> tuple[Field, ...]:
    """Return the fields of what the angler's unit calls a control and how it counts."""
    return (
        forms.words("label", f"{LABELS[control]} is called", longest=40),
        forms.choice("kind", "It counts by", SCALES, to_core=ScaleKind, from_core=lambda value: value.value),
        forms.number("low", "From", -1000.0, 1000.0),
        forms.number("high", "To", -1000.0, 1000.0),
        forms.number("step", "A step is", 0.01, 100.0),
        forms.words("steps", "Its steps, with commas", longest=200, hint="from least to most, the same number as ours"),
    )


def word_texts(own: OwnControl | None, control: str) -> dict[str, str]:
    """Return a control's words as texts of their fields; nothing where none were typed."""
    if own is None:
        return {one.name: "" for one in word_fields(control)}
    values = {"label": own.label, "kind": own.kind, "low": own.low, "high": own.high, "step": own.step, "steps": ", ".join(own.steps)}
    return forms.texts_of(word_fields(control), values)


def read_words(control: str, given: Mapping[str, Any], *, our_steps: int) -> tuple[OwnControl | None, Mapping[str, str]]:
    """Return a control's own words (None where the label is empty), and messages by field."""
    found = forms.read(word_fields(control), given)
    problems, values = dict(found.problems), found.values
    if problems or not values["label"]:
        return None, problems
    kind = values["kind"] or (ScaleKind.STEPS if control in STEPPED else ScaleKind.PERCENT)
    steps = tuple(part.strip() for part in (values["steps"] or "").split(",") if part.strip())
    if kind is ScaleKind.STEPS and len(steps) != our_steps:
        problems["steps"] = f"Its steps are {len(steps)}: they must be {our_steps}, one for each of ours"
    low = 0.0 if values["low"] is None else values["low"]
    high = 100.0 if values["high"] is None else values["high"]
    if kind is not ScaleKind.STEPS and high <= low:
        problems["high"] = f"To is {high:g}: it must be more than {low:g}, where the scale begins"
    if problems:
        return None, problems
    own = OwnControl(
        label=values["label"], kind=kind, low=low, high=high, step=values["step"] or 1.0, steps=steps if kind is ScaleKind.STEPS else ()
    )
    return own, {}


KINDS = {kind.value: kind.value.replace("_", " ") for kind in LureKind}
LURE_FIELDS = (
    _enum("kind", "Lure", LureKind, KINDS),
    forms.number(
        "head_oz", "Head", 0.0078, 2.0, "oz", required=True, step=0.001, to_core=lambda value: value * OUNCE_KG, from_core=lambda value: value / OUNCE_KG
    ),
    _enum("material", "Of", Material, {"lead": "lead", "tungsten": "tungsten"}),
    forms.words("color", "Color", longest=40),
    forms.words("finish", "Finish", longest=40),
    forms.words("trailer", "Trailer", longest=60),
    forms.number(
        "weight_oz", "Weight above it", 0.0, 2.0, "oz", step=0.001, to_core=lambda value: value * OUNCE_KG, from_core=lambda value: value / OUNCE_KG,
        hint="split shot or the like; empty is none",
    ),
    forms.words("recipe", "Recipe, if tied at home", longest=400),
)  # fmt: skip
ROD_FIELDS = (
    forms.words("name", "Rod", longest=60, required=True),
    _feet("length_ft", "Length", 2.0, 20.0),
    _enum("line", "Line", Line, {"fluorocarbon": "fluorocarbon", "monofilament": "monofilament", "braid": "braid"}),
    forms.number(
        "line_lb",
        "Strength",
        1.0,
        100.0,
        "lb",
        to_core=lambda value: value * NEWTON_A_POUND,
        from_core=lambda value: value / NEWTON_A_POUND,
    ),
)


def read_section(section: Section, rig: RigProfile, given: Mapping[str, Any]) -> tuple[RigProfile, Read]:
    """Return the rig with a section's values put in, where all of them are right; else the rig as it was, and what is wrong."""
    found = forms.read(section.fields, given)
    return (rig if found.problems else section.put(rig, found.values)), found


def stored(rig: RigProfile) -> dict[str, Any]:
    """Return a rig as plain values for the store, in SI."""
    found: dict[str, Any] = PROFILE.dump_python(rig, mode="json")
    return found


def restored(values: Mapping[str, Any]) -> RigProfile:
    """Return a rig from the store's values."""
    return PROFILE.validate_python(dict(values))
