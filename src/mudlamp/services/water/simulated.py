"""Where a session's pings come from: simulated water, with its truth and an angler's hands, or a recording, with neither."""

import math
from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any, Protocol

from mudlamp.core.errors import DomainError
from mudlamp.core.ping import Fan, Ping
from mudlamp.core.receiver.auto import auto_down_to
from mudlamp.core.receiver.setup import Window, checked_window
from mudlamp.core.scene.model import Scene
from mudlamp.core.scene.truth import TruthRow
from mudlamp.core.scene.world import Shot
from mudlamp.core.sonar.transducer import DOWN_TO_M, REACH_M
from mudlamp.formats.recording import RecordingReader
from mudlamp.heads.recorded import RecordedHead
from mudlamp.heads.simulated import SimulatedHead
from mudlamp.services.edge.controls import acquisition_values, apply_acquisition, apply_window, window_of, window_values

HANDS = ("throw", "bail", "reel", "lift", "show_me")
FIRST_PINGS = 4
CROPS = ("reach_ft", "down_to_ft", "look_back_ft")


@dataclass(frozen=True, slots=True, kw_only=True)
class Look:
    """What a page must know to draw: fan, tilt, whole fan and thickness [rad], depth of the transducer [m], the farthest range [m]."""

    fan: Fan
    tilt_rad: float
    fan_rad: float
    thickness_rad: float
    depth_m: float
    farthest_m: float


@dataclass(frozen=True, slots=True, kw_only=True)
class Outline:
    """A piece of cover as the truth overlay draws it: how far ahead in the fan's plane, half its width, top and foot [m]."""

    ahead_m: float
    half_m: float
    top_m: float
    foot_m: float


class Water(Protocol):
    """The role: something that pings when asked."""

    source: str
    name: str
    title: str
    processor_lag_s: float

    @property
    def window(self) -> Window:
        """What of a ping the picture shows."""

    @property
    def look(self) -> Look:
        """How the fan stands now."""

    def listen(self, time_s: float) -> Ping | None:
        """Return the ping heard at a time [s]; None where none came."""

    def rows(self) -> list[TruthRow] | None:
        """Return what was really there at the last ping; None where nobody knows."""

    def values(self) -> dict[str, Any]:
        """Return the controls of the transducer in the edge's names."""

    def change(self, values: Mapping[str, Any]) -> None:
        """Set controls of the transducer by their edge names; raise DomainError for one that cannot be, with the reason."""

    def hand(self, message: Mapping[str, Any], time_s: float) -> None:
        """Do what an angler's hand asks; raise DomainError where there is no rod."""

    def outlines(self) -> list[Outline]:
        """Return the cover that stands in the fan now, where it is known."""

    @property
    def lure(self) -> str:
        """What the lure is doing, in a word."""

    @property
    def shots(self) -> list[Shot]:
        """All shots so far."""

    @property
    def scripted(self) -> bool:
        """Whether a scripted angler fishes."""

    def close(self) -> None:
        """Let go of files."""


class SimulatedWater:
    """A scene that lives; `text` is the scene file it was made from."""

    source = "simulated"

    def __init__(self, scene: Scene, *, text: str, seed: int, script_rest_s: float) -> None:
        self.scene = scene
        self.text = text
        self.name = scene.name
        self.title = scene.title
        self.processor_lag_s = scene.faults.processor_lag_s
        self.head = SimulatedHead(scene, seed=seed)
        self._script_rest_s = script_rest_s

    @property
    def window(self) -> Window:
        """What of a ping the picture shows."""
        return window_of(self.head.acquisition)

    @property
    def look(self) -> Look:
        """How the fan stands now."""
        profile, acquisition, depth = self.head.world.profile, self.head.acquisition, self.scene.transducer.depth_m
        return Look(
            fan=acquisition.fan,
            tilt_rad=acquisition.tilt_rad,
            fan_rad=profile.fan_rad,
            thickness_rad=profile.thickness_rad,
            depth_m=depth,
            farthest_m=max(acquisition.reach_m, acquisition.down_to_m - depth),
        )

    def listen(self, time_s: float) -> Ping | None:
        """Return the ping heard at a time [s]; the scripted angler rests after a while."""
        if self.scripted and time_s > self._script_rest_s:
            self.head.world.scripted = False
        return self.head.listen(time_s)

    def rows(self) -> list[TruthRow] | None:
        """Return what was really there at the last ping."""
        return self.head.rows()

    def values(self) -> dict[str, Any]:
        """Return the controls of the transducer in the edge's names."""
        return acquisition_values(self.head.acquisition)

    def change(self, values: Mapping[str, Any]) -> None:
        """Set controls of the transducer by their edge names."""
        self.head.set_acquisition(apply_acquisition(self.head.acquisition, values, self.scene, steady=True))

    def hand(self, message: Mapping[str, Any], time_s: float) -> None:
        """Do what an angler's hand asks: the first touch takes the rod from the scripted angler."""
        world, kind = self.head.world, message["type"]
        if kind == "show_me":
            world.scripted = True
            self._script_rest_s = time_s + 600.0
            return
        world.scripted = False
        if kind == "throw":
            pose = world.pose(self.head.acquisition)
            ahead, across = meters_of(message, "ahead_m", 0.5, 40.0), meters_of(message, "across_m", -20.0, 20.0)
            east, north = math.sin(pose.heading_rad), math.cos(pose.heading_rad)
            world.throw(pose.x_m + ahead * east + across * north, pose.y_m + ahead * north - across * east)
        elif kind == "bail":
            world.open_bail()
        elif kind == "reel":
            world.reel(bool(message["on"]))
        else:
            world.lift(meters_of(message, "by_m", -3.0, 3.0))

    def outlines(self) -> list[Outline]:
        """Return the cover that stands in the fan now; each shade of it is a box."""
        pose = self.head.world.pose(self.head.acquisition)
        half_tan = math.tan(self.head.world.profile.thickness_rad / 2.0)
        north, east = math.cos(pose.heading_rad), math.sin(pose.heading_rad)
        found = []
        for shade in self.head.world.shades.posts:
            dx, dy = shade.x_m - pose.x_m, shade.y_m - pose.y_m
            ahead, across = dx * east + dy * north, dx * north - dy * east
            if abs(across) - shade.radius_m < abs(ahead) * half_tan:
                found.append(
                    Outline(ahead_m=round(ahead, 2), half_m=shade.radius_m, top_m=round(shade.top_m, 2), foot_m=round(shade.foot_m, 2))
                )
        return found

    @property
    def lure(self) -> str:
        """What the lure is doing, in a word."""
        lure = self.head.world.lure
        return "stowed" if lure is None else lure.state.value

    @property
    def shots(self) -> list[Shot]:
        """All shots so far."""
        return self.head.world.shots

    @property
    def scripted(self) -> bool:
        """Whether a scripted angler fishes."""
        return self.head.world.scripted

    def close(self) -> None:
        """Nothing to let go of."""


class RecordedWater:
    """A recording that plays. A shorter Reach is a crop of it; what it was recorded with cannot be changed."""

    source = "recorded"
    processor_lag_s = 0.0
    lure = "stowed"
    scripted = False

    def __init__(self, reader: RecordingReader, *, title: str) -> None:
        self.name = "recording"
        self.title = title
        self.head = RecordedHead(reader)
        setup = self.head.setup
        self._farthest_m = min(max(float(setup.range_m[-1]) + setup.bin_m / 2.0, REACH_M[0]), REACH_M[1])
        self._pose = reader.ping(0).pose
        whole = min(max(self._farthest_m + self._pose.z_m, DOWN_TO_M[0]), DOWN_TO_M[1])
        # Down to the bottom where the first pings show one.
        found = auto_down_to([reader.ping(number) for number in range(min(FIRST_PINGS, len(reader)))])
        self._window = Window(down_to_m=whole if found is None else found.value, reach_m=self._farthest_m, look_back_m=0.6)

    @property
    def window(self) -> Window:
        """What of a ping the picture shows."""
        return self._window

    @property
    def look(self) -> Look:
        """How the fan stood when it was recorded."""
        setup = self.head.setup
        return Look(
            fan=setup.fan,
            tilt_rad=self._pose.tilt_rad,
            fan_rad=float(setup.beam_angle_rad[-1] - setup.beam_angle_rad[0]) + setup.beam_step_rad,
            thickness_rad=setup.thickness_rad,
            depth_m=self._pose.z_m,
            farthest_m=float(setup.range_m[-1]) + setup.bin_m / 2.0,
        )

    def listen(self, time_s: float) -> Ping | None:
        """Return the ping that the recording has at a time [s], if one came since the last."""
        return self.head.listen(time_s)

    def rows(self) -> list[TruthRow] | None:
        """Nobody knows what was really there."""
        return None

    def values(self) -> dict[str, Any]:
        """Return the controls as they were, and the crop, in the edge's names."""
        setup = self.head.setup
        return {
            "fan": setup.fan.value,
            "tilt_deg": round(math.degrees(self._pose.tilt_rad), 1),
            "aim_deg": 0.0,
            "sound_speed_ft_s": round(setup.sound_speed_m_s / 0.3048),
            "steady": 0,
            **window_values(self._window),
        }

    def change(self, values: Mapping[str, Any]) -> None:
        """Crop; anything else that shapes the ping is refused with the reason."""
        for name in values:
            if name not in CROPS:
                raise DomainError(
                    f"{name.rpartition('_')[0] or name} cannot be changed: this is a recording, and its pings are made already"
                )
        wanted = checked_window(apply_window(self._window, values))
        if wanted.reach_m > self._farthest_m + 0.05:
            raise DomainError(
                f"reach_ft is {wanted.reach_m / 0.3048:.0f} ft: it must be at most {self._farthest_m / 0.3048:.0f} ft, as far as was recorded"
            )
        self._window = wanted

    def hand(self, message: Mapping[str, Any], time_s: float) -> None:
        """There is no rod."""
        raise DomainError("this is a recording: there is no rod in it")

    def outlines(self) -> list[Outline]:
        """Nobody knows what stands there."""
        return []

    @property
    def shots(self) -> list[Shot]:
        """No shots."""
        return []

    def close(self) -> None:
        """Close the file."""
        self.head.close()


def meters_of(message: Mapping[str, Any], name: str, low: float, high: float) -> float:
    """Return a length [m] of a command; raise DomainError naming it where it is not one, or not from `low` to `high`."""
    try:
        value = float(message.get(name, 0.0))
    except (TypeError, ValueError):
        raise DomainError(f"{name} is {str(message.get(name))[:30]}: it must be {low:g} to {high:g} m") from None
    if not low <= value <= high:
        raise DomainError(f"{name} is {value:g} m: it must be {low:g} to {high:g} m")
    return value
