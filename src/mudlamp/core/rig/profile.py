"""A rig as it is kept: transducer, mount, screen, power, what else transmits, and the words of the angler's own unit. SI throughout."""

import math
from collections.abc import Mapping
from dataclasses import dataclass, field
from enum import StrEnum

from mudlamp.core.casting.lures import LureKind, Material
from mudlamp.core.receiver.screen import Screen
from mudlamp.core.rig.mount import MountKind, StowSide
from mudlamp.core.rig.power import Chemistry, Load, Supply
from mudlamp.core.units import FOOT_M, OUNCE_KG


@dataclass(frozen=True, slots=True, kw_only=True)
class OwnTransducer:
    """The angler's transducer: fan and thickness [rad], carrier [Hz], facets."""

    fan_rad: float = math.radians(126.0)
    thickness_rad: float = math.radians(18.0)
    carrier_hz: float = 900e3
    facets: int = 3


@dataclass(frozen=True, slots=True, kw_only=True)
class Mount:
    """How it is carried: kind, how deep [m], a click [rad], stow side, housing turned over for Flat.

    `aim_rad` is the correction of the last aim check, dialed in or to be dialed in.
    """

    kind: MountKind = MountKind.MOTOR_SHAFT
    depth_m: float = 0.4
    click_rad: float = math.radians(10.0)
    stow: StowSide = StowSide.NONE
    turned: bool = False
    aim_rad: float = 0.0


@dataclass(frozen=True, slots=True, kw_only=True)
class Power:
    """Battery, cable and loads: see `rig.power`; powers in watts, `computer_on_cable` whether it hangs on the unit's cable."""

    chemistry: Chemistry = Chemistry.AGM
    capacity_ah: float = 100.0
    charge: float = 1.0
    cable_m: float = 20.0 * FOOT_M
    gauge: int = 12
    ambient_degc: float = 20.0
    unit_w: float = 35.0
    sonar_w: float = 45.0
    computer_w: float = 0.0
    computer_on_cable: bool = False
    other_w: float = 0.0

    @property
    def supply(self) -> Supply:
        """Battery and cable."""
        return Supply(
            chemistry=self.chemistry,
            capacity_ah=self.capacity_ah,
            charge=self.charge,
            cable_m=self.cable_m,
            gauge=self.gauge,
            ambient_degc=self.ambient_degc,
        )

    @property
    def loads(self) -> tuple[Load, ...]:
        """What draws: unit and sonar on the cable, the computer where it hangs, the rest on cables of their own."""
        return (
            Load(power_w=self.unit_w, on_cable=True),
            Load(power_w=self.sonar_w, on_cable=True),
            Load(power_w=self.computer_w, on_cable=self.computer_on_cable),
            Load(power_w=self.other_w, on_cable=False),
        )


@dataclass(frozen=True, slots=True, kw_only=True)
class Others:
    """What else is aboard: a console sonar, other live transducers."""

    console: bool = True
    live: int = 0


class ScaleKind(StrEnum):
    """How a control of the angler's unit counts."""

    PERCENT = "percent"
    STEPS = "steps"
    OFFSET = "offset"


@dataclass(frozen=True, slots=True, kw_only=True)
class OwnControl:
    """What the angler's unit calls a control and how it counts: bounds and a step of a number's scale, or the names of its steps."""

    label: str
    kind: ScaleKind
    low: float = 0.0
    high: float = 100.0
    step: float = 1.0
    steps: tuple[str, ...] = ()


@dataclass(frozen=True, slots=True, kw_only=True)
class GainMatch:
    """The Gain procedure as it was done: our computed figures with their errors, what the angler typed (None: not yet), and the water's text."""

    speckle_ours: float
    speckle_error: float
    jig_ours: float
    jig_error: float
    speckle_theirs: float | None = None
    jig_theirs: float | None = None
    water: str = ""


@dataclass(frozen=True, slots=True, kw_only=True)
class RigProfile:
    """A rig. `ink` is the one that the unit is read in, None where the light decides.

    `words` are the angler's own controls by our core name; nothing of them ships filled in.
    """

    transducer: OwnTransducer = field(default_factory=OwnTransducer)
    mount: Mount = field(default_factory=Mount)
    screen: Screen = field(default_factory=Screen)
    ink: str | None = None
    power: Power = field(default_factory=Power)
    others: Others = field(default_factory=Others)
    words: Mapping[str, OwnControl] = field(default_factory=dict)
    match: GainMatch | None = None


@dataclass(frozen=True, slots=True, kw_only=True)
class BoxedLure:
    """A lure of the box: kind, head [kg], material, color, finish, trailer, the weight above it [kg], the recipe of a home-tied one."""

    kind: LureKind = LureKind.JIG
    head_kg: float = OUNCE_KG / 16.0
    material: Material = Material.LEAD
    color: str = ""
    finish: str = ""
    trailer: str = ""
    weight_kg: float = 0.0
    recipe: str = ""
