"""The Lamp page's views: the water, the rail, the scenes, the recordings."""

from collections.abc import Sequence
from dataclasses import dataclass

from mudlamp.core.advice.auto import AUTO_CONTROLS
from mudlamp.core.casting.heads import SOLD_OZ
from mudlamp.core.controls import AIM, FAN, LOOK_BACK, ON_CARD, QUIETING, RECEIVER_NUMBERS, SOUND_SPEED, STEADY, TILT, Control
from mudlamp.core.receiver.screen import Screen
from mudlamp.core.records.spots import SPOT_KINDS
from mudlamp.core.scene.model import Scene
from mudlamp.core.setup import ReceiverSetup
from mudlamp.core.units import INCH_M, degf_from_degc, feet
from mudlamp.core.water.clarity import clarity_of
from mudlamp.services.edge.controls import EDGE, EdgeControl, of
from mudlamp.services.water.plans import Plan
from mudlamp.services.water.sound import SceneRow
from mudlamp.services.words.controls import EXPLAINED, band_of
from mudlamp.services.words.identity import WHO_CHOICES
from mudlamp.services.words.labels import say
from mudlamp.services.words.log import SOURCE_WORDS

# Beside the receiver, folded away.
FOLDED = (AIM, TILT, LOOK_BACK, SOUND_SPEED, STEADY)


@dataclass(frozen=True, slots=True, kw_only=True)
class ChoiceView:
    """One step of a stepped control."""

    value: str
    label: str


@dataclass(frozen=True, slots=True, kw_only=True)
class HeadView:
    """A head as it is sold: its words, and how many ounces."""

    said: str
    ounces: str


@dataclass(frozen=True, slots=True, kw_only=True)
class BandView:
    """The band of common practice on a slider: its ends in words, where it begins and how wide it is [%]."""

    low: str
    high: str
    at_pct: float
    wide_pct: float


@dataclass(frozen=True, slots=True, kw_only=True)
class ControlView:
    """A row of the rail: our word, the engineering term, unit, bounds, steps, the band of common practice, what it gives and takes.

    `zero` is how 0 is shown; `auto` says whether a rule can set it, `priced` whether its cost now can be worked out.
    """

    name: str
    label: str
    term: str
    unit: str
    zero: str
    low: float
    high: float
    step: float
    band: BandView | None
    choices: Sequence[ChoiceView]
    gives: str
    takes: str
    auto: bool
    priced: bool
    settles: bool

    @property
    def hint(self) -> str:
        """What it gives and takes, in one breath."""
        return f"{self.gives} {self.takes}"


@dataclass(frozen=True, slots=True, kw_only=True)
class SceneChoice:
    """A stock scene in the list of waters."""

    name: str
    title: str
    teaches: str
    facts: str


@dataclass(frozen=True, slots=True, kw_only=True)
class UnitView:
    """The angler's own screen, from the rig, in words; whether there is a rig."""

    facts: str
    has_rig: bool


@dataclass(frozen=True, slots=True, kw_only=True)
class LampView:
    """The Lamp page. `simulated`: the truth is known and there is a rod. `receiver` are the controls that a named set-up keeps."""

    water: str
    source: str
    simulated: bool
    name: str
    fan: ControlView
    controls: Sequence[ControlView]
    folded: Sequence[ControlView]
    folded_names: str
    who_choices: Sequence[tuple[str, str]]
    spot_kinds: Sequence[str]
    heads: Sequence["HeadView"]
    receiver: str
    unit: UnitView
    scenes: Sequence[SceneChoice]


def lamp_view(water: Plan | None, first: Scene, scenes: Sequence[SceneRow], *, screen: Screen, has_rig: bool) -> LampView:
    """Return the Lamp page's view of the water that is open, or of the one that will be opened first."""
    scene = first if water is None else water.scene
    if scene is not None:
        clarity = clarity_of(secchi_m=scene.water.secchi_m).value
        title = f"{scene.title} · {clarity} · {degf_from_degc(scene.water.temperature_degc):.0f} °F"
        depth: float | None = feet(scene.depth_m or scene.transducer.reach_m)
    else:
        title, depth = water.title if water is not None else "", None
    return LampView(
        water=title,
        source=SOURCE_WORDS["recorded" if scene is None else "simulated"],
        simulated=scene is not None,
        name=first.name if water is None else water.name,
        fan=control_view(FAN, depth_ft=depth),
        controls=tuple(control_view(control, depth_ft=depth) for control in ON_CARD),
        folded=tuple(control_view(control, depth_ft=depth) for control in FOLDED),
        folded_names=_listed(AIM, TILT, STEADY),
        who_choices=WHO_CHOICES,
        spot_kinds=SPOT_KINDS,
        heads=[HeadView(said=str(size), ounces=f"{float(size):.6g}") for size in SOLD_OZ],
        receiver=" ".join(of(name).name for name in ReceiverSetup.__slots__),
        unit=_unit(screen, has_rig=has_rig),
        scenes=tuple(
            SceneChoice(name=row.name, title=row.title, teaches=row.teaches, facts=f"{row.depth_ft or 0:.0f} ft deep, {row.fish} fish")
            for row in scenes
        ),
    )


def _listed(*controls: Control) -> str:
    names = ", ".join(EDGE[control].label for control in controls)
    return names[0].upper() + names[1:]


def _unit(screen: Screen, *, has_rig: bool) -> UnitView:
    return UnitView(facts=f"{screen.diagonal_m / INCH_M:.0f} in, {screen.width_px} by {screen.height_px} pixels", has_rig=has_rig)


def control_view(control: Control, *, depth_ft: float | None) -> ControlView:
    """Return a row of the rail, over water of a depth [ft] where that is known."""
    edge, said = EDGE[control], EXPLAINED[control]
    slider = edge.slider
    return ControlView(
        name=edge.name,
        label=edge.label,
        term=control.term,
        unit=edge.caption or ("°" if edge.unit == "deg" else edge.unit),
        zero=edge.zero,
        low=0.0 if slider is None else slider.low,
        high=0.0 if slider is None else slider.high,
        step=1.0 if slider is None else slider.step,
        band=_band(edge, band_of(control, depth_ft=depth_ft)),
        choices=_steps(edge),
        gives=say(said.gives),
        takes=say(said.takes),
        auto=control in AUTO_CONTROLS,
        priced=control in RECEIVER_NUMBERS,
        settles=control is QUIETING,
    )


def _steps(edge: EdgeControl) -> tuple[ChoiceView, ...]:
    if edge.titles is not None:
        return tuple(ChoiceView(value=value, label=label) for value, label in edge.titles.items())
    return tuple(ChoiceView(value=f"{step:g}", label=edge.zero if step == 0 else f"{step:g}") for step in edge.control.steps)


def _band(edge: EdgeControl, band: tuple[float, float] | None) -> BandView | None:
    if band is None or edge.slider is None:
        return None
    span = edge.slider.high - edge.slider.low
    return BandView(
        low=f"{band[0]:g}",
        high=f"{band[1]:g}",
        at_pct=round(100.0 * (band[0] - edge.slider.low) / span, 2),
        wide_pct=round(100.0 * (band[1] - band[0]) / span, 2),
    )
