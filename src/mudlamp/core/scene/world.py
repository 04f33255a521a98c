"""The water in motion: everything of a scene stepped in time, its scatterers, its truth."""

import math
from dataclasses import dataclass, replace
from enum import StrEnum

import numpy as np

from mudlamp.core.arrays import BoolArray, FloatArray
from mudlamp.core.casting.lure_on_line import STOWED_LINE_M, Lure, LureState
from mudlamp.core.casting.lures import LINE_STEP_M, LINE_TS_DB, line_places, line_square, part_places, tackle
from mudlamp.core.chance import stream
from mudlamp.core.hand import Doing, HandEvent
from mudlamp.core.judge import FishState, TruthJudge
from mudlamp.core.ping import Fan, Pose
from mudlamp.core.plane import FanPlane, GroundPlane, Point, Travel
from mudlamp.core.reactions import ReactionEvent, limits_of
from mudlamp.core.scene import _kernels
from mudlamp.core.scene.angler import ScriptedAngler
from mudlamp.core.scene.bait import Cloud
from mudlamp.core.scene.boat import hold_thrust, pose_at, steadied
from mudlamp.core.scene.bottom import Bottom, GroundGrid, make_bottom
from mudlamp.core.scene.cover import build_cover
from mudlamp.core.scene.drifting import Bubbles, Layer, Plume, Swarm
from mudlamp.core.scene.fish import Fish, Mode, Surroundings
from mudlamp.core.scene.model import Scene
from mudlamp.core.scene.shadow import Shade, Shades
from mudlamp.core.scene.species import EYES, bodies_of, bodies_scatterers
from mudlamp.core.sonar.scatterers import NOBODY, Scatterers
from mudlamp.core.sonar.transducer import Acquisition, usual_tilt_rad
from mudlamp.core.vectors import length
from mudlamp.core.water.sound import sound_speed_m_s

LONGEST_STEP_S = 0.07
HOOK_DELAY_S = 0.35
HOOK_CHANCE = 0.75
LOSE_RATE_HZ = 0.03
LURE_OWNER = 1_000_000
WEIGHT_OWNER = 1_000_001
BAIT_OWNER = 2_000_000
ENTRY_BUBBLES = 14
HOOK_BUBBLES = 8
SPLASH_BUBBLES = 12
RELEASE_BUBBLES = 40
# A fish on the line breaks the surface where it is no deeper than this [m], so often [1/s], and loses air so often on the way up.
SPLASH_M = 0.7
SPLASH_HZ = 3.0
FIGHT_BUBBLES_HZ = 2.0
# Prop wash: bubbles a second at full thrust, how fast they leave the propeller [m/s], how deep it turns [m] (ours).
WASH_HZ = 120.0
WASH_M_S = 1.6
MOTOR_M = 0.55


class Outcome(StrEnum):
    """How a bite ended."""

    MISSED = "missed"
    HOOKED = "hooked"
    LOST = "lost"
    LANDED = "landed"


@dataclass(frozen=True, slots=True, kw_only=True)
class Shot:
    """One presentation: number, start and end [s], where it was thrown [m], who bit and how that ended."""

    number: int
    start_s: float
    end_s: float | None
    x_m: float
    y_m: float
    fish: str | None = None
    outcome: Outcome | None = None


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
        self.bottom = self._make_bottom(seed)
        self.ground = None if self.bottom is None else GroundGrid(self.bottom)
        self.fish = self._make_fish(seed)
        self._bodies = bodies_of([(fish.species, fish.length_m) for fish in self.fish], carrier_hz=self.profile.carrier_hz)
        self.clouds = [Cloud(f"bait{i + 1}", plan, stream(seed, "bait", i)) for i, plan in enumerate(scene.bait)]
        self.lure = self._make_lure()
        self.shots: list[Shot] = []
        self._hand: list[HandEvent] = []
        self._note_tied()
        self._angler = ScriptedAngler(stream(seed, "angler"))
        self._chance = stream(seed, "hook")
        self._splash = stream(seed, "splash")
        self._wash = stream(seed, "wash")
        self._judge = TruthJudge()
        self._travel = Travel()
        self._limits = {
            fish.name: limits_of(EYES[fish.species], secchi_m=scene.water.secchi_m, temperature_degc=scene.water.temperature_degc)
            for fish in self.fish
        }
        self._cover, self._facing, self._stick, self.shades = self._make_cover(seed)
        self._swarms = [
            Swarm(plan, min(self.bottom_m(plan.x_m, plan.y_m), 30.0), stream(seed, "insects", i)) for i, plan in enumerate(scene.insects)
        ]
        thermocline, boat = scene.water.thermocline, scene.boat
        self._layer = None if thermocline is None else Layer(thermocline, boat.x_m, boat.y_m, stream(seed, "layer"))
        self._plumes = [Plume(plan, stream(seed, "wake", i)) for i, plan in enumerate(scene.wakes)]
        self._bubbles = Bubbles(stream(seed, "bubbles"))
        self._lure_phase = stream(seed, "lure").uniform(0.0, 2.0 * math.pi, 400)
        self._taken_s: float | None = None
        self._sight_m = min(max(1.1 * scene.water.secchi_m, 0.6), 2.2)

    def _make_bottom(self, seed: int) -> Bottom | None:
        plan = self.scene.bottom
        if plan is None:
            return None
        return make_bottom(
            ground=plan.ground,
            survey=plan.survey,
            depth_m=plan.depth_m if plan.survey is None else 0.0,
            slope_east=plan.slope_east,
            slope_north=plan.slope_north,
            relief_m=plan.relief_m,
            relief_length_m=plan.relief_length_m,
            features=plan.features,
            patches=plan.patches,
            rng=stream(seed, "bottom"),
        )

    def _make_fish(self, seed: int) -> list[Fish]:
        made: list[Fish] = []
        for group in self.scene.fish:
            for _ in range(group.count):
                rng = stream(seed, "fish", len(made))
                home = np.array([group.x_m, group.y_m, group.z_m]) + rng.uniform(-1.0, 1.0, 3) * [
                    group.spread_m,
                    group.spread_m,
                    group.rise_m,
                ]
                body_m = float(rng.uniform(group.shortest_m, group.longest_m))
                made.append(
                    Fish(
                        name=f"fish{len(made) + 1}",
                        species=group.species,
                        length_m=body_m,
                        home_m=home,
                        mood=group.mood,
                        rng=rng,
                        cruise_m=group.cruise_m,
                        pace_m_s=group.pace_m_s,
                    )
                )
        return made

    def _make_lure(self, head_kg: float | None = None) -> Lure | None:
        plan = self.scene.angler
        if plan is None:
            return None
        head = plan.head_kg if head_kg is None else head_kg
        return Lure(head, tackle(kind=plan.lure, head_kg=head, material=plan.material, line=plan.line, weight_kg=plan.weight_kg))

    def _make_cover(self, seed: int) -> tuple[Scatterers, FloatArray, BoolArray, Shades]:
        """Return the cover's points, what each faces and whether it is a stick's, and the posts that shade."""
        cover = Scatterers(capacity=20_000)
        shades: list[Shade] = []
        facing, stick = [np.zeros((0, 3))], [np.zeros(0, dtype=bool)]
        numbers = self.scene.cover_seeds or range(len(self.scene.cover))
        for number, plan in zip(numbers, self.scene.cover, strict=True):
            built = build_cover(plan, depth_at=lambda x, y: min(self.bottom_m(x, y), 60.0), rng=stream(seed, "cover", number))
            cover.add(built.position_m, built.amplitude, built.phase_rad, owner=NOBODY)
            shades += built.shades
            facing.append(built.facing)
            stick.append(built.stick)
        cover.first_object = cover.count
        for i, target in enumerate(self.scene.targets):
            cover.add(
                np.array([[target.x_m, target.y_m, target.z_m]]),
                np.array([10.0 ** (target.ts_db / 20.0)]),
                np.zeros(1),
                owner=NOBODY - 1 - i,
            )
        return cover, np.concatenate(facing), np.concatenate(stick), Shades(shades)

    def bottom_m(self, x_m: float, y_m: float) -> float:
        """Return the depth of the bottom at a place [m]; infinite where there is none."""
        return math.inf if self.bottom is None else self.bottom.depth_at(x_m, y_m)

    def cover_places(self) -> FloatArray:
        """Return where cover stands: its points (N, 3) [m]."""
        cover = self._cover
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
        self.lure = self._make_lure(head_kg)
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
        if lure is not None:
            self._play(lure, dt_s)
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

    def _play(self, lure: Lure, dt_s: float) -> None:
        """Settle what comes of a bite: hooked or missed when the angler tightens, then landed or lost."""
        holder = next((fish for fish in self.fish if fish.has_lure), None)
        if holder is None or lure.state is not LureState.TAKEN:
            self._taken_s = None
            return
        tip = self.tip_m()
        if self._taken_s is None:
            self._taken_s = self.time_s
            lure.line_m = length(lure.position_m - tip) + 0.2
            self._note_bite(holder.name, Outcome.MISSED)
        if holder.mode is Mode.HOLDS_LURE:
            tightened = lure.reeling or lure.lift_wanted_m > 0.3
            if not tightened:
                lure.line_m = max(lure.line_m, length(lure.position_m - tip))
            elif self.time_s - self._taken_s >= HOOK_DELAY_S:
                if float(self._chance.random()) < HOOK_CHANCE:
                    holder.hook()
                    self._note_bite(holder.name, Outcome.HOOKED)
                    self._bubbles.add(holder.position_m, count=HOOK_BUBBLES, spread_m=0.2, time_s=self.time_s)
                else:
                    holder.let_go(self.time_s, lure)
            return
        self._fight(holder, dt_s)
        if lure.line_m <= STOWED_LINE_M + 0.4:
            self._note_bite(holder.name, Outcome.LANDED)
            self._release(holder, lure)
        elif float(self._chance.random()) < 1.0 - math.exp(-LOSE_RATE_HZ * dt_s):
            self._note_bite(holder.name, Outcome.LOST)
            holder.let_go(self.time_s, lure)

    def _fight(self, fish: Fish, dt_s: float) -> None:
        """A fish on the line loses air on the way up, and splashes at the surface."""
        depth = float(fish.position_m[2])
        rate, count = (SPLASH_HZ, SPLASH_BUBBLES) if depth < SPLASH_M else (FIGHT_BUBBLES_HZ, 2)
        if float(self._splash.random()) < 1.0 - math.exp(-rate * dt_s):
            self._bubbles.add(fish.position_m, count=count, spread_m=0.15, time_s=self.time_s)

    def _release(self, fish: Fish, lure: Lure) -> None:
        """Put a landed fish back over the side, out of the fan: it swims home."""
        lure.state = LureState.STOWED
        pose = self._boat_pose()
        aside = np.array([math.cos(pose.heading_rad), -math.sin(pose.heading_rad), 0.0])
        fish.position_m = np.array([pose.x_m, pose.y_m, 0.4]) + 3.5 * aside
        self._bubbles.add(fish.position_m, count=RELEASE_BUBBLES, spread_m=0.25, time_s=self.time_s)
        fish.bolt(from_m=np.array([pose.x_m, pose.y_m, 0.0]), time_s=self.time_s)

    def _note_bite(self, fish: str, outcome: Outcome) -> None:
        if self.shots:
            self.shots[-1] = replace(self.shots[-1], fish=fish, outcome=outcome)

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
        cover = self._cover
        scatterers.add_all(cover, 0, cover.first_object)
        own, origin = slice(0, scatterers.count), np.array([pose.x_m, pose.y_m, pose.z_m])
        _kernels.turned(
            scatterers.x, scatterers.y, scatterers.z, cover.amplitude, self._facing, self._stick,
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
            self._add_fish(scatterers, origin)
        if self.lure is not None and self.lure.in_water:
            self._add_lure(self.lure, scatterers, origin)

    def _add_fish(self, scatterers: Scatterers, origin_m: FloatArray) -> None:
        place = np.array([fish.position_m for fish in self.fish])
        turned = np.array([[math.sin(fish.heading_rad), math.cos(fish.heading_rad)] for fish in self.fish])
        level = np.zeros((len(self.fish), 1))
        sight = place - origin_m
        position, amplitude = bodies_scatterers(
            self._bodies,
            position_m=place,
            axis=np.hstack((turned, level)),
            sideways=np.hstack((turned[:, 1:], -turned[:, :1], level)),
            sight=sight / np.maximum(np.linalg.norm(sight, axis=1, keepdims=True), 1e-6),
            tail_sway=np.array([fish.tail_sway for fish in self.fish]),
        )
        phase = np.concatenate([fish.scatter_phase_rad for fish in self.fish])
        before = scatterers.count
        scatterers.add(position.reshape(-1, 3), amplitude.ravel(), phase, owner=NOBODY)
        owners = np.repeat(np.arange(len(self.fish)), position.shape[1])
        scatterers.owner[before : scatterers.count] = owners[: scatterers.count - before]

    def _add_lure(self, lure: Lure, scatterers: Scatterers, origin_m: FloatArray) -> None:
        """The lure's parts (weak neighbors make its level swing as it turns), its weight, and its line."""
        parts = lure.tackle.parts
        place = lure.position_m + part_places(parts, heading_rad=lure.heading_rad, turn_rad=3.0 * self.time_s)
        level = np.array([10.0 ** (part.ts_db / 20.0) for part in parts])
        heavy = np.array([part.weight for part in parts])
        for mask, owner in ((~heavy, LURE_OWNER), (heavy, WEIGHT_OWNER)):
            scatterers.add(place[mask], level[mask], self._lure_phase[: int(mask.sum())], owner=owner)
        points = line_places(self.tip_m(), lure.position_m)
        # A stretch of line echoes as its centimeters would, added at random.
        amplitude = math.sqrt(100.0 * LINE_STEP_M) * 10.0 ** (LINE_TS_DB[lure.tackle.line] / 20.0)
        scatterers.add(
            points, amplitude * line_square(points, origin_m), self._lure_phase[-max(len(points), 1) :][: len(points)], owner=NOBODY
        )

    def judge(self, pose: Pose, fan: Fan) -> list[ReactionEvent]:
        """Return the reactions of which all is known by now, a second or two late; call it once a ping, and `last_reactions` at the end."""
        plane = GroundPlane(FanPlane(fan=fan, tilt_rad=pose.tilt_rad, depth_m=pose.z_m), pose, self._travel.to(pose))

        def seen(position_m: FloatArray) -> Point:
            return plane.point(plane.project(*(float(value) for value in position_m)))

        lure = self.lure if self.lure is not None and self.lure.in_water else None
        above = None if lure is None else lure.tackle.weight_at_m
        states = []
        for fish in self.fish:
            off = None
            if lure is not None:
                toward = lure.position_m - fish.position_m
                off = abs(math.remainder(math.atan2(toward[0], toward[1]) - fish.heading_rad, 2.0 * math.pi))
            states.append(
                FishState(
                    id=fish.name,
                    place=seen(fish.head_m),
                    length_m=fish.length_m,
                    off_lure_rad=off,
                    holds_lure=fish.has_lure,
                    limits=self._limits[fish.name],
                )
            )
        return self._judge.update(
            time_s=self.time_s,
            fish=states,
            middles=[seen(fish.position_m) for fish in self.fish],
            lure=None if lure is None else seen(lure.position_m),
            weight=None if lure is None or above is None else seen(lure.position_m - np.array([0.0, 0.0, above])),
            boat=plane.boat,
            shot=self.shot,
        )

    def last_reactions(self) -> list[ReactionEvent]:
        """Return the reactions that were fulfilled but not told yet: the world ends."""
        return self._judge.close()
