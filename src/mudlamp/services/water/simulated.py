"""Simulated water: a scene that lives, with its truth and an angler's hands."""

import math
from collections.abc import Sequence

from mudlamp.core.hand import HandEvent
from mudlamp.core.ping import Ping
from mudlamp.core.scene.model import Scene
from mudlamp.core.scene.shots import Shot
from mudlamp.core.scene.truth import TruthRow
from mudlamp.core.setup import Setting
from mudlamp.core.sonar.transducer import Acquisition, changed
from mudlamp.core.tracking.classes import Priors
from mudlamp.core.units import OUNCE_KG
from mudlamp.heads.simulated import SimulatedHead
from mudlamp.services.water.hands import Bail, Hand, Lift, Reel, ShowMe, ThrowAt, Tie
from mudlamp.services.water.role import FanLook, Outline

# So long the scripted angler shows how it is done [s].
SHOW_S = 600.0


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
    def acquisition(self) -> Acquisition:
        """The controls of the transducer, and the window that the pings cover."""
        return self.head.acquisition

    @property
    def look(self) -> FanLook:
        """How the fan stands now."""
        profile, acquisition, depth = self.head.world.profile, self.head.acquisition, self.scene.transducer.depth_m
        return FanLook(
            fan=acquisition.fan,
            tilt_rad=acquisition.tilt_rad,
            fan_rad=profile.fan_rad,
            thickness_rad=profile.thickness_rad,
            depth_m=depth,
            farthest_m=acquisition.window.farthest_m(depth),
        )

    def listen(self, time_s: float) -> Ping | None:
        """Return the ping heard at a time [s]; the scripted angler rests after a while."""
        if self.scripted and time_s > self._script_rest_s:
            self.head.world.scripted = False
        return self.head.listen(time_s)

    def rows(self) -> list[TruthRow] | None:
        """Return what was really there at the last ping."""
        return self.head.rows()

    def change(self, settings: Sequence[Setting]) -> None:
        """Set controls of the transducer and the window."""
        self.head.set_acquisition(changed(self.head.acquisition, settings, self.head.world.profile))

    def done(self) -> list[HandEvent]:
        """Return what the angler's hand did since this was asked last."""
        return self.head.world.hand()

    def hand(self, hand: Hand, time_s: float) -> None:
        """Do what an angler's hand does: the first touch takes the rod from the scripted angler."""
        world = self.head.world
        if isinstance(hand, ShowMe):
            world.scripted = True
            self._script_rest_s = time_s + SHOW_S
            return
        world.scripted = False
        match hand:
            case ThrowAt(ahead_m=ahead, across_m=across):
                pose = world.pose(self.head.acquisition)
                east, north = math.sin(pose.heading_rad), math.cos(pose.heading_rad)
                world.throw(pose.x_m + ahead * east + across * north, pose.y_m + ahead * north - across * east)
            case Bail():
                world.open_bail()
            case Reel(on=on):
                world.reel(on)
            case Lift(by_m=by_m):
                world.lift(by_m)
            case Tie(head_oz=head_oz):
                world.tie(head_oz * OUNCE_KG)

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
    def priors(self) -> Priors:
        """What the water's temperature makes likelier."""
        return Priors.of(temperature_degc=self.scene.water.temperature_degc)

    @property
    def temperature_degc(self) -> float:
        """How warm the water is [deg C]."""
        return self.scene.water.temperature_degc

    @property
    def lure(self) -> str:
        """What the lure is doing, in a word."""
        lure = self.head.world.lure
        return "stowed" if lure is None else lure.state.value

    @property
    def head_kg(self) -> float:
        """The weight of the lure's head [kg]."""
        lure = self.head.world.lure
        return 0.0 if lure is None else lure.head_kg

    @property
    def lure_mark_db(self) -> float | None:
        """The target strength of the strongest part of the lure tied on [dB re 1 m^2], or None without one."""
        lure = self.head.world.lure
        return None if lure is None else lure.tackle.mark_db

    @property
    def shots(self) -> list[Shot]:
        """All shots so far."""
        return self.head.world.shots

    def thrown_m(self, shot: Shot) -> float:
        """Return how far from the transducer a shot went [m]."""
        pose = self.head.world.pose(self.head.acquisition)
        return math.hypot(shot.x_m - pose.x_m, shot.y_m - pose.y_m)

    @property
    def scripted(self) -> bool:
        """Whether a scripted angler fishes."""
        return self.head.world.scripted

    def close(self) -> None:
        """Nothing to let go of."""
