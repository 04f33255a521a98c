"""The simulated head: a world, a transducer, a ping whenever it is asked. Truth is handed out by another door."""

import math

import numpy as np

from mudlamp.core.chance import stream
from mudlamp.core.ping import Ping, Pose
from mudlamp.core.reactions import ReactionEvent
from mudlamp.core.scene.model import Scene
from mudlamp.core.scene.truth import SideWatch, TruthRow, truth_rows
from mudlamp.core.scene.world import World, first_acquisition
from mudlamp.core.sonar.interference import Disturbance
from mudlamp.core.sonar.scatterers import Scatterers
from mudlamp.core.sonar.synthesis import Synthesizer, WaterBody
from mudlamp.core.sonar.transducer import Acquisition, checked


class SimulatedHead:
    """Pings a simulated world. Seeded; no thread, clock or sleep of its own."""

    def __init__(
        self, scene: Scene, *, seed: int, acquisition: Acquisition | None = None, scripted: bool = True, ping_hz: float | None = None
    ) -> None:
        """Make a head; `ping_hz` is how often the sounder pings, where that is known (else the scene says, or it waits for its echoes)."""
        self.world = World(scene, seed=seed, scripted=scripted)
        self.acquisition = checked(acquisition or first_acquisition(scene))
        self._seed = seed
        self._changes = 0
        self._ping_hz = ping_hz or scene.transducer.ping_hz
        self._scatterers = Scatterers()
        self._synthesizer = self._make_synthesizer()
        self._number = 0
        self._last: Ping | None = None
        self._pose = self.world.pose(self.acquisition)
        self._sides = SideWatch()

    def _make_synthesizer(self) -> Synthesizer:
        scene = self.world.scene
        water = WaterBody(
            temperature_degc=scene.water.temperature_degc,
            secchi_m=scene.water.secchi_m,
            wind_m_s=scene.water.wind_m_s if scene.surface else None,
            noise=scene.noise,
            thermocline=scene.water.thermocline,
        )
        return Synthesizer(
            profile=self.world.profile,
            acquisition=self.acquisition,
            water=water,
            ground=self.world.ground,
            depth_m=scene.transducer.depth_m,
            rng=stream(self._seed, "noise", self._changes),
            disturbance=Disturbance(
                other=scene.faults.other_sonar,
                console=scene.faults.console,
                thrust=scene.faults.thrust,
                supply_v=scene.faults.supply_v,
            ),
            interval_s=None if self._ping_hz is None else 1.0 / self._ping_hz,
        )

    @property
    def scatterers(self) -> int:
        """How many scatterers in the fan the last ping was made of."""
        return self._synthesizer.lit

    def set_acquisition(self, acquisition: Acquisition) -> None:
        """Ping differently from the next ping on; raise DomainError where a control is out of range."""
        if acquisition != self.acquisition:
            self.acquisition = checked(acquisition)
            self._changes += 1
            self._synthesizer = self._make_synthesizer()

    def listen(self, time_s: float) -> Ping:
        """Let the world live on until a time [s] and return the ping heard then."""
        self.world.advance(time_s)
        pose, told = self.world.poses(self.acquisition)
        scatterers, synthesizer = self._scatterers, self._synthesizer
        self.world.fill(scatterers, pose)
        synthesizer.add_bottom(scatterers, pose)
        synthesizer.hide(scatterers, pose)
        self._shade(pose)
        synthesizer.add_bounces(scatterers, pose)
        synthesizer.thrust = self.world.thrust
        self._pose = pose
        self._last = synthesizer.ping(scatterers, pose=pose, told=told, number=self._number, time_s=time_s)
        self._number += 1
        return self._last

    def _shade(self, pose: Pose) -> None:
        """Weaken what stands behind cover, the bottom too."""
        shades = self.world.shades
        if not shades.count:
            return
        origin = np.array([pose.x_m, pose.y_m, pose.z_m])
        columns = shades.near(
            origin_m=origin,
            normal=self._synthesizer.fan_axes(pose).normal,
            farthest_m=self._synthesizer.farthest_m,
            sin_across=math.sin(self.world.profile.thickness_rad),
        )
        self._synthesizer.posts = columns
        shades.weaken(self._scatterers, columns, origin, first=0, last=self._scatterers.count)

    def rows(self) -> list[TruthRow]:
        """Return what was really there at the last ping."""
        if self._last is None:
            return []
        rows = truth_rows(self.world, self._synthesizer, self._scatterers, pose=self._pose)
        return self._sides.watched(rows, self._synthesizer.fan_axes(self._pose).normal)

    def truth(self) -> tuple[list[TruthRow], list[ReactionEvent]]:
        """Return what was really there at the last ping, and the reactions fulfilled since the one before."""
        if self._last is None:
            return [], []
        return self.rows(), self.world.judge(self._pose, self.acquisition.fan)
