"""What makes a water: small enough to be sent to the process that will ping on it."""

import uuid
from dataclasses import dataclass
from pathlib import Path
from typing import Protocol

from mudlamp.core.errors import DomainError, require_range
from mudlamp.core.scene.model import OPEN_SEA, Origin, Scene
from mudlamp.formats.recording import RecordingReader
from mudlamp.formats.scene.build import scene_of
from mudlamp.formats.scene.file import parse_scene, scene_text, stock_text
from mudlamp.formats.scene.parts import SceneFile
from mudlamp.services.quarantine.inspect import inspect_scene
from mudlamp.services.recordings.library import Library
from mudlamp.services.water.recorded import RecordedWater
from mudlamp.services.water.role import LiveWater
from mudlamp.services.water.simulated import SimulatedWater

FIRST_SCENE = "pear-tree"
# Spots on a scene's water are kept under its name with this before it, and, where the scene says where on earth it lies, that behind it.
SCENE, AT = "scene-", "@"
LONGEST_NAME = 28


@dataclass(frozen=True, slots=True, kw_only=True)
class Where:
    """Where a water lies: the name that spots on it are kept under, and its own origin in their frame [m east, north]."""

    water: str
    x_m: float = 0.0
    y_m: float = 0.0


def water_of_scene(scene: Scene) -> str:
    """Return the name that spots on a scene's water are kept under."""
    if scene.origin == OPEN_SEA:
        return f"{SCENE}{scene.name}"
    return f"{SCENE}{scene.name[:LONGEST_NAME]}{AT}{scene.origin.latitude_deg:.7f},{scene.origin.longitude_deg:.7f}"


def origin_of_scene(water: str) -> Origin:
    """Return where the origin of a scene's water lies, by the name that its spots are kept under; raise DomainError where that says no place."""
    _, at, place = water.partition(AT)
    if not at:
        return OPEN_SEA
    try:
        latitude, longitude = (float(part) for part in place.split(","))
    except ValueError:
        raise DomainError(f"water is {water[:60]}: behind the {AT} it must be a latitude and a longitude") from None
    require_range("latitude_deg", latitude, -90.0, 90.0)
    require_range("longitude_deg", longitude, -180.0, 180.0)
    return Origin(latitude_deg=latitude, longitude_deg=longitude, zone=OPEN_SEA.zone)


class Plan(Protocol):
    """The role: a water that can be made; `scene` is what it was described by, None for a recording."""

    @property
    def source(self) -> str:
        """Where its pings come from: simulated or recorded."""

    @property
    def name(self) -> str:
        """Its name."""

    @property
    def title(self) -> str:
        """What people read."""

    @property
    def scene(self) -> Scene | None:
        """What it was described by."""

    @property
    def where(self) -> Where | None:
        """Where it lies; None where nobody knows."""

    @property
    def is_strangers(self) -> bool:
        """Whether somebody sent it: nobody has tried whether it can be worked out fast enough."""

    def make(self, seed: int) -> LiveWater:
        """Return the water of a seed; raise a MudLampError where it cannot be made."""


@dataclass(frozen=True, slots=True, kw_only=True)
class _OfScene:
    """What all plans of simulated water share: the scene."""

    scene: Scene
    source: str = "simulated"
    is_strangers: bool = False

    @property
    def name(self) -> str:
        """Its name."""
        return self.scene.name

    @property
    def title(self) -> str:
        """What people read."""
        return self.scene.title

    @property
    def where(self) -> Where | None:
        """Where it lies: on a water of its own."""
        return Where(water=water_of_scene(self.scene))


@dataclass(frozen=True, slots=True, kw_only=True)
class ScenePlan(_OfScene):
    """Simulated water: a scene, and the text of the file it was read from."""

    text: str
    script_rest_s: float

    def make(self, seed: int) -> LiveWater:
        """Return the water of a seed."""
        return SimulatedWater(self.scene, text=self.text, seed=seed, script_rest_s=self.script_rest_s)


@dataclass(frozen=True, slots=True, kw_only=True)
class WindowPlan(_OfScene):
    """Simulated water that is a window of a larger one: it has no file; nobody shows first how it is done."""

    seed: int
    middle_m: tuple[float, float] = (0.0, 0.0)

    @property
    def where(self) -> Where | None:
        """Where it lies: a piece of the larger water, about a place of it."""
        return Where(water=self.scene.name, x_m=self.middle_m[0], y_m=self.middle_m[1])

    def make(self, seed: int) -> LiveWater:
        """Return the water; its cover grows from the larger water's seed, whatever the session's is."""
        return SimulatedWater(self.scene, text="", seed=self.seed, script_rest_s=0.0)


@dataclass(frozen=True, slots=True, kw_only=True)
class RecordingPlan:
    """A recording that plays, from one of its seconds on."""

    path: Path
    title: str
    from_s: float = 0.0
    source: str = "recorded"
    name: str = "recording"
    scene: None = None
    where: None = None
    is_strangers: bool = False

    def make(self, seed: int) -> LiveWater:
        """Return the water; raise RecordingError where the file is gone or broken."""
        return RecordedWater(RecordingReader(self.path), title=self.title, from_s=self.from_s)


class Waters:
    """Plans waters, after everything that can be wrong was found out."""

    def __init__(self, library: Library, *, script_rest_s: float) -> None:
        self._library = library
        self._script_rest_s = script_rest_s

    def stock(self, name: str) -> Plan:
        """Return the plan of a stock scene; raise SceneError for a name that is none."""
        return self.scene_file(stock_text(name))

    def scene_file(self, text: str) -> Plan:
        """Return the plan of a scene file's water; raise SceneError naming the first thing wrong in it."""
        return ScenePlan(scene=parse_scene(text), text=text, script_rest_s=self._script_rest_s)

    def strangers(self, text: str) -> Plan:
        """Return the plan of a scene file that somebody sent, looked at first; raise SceneError naming the first thing wrong in it."""
        inspect_scene(text.encode())
        return ScenePlan(scene=parse_scene(text), text=text, script_rest_s=self._script_rest_s, is_strangers=True)

    def made(self, file: SceneFile) -> Plan:
        """Return the plan of the water of a scene file that was made here."""
        return ScenePlan(scene=scene_of(file), text=scene_text(file), script_rest_s=self._script_rest_s)

    def recording(self, owner: uuid.UUID, key: uuid.UUID, *, from_s: float = 0.0) -> Plan:
        """Return the plan of a recording that plays from a second on; raise MissingError where the owner has none of that key."""
        found = self._library.find(owner, key)
        return RecordingPlan(path=self._library.path_of(found), title=found.name, from_s=from_s)
