"""The water in motion: everything of a scene stepped in time, its scatterers, its truth."""

import math
from dataclasses import replace

import numpy as np

from mudlamp.core.arrays import FloatArray
from mudlamp.core.casting.lure_on_line import LureState
from mudlamp.core.chance import stream
from mudlamp.core.hand import Doing, HandEvent
from mudlamp.core.ping import Fan, Pose
from mudlamp.core.reactions import ReactionEvent
from mudlamp.core.scene import _kernels
from mudlamp.core.scene.angler import ScriptedAngler
from mudlamp.core.scene.bait import Cloud
from mudlamp.core.scene.boat import hold_thrust, pose_at, steadied
from mudlamp.core.scene.bottom import GroundGrid
from mudlamp.core.scene.drifting import Bubbles, Layer, Plume, Swarm
from mudlamp.core.scene.echoing import BAIT_OWNER, add_fish, add_lure, bodies_of_fish
from mudlamp.core.scene.fight import Fight
from mudlamp.core.scene.fish import Surroundings
from mudlamp.core.scene.hunting import Hunt
from mudlamp.core.scene.making import bottom_of, fish_of, lure_of, standing_of
from mudlamp.core.scene.model import Scene
from mudlamp.core.scene.shadow import Shades
from mudlamp.core.scene.shots import Shot
from mudlamp.core.scene.watching import Watching
from mudlamp.core.sonar.scatterers import NOBODY, Scatterers
from mudlamp.core.sonar.transducer import Acquisition, usual_tilt_rad
from mudlamp.core.water.sound import sound_speed_m_s

LONGEST_STEP_S = 0.07
ENTRY_BUBBLES = 14
# Prop wash: bubbles a second at full thrust, how fast they leave the propeller [m/s], how deep it turns [m] (ours).
WASH_HZ = 120.0
WASH_M_S = 1.6
MOTOR_M = 0.55


def first_acquisition(scene: Scene) -> Acquisition:
    """Return the acquisition that a scene starts with: its transducer's, the sound speed right for its water."""
    plan = scene.transducer
    tilt = usual_tilt_rad(plan.fan, plan.shape) if plan.tilt_rad is None else plan.tilt_rad
    return Acquisition(
        fan=plan.fan,
        reach_m=plan.reach_m,
        down_to_m=plan.down_to_m,
        look_back_m=plan.look_back_m,
        tilt_rad=tilt,
        aim_rad=0.0,
        sound_speed_m_s=float(sound_speed_m_s(temperature_degc=scene.water.temperature_degc)),
        steady=plan.steady,
    )


class World:
    """A scene that lives. The same scene, seed and step give the same life; commands are those of an angler's hands."""

    def __init__(self, scene: Scene, *, seed: int, scripted: bool = True, longest_step_s: float = LONGEST_STEP_S) -> None:
        self.scene = scene
        self.time_s = 0.0
        self.scripted = scripted
        self._longest_step_s = longest_step_s
        self.profile = scene.transducer.shape
        self.bottom = bottom_of(scene, seed)
        self.ground = None if self.bottom is None else GroundGrid(self.bottom)
        self.fish = fish_of(scene, seed)
        self._bodies = bodies_of_fish(self.fish, carrier_hz=self.profile.carrier_hz)
        self.clouds = [Cloud(f"bait{i + 1}", plan, stream(seed, "bait", i)) for i, plan in enumerate(scene.bait)]
        self._hunt = Hunt(self.clouds, self.fish, stream(seed, "hunt"))
        self.lure = lure_of(scene)
        self.shots: list[Shot] = []
        self._hand: list[HandEvent] = []
        self._note_tied()
        self._angler = ScriptedAngler(stream(seed, "angler"))
        self._wash = stream(seed, "wash")
        self._watching = Watching(self.fish, scene.water)
        self._standing = standing_of(scene, seed, bottom_m=self.bottom_m)
        self._swarms = [
            Swarm(plan, min(self.bottom_m(plan.x_m, plan.y_m), 30.0), stream(seed, "insects", i)) for i, plan in enumerate(scene.insects)
        ]
        thermocline, boat = scene.water.thermocline, scene.boat
        self._layer = None if thermocline is None else Layer(thermocline, boat.x_m, boat.y_m, stream(seed, "layer"))
        self._plumes = [Plume(plan, stream(seed, "wake", i)) for i, plan in enumerate(scene.wakes)]
        self._bubbles = Bubbles(stream(seed, "bubbles"))
        self._fight = Fight(seed, self._bubbles)
        self._lure_phase = stream(seed, "lure").uniform(0.0, 2.0 * math.pi, 400)
        self._sight_m = min(max(1.1 * scene.water.secchi_m, 0.6), 2.2)

    def bottom_m(self, x_m: float, y_m: float) -> float:
        """Return the depth of the bottom at a place [m]; infinite where there is none."""
        return math.inf if self.bottom is None else self.bottom.depth_at(x_m, y_m)

    @property
    def shades(self) -> Shades:
        """The posts that shade."""
        return self._standing.shades

    def cover_places(self) -> FloatArray:
        """Return where cover stands: its points (N, 3) [m]."""
        cover = self._standing.points
        return np.stack([axis[: cover.first_object] for axis in (cover.x, cover.y, cover.z)], axis=1)

    # The angler's hands.

    def tip_m(self) -> FloatArray:
        """Return where the rod tip is (3,) [m]."""
        pose = self._boat_pose()
        if self.lure is None:
            raise RuntimeError("no angler aboard")
        return self.lure.tip_m(boat_m=np.array([pose.x_m, pose.y_m, 0.0]), heading_rad=pose.heading_rad)

    def _boat_pose(self) -> Pose:
        return self._pose(tilt_rad=0.0, aim_rad=0.0)

    def _pose(self, *, tilt_rad: float, aim_rad: float) -> Pose:
        return pose_at(
            self.scene.boat,
            time_s=self.time_s,
            depth_m=self.scene.transducer.depth_m,
            tilt_rad=tilt_rad,
            aim_rad=aim_rad,
            wind_m_s=self.scene.water.wind_m_s,
        )

    def tie(self, head_kg: float) -> None:
        """Tie the lure on with another head [kg]; one still out comes in first, and its shot ends."""
        if self.lure is None or self.lure.state is LureState.TAKEN:
            return
        self._end_shot()
        self.lure = lure_of(self.scene, head_kg)
        self._note_tied()

    def throw(self, x_m: float, y_m: float) -> None:
        """Throw the lure to a place on the surface [m]; a lure still out comes in first, and its shot ends."""
        if self.lure is None or self.lure.state is LureState.TAKEN:
            return
        self._end_shot()
        self.lure.throw(x_m=x_m, y_m=y_m, time_s=self.time_s)
        self._note_throw(x_m, y_m)
        self.shots.append(Shot(number=len(self.shots) + 1, start_s=self.time_s, end_s=None, x_m=x_m, y_m=y_m))

    def hang(self, x_m: float, y_m: float, z_m: float) -> None:
        """Hang the lure at a place [m], as if it had been lowered there: for measurements, it is no shot."""
        if self.lure is not None:
            self.lure.hang(np.array([x_m, y_m, z_m]), self.tip_m())

    def open_bail(self) -> None:
        """Let the lure sink freely."""
        if self.lure is not None:
            if self.lure.state is LureState.TIGHT:
                self._note(Doing.SINK)
            self.lure.open_bail()

    def reel(self, on: bool) -> None:
        """Start or stop reeling."""
        if self.lure is not None and self.lure.state is LureState.FLYING:
            self.lure.reel(on, self.tip_m())
        elif self.lure is not None and self.lure.in_water:
            if on is not self.lure.reeling:
                self._note(Doing.REEL if on else Doing.STOP)
            self.lure.reel(on, self.tip_m())

    def lift(self, by_m: float) -> None:
        """Raise (or lower) the rod tip by so much [m]; this takes up the line first."""
        if self.lure is not None and self.lure.in_water:
            self.lure.close_bail(self.tip_m())
            self.lure.lift(by_m)
            self._note(Doing.LIFT)

    def _note(self, do: Doing) -> None:
        self._hand.append(HandEvent(time_s=self.time_s, do=do))

    def _note_tied(self) -> None:
        angler = self.scene.angler
        if angler is not None and self.lure is not None:
            self._hand.append(HandEvent(time_s=self.time_s, do=Doing.TIED, lure=angler.lure, head_kg=self.lure.head_kg))

    def _note_throw(self, x_m: float, y_m: float) -> None:
        pose = self._boat_pose()
        east, north = x_m - pose.x_m, y_m - pose.y_m
        sine, cosine = math.sin(pose.heading_rad), math.cos(pose.heading_rad)
        ahead, across = east * sine + north * cosine, east * cosine - north * sine
        self._hand.append(HandEvent(time_s=self.time_s, do=Doing.THROW, ahead_m=ahead, across_m=across))

    def hand(self) -> list[HandEvent]:
        """Return what the angler's hand did since this was asked last."""
        done, self._hand = self._hand, []
        return done

    # Time.

    def advance(self, to_s: float) -> None:
        """Live on until a time [s], in steps of bounded length."""
        while to_s - self.time_s > 1e-9:
            self._step(min(self._longest_step_s, to_s - self.time_s))

    def _step(self, dt_s: float) -> None:
        self.time_s += dt_s
        pose = self._boat_pose()
        boat = np.array([pose.x_m, pose.y_m, 0.0])
        lure = self.lure
        if lure is not None:
            if self.scripted:
                self._angler.step(time_s=self.time_s, lure=lure, fish=self.fish, boat_m=boat, hands=self)
            floor = self.bottom_m(float(lure.position_m[0]), float(lure.position_m[1]))
            flying = lure.state is LureState.FLYING
            lure.step(time_s=self.time_s, dt_s=dt_s, tip_m=self.tip_m(), bottom_m=floor)
            if flying and lure.in_water:
                if lure.reeling:
                    self._note(Doing.REEL)
                self._bubbles.add(lure.position_m + [0.0, 0.0, 0.25], count=ENTRY_BUBBLES, spread_m=0.12, time_s=self.time_s)
        self._wash_bubbles(pose, dt_s)
        self._bubbles.step(time_s=self.time_s, dt_s=dt_s)
        for fish in self.fish:
            floor = self.bottom_m(float(fish.position_m[0]), float(fish.position_m[1]))
            fish.step(Surroundings(time_s=self.time_s, dt_s=dt_s, lure=lure, boat_m=boat, sight_m=self._sight_m, bottom_m=min(floor, 60.0)))
        self._hunt.step(time_s=self.time_s, dt_s=dt_s)
        if lure is not None:
            came = self._fight.step(lure, self.fish, time_s=self.time_s, dt_s=dt_s, tip_m=self.tip_m(), boat=pose)
            if came is not None and self.shots:
                self.shots[-1] = replace(self.shots[-1], fish=came[0], outcome=came[1])
            if lure.state is LureState.STOWED:
                self._end_shot()

    @property
    def thrust(self) -> float:
        """How hard the motor pushes now (0 to 1): what the scene says, or what holding the boat takes."""
        return max(self.scene.faults.thrust, hold_thrust(self.scene.boat, self.time_s))

    def _wash_bubbles(self, pose: Pose, dt_s: float) -> None:
        """The propeller draws air under and throws it astern of its push."""
        thrust = self.thrust
        if thrust <= 0.0:
            return
        count = int(self._wash.poisson(WASH_HZ * thrust * dt_s))
        if not count:
            return
        push = self.scene.boat.heading_rad if self.scene.faults.thrust > 0.0 else self.scene.boat.wind_from_rad
        astern = np.array([-math.sin(push), -math.cos(push), 0.1])
        speed = WASH_M_S * thrust * (astern + self._wash.normal(0.0, 0.35, (count, 3)))
        place = np.array([pose.x_m, pose.y_m, MOTOR_M]) + 0.3 * astern
        self._bubbles.add(place, count=count, spread_m=0.12, time_s=self.time_s, velocity_m_s=speed)

    def _end_shot(self) -> None:
        if self.shots and self.shots[-1].end_s is None:
            self._note(Doing.STOW)
            self.shots[-1] = replace(self.shots[-1], end_s=self.time_s)

    @property
    def shot(self) -> int | None:
        """The number of the shot under way, or None."""
        return self.shots[-1].number if self.shots and self.shots[-1].end_s is None else None

    # What the sonar and the truth see of it.

    def pose(self, acquisition: Acquisition) -> Pose:
        """Return where the fan really looks now, under an acquisition."""
        return self.poses(acquisition)[0]

    def poses(self, acquisition: Acquisition) -> tuple[Pose, Pose]:
        """Return where the fan really looks now, and where the sounder believes it looks: Steady and the compass can be wrong."""
        faults = self.scene.faults
        told = self._pose(tilt_rad=acquisition.tilt_rad, aim_rad=acquisition.aim_rad)
        pose = replace(told, heading_rad=told.heading_rad + self.scene.transducer.aim_error_rad)
        if acquisition.steady:
            pose, level = steadied(pose, self.scene.boat, time_s=self.time_s, lag_s=faults.steady_lag_s)
            told = replace(level, heading_rad=told.heading_rad)
        if faults.heading_error_rad != 0.0:
            told = replace(told, heading_rad=told.heading_rad + faults.heading_error_rad)
        return pose, told

    def fill(self, scatterers: Scatterers, pose: Pose) -> None:
        """Put all scatterers that are there now into the buffer, the bottom's left out."""
        scatterers.clear()
        standing, cover = self._standing, self._standing.points
        scatterers.add_all(cover, 0, cover.first_object)
        own, origin = slice(0, scatterers.count), np.array([pose.x_m, pose.y_m, pose.z_m])
        _kernels.turned(
            scatterers.x, scatterers.y, scatterers.z, cover.amplitude, standing.facing, standing.stick,
            origin, scatterers.amplitude[own],
        )  # fmt: skip
        for plume in self._plumes:
            scatterers.add(plume.places_m(self.time_s), plume.amplitude(self.time_s), plume.phase_rad, owner=NOBODY)
        for swarm in self._swarms:
            scatterers.add(swarm.places_m(self.time_s), swarm.amplitude, swarm.phase_rad, owner=NOBODY)
        if self._layer is not None:
            scatterers.add(self._layer.places_m(self.time_s), self._layer.amplitude, self._layer.phase_rad, owner=NOBODY)
        scatterers.first_object = scatterers.count
        scatterers.add_all(cover, cover.first_object, cover.count)
        scatterers.add(*self._bubbles.now(self.time_s), owner=NOBODY)
        for cloud, owner in zip(self.clouds, range(BAIT_OWNER, BAIT_OWNER + len(self.clouds)), strict=True):
            scatterers.add(cloud.places_m(self.time_s), cloud.amplitude, cloud.phase_rad, owner=owner)
        if self.fish:
            add_fish(scatterers, self.fish, self._bodies, origin_m=origin)
        if self.lure is not None and self.lure.in_water:
            phase_rad = self._lure_phase
            add_lure(scatterers, self.lure, time_s=self.time_s, tip_m=self.tip_m(), phase_rad=phase_rad, origin_m=origin)

    def judge(self, pose: Pose, fan: Fan) -> list[ReactionEvent]:
        """Return the reactions of which all is known by now, a second or two late; call it once a ping, and `last_reactions` at the end."""
        return self._watching.judge(self.fish, self.lure, time_s=self.time_s, shot=self.shot, pose=pose, fan=fan)

    def last_reactions(self) -> list[ReactionEvent]:
        """Return the reactions that were fulfilled but not told yet: the world ends."""
        return self._watching.close()
