"""How the bench shows a fault: the scene with it in, the controls that bring it out, and those that cure it."""

from collections.abc import Callable, Mapping
from dataclasses import dataclass

from mudlamp.core.advice.symptoms import Cause
from mudlamp.core.controls import AIM, DOWN_TO, GAIN, GHOST_CUT, NEAR_CUT, PUNCH, QUIETING, REACH, SOUND_SPEED, STEADY, Control, Value
from mudlamp.core.scene.bottom import Ground
from mudlamp.core.setup import ReceiverSetup, Setting, settings_of, values_of
from mudlamp.formats.scene.file import scene_file
from mudlamp.formats.scene.parts import ConsolePart, InsectsPart, OtherSonarPart, SceneFile, WakePart
from mudlamp.services.edge.controls import EDGE
from mudlamp.services.words.labels import say
from mudlamp.services.words.symptoms import CAUSE_WORDS

# The ghost of hard bottom wants shallow water [m].
SHALLOW_M = 3.0

Change = Callable[[SceneFile], SceneFile]


def _same(file: SceneFile) -> SceneFile:
    return file


def _faulty(**faults: object) -> Change:
    return lambda file: file.model_copy(update={"faults": file.faults.model_copy(update=faults)})


def _part(name: str, **values: object) -> Change:
    return lambda file: file.model_copy(update={name: getattr(file, name).model_copy(update=values)})


def _hard_and_shallow(file: SceneFile) -> SceneFile:
    """Put rock under it, no deeper than shallow water; its fish come up with it."""
    bottom = file.bottom
    if bottom is None:
        return file
    share = min(SHALLOW_M / bottom.depth_m, 1.0)
    fish = [one.model_copy(update={"z_m": one.z_m * share, "rise_m": one.rise_m * share}) for one in file.fish]
    hard = bottom.model_copy(update={"kind": Ground.ROCK, "depth_m": bottom.depth_m * share})
    return file.model_copy(update={"bottom": hard, "fish": fish})


def _swaying(file: SceneFile) -> SceneFile:
    return _part("boat", pitch_deg=3.0)(_faulty(steady_lag_s=0.8)(file))


@dataclass(frozen=True, slots=True, kw_only=True)
class Show:
    """How a fault is shown: what is wrong in the scene, what the controls are set to, and which of them cure it."""

    scene: Change = _same
    controls: tuple[Setting, ...] = ()
    cure: tuple[Setting, ...] = ()


def _at(control: Control, value: Value) -> Setting:
    """Return a control at a value in the edge's unit."""
    return EDGE[control].read(value)


SHOWS: Mapping[Cause, Show] = {
    Cause.OFF_BEAM: Show(controls=(_at(AIM, 12.0),)),
    Cause.GAIN_LOW: Show(controls=(_at(GAIN, 44.0),)),
    Cause.GAIN_HIGH: Show(controls=(_at(GAIN, 92.0),)),
    Cause.PUNCH_LOW: Show(controls=(_at(PUNCH, 5.0),)),
    Cause.PUNCH_HIGH: Show(controls=(_at(PUNCH, 100.0), _at(GAIN, 74.0))),
    Cause.NEAR_CUT_HIGH: Show(controls=(_at(NEAR_CUT, 18.0),)),
    Cause.HEAD_LIGHT: Show(scene=_part("angler", head_oz=1.0 / 64.0)),
    Cause.QUIETING_HIGH: Show(controls=(_at(QUIETING, 5),)),
    Cause.GHOST_HIGH: Show(controls=(_at(GHOST_CUT, 22.0),)),
    Cause.OTHER_SONAR: Show(scene=_faulty(other_sonar=OtherSonarPart()), cure=(_at(QUIETING, 3),)),
    Cause.CONSOLE: Show(scene=_faulty(console=ConsolePart()), cure=(_at(QUIETING, 3),)),
    Cause.MULTIPATH: Show(scene=_hard_and_shallow, controls=(_at(GAIN, 74.0),), cure=(_at(GHOST_CUT, 28.0),)),
    Cause.NEAR_FIELD: Show(controls=(_at(GAIN, 78.0),), cure=(_at(NEAR_CUT, 6.0),)),
    Cause.SURFACE: Show(scene=_part("water", wind_m_s=8.0), controls=(_at(GAIN, 74.0),), cure=(_at(NEAR_CUT, 6.0),)),
    Cause.SLOW_UNIT: Show(scene=_faulty(processor_lag_s=0.5)),
    Cause.DOWN_TO_DEEP: Show(controls=(_at(DOWN_TO, 60.0),)),
    Cause.DOWN_TO_SHALLOW: Show(controls=(_at(DOWN_TO, 8.0),)),
    Cause.REACH_LONG: Show(controls=(_at(REACH, 100.0),)),
    Cause.STEADY: Show(scene=_swaying, controls=(_at(STEADY, 1),)),
    Cause.SOUND_SPEED: Show(controls=(_at(SOUND_SPEED, 4560.0),)),
    Cause.LOW_VOLTAGE: Show(scene=_faulty(supply_v=10.6)),
    Cause.THRUST: Show(scene=_faulty(thrust=0.8)),
    Cause.INSECTS: Show(scene=lambda file: file.model_copy(update={"insects": [InsectsPart(x_m=0.0, y_m=7.0, radius_m=7.0, count=700)]})),
    Cause.WAKE: Show(
        scene=lambda file: file.model_copy(update={"wakes": [WakePart(x_m=0.0, y_m=6.0, radius_m=4.0, age_s=20.0, strength_db=-43.0)]})
    ),
    Cause.HEADING: Show(scene=_faulty(heading_error_deg=25.0)),
}


def shown_scene(cause: Cause, file: SceneFile) -> SceneFile:
    """Return a scene with a fault put in."""
    title = f"{say(CAUSE_WORDS[cause][0])} (shown)"
    return scene_file(**SHOWS[cause].scene(file).model_copy(update={"title": title}).model_dump(exclude_unset=True))


def shown_controls(cause: Cause, setup: ReceiverSetup) -> tuple[tuple[Setting, ...], tuple[Setting, ...]]:
    """Return the controls with the fault (set-up A), and those that cure it as far as controls can (set-up B)."""
    right = settings_of(values_of(setup))
    return (*right, *SHOWS[cause].controls), (*right, *SHOWS[cause].cure)
