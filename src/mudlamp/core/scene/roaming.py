"""Schools of a large water as they mill about, and what a boat that idles over them does to them.

A school's move is a closed form of when and how it was last disturbed, so that only schools that can be heard are ever worked out.
Source of the rules: an assumption, marked so on the page: driven over, a school less than 10 ft under the boat scatters, one at 10 to 20 ft
slides off and gathers again, a deeper one mostly holds.
"""

import math
from dataclasses import dataclass

import numpy as np

from mudlamp.core.arrays import FloatArray
from mudlamp.core.chance import stream
from mudlamp.core.scene.bait import Cloud
from mudlamp.core.scene.reach import Reach, SchoolPlan
from mudlamp.core.scene.species import Bodies, bodies_of, bodies_scatterers
from mudlamp.core.units import FOOT_M

SCATTERS_M = 10.0 * FOOT_M
SLIDES_M = 20.0 * FOOT_M
SLIDE_M = (20.0 * FOOT_M, 50.0 * FOOT_M)
GATHERS_S = (600.0, 1800.0)
# How near the boat must pass beside the middle of a school [m] for it to be driven over, besides the school's own spread.
OVER_M = 3.0
# How fast a school slides off [m/s], how much wider it is when scattered, how often of the deep ones one slides all the same (ours).
SLIDE_M_S = 0.7
SCATTERED = 5.0
SLID = 1.3
DEEP_MINDS = 0.1
# Fish mill about their own places: amplitude in their school's spread, and rates [rad/s] (ours).
MILLING = 0.12
RATES_RAD_S = (0.05, 0.25)


@dataclass(frozen=True, slots=True, kw_only=True)
class Gone:
    """How far a school is from its home [m], and how much wider than there."""

    off_m: tuple[float, float]
    wider: float


AT_HOME = Gone(off_m=(0.0, 0.0), wider=1.0)


@dataclass(frozen=True, slots=True, kw_only=True)
class Disturbed:
    """How a school was disturbed: when [s], how far gone it was then, where to it slides, when it is home again [s]."""

    since_s: float
    before: Gone
    away: Gone
    home_again_s: float

    def gone(self, time_s: float) -> Gone:
        """Return how far gone the school is at a time [s]: it slides off, stays for half of the time, and drifts back in the other."""
        since = time_s - self.since_s
        out_s = max(math.dist(self.away.off_m, self.before.off_m) / SLIDE_M_S, 8.0)
        if since <= 0.0:
            return self.before
        if since < out_s:
            return _between(self.before, self.away, since / out_s)
        left = (self.home_again_s - time_s) / max(0.5 * (self.home_again_s - self.since_s), 1.0)
        return _between(AT_HOME, self.away, min(max(left, 0.0), 1.0))


def _between(one: Gone, other: Gone, share: float) -> Gone:
    """Return what lies by a share of the way from one to the other."""
    x, y = (a + share * (b - a) for a, b in zip(one.off_m, other.off_m, strict=True))
    return Gone(off_m=(x, y), wider=one.wider + share * (other.wider - one.wider))


class School:
    """A school that mills about; where its fish are at any time follows from the seed and from how it was disturbed last."""

    def __init__(self, number: int, plan: SchoolPlan, rng: np.random.Generator) -> None:
        self.number = number
        self.plan = plan
        n = plan.count
        spot = rng.normal(0.0, 1.0, (n, 3))
        spot /= np.maximum(np.linalg.norm(spot, axis=1, keepdims=True), 1e-6)
        scale = np.array([plan.spread_m, plan.spread_m, plan.rise_m])
        self._spot: FloatArray = spot * rng.random((n, 1)) ** (1.0 / 3.0) * scale
        self._rate: FloatArray = rng.uniform(*RATES_RAD_S, (n, 3))
        self._turn: FloatArray = rng.uniform(0.0, 2.0 * math.pi, (n, 3))
        self._swing: FloatArray = MILLING * np.maximum(scale, 0.15)
        self._facing: FloatArray = rng.uniform(-math.pi, math.pi, n)
        self.length_m: FloatArray = rng.uniform(plan.shortest_m, plan.longest_m, n)
        self.phase_rad: FloatArray = rng.uniform(0.0, 2.0 * math.pi, (n, 9))
        self._rng = rng
        self.disturbed: Disturbed | None = None

    def middle_m(self, time_s: float) -> FloatArray:
        """Return the middle of the school (3,) [m]."""
        off = self._gone(time_s).off_m
        return np.array([self.plan.x_m + off[0], self.plan.y_m + off[1], self.plan.z_m])

    def _gone(self, time_s: float) -> Gone:
        return AT_HOME if self.disturbed is None else self.disturbed.gone(time_s)

    def places_m(self, time_s: float) -> FloatArray:
        """Return where its fish are (N, 3) [m]."""
        wider = self._gone(time_s).wider
        spot = self._spot * [wider, wider, 1.0] + self._swing * np.sin(self._rate * time_s + self._turn)
        places = self.middle_m(time_s) + spot
        places[:, 2] = np.maximum(places[:, 2], 0.3)
        return np.asarray(places, dtype=np.float64)

    def headings_rad(self, time_s: float) -> FloatArray:
        """Return where its fish head (N,) [rad]: each swings slowly about its own bearing."""
        return self._facing + 0.5 * np.sin(0.5 * self._rate[:, 0] * time_s + self._turn[:, 0])

    def tail_sway(self, time_s: float) -> FloatArray:
        """Return where their tails are in a lazy beat (N,), -1 to 1."""
        return 0.25 * np.sin(2.0 * math.pi * 0.6 * time_s + self._turn[:, 1])

    @property
    def widest_m(self) -> float:
        """How far from its home any of its fish can be [m]."""
        found = self.disturbed
        gone = 0.0 if found is None else max(math.hypot(*one.off_m) for one in (found.before, found.away)) + SCATTERED * self.plan.spread_m
        return self.plan.spread_m * (1.0 + MILLING) + 0.3 + gone

    def feel(self, boat_m: tuple[float, float], time_s: float) -> None:
        """A boat idles over a place [m]: a school under it scatters, slides or holds, by how deep it is."""
        if self.disturbed is not None and time_s - self.disturbed.since_s < 60.0:
            return
        middle = self.middle_m(time_s)
        off = (float(middle[0]) - boat_m[0], float(middle[1]) - boat_m[1])
        if math.hypot(*off) > OVER_M + self.plan.spread_m:
            return
        depth, minds = self.plan.z_m, float(self._rng.random())
        if depth >= SLIDES_M and minds > DEEP_MINDS:
            return
        # Away from the boat, or anywhere from right under it.
        bearing = math.atan2(off[0], off[1]) + float(self._rng.normal(0.0, 0.5))
        away = float(self._rng.uniform(*SLIDE_M))
        self.disturbed = Disturbed(
            since_s=time_s,
            before=self._gone(time_s),
            away=Gone(off_m=(away * math.sin(bearing), away * math.cos(bearing)), wider=SCATTERED if depth < SCATTERS_M else SLID),
            home_again_s=time_s + float(self._rng.uniform(*GATHERS_S)),
        )


@dataclass(frozen=True, slots=True, kw_only=True)
class Heard:
    """Scatterers that can be heard: (N, 3) places [m], (N,) amplitudes [m] and phases [rad]."""

    position_m: FloatArray
    amplitude: FloatArray
    phase_rad: FloatArray


class Roaming:
    """All that swims in a reach of water."""

    def __init__(self, reach: Reach) -> None:
        self.reach = reach
        self.schools = [School(i, plan, stream(reach.seed, "school", i)) for i, plan in enumerate(reach.schools)]
        self.clouds = [Cloud(f"bait{i + 1}", plan, stream(reach.seed, "bait", i)) for i, plan in enumerate(reach.bait)]
        self._homes = np.array([(one.x_m, one.y_m) for one in reach.schools]).reshape(-1, 2)
        self._baits = np.array([(one.x_m, one.y_m) for one in reach.bait]).reshape(-1, 2)
        self._bodies: dict[int, Bodies] = {}

    def near(self, x_m: float, y_m: float, within_m: float) -> list[School]:
        """Return the schools that have fish within a distance [m] of a place [m]."""
        away = np.hypot(self._homes[:, 0] - x_m, self._homes[:, 1] - y_m)
        return [self.schools[i] for i in np.flatnonzero(away < within_m + 40.0) if away[i] < within_m + self.schools[i].widest_m]

    def feel(self, boat_m: tuple[float, float], time_s: float) -> None:
        """The boat is at a place [m]: the schools under it mind."""
        for school in self.near(*boat_m, OVER_M):
            school.feel(boat_m, time_s)

    def heard(self, origin_m: FloatArray, time_s: float, *, within_m: float, carrier_hz: float) -> Heard:
        """Return the scatterers of all fish and bait within a distance [m] of a transducer (3,) [m], at a carrier [Hz]."""
        position, amplitude, phase = [np.zeros((0, 3))], [np.zeros(0)], [np.zeros(0)]
        for school in self.near(float(origin_m[0]), float(origin_m[1]), within_m):
            found, strength = self._school(school, origin_m, time_s, carrier_hz)
            position.append(found)
            amplitude.append(strength)
            phase.append(school.phase_rad.ravel())
        away = np.hypot(self._baits[:, 0] - origin_m[0], self._baits[:, 1] - origin_m[1])
        for i in np.flatnonzero(away < within_m + 4.0):
            cloud = self.clouds[i]
            position.append(cloud.places_m(time_s))
            amplitude.append(cloud.amplitude)
            phase.append(cloud.phase_rad)
        return Heard(position_m=np.concatenate(position), amplitude=np.concatenate(amplitude), phase_rad=np.concatenate(phase))

    def _school(self, school: School, origin_m: FloatArray, time_s: float, carrier_hz: float) -> tuple[FloatArray, FloatArray]:
        if school.number not in self._bodies:
            self._bodies[school.number] = bodies_of(
                [(school.plan.species, float(length)) for length in school.length_m], carrier_hz=carrier_hz
            )
        place, heading = school.places_m(time_s), school.headings_rad(time_s)
        axis = np.column_stack((np.sin(heading), np.cos(heading), np.zeros(len(heading))))
        sight = place - origin_m
        position, amplitude = bodies_scatterers(
            self._bodies[school.number],
            position_m=place,
            axis=axis,
            sideways=np.column_stack((axis[:, 1], -axis[:, 0], axis[:, 2])),
            sight=sight / np.maximum(np.linalg.norm(sight, axis=1, keepdims=True), 1e-6),
            tail_sway=school.tail_sway(time_s),
        )
        return position.reshape(-1, 3), amplitude.ravel()
