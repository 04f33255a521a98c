"""The Rig page's sections: fields in the angler's units, each with the part of the rig that it sets."""

import dataclasses
from collections.abc import Callable, Mapping
from dataclasses import dataclass
from typing import TypeVar

from pydantic import TypeAdapter

from mudlamp.core.records.rigs import Json
from mudlamp.core.rig.mount import MountKind, StowSide
from mudlamp.core.rig.power import Chemistry
from mudlamp.core.rig.profile import RigProfile
from mudlamp.services.edge import forms
from mudlamp.services.edge.controls import INK
from mudlamp.services.edge.forms import AMPERE_HOURS, DEGREES, FAHRENHEIT, FEET, GAUGE, INCHES, KILOHERTZ, PERCENT, WATTS, Field, Read

PROFILE = TypeAdapter(RigProfile)
Part = TypeVar("Part")


def _inches(name: str, label: str, low: float, high: float, *, core: str) -> Field:
    return forms.number(name, label, low, high, INCHES, step=0.1, required=True, core=core)


def _feet(name: str, label: str, low: float, high: float, *, core: str, hint: str = "") -> Field:
    return forms.number(name, label, low, high, FEET, step=0.1, required=True, core=core, hint=hint)


def _degrees(name: str, label: str, low: float, high: float, *, core: str, hint: str = "") -> Field:
    return forms.number(name, label, low, high, DEGREES, step=0.5, required=True, core=core, hint=hint)


def _watts(name: str, label: str, *, core: str, hint: str = "") -> Field:
    return forms.number(name, label, 0.0, 2000.0, WATTS, required=True, core=core, hint=hint)


def _count(name: str, label: str, low: float, high: float, *, core: str, hint: str = "") -> Field:
    return forms.number(name, label, low, high, whole=True, required=True, core=core, hint=hint)


def _named(name: str, label: str, kind: Callable[[str], object], labels: Mapping[str, str], *, core: str) -> Field:
    return forms.choice(name, label, labels, kind, required=True, core=core)


MOUNTS = {
    "motor_shaft": "on the motor shaft",
    "motor_head": "on the motor head",
    "pole": "own pole on the gunwale",
    "turret": "powered turret",
    "stern": "stern bracket",
    "ice": "hand pole through the ice",
}
STOWED = {"none": "not on a bow", "left": "left bow, propeller inboard", "right": "right bow, propeller inboard"}
BATTERIES = {"flooded": "lead, flooded", "agm": "lead, AGM", "lithium": "lithium (LiFePO4)"}
INK_WORDS = {
    "soot": "dark on paper",
    "chalk": "light on dark",
    "terrace": "three strengths, dark on paper",
    "terrace-dusk": "three strengths, light on dark",
}


@dataclass(frozen=True, slots=True, kw_only=True)
class Section:
    """A section of the Rig page: its fields."""

    name: str
    title: str
    fields: tuple[Field, ...]

    def values(self, rig: RigProfile) -> Mapping[str, object]:
        """Return what a rig has in this section, by field name."""
        return {one.name: _at(rig, one.core.split(".")) for one in self.fields}

    def put(self, rig: RigProfile, values: Mapping[str, object]) -> RigProfile:
        """Return a rig with read values put in."""
        for one in self.fields:
            rig = _with(rig, one.core.split("."), values[one.name])
        return rig


def _at(part: object, path: list[str]) -> object:
    found = getattr(part, path[0])
    return found if len(path) == 1 else _at(found, path[1:])


def _with(part: Part, path: list[str], value: object) -> Part:
    inner = value if len(path) == 1 else _with(getattr(part, path[0]), path[1:], value)
    return dataclasses.replace(part, **{path[0]: inner})  # type: ignore[type-var]  # every part of a rig is a dataclass


TRANSDUCER = Section(
    name="transducer",
    title="Transducer",
    fields=(
        _degrees(
            "fan_deg", "Fan width", 60.0, 150.0, core="transducer.fan_rad", hint="all elements together; on its plate or in its papers"
        ),
        _degrees("thickness_deg", "Thickness", 8.0, 40.0, core="transducer.thickness_rad", hint="the fan's width across"),
        forms.number("carrier_khz", "Frequency", 400.0, 1200.0, KILOHERTZ, required=True, core="transducer.carrier_hz"),
        _count("facets", "Elements", 1, 4, core="transducer.facets", hint="stitched into the fan"),
    ),
)
MOUNT = Section(
    name="mount",
    title="Mount and aim",
    fields=(
        _named("kind", "Mounted", MountKind, MOUNTS, core="mount.kind"),
        _feet("depth_ft", "Depth", 0.4, 6.0, core="mount.depth_m", hint="how deep the transducer hangs"),
        _degrees("click_deg", "One click of tilt", 0.5, 45.0, core="mount.click_rad", hint="your mount's own; often 10"),
        _named("stow", "Stowed on the", StowSide, STOWED, core="mount.stow"),
        forms.check("turned", "Housing turned over for Flat", core="mount.turned"),
        _degrees("aim_deg", "Aim correction", -180.0, 180.0, core="mount.aim_rad", hint="from the aim check; clockwise is plus"),
    ),
)
SCREEN = Section(
    name="screen",
    title="Your unit's screen",
    fields=(
        _inches("diagonal_in", "Diagonal", 4.0, 23.0, core="screen.diagonal_m"),
        _count("width_px", "Pixels across", 200, 4000, core="screen.width_px"),
        _count("height_px", "Pixels down", 200, 4000, core="screen.height_px"),
        _inches("distance_in", "Eye to screen", 8.0, 110.0, core="screen.distance_m"),
        forms.choice("ink", INK.label, INK_WORDS, empty="by the light", hint="the closest to what your unit shows", core="ink"),
    ),
)
POWER = Section(
    name="power",
    title="Power",
    fields=(
        _named("chemistry", "Battery", Chemistry, BATTERIES, core="power.chemistry"),
        forms.number("capacity_ah", "Capacity", 1.0, 400.0, AMPERE_HOURS, required=True, core="power.capacity_ah"),
        forms.number("charge_pct", "Charged to", 0.0, 100.0, PERCENT, required=True, core="power.charge"),
        _feet("cable_ft", "Cable, one way", 0.5, 98.0, core="power.cable_m", hint="battery to unit; both conductors are counted"),
        forms.number("gauge", "Wire gauge", 4, 22, GAUGE, whole=True, required=True, core="power.gauge"),
        forms.number("ambient_f", "Cable temperature", 0.0, 140.0, FAHRENHEIT, required=True, core="power.ambient_degc"),
        _watts("unit_w", "Unit", core="power.unit_w"),
        _watts("sonar_w", "Live sonar box", core="power.sonar_w"),
        _watts("computer_w", "Small computer aboard", core="power.computer_w", hint="one that runs this, say"),
        forms.check("computer_on_cable", "The computer is on the unit's cable", core="power.computer_on_cable"),
        _watts("other_w", "Other loads", core="power.other_w", hint="on their own cables"),
    ),
)
OTHERS = Section(
    name="others",
    title="What else transmits",
    fields=(
        forms.check("console", "A console sonar", core="others.console"),
        _count("live", "Other live transducers aboard", 0, 6, core="others.live"),
    ),
)
SECTIONS = {section.name: section for section in (TRANSDUCER, MOUNT, SCREEN, POWER, OTHERS)}
# The aim check's two bearings.
BEARINGS = (
    forms.number("bearing_deg", "Bearing of the object", -360.0, 360.0, DEGREES, required=True),
    forms.number("shown_deg", "Where the picture shows it", -360.0, 360.0, DEGREES, required=True),
)


def read_section(section: Section, rig: RigProfile, given: Mapping[str, object]) -> tuple[RigProfile, Read]:
    """Return the rig with a section's values put in, where all of them are right; else the rig as it was, and what is wrong."""
    found = forms.read(section.fields, given)
    return (rig if found.problems else section.put(rig, found.values)), found


def stored(rig: RigProfile) -> Json:
    """Return a rig as plain values for the store, in SI."""
    return dict(PROFILE.dump_python(rig, mode="json"))


def restored(values: Json) -> RigProfile:
    """Return a rig from the store's values."""
    return PROFILE.validate_python(dict(values))
