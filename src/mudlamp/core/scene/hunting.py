"""Hunters and bait: a big fish stalks a cloud, shoots through it, and goes home."""

import numpy as np

from mudlamp.core.arrays import FloatArray
from mudlamp.core.scene.bait import Cloud
from mudlamp.core.scene.fish import Fish, Mode
from mudlamp.core.scene.species import Species

HUNTERS = frozenset({Species.LARGEMOUTH, Species.GAR})
# A hunter this near to a cloud's middle [m] may hunt it, the readiest so often [1/s], and none within so long of the last [s].
HUNT_M = 4.0
HUNT_HZ = 0.05
PAUSE_S = 20.0


class Hunt:
    """All hunting in a water. What hunts, when, is drawn from a stream of its own: the fish's own chances stay as they are."""

    def __init__(self, clouds: list[Cloud], fish: list[Fish], rng: np.random.Generator) -> None:
        self._clouds = clouds
        self._hunters = [one for one in fish if one.species in HUNTERS] if clouds else []
        self._rng = rng
        self._next_s = [0.0] * len(clouds)

    def step(self, *, time_s: float, dt_s: float) -> None:
        """Let hunters hunt and clouds mind them for one time step."""
        if not self._hunters:
            return
        for i, cloud in enumerate(self._clouds):
            self._start(i, cloud.center_m(time_s), time_s, dt_s)
            # Bait is used to a big fish that swims its round nearby: it minds one that comes for it.
            hunting = [one for one in self._hunters if one.mode in (Mode.STALK, Mode.CHARGE)]
            places = np.array([one.position_m for one in hunting]).reshape(-1, 3)
            charging = np.array([one.mode is Mode.CHARGE for one in hunting], dtype=bool)
            cloud.step(time_s=time_s, dt_s=dt_s, hunters_m=places, charging=charging)

    def _start(self, number: int, center_m: FloatArray, time_s: float, dt_s: float) -> None:
        if time_s < self._next_s[number]:
            return
        for hunter in self._hunters:
            near = float(np.linalg.norm(hunter.position_m - center_m)) < HUNT_M
            if near and hunter.mode is Mode.HOLD and self._rng.random() < HUNT_HZ * hunter.mood * dt_s:
                hunter.hunt(self._clouds[number], time_s)
                self._next_s[number] = time_s + PAUSE_S
                return
