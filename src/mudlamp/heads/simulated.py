"""The simulated head: a world, a transducer, a ping whenever it is asked. Truth is handed out by another door."""

from mudlamp.core.chance import stream
from mudlamp.core.ping import Ping
from mudlamp.core.reactions import ReactionEvent
from mudlamp.core.scene.model import Scene
from mudlamp.core.scene.truth import TruthRow, truth_rows
from mudlamp.core.scene.world import World, first_acquisition
from mudlamp.core.sonar.scatterers import Scatterers
from mudlamp.core.sonar.synthesis import Synthesizer, WaterBody
from mudlamp.core.sonar.transducer import Acquisition, checked


class SimulatedHead:
    """Pings a simulated world. Seeded; no thread, clock or sleep of its own."""

    def __init__(self, scene: Scene, *, seed: int, acquisition: Acquisition | None = None, scripted: bool = True) -> None:
        self.world = World(scene, seed=seed, scripted=scripted)
        self.acquisition = checked(acquisition or first_acquisition(scene))
        self._seed = seed
        self._changes = 0
        self._scatterers = Scatterers()
        self._synthesizer = self._make_synthesizer()
        self._number = 0
        self._last: Ping | None = None

    def _make_synthesizer(self) -> Synthesizer:
        scene = self.world.scene
        water = WaterBody(
            temperature_degc=scene.water.temperature_degc,
            secchi_m=scene.water.secchi_m,
            wind_m_s=scene.water.wind_m_s if scene.surface else None,
            noise=scene.noise,
        )
        return Synthesizer(
            profile=self.world.profile,
            acquisition=self.acquisition,
            water=water,
            bottom=self.world.bottom,
            depth_m=scene.transducer.depth_m,
            rng=stream(self._seed, "noise", self._changes),
        )

    @property
    def scatterers(self) -> int:
        """How many scatterers the last ping was made of."""
        return self._scatterers.count

    def set_acquisition(self, acquisition: Acquisition) -> None:
        """Ping differently from the next ping on; raise DomainError where a control is out of range."""
        if acquisition != self.acquisition:
            self.acquisition = checked(acquisition)
            self._changes += 1
            self._synthesizer = self._make_synthesizer()

    def listen(self, time_s: float) -> Ping:
        """Let the world live on until a time [s] and return the ping heard then."""
        self.world.advance(time_s)
        pose = self.world.pose(self.acquisition)
        self.world.fill(self._scatterers, pose)
        self._synthesizer.add_bottom(self._scatterers, pose)
        self._last = self._synthesizer.ping(self._scatterers, pose=pose, number=self._number, time_s=time_s)
        self._number += 1
        return self._last

    def rows(self) -> list[TruthRow]:
        """Return what was really there at the last ping."""
        if self._last is None:
            return []
        return truth_rows(self.world, self._synthesizer, self._scatterers, pose=self._last.pose)

    def truth(self) -> tuple[list[TruthRow], list[ReactionEvent]]:
        """Return what was really there at the last ping, and the reactions fulfilled since the one before."""
        if self._last is None:
            return [], []
        return self.rows(), self.world.judge(self._last.pose, self.acquisition.fan)
