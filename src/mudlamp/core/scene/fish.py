"""A fish: its body, what it sees, and what it does about a lure or a boat.

A small machine of moods, stepped in time. Distances, speeds and chances are our own starting values; common practice for the order of things.
"""

import math
from dataclasses import dataclass
from enum import StrEnum

import numpy as np

from mudlamp.core.arrays import FloatArray
from mudlamp.core.casting.lure_on_line import Lure, LureState
from mudlamp.core.scene import _kernels_fish
from mudlamp.core.scene.bait import Cloud
from mudlamp.core.scene.species import GAITS, Gait, Species
from mudlamp.core.vectors import length


class Mode(StrEnum):
    """What a fish is about."""

    HOLD = "hold"
    LOOK = "look"
    FOLLOW = "follow"
    STRIKE = "strike"
    HOLDS_LURE = "holds_lure"
    HOOKED = "hooked"
    REFUSE = "refuse"
    BACK_OFF = "back_off"
    BOLT = "bolt"
    GLIDE = "glide"
    RETURN = "return"
    STALK = "stalk"
    CHARGE = "charge"


# A kick and the glide after it [s], how long the kick is, how fast it drives and how fast the glide dies (ours).
KICK_EVERY_S = 1.8
KICK_S = 0.45
KICK_PACE = 2.0
GLIDE_HZ = 1.1
# A fish on the line flashes: it turns to and fro by so much, so often.
FLASH_RAD = 0.6
FLASH_HZ = 2.2
TAKE_M = 0.07
BOAT_FEAR_M = 2.6
# A hunter stalks bait this slowly [lengths/s] to this far from its edge [m], for at least and at most so long [s]; then it shoots through,
# this fast [lengths/s], and on past its middle by so much [m], in at most so long [s] (ours).
STALKS_L_S, STALKS_TO_M, STALKS_S = 0.7, 0.6, (3.0, 6.0)
CHARGES_L_S, CHARGES_PAST_M, CHARGES_S = 4.0, 0.8, 3.0
HEADROOM_M = 0.25


@dataclass(frozen=True, slots=True, kw_only=True)
class Surroundings:
    """What a fish feels of the world at a moment: time and step [s], lure, boat, how far it sees [m], depth of the bottom below it [m]."""

    time_s: float
    dt_s: float
    lure: Lure | None
    boat_m: FloatArray
    sight_m: float
    bottom_m: float


class Fish:
    """One fish. `position_m` is the middle of its body; the head is half a length ahead."""

    def __init__(
        self,
        *,
        name: str,
        species: Species,
        length_m: float,
        home_m: FloatArray,
        mood: float,
        rng: np.random.Generator,
        cruise_m: float = 0.0,
        pace_m_s: float = 0.3,
    ) -> None:
        self.name = name
        self._cruise_m, self._pace_m_s = cruise_m, pace_m_s
        self.species = species
        self.length_m = length_m
        self.home_m = home_m
        self.position_m: FloatArray = home_m + rng.normal(0.0, 0.05, 3)
        self.velocity_m_s: FloatArray = np.zeros(3)
        self.heading_rad = float(rng.uniform(-math.pi, math.pi))
        self.mode = Mode.HOLD
        self.tail_phase_rad = float(rng.uniform(0.0, 2.0 * math.pi))
        self._swing = 0.25
        self._round_rad = 0.0
        self.scatter_phase_rad: FloatArray = rng.uniform(0.0, 2.0 * math.pi, 9)
        self._rng = rng
        self._mood = float(np.clip(mood + rng.normal(0.0, 0.15), 0.02, 0.98))
        self._wary = float(rng.uniform(0.0, 1.0))
        self._until_s = 0.0
        self._rested_s = 0.0
        self._flight = np.zeros(3)
        self._prey: Cloud | None = None
        self._sway_phase = rng.uniform(0.0, 2.0 * math.pi, 3)
        self._actions = {
            Mode.HOLD: self._hold,
            Mode.LOOK: self._look,
            Mode.FOLLOW: self._follow,
            Mode.STRIKE: self._strike,
            Mode.HOLDS_LURE: self._hold_lure,
            Mode.HOOKED: self._hooked,
            Mode.REFUSE: self._leave,
            Mode.BACK_OFF: self._leave,
            Mode.BOLT: self._bolt,
            Mode.GLIDE: self._glide,
            Mode.RETURN: self._return_home,
            Mode.STALK: self._stalk,
            Mode.CHARGE: self._charge,
        }

    @property
    def axis(self) -> FloatArray:
        """Unit vector from tail to head (3,)."""
        return np.array([math.sin(self.heading_rad), math.cos(self.heading_rad), 0.0])

    @property
    def head_m(self) -> FloatArray:
        """Where the head is (3,) [m]."""
        return self.position_m + 0.5 * self.length_m * self.axis

    @property
    def mood(self) -> float:
        """How ready it is to feed, 0 to 1."""
        return self._mood

    @property
    def has_lure(self) -> bool:
        """Whether the lure is in its mouth."""
        return self.mode in (Mode.HOLDS_LURE, Mode.HOOKED)

    def step(self, around: Surroundings) -> None:
        """Live on for one time step."""
        if not self.has_lure and self.mode not in (Mode.BOLT, Mode.GLIDE) and self._fears_boat(around):
            self.bolt(from_m=around.boat_m, time_s=around.time_s)
        self._actions[self.mode](around)
        deepest_m = max(around.bottom_m - 0.12, HEADROOM_M)
        self.position_m = _kernels_fish.moved(self.position_m, self.velocity_m_s, around.dt_s, HEADROOM_M, deepest_m)
        self._beat(around)

    def _beat(self, around: Surroundings) -> None:
        """Move the tail on, by speed and by kind: what glides or hangs hardly beats."""
        speed = length(self.velocity_m_s)
        resting = speed < 0.1 * self.length_m
        calm = self.mode in (Mode.HOLD, Mode.RETURN)
        gait = GAITS[self.species]
        if self.mode is Mode.GLIDE or (calm and gait is Gait.KICK and not self._kicks(around.time_s)):
            wanted, beat_hz = 0.1, 0.5
        elif resting and gait is not Gait.STEADY:
            wanted, beat_hz = 0.25, 0.6
        else:
            # Tail beat by speed in lengths per second: f = (4 / 3) (V / L + 1) (Bainbridge 1958).
            wanted, beat_hz = 1.0, min((speed / self.length_m + 1.0) / 0.75, 12.0)
        self._swing += (wanted - self._swing) * min(1.0, 6.0 * around.dt_s)
        self.tail_phase_rad += 2.0 * math.pi * beat_hz * around.dt_s

    @property
    def tail_sway(self) -> float:
        """Where the tail is in its beat, -1 (left) to 1 (right)."""
        return self._swing * math.sin(self.tail_phase_rad)

    def _kicks(self, time_s: float) -> bool:
        return math.fmod(time_s + self._sway_phase[2], KICK_EVERY_S) < KICK_S

    def _stride(self, time_s: float) -> float:
        """Return how fast it goes along its round by its mean pace: even, or by kick and glide."""
        if GAITS[self.species] is not Gait.KICK:
            return 1.0
        since = math.fmod(time_s + self._sway_phase[2], KICK_EVERY_S) - KICK_S
        return KICK_PACE if since < 0.0 else KICK_PACE * math.exp(-GLIDE_HZ * since)

    def bolt(self, *, from_m: FloatArray, time_s: float) -> None:
        """Flee from a place [m]: one burst, then a glide."""
        away = self.position_m - from_m
        away[2] = 0.3 * away[2] + 0.1
        self._flight = away / max(length(away), 1e-6)
        self.mode = Mode.BOLT
        self._until_s = time_s + float(self._rng.uniform(0.55, 0.8))
        self._face(self._flight, 10.0)

    def hunt(self, prey: Cloud, time_s: float) -> None:
        """Set out after bait."""
        self.mode = Mode.STALK
        self._prey = prey
        self._until_s = time_s + STALKS_S[1]

    def hook(self) -> None:
        """The hook is set: the fish is on."""
        self.mode = Mode.HOOKED

    def let_go(self, time_s: float, lure: Lure) -> None:
        """The lure leaves the mouth, spat out or pulled."""
        lure.state = LureState.TIGHT
        self._start_leaving(Mode.REFUSE, time_s, lure, 2.0)

    # The lure, as the fish sees it.

    def _fears_boat(self, around: Surroundings) -> bool:
        distance = _kernels_fish.apart(self.position_m, around.boat_m)
        return distance < BOAT_FEAR_M * (0.6 + 0.8 * self._wary) and self._chance(0.8, around.dt_s)

    def _chance(self, rate_hz: float, dt_s: float) -> bool:
        return float(self._rng.random()) < 1.0 - math.exp(-rate_hz * dt_s)

    def _offset(self, around: Surroundings) -> tuple[Lure, FloatArray, float] | None:
        lure = around.lure
        if lure is None or lure.state not in (LureState.SINKING, LureState.TIGHT):
            return None
        offset = lure.position_m - self.head_m
        return lure, offset, length(offset)

    def _interest_hz(self, lure: Lure, offset: FloatArray) -> float:
        """Return how readily it answers a lure it sees: more above its nose than below it, more slow than fast."""
        height = 1.0 if offset[2] <= 0.05 else 0.25
        speed = length(lure.velocity_m_s)
        pace = 1.0 if speed < 0.6 else max(0.15, 1.6 - speed)
        return 1.3 * (0.25 + self._mood) * height * pace

    def _face(self, direction: FloatArray, most_rad: float) -> None:
        east, north = float(direction[0]), float(direction[1])
        if abs(east) + abs(north) < 1e-6:
            return
        turn = math.remainder(math.atan2(east, north) - self.heading_rad, 2.0 * math.pi)
        self.heading_rad = math.remainder(self.heading_rad + min(max(turn, -most_rad), most_rad), 2.0 * math.pi)

    def _swim(self, goal: FloatArray, dt_s: float, quickness: float = 6.0) -> None:
        self.velocity_m_s = self.velocity_m_s + (goal - self.velocity_m_s) * min(1.0, quickness * dt_s)

    # What it does in each mode.

    def _hold(self, around: Surroundings) -> None:
        if self._cruise_m > 0.0:
            self._cruise(around)
        else:
            self._hover(around)
        self._notice_lure(around)

    def _cruise(self, around: Surroundings) -> None:
        """Swim a round about home; each fish starts elsewhere on it and rises and sinks a little."""
        pace = self._pace_m_s * self._stride(around.time_s)
        self._round_rad += pace / self._cruise_m * around.dt_s
        turn, phase = self._round_rad + float(self._sway_phase[0]), float(self._sway_phase[1])
        self.velocity_m_s = _kernels_fish.cruised(
            self.position_m, self.velocity_m_s, self.home_m, self._cruise_m, turn, phase, pace, self._pace_m_s, around.time_s, around.dt_s
        )
        self._face(self.velocity_m_s, 2.0 * around.dt_s)

    def _hover(self, around: Surroundings) -> None:
        self.velocity_m_s = _kernels_fish.hung(
            self.position_m, self.velocity_m_s, self.home_m, self._sway_phase, around.time_s, around.dt_s
        )
        self.heading_rad += 0.05 * math.sin(0.5 * around.time_s + float(self._sway_phase[0])) * around.dt_s

    def _notice_lure(self, around: Surroundings) -> None:
        seen = self._offset(around)
        if seen is None or around.time_s < self._rested_s:
            return
        lure, offset, gap = seen
        speed = length(lure.velocity_m_s)
        if gap < 0.35 and speed > 0.45 and self._chance(2.2 * self._wary, around.dt_s):
            self.bolt(from_m=lure.position_m, time_s=around.time_s)
        elif gap < around.sight_m and self._chance(self._interest_hz(lure, offset), around.dt_s):
            self.mode = Mode.LOOK
            self._until_s = around.time_s + float(self._rng.uniform(1.0, 1.9))

    def _look(self, around: Surroundings) -> None:
        seen = self._offset(around)
        if seen is None:
            self.mode = Mode.RETURN
            return
        lure, offset, gap = seen
        self._face(offset, 3.0 * around.dt_s)
        pace = 0.8 * self.length_m if gap > 0.3 else 0.0
        self._swim(offset / max(gap, 1e-6) * pace, around.dt_s)
        if around.time_s < self._until_s:
            return
        draw = float(self._rng.random())
        if gap < 0.3 and draw < self._mood:
            self._start_strike(around.time_s)
        elif draw < 0.35 + 0.6 * self._mood:
            self.mode = Mode.FOLLOW
            self._until_s = around.time_s + float(self._rng.uniform(1.8, 4.0))
        else:
            self._start_leaving(Mode.BACK_OFF, around.time_s, lure, float(self._rng.uniform(1.6, 2.4)))

    def _follow(self, around: Surroundings) -> None:
        seen = self._offset(around)
        if seen is None:
            self.mode = Mode.RETURN
            return
        lure, offset, gap = seen
        self._face(offset, 3.0 * around.dt_s)
        behind = lure.position_m - lure.velocity_m_s * 0.5 + [0.0, 0.0, 0.12] - offset / max(gap, 1e-6) * 0.12
        wanted = (behind - self.head_m) * 1.8 + lure.velocity_m_s
        most = 2.6 * self.length_m
        self._swim(wanted * min(1.0, most / max(length(wanted), 1e-6)), around.dt_s)
        if around.time_s < self._until_s:
            return
        draw = float(self._rng.random())
        if gap < 0.5 and draw < 0.25 + 0.75 * self._mood:
            self._start_strike(around.time_s)
        else:
            self._start_leaving(Mode.REFUSE, around.time_s, lure, float(self._rng.uniform(1.8, 2.6)))

    def _start_strike(self, time_s: float) -> None:
        self.mode = Mode.STRIKE
        self._until_s = time_s + 1.2

    def _strike(self, around: Surroundings) -> None:
        seen = self._offset(around)
        if seen is None or around.time_s > self._until_s:
            self.mode = Mode.RETURN
            return
        lure, offset, gap = seen
        self._face(offset, 8.0 * around.dt_s)
        self._swim(offset / max(gap, 1e-6) * min(5.0 * self.length_m, gap / around.dt_s) + lure.velocity_m_s, around.dt_s, 20.0)
        if gap < TAKE_M:
            self.mode = Mode.HOLDS_LURE
            lure.state = LureState.TAKEN
            self._until_s = around.time_s + float(self._rng.uniform(1.0, 2.2))
            self._flight = np.array([math.sin(self.heading_rad), math.cos(self.heading_rad), 0.35])

    def _hold_lure(self, around: Surroundings) -> None:
        lure = around.lure
        if lure is None or lure.state is not LureState.TAKEN:
            self.mode = Mode.RETURN
            return
        self._swim(self._flight * 0.9 * self.length_m, around.dt_s)
        lure.position_m = self.head_m.copy()
        if around.time_s > self._until_s:
            self.let_go(around.time_s, lure)

    def _hooked(self, around: Surroundings) -> None:
        lure = around.lure
        if lure is None or lure.state is not LureState.TAKEN:
            self.mode = Mode.RETURN
            return
        # The line leads: the head follows the lure, with a fight from side to side.
        self._face(lure.position_m - self.position_m, 4.0 * around.dt_s)
        goal = lure.position_m - 0.5 * self.length_m * self.axis
        fight = (
            0.25
            * math.sin(7.0 * around.time_s + self._sway_phase[1])
            * np.array([math.cos(self.heading_rad), -math.sin(self.heading_rad), 0.0])
        )
        self.velocity_m_s = (goal - self.position_m) * 6.0 + fight
        self.heading_rad += FLASH_RAD * math.sin(2.0 * math.pi * FLASH_HZ * around.time_s) * min(1.0, 8.0 * around.dt_s)

    def _start_leaving(self, mode: Mode, time_s: float, lure: Lure, seconds: float) -> None:
        self.mode = mode
        self._until_s = time_s + seconds
        self._rested_s = time_s + float(self._rng.uniform(12.0, 25.0))
        away = self.position_m - lure.position_m
        away = away / max(length(away), 1e-6)
        if mode is Mode.REFUSE:
            away[2] += 0.7
        self._flight = away / max(length(away), 1e-6)

    def _leave(self, around: Surroundings) -> None:
        quick = 1.15 if self.mode is Mode.REFUSE else 0.95
        if self.mode is Mode.REFUSE:
            self._face(self._flight, 3.0 * around.dt_s)
        self._swim(self._flight * quick * self.length_m, around.dt_s)
        if around.time_s > self._until_s:
            self.mode = Mode.RETURN

    def _bolt(self, around: Surroundings) -> None:
        self._face(self._flight, 12.0 * around.dt_s)
        self._swim(self._flight * 5.5 * self.length_m, around.dt_s, 14.0)
        if around.time_s > self._until_s:
            self.mode = Mode.GLIDE
            self._until_s = around.time_s + float(self._rng.uniform(6.0, 12.0))
            self._rested_s = around.time_s + 30.0

    def _glide(self, around: Surroundings) -> None:
        self._swim(np.zeros(3), around.dt_s, 0.9)
        if around.time_s > self._until_s:
            self.mode = Mode.RETURN

    def _return_home(self, around: Surroundings) -> None:
        offset = self.home_m - self.position_m
        distance = length(offset)
        self._face(offset, 1.5 * around.dt_s)
        self._swim(offset / max(distance, 1e-6) * min(0.7 * self.length_m, distance), around.dt_s, 3.0)
        if distance < 0.12 + self._cruise_m:
            self.mode = Mode.HOLD

    def _stalk(self, around: Surroundings) -> None:
        """Close in on bait, slowly, until it is near enough to shoot through it."""
        prey = self._prey
        if prey is None:
            self.mode = Mode.RETURN
            return
        offset = prey.center_m(around.time_s) - self.position_m
        gap = length(offset)
        self._face(offset, 2.0 * around.dt_s)
        near = gap < prey.radius_m + STALKS_TO_M
        self._swim(offset / max(gap, 1e-6) * (0.0 if near else STALKS_L_S * self.length_m), around.dt_s, 3.0)
        waited = around.time_s > self._until_s - STALKS_S[1] + STALKS_S[0]
        if (near and waited) or around.time_s > self._until_s:
            self.mode = Mode.CHARGE
            self._flight = prey.center_m(around.time_s) + offset / max(gap, 1e-6) * CHARGES_PAST_M
            self._until_s = around.time_s + CHARGES_S

    def _charge(self, around: Surroundings) -> None:
        """Shoot through bait to a place past its middle."""
        offset = self._flight - self.position_m
        gap = length(offset)
        self._face(offset, 8.0 * around.dt_s)
        self._swim(offset / max(gap, 1e-6) * CHARGES_L_S * self.length_m, around.dt_s, 8.0)
        if gap < 0.3 or around.time_s > self._until_s:
            self.mode = Mode.RETURN
