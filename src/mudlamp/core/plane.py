"""The fan's plane: the one place where range and beam angle become ahead and down (or, lying flat, ahead and right), and back.

A standing fan (Ahead, Below) looks, at beam angle a, along sin(tilt - a) ahead and cos(tilt - a) down. A flat fan is drawn and tracked
from above: cos(a) sin(tilt) ahead and sin(a) to the right. Source: plain geometry of the fan's axes (`core/sonar/transducer.py`), pitch
added to the tilt where it is known. The page's two functions (`static/js/lamp/plane.js`) are held to
these by a table of cases.
"""

import math
from dataclasses import dataclass

import numpy as np

from mudlamp.core.arrays import BoolArray, FloatArray, IntArray
from mudlamp.core.ping import Fan, Ping, Pose, SonarSetup
from mudlamp.core.setup import Window

# A flat fan nearer to plumb than this is taken to be so [rad]: straight down it shows no plan.
LEAST_FLAT_RAD = 0.05

Place = tuple[float, float]
Point = tuple[float, float, float]


@dataclass(frozen=True, slots=True, kw_only=True)
class FanPlane:
    """A fan's plane as seen from the boat: `tilt_rad` from plumb toward the bow, `depth_m` of the transducer."""

    fan: Fan
    tilt_rad: float
    depth_m: float

    @classmethod
    def of(cls, ping: Ping) -> "FanPlane":
        """Return the plane that a ping was heard in, its pitch included."""
        pose = ping.pose
        tilt = pose.tilt_rad if ping.setup.fan is Fan.FLAT else pose.tilt_rad + pose.pitch_rad
        return cls(fan=ping.setup.fan, tilt_rad=tilt, depth_m=pose.z_m)

    @classmethod
    def drawn(cls, ping: Ping) -> "FanPlane":
        """Return the plane that a ping is drawn in: a unit knows its tilt and not how the boat pitches."""
        return cls(fan=ping.setup.fan, tilt_rad=ping.pose.tilt_rad, depth_m=ping.pose.z_m)

    @property
    def is_flat(self) -> bool:
        """Whether the fan lies on its side: its plane is a plan."""
        return self.fan is Fan.FLAT

    @property
    def _shortened(self) -> float:
        """How far ahead a meter of range along a flat fan's center line goes."""
        return math.sin(max(self.tilt_rad, LEAST_FLAT_RAD))

    def shares(self, angle_rad: FloatArray) -> tuple[FloatArray, FloatArray]:
        """Return how far ahead, and down (or right), a meter of range goes at beam angles (N,) [rad]: (N,) each."""
        if self.is_flat:
            return np.cos(angle_rad) * self._shortened, np.sin(angle_rad)
        look = self.tilt_rad - angle_rad
        return np.sin(look), np.cos(look)

    def place(self, range_m: FloatArray, angle_rad: FloatArray) -> tuple[FloatArray, FloatArray]:
        """Return where ranges [m] at beam angles [rad] are: ahead, and under the surface (or to the right) [m]; shapes broadcast."""
        ahead, other = self.shares(angle_rad)
        return range_m * ahead, range_m * other + (0.0 if self.is_flat else self.depth_m)

    def polar(self, ahead_m: FloatArray, other_m: FloatArray) -> tuple[FloatArray, FloatArray]:
        """Return the ranges [m] and beam angles [rad] of places: the inverse of `place`."""
        if self.is_flat:
            along_m = ahead_m / self._shortened
            return np.hypot(along_m, other_m), np.arctan2(other_m, along_m)
        down = other_m - self.depth_m
        return np.hypot(ahead_m, down), self.tilt_rad - np.arctan2(ahead_m, down)

    def depth_at(self, range_m: FloatArray, angle_rad: FloatArray) -> FloatArray:
        """Return how deep ranges [m] at beam angles [rad] are [m]."""
        if self.is_flat:
            return np.asarray(self.depth_m + range_m * np.cos(angle_rad) * math.cos(self.tilt_rad), dtype=np.float64)
        return self.place(range_m, angle_rad)[1]

    def inside(self, range_m: FloatArray, angle_rad: FloatArray, window: Window) -> BoolArray:
        """Return which ranges [m] at beam angles [rad] a window shows: all that is drawn; shapes broadcast."""
        ahead = self.place(range_m, angle_rad)[0]
        down = self.depth_at(range_m, angle_rad)
        shown = (ahead >= -window.look_back_m) & (ahead <= window.reach_m) & (down <= window.down_to_m)
        return shown & (range_m <= window.farthest_m(self.depth_m))


def cells_of(setup: SonarSetup, range_m: FloatArray | np.float64, angle_rad: FloatArray | np.float64) -> tuple[IntArray, IntArray]:
    """Return the (beam, range_bin) numbers of the cells nearest to ranges [m] and beam angles [rad]; outside the ping they run on."""
    beam = np.rint((angle_rad - setup.beam_angle_rad[0]) / setup.beam_step_rad).astype(np.int64)
    bin_ = np.rint((range_m - setup.range_m[0]) / setup.bin_m).astype(np.int64)
    return beam, bin_


class Travel:
    """How far a boat has come along the way that it heads, from pose to pose: who turns in place goes nowhere."""

    def __init__(self) -> None:
        self._last: Pose | None = None
        self._along_m = 0.0

    def to(self, pose: Pose) -> float:
        """Return how far along it is at a pose [m]; at the first one as far as it lies from the world's origin along its heading.

        A pose that does not say where it is or looks is passed over: one of them must not spoil all that come after.
        """
        last = self._last
        if not (math.isfinite(pose.x_m) and math.isfinite(pose.y_m) and math.isfinite(pose.heading_rad)):
            return self._along_m
        east, north = (pose.x_m, pose.y_m) if last is None else (pose.x_m - last.x_m, pose.y_m - last.y_m)
        self._along_m += east * math.sin(pose.heading_rad) + north * math.cos(pose.heading_rad)
        self._last = pose
        return self._along_m


class GroundPlane:
    """The fan's plane fixed to the ground, so that a boat that moves does not move the fish.

    Places in it are (along the heading, depth) for a standing fan, (east, north) for a flat one [m]. Along the heading counts from the
    world's origin, or, over several pings, so that the boat is `along_m` along its way: else a boat far from the origin that turns in place
    would seem to rush along.
    """

    def __init__(self, plane: FanPlane, pose: Pose, along_m: float | None = None) -> None:
        self.plane = plane
        self._pose = pose
        self._sine, self._cosine = math.sin(pose.heading_rad), math.cos(pose.heading_rad)
        self._along_m = pose.x_m * self._sine + pose.y_m * self._cosine if along_m is None else along_m
        self.origin: Place = (pose.x_m, pose.y_m) if plane.is_flat else (self._along_m, pose.z_m)

    @classmethod
    def of(cls, ping: Ping, along_m: float | None = None) -> "GroundPlane":
        """Return the plane of a ping."""
        return cls(FanPlane.of(ping), ping.pose, along_m)

    def directions(self, angle_rad: FloatArray) -> tuple[FloatArray, FloatArray]:
        """Return the directions in the plane of beam angles (N,) [rad], a meter of range long each."""
        ahead, other = self.plane.shares(angle_rad)
        if not self.plane.is_flat:
            return ahead, other
        return ahead * self._sine + other * self._cosine, ahead * self._cosine - other * self._sine

    def project(self, x_m: float, y_m: float, z_m: float) -> Place:
        """Return the place in the plane of a place in the world [m]."""
        if self.plane.is_flat:
            return x_m, y_m
        return self._along_m + (x_m - self._pose.x_m) * self._sine + (y_m - self._pose.y_m) * self._cosine, z_m

    def aimed(self, ahead_m: float, across_m: float) -> Place:
        """Return the place in the plane that a throw so far ahead of the bow and to the right [m] lands at: for a standing fan, (along, surface)."""
        if not self.plane.is_flat:
            return self.origin[0] + ahead_m, 0.0
        east = ahead_m * self._sine + across_m * self._cosine
        return self.origin[0] + east, self.origin[1] + ahead_m * self._cosine - across_m * self._sine

    def point(self, place: Place) -> Point:
        """Return a place in the plane as a point to be judged: (along, 0, depth) for a standing fan, (east, north, 0) for a flat one [m]."""
        return (place[0], place[1], 0.0) if self.plane.is_flat else (place[0], 0.0, place[1])

    @property
    def boat(self) -> Point:
        """The boat, as such a point: at the surface."""
        return self.point(self.origin if self.plane.is_flat else (self.origin[0], 0.0))

    def world(self, places: FloatArray) -> FloatArray:
        """Return the world positions (N, 3) [m] of places in the plane (N, 2), across taken as zero."""
        pose = self._pose
        first, second = places[:, 0] - self.origin[0], places[:, 1] - self.origin[1]
        if self.plane.is_flat:
            ahead = first * self._sine + second * self._cosine
            down = pose.z_m + ahead / math.tan(max(pose.tilt_rad, LEAST_FLAT_RAD))
            return np.stack((places[:, 0], places[:, 1], down), axis=1)
        return np.stack((pose.x_m + first * self._sine, pose.y_m + first * self._cosine, places[:, 1]), axis=1)

    def polar(self, places: FloatArray) -> tuple[FloatArray, FloatArray]:
        """Return the ranges [m] and beam angles [rad] of places in the plane (N, 2), (N,) each."""
        first, second = places[:, 0] - self.origin[0], places[:, 1] - self.origin[1]
        if not self.plane.is_flat:
            return self.plane.polar(first, places[:, 1])
        return self.plane.polar(first * self._sine + second * self._cosine, first * self._cosine - second * self._sine)

    def from_boat(self, place: Place) -> Place:
        """Return where a place in the plane is as the boat sees it [m]: ahead and deep, or, lying flat, ahead and to the right."""
        first, second = place[0] - self.origin[0], place[1] - self.origin[1]
        return self.turned((first, second)) if self.plane.is_flat else (first, place[1])

    def turned(self, way: Place) -> Place:
        """Return a way in the plane as the boat sees it: as it is, or, lying flat, (ahead, right) of (east, north)."""
        if not self.plane.is_flat:
            return way
        return way[0] * self._sine + way[1] * self._cosine, way[0] * self._cosine - way[1] * self._sine
