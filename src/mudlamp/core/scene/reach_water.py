"""A reach of water as sonar meets it: fish, bait, cover and posts near a transducer, and nothing farther off."""

import numpy as np

from mudlamp.core.arrays import FloatArray
from mudlamp.core.chance import stream
from mudlamp.core.scene import _kernels
from mudlamp.core.scene.cover import Built, build_cover
from mudlamp.core.scene.model import Boulders, Cover, Float, Wall, Weeds
from mudlamp.core.scene.reach import Reach
from mudlamp.core.scene.roaming import Roaming
from mudlamp.core.scene.shadow import Shades
from mudlamp.core.sonar.console import Points
from mudlamp.core.vectors import length

# How far the boat may move before it is looked up anew which cover is near [m].
LOOK_UP_M = 4.0
CARRIER_HZ = 455e3


def size_m(cover: Cover) -> float:
    """Return how far a piece of cover reaches from its middle [m], at most."""
    match cover:
        case Weeds(radius_m=radius):
            return 1.3 * radius
        case Boulders(length_m=long, width_m=wide) | Float(length_m=long, width_m=wide):
            return 0.5 * (long + wide) + 1.0
        case Wall(length_m=long):
            return 0.5 * long + 0.5
        case _:
            return 2.5


class ReachWater:
    """A reach with all that is in it. Cover is built when the boat first comes near it, and is the same whenever that is."""

    def __init__(self, reach: Reach) -> None:
        self.reach = reach
        self.roaming = Roaming(reach)
        self._middles = np.array([(one.x_m, one.y_m) for one in reach.cover]).reshape(-1, 2)
        self._sizes = np.array([size_m(one) for one in reach.cover])
        self._built: dict[int, Built] = {}
        self._looked_up: FloatArray | None = None
        self._within_m = 0.0
        self._standing = _together([])
        self._posts: FloatArray = np.zeros((7, 0))

    def cover_near(self, x_m: float, y_m: float, within_m: float) -> list[int]:
        """Return the numbers of the cover within a distance [m] of a place [m]."""
        away = np.hypot(self._middles[:, 0] - x_m, self._middles[:, 1] - y_m)
        return [int(i) for i in np.flatnonzero(away < within_m + self._sizes)]

    def built(self, number: int) -> Built:
        """Return a piece of cover, built."""
        if number not in self._built:
            rng = stream(self.reach.seed, "cover", number)
            self._built[number] = build_cover(self.reach.cover[number], depth_at=self.reach.survey.depth_at, rng=rng)
        return self._built[number]

    def _look_up(self, origin_m: FloatArray, within_m: float) -> None:
        last = self._looked_up
        if last is not None and within_m <= self._within_m and length(origin_m[:2] - last) < LOOK_UP_M:
            return
        near = [self.built(i) for i in self.cover_near(float(origin_m[0]), float(origin_m[1]), within_m + LOOK_UP_M)]
        self._looked_up, self._within_m = origin_m[:2].copy(), within_m
        self._standing = _together(near)
        self._posts = Shades([shade for one in near for shade in one.shades]).columns

    def hear(self, origin_m: FloatArray, time_s: float, *, within_m: float) -> tuple[Points, FloatArray]:
        """Return the points that a transducer (3,) [m] could hear within a distance [m], and the posts (7, N) that shade there."""
        self._look_up(origin_m, within_m)
        standing = self._standing
        turned = np.empty(len(standing.amplitude))
        x, y, z = (np.ascontiguousarray(standing.position_m[:, i]) for i in range(3))
        _kernels.turned(x, y, z, standing.amplitude, standing.facing, standing.stick, origin_m, turned)
        heard = self.roaming.heard(origin_m, time_s, within_m=within_m, carrier_hz=CARRIER_HZ)
        fish = heard.position_m
        points = Points(
            x=np.concatenate((x, fish[:, 0])),
            y=np.concatenate((y, fish[:, 1])),
            z=np.concatenate((z, fish[:, 2])),
            amplitude=np.concatenate((turned, heard.amplitude)),
            phase=np.concatenate((standing.phase_rad, heard.phase_rad)),
        )
        return points, self._posts


def _together(built: list[Built]) -> Built:
    """Return pieces of cover as one."""
    return Built(
        position_m=np.concatenate([np.zeros((0, 3)), *(one.position_m for one in built)]),
        amplitude=np.concatenate([np.zeros(0), *(one.amplitude for one in built)]),
        phase_rad=np.concatenate([np.zeros(0), *(one.phase_rad for one in built)]),
        shades=tuple(shade for one in built for shade in one.shades),
        facing=np.concatenate([np.zeros((0, 3)), *(one.facing for one in built)]),
        stick=np.concatenate([np.zeros(0, dtype=bool), *(one.stick for one in built)]),
    )
