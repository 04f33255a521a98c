"""Symptoms: from what is seen to its likely causes, ranked for this rig, this water and this set-up. The list is common practice."""

import math
from collections.abc import Callable
from dataclasses import dataclass
from enum import StrEnum

import numpy as np

from mudlamp.core.advice.answers import Sky
from mudlamp.core.advice.planner import LOW_SUN_RAD, Card
from mudlamp.core.controls import GHOST_CUT, NEAR_CUT, QUIETING, Control
from mudlamp.core.rig.mount import RIDES_ON_MOTOR, MountKind, StowSide
from mudlamp.core.rig.power import GOOD_V, LEAST_V
from mudlamp.core.scene.bottom import Ground
from mudlamp.core.setup import ReceiverSetup, Window, value_of
from mudlamp.core.water.sound import sound_speed_m_s


class Symptom(StrEnum):
    """What is seen."""

    NO_LURE = "no_lure"
    BLOB = "blob"
    ALL_BRIGHT = "all_bright"
    SPOKES = "spokes"
    SLANTING_TREE = "slanting_tree"
    SNOW_NEAR_TOP = "snow_near_top"
    TARGET_LAGS = "target_lags"
    DEAD_PATCHES = "dead_patches"
    SOLID_BOTTOM = "solid_bottom"
    TINY = "tiny"
    BOTTOM_GONE = "bottom_gone"
    JUMPS = "jumps"
    SWAYS = "sways"
    BENT_BOTTOM = "bent_bottom"
    WEAK = "weak"
    SUDDENLY_DIM = "suddenly_dim"
    SPECKS_RISING = "specks_rising"
    HAZE = "haze"
    ARROW_OFF = "arrow_off"
    SIDE_SMEARED = "side_smeared"


class Cause(StrEnum):
    """What it can come from."""

    OFF_BEAM = "off_beam"
    GAIN_LOW = "gain_low"
    GAIN_HIGH = "gain_high"
    PUNCH_LOW = "punch_low"
    PUNCH_HIGH = "punch_high"
    NEAR_CUT_HIGH = "near_cut_high"
    HEAD_LIGHT = "head_light"
    QUIETING_HIGH = "quieting_high"
    GHOST_HIGH = "ghost_high"
    OTHER_SONAR = "other_sonar"
    CONSOLE = "console"
    MULTIPATH = "multipath"
    NEAR_FIELD = "near_field"
    SURFACE = "surface"
    SLOW_UNIT = "slow_unit"
    DOWN_TO_DEEP = "down_to_deep"
    DOWN_TO_SHALLOW = "down_to_shallow"
    REACH_LONG = "reach_long"
    AUTO = "auto"
    STEADY = "steady"
    SOUND_SPEED = "sound_speed"
    LOW_VOLTAGE = "low_voltage"
    THRUST = "thrust"
    INSECTS = "insects"
    WAKE = "wake"
    HEADING = "heading"
    MOUNT = "mount"
    BOAT_SPEED = "boat_speed"
    GRASS = "grass"


# Each symptom's causes with how often they are it, before anything is known of this water.
CAUSES: dict[Symptom, dict[Cause, float]] = {
    Symptom.NO_LURE: {
        Cause.OFF_BEAM: 0.5, Cause.GAIN_LOW: 0.2, Cause.PUNCH_LOW: 0.08, Cause.NEAR_CUT_HIGH: 0.15, Cause.HEAD_LIGHT: 0.12,
        Cause.QUIETING_HIGH: 0.12, Cause.GHOST_HIGH: 0.08,
    },
    Symptom.BLOB: {Cause.GAIN_HIGH: 0.6, Cause.PUNCH_HIGH: 0.3, Cause.REACH_LONG: 0.15},
    Symptom.ALL_BRIGHT: {Cause.GAIN_HIGH: 0.6, Cause.THRUST: 0.15, Cause.OTHER_SONAR: 0.15, Cause.SURFACE: 0.1},
    Symptom.SPOKES: {Cause.OTHER_SONAR: 0.55, Cause.CONSOLE: 0.35, Cause.LOW_VOLTAGE: 0.1, Cause.THRUST: 0.1},
    Symptom.SLANTING_TREE: {Cause.MULTIPATH: 0.9, Cause.GAIN_HIGH: 0.2},
    Symptom.SNOW_NEAR_TOP: {Cause.NEAR_FIELD: 0.4, Cause.SURFACE: 0.35, Cause.GAIN_HIGH: 0.2, Cause.WAKE: 0.1},
    Symptom.TARGET_LAGS: {Cause.QUIETING_HIGH: 0.6, Cause.SLOW_UNIT: 0.35, Cause.REACH_LONG: 0.1},
    Symptom.DEAD_PATCHES: {Cause.QUIETING_HIGH: 0.8, Cause.GHOST_HIGH: 0.3},
    Symptom.SOLID_BOTTOM: {Cause.PUNCH_HIGH: 0.6, Cause.GAIN_HIGH: 0.5},
    Symptom.TINY: {Cause.REACH_LONG: 0.5, Cause.DOWN_TO_DEEP: 0.5},
    Symptom.BOTTOM_GONE: {Cause.DOWN_TO_SHALLOW: 0.9, Cause.GAIN_LOW: 0.1, Cause.LOW_VOLTAGE: 0.1},
    Symptom.JUMPS: {Cause.AUTO: 0.9, Cause.STEADY: 0.1},
    Symptom.SWAYS: {Cause.STEADY: 0.8, Cause.SURFACE: 0.2},
    Symptom.BENT_BOTTOM: {Cause.SOUND_SPEED: 0.9, Cause.MOUNT: 0.1},
    Symptom.WEAK: {Cause.LOW_VOLTAGE: 0.7, Cause.GAIN_LOW: 0.2, Cause.QUIETING_HIGH: 0.1},
    Symptom.SUDDENLY_DIM: {Cause.GRASS: 0.7, Cause.LOW_VOLTAGE: 0.15, Cause.OFF_BEAM: 0.15},
    Symptom.SPECKS_RISING: {Cause.INSECTS: 0.8, Cause.GAIN_HIGH: 0.2},
    Symptom.HAZE: {Cause.WAKE: 0.7, Cause.SURFACE: 0.3, Cause.NEAR_FIELD: 0.2},
    Symptom.ARROW_OFF: {Cause.HEADING: 0.6, Cause.MOUNT: 0.5},
    Symptom.SIDE_SMEARED: {Cause.BOAT_SPEED: 1.0},
}  # fmt: skip
FOR, AGAINST, RULED_OUT = 3.0, 0.3, 0.0
# How a control speaks by how far it is off, in steps that matter: not off at all against itself, more and more for itself from half a step on
# (tens to the power of, ours). A voice is heard from these factors on.
OFF_STEPS, OFF_POWERS = (0.0, 0.5, 2.0, 4.0), (-1.2, 0.0, 1.3, 1.7)
HEARD_FOR, HEARD_AGAINST = 1.5, 0.7
# What counts as one step: of Gain, of Punch beyond its band, of a window's edge beyond its band (a share of it), of the speed of sound (a
# share of it); how much the first step of a stepped control beyond the card's counts, and each after it.
GAIN_STEP, PUNCH_STEP, EDGE_STEP, SPEED_STEP, FIRST_STEP, NEXT_STEP = 8.0, 15.0, 0.15, 0.008, 1.0, 0.6
# A step under what the unit needs [V].
VOLT_STEP = 0.2


class Voice(StrEnum):
    """How this water and rig speak about a cause."""

    FOR = "for"
    AGAINST = "against"
    SILENT = "silent"


@dataclass(frozen=True, slots=True, kw_only=True)
class Facts:
    """What is known: the card for this water, the set-up and window as they stand, the rig's voltage [V] and mount, the fan's thickness [rad],

    whether a console sonar is aboard.
    """

    card: Card
    setup: ReceiverSetup
    window: Window
    thickness_rad: float
    unit_v: float | None = None
    mount: MountKind | None = None
    stow: StowSide = StowSide.NONE
    assumed_speed_m_s: float | None = None
    console: bool | None = None


@dataclass(frozen=True, slots=True, kw_only=True)
class Evidence:
    """What speaks: how, by what factor, and the figure behind it in the unit of the thing (None where it is not a figure)."""

    voice: Voice
    factor: float
    figure: float | None = None


@dataclass(frozen=True, slots=True, kw_only=True)
class Suspect:
    """A cause with its share of all that could be it here (0 to 1) and what speaks for or against it."""

    cause: Cause
    share: float
    evidence: Evidence


SILENT = Evidence(voice=Voice.SILENT, factor=1.0)


def _says(for_it: bool | None, figure: float | None = None) -> Evidence:
    if for_it is None:
        return Evidence(voice=Voice.SILENT, factor=1.0, figure=figure)
    return Evidence(voice=Voice.FOR if for_it else Voice.AGAINST, factor=FOR if for_it else AGAINST, figure=figure)


def _impossible(figure: float | None = None) -> Evidence:
    return Evidence(voice=Voice.AGAINST, factor=RULED_OUT, figure=figure)


def _between(value: float, low: float, high: float) -> bool | None:
    """Return True from `high` on, False up to `low`, None between."""
    return True if value >= high else False if value <= low else None


def _off_beam(facts: Facts) -> Evidence:
    half = facts.card.target_range_m * math.tan(facts.thickness_rad / 2.0)
    return _says(True if half < 0.8 else None, half)


def _by_how_far(steps: float, figure: float) -> Evidence:
    """Return what a control says that is so many steps off: 0 and less is not off."""
    factor = 10.0 ** float(np.interp(steps, OFF_STEPS, OFF_POWERS))
    voice = Voice.FOR if factor >= HEARD_FOR else Voice.AGAINST if factor <= HEARD_AGAINST else Voice.SILENT
    return Evidence(voice=voice, factor=factor, figure=figure)


def _gain(facts: Facts, sign: float) -> Evidence:
    off = sign * (facts.setup.gain - float(facts.card.row("gain").start))
    return _by_how_far(off / GAIN_STEP, off)


def _punch(facts: Facts, sign: float) -> Evidence:
    row = facts.card.row("punch")
    off = sign * facts.setup.punch - (sign * float((row.high if sign > 0 else row.low) or 0.0))
    return _by_how_far(off / PUNCH_STEP, facts.setup.punch)


def _head(facts: Facts) -> Evidence:
    over = facts.card.lure_over_db
    return SILENT if over is None else _says(_between(-over, -10.0, -6.0), over)


def _step(facts: Facts, control: Control) -> Evidence:
    """Return what a stepped control says: nothing at rest, more with every step beyond the card's."""
    value, start = float(value_of(facts.setup, control)), float(facts.card.row(control.name).start)
    steps = control.strength(value)
    if steps == 0:
        return _impossible(value)
    beyond = steps - control.strength(start)
    return _by_how_far(FIRST_STEP + NEXT_STEP * (beyond - 1) if beyond > 0 else 0.0, value)


def _others(facts: Facts) -> Evidence:
    unknown = "other_sonars" in facts.card.here.assumed
    return _says(None if unknown else facts.card.here.other_sonars > 0, None if unknown else facts.card.here.other_sonars)


def _multipath(facts: Facts) -> Evidence:
    here = facts.card.here
    hard = here.ground in (Ground.GRAVEL, Ground.ROCK)
    return _says(True if hard and here.depth_m < 6.0 else False if here.ground is Ground.MUD else None, here.depth_m)


def _voltage(facts: Facts) -> Evidence:
    volts = facts.unit_v
    if volts is None:
        return SILENT
    if volts < LEAST_V:
        return _by_how_far(1.0 + (LEAST_V - volts) / VOLT_STEP, volts)
    return _says(False if volts >= GOOD_V else None, volts)


def _sound_speed(facts: Facts) -> Evidence:
    true = float(sound_speed_m_s(temperature_degc=facts.card.here.temperature_degc))
    if facts.assumed_speed_m_s is None:
        return _says(None, true)
    off = abs(facts.assumed_speed_m_s / true - 1.0)
    return _by_how_far(off / SPEED_STEP, true)


def _window(shown: float, band: float, sign: float) -> Evidence:
    """Return what a window's edge says that should be no more (sign 1) or no less (-1) than an end of its band [m]."""
    return _by_how_far(sign * (shown / band - 1.0) / EDGE_STEP if band else 0.0, shown)


def _insects(facts: Facts) -> Evidence:
    here = facts.card.here
    dusk = here.sky is Sky.DARK or here.sun_rad < LOW_SUN_RAD
    return _says(dusk and here.temperature_degc > 10.0, here.temperature_degc)


EVIDENCE: dict[Cause, Callable[[Facts], Evidence]] = {
    Cause.OFF_BEAM: _off_beam,
    Cause.GAIN_LOW: lambda facts: _gain(facts, -1.0),
    Cause.GAIN_HIGH: lambda facts: _gain(facts, 1.0),
    Cause.PUNCH_LOW: lambda facts: _punch(facts, -1.0),
    Cause.PUNCH_HIGH: lambda facts: _punch(facts, 1.0),
    Cause.NEAR_CUT_HIGH: lambda facts: _step(facts, NEAR_CUT),
    Cause.HEAD_LIGHT: _head,
    Cause.QUIETING_HIGH: lambda facts: _step(facts, QUIETING),
    Cause.GHOST_HIGH: lambda facts: _step(facts, GHOST_CUT),
    Cause.OTHER_SONAR: _others,
    Cause.CONSOLE: lambda facts: _impossible() if facts.console is False else _says(facts.console),
    Cause.MULTIPATH: _multipath,
    Cause.NEAR_FIELD: lambda facts: _says(None if facts.setup.near_cut_db == 0.0 else False, facts.setup.near_cut_db),
    Cause.SURFACE: lambda facts: _says(_between(facts.card.here.wind_m_s, 1.0, 4.0), facts.card.here.wind_m_s),
    Cause.DOWN_TO_DEEP: lambda facts: _window(facts.window.down_to_m, float(facts.card.row("down_to_m").high or 0.0), 1.0),
    Cause.DOWN_TO_SHALLOW: lambda facts: _window(facts.window.down_to_m, float(facts.card.row("down_to_m").low or 0.0), -1.0),
    Cause.REACH_LONG: lambda facts: _window(facts.window.reach_m, float(facts.card.row("reach_m").high or 0.0), 1.0),
    Cause.STEADY: lambda facts: _says(_between(facts.card.here.wind_m_s, 0.5, 3.0), facts.card.here.wind_m_s),
    Cause.SOUND_SPEED: _sound_speed,
    Cause.LOW_VOLTAGE: _voltage,
    Cause.THRUST: lambda facts: _says(None if facts.mount is None else facts.mount in RIDES_ON_MOTOR),
    Cause.INSECTS: _insects,
    Cause.HEADING: lambda facts: _says(None if facts.mount is None else facts.mount in RIDES_ON_MOTOR),
    Cause.MOUNT: lambda facts: _says(facts.stow is not StowSide.NONE or None),
}


def ranked(symptom: Symptom, facts: Facts) -> list[Suspect]:
    """Return the causes of a symptom, the likeliest here first; what is ruled out stands last with a share of 0.

    Source: shares by common practice, times a factor for what this rig and water say (naive Bayes, factors ours).
    """
    evidence = {cause: EVIDENCE[cause](facts) if cause in EVIDENCE else SILENT for cause in CAUSES[symptom]}
    weights = {cause: prior * evidence[cause].factor for cause, prior in CAUSES[symptom].items()}
    total = sum(weights.values()) or 1.0
    order = sorted(weights, key=lambda cause: -weights[cause])
    return [Suspect(cause=cause, share=weights[cause] / total, evidence=evidence[cause]) for cause in order]
