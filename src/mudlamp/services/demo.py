"""The demo: four trips on an invented water, made from a seed by the behavior and casting models alone, without a ping."""

import datetime as dt
import math
import random
import uuid
from collections.abc import Iterator, Sequence
from dataclasses import dataclass, replace

import structlog
from sqlalchemy import Engine

from mudlamp.core.advice.answers import Goal, Sky
from mudlamp.core.casting.lures import LureKind
from mudlamp.core.errors import UnavailableError
from mudlamp.core.reactions import ReactionEvent
from mudlamp.core.records.log import AnglerRecord, ReactionRecord, SessionRecord, SetupRecord, ShotRecord, TripRecord
from mudlamp.core.records.rigs import KeptLure, KeptRig, KeptRod
from mudlamp.core.records.trips import Catch, Condition, Move
from mudlamp.core.rig.mount import MountKind
from mudlamp.core.rig.power import Chemistry
from mudlamp.core.rig.profile import Mount, Power, RigProfile
from mudlamp.core.scene.model import Scene
from mudlamp.core.scene.shots import Outcome, Shot
from mudlamp.core.scene.world import World, first_acquisition
from mudlamp.core.setup import ReceiverSetup, values_of
from mudlamp.core.units import FOOT_M, INCH_M, MPH_M_S, OUNCE_KG
from mudlamp.core.water.clarity import clarity_of
from mudlamp.formats.scene.file import load_scene
from mudlamp.services.edge.forms import INCHES_OF_MERCURY
from mudlamp.services.edge.weights import ounces
from mudlamp.services.find.demo import demo_spots
from mudlamp.services.rig.box import NEWTON_A_POUND
from mudlamp.services.rig.form import stored
from mudlamp.services.words.demo import DEMO_ANGLER
from mudlamp.store import log as store
from mudlamp.store import rigs as rig_store
from mudlamp.store import spots as spot_store
from mudlamp.store.log import Storable
from mudlamp.store.scope import EVERYBODY

WATER = "Harl Mill Reservoir"
SPACE = uuid.UUID("6d75646c-616d-5000-8000-000000000001")
STEP_S = 0.1
JUDGE_S = 0.2
SHOTS_A_TRIP = 30
LONGEST_S = 1500.0


@dataclass(frozen=True, slots=True, kw_only=True)
class Trip:
    """One demo trip: when, what it was like, how eager the fish were, which set-up was used."""

    seed: int
    title: str
    day: dt.datetime
    notes: str
    mood: float
    head_oz: float
    gain: float
    quieting: int
    sky: Sky
    wind_mph: float
    pressures_inhg: tuple[float, float, float]


def _day(day: int, hour: int) -> dt.datetime:
    return dt.datetime(2026, 10, day, hour, 10, tzinfo=dt.UTC)


TRIPS = (
    Trip(seed=11, title="First cold morning", day=_day(23, 12), notes="Fog till ten, fish high over the pear tree. White 1/16.", mood=0.45, head_oz=1 / 16, gain=65, quieting=1, sky=Sky.CLOUD, wind_mph=3, pressures_inhg=(30.05, 30.06, 30.05)),
    Trip(seed=12, title="Wind from the mill side", day=_day(25, 14), notes="Chop all day. Turned gain down, lost the jig, turned it up again.", mood=0.30, head_oz=1 / 16, gain=68, quieting=2, sky=Sky.CLOUD, wind_mph=12, pressures_inhg=(29.95, 29.90, 29.82)),
    Trip(seed=13, title="Bright and slow", day=_day(27, 16), notes="Blue sky after the front. They looked and left. Dropped to a 1/32.", mood=0.18, head_oz=1 / 32, gain=70, quieting=1, sky=Sky.BRIGHT, wind_mph=6, pressures_inhg=(30.20, 30.27, 30.31)),
    Trip(seed=14, title="Gray and on", day=_day(29, 13), notes="Low cloud, 58 degrees. Anything over their heads was taken.", mood=0.72, head_oz=1 / 16, gain=66, quieting=1, sky=Sky.DARK, wind_mph=4, pressures_inhg=(29.98, 29.94, 29.88)),
)  # fmt: skip


SOURCE = "demo"
ANGLER = uuid.uuid5(SPACE, "angler")
DEMO_RIG = uuid.uuid5(SPACE, "rig")
BOX = (
    (LureKind.JIG, 1 / 16, "lead", "white", "plain", "", 0.0),
    (LureKind.JIG, 1 / 32, "lead", "gray and white", "nickel", "", 1 / 64),
    (LureKind.JIG, 1 / 8, "tungsten", "chartreuse", "painted", "curl tail", 0.0),
    (LureKind.MINNOW, 1 / 16, "lead", "smoke", "", "", 0.0),
    (LureKind.SWIMBAIT, 1 / 2, "lead", "shad", "", "", 0.0),
)
RODS = (("Long one", 12.0, "fluorocarbon", 6.0, 0), ("Light spinning", 6.5, "monofilament", 4.0, 1), ("Caster", 7.0, "braid", 15.0, 4))


def ensure_demo(engine: Engine) -> None:
    """Load the demo's trips and rig that are not there yet, each whole or not at all: a start cut short is made good by the next."""
    log = structlog.get_logger()
    try:
        there = store.trip_keys(engine)
        missing = [trip for trip in TRIPS if _key(trip) not in there]
        if rig_store.rig(engine, EVERYBODY, DEMO_RIG) is None:
            store.put(engine, list(rig_records()))
        for trip in missing:
            store.put(engine, list(trip_records(trip)))
        spot_store.put_spots(engine, list(demo_spots(TRIPS[0].day)))
    except UnavailableError:
        log.warning("demo not loaded: the database is away; the next start loads it")
        return
    if missing:
        log.info("demo loaded", trips=len(missing))


def demo_rig() -> RigProfile:
    """Return the demo's rig: a pole mount, a lithium battery up front."""
    return RigProfile(
        mount=Mount(kind=MountKind.POLE, depth_m=0.45),
        power=Power(chemistry=Chemistry.LITHIUM, capacity_ah=60.0, cable_m=18.0 * FOOT_M, gauge=10),
    )


def rig_records() -> Iterator[Storable]:
    """Yield the records of the demo's rig, its lure box and its rods."""
    made, rig = TRIPS[0].day, demo_rig()
    yield AnglerRecord(id=ANGLER, name=DEMO_ANGLER, created_at=made)
    yield KeptRig(
        id=DEMO_RIG,
        owner=None,
        name="The millwright's skiff",
        active=False,
        version=1,
        values=stored(rig),
        created_at=made,
        changed_at=made,
    )
    for number, (kind, heavy, material, color, finish, trailer, above) in enumerate(BOX):
        yield KeptLure(
            id=uuid.uuid5(SPACE, f"lure:{number}"),
            rig_id=DEMO_RIG,
            kind=kind.value,
            head_kg=heavy * OUNCE_KG,
            material=material,
            color=color,
            finish=finish,
            trailer=trailer,
            weight_kg=above * OUNCE_KG,
            recipe="marabou tied in two turns, red thread" if number == 1 else "",
            created_at=made + dt.timedelta(seconds=number),
        )
    for number, (name, feet_long, line, pounds, lure) in enumerate(RODS):
        yield KeptRod(
            id=uuid.uuid5(SPACE, f"rod:{number}"),
            rig_id=DEMO_RIG,
            name=name,
            length_m=feet_long * FOOT_M,
            line=line,
            line_n=pounds * NEWTON_A_POUND,
            lure_id=uuid.uuid5(SPACE, f"lure:{lure}"),
            in_hand=number == 0,
            created_at=made + dt.timedelta(seconds=number),
        )


def _key(trip: Trip, *parts: object) -> uuid.UUID:
    return uuid.uuid5(SPACE, ":".join(str(part) for part in (trip.seed, *parts)))


def _scene(trip: Trip) -> Scene:
    scene = load_scene("pear-tree")
    fish = tuple(replace(group, mood=trip.mood) for group in scene.fish[:2])
    angler = None if scene.angler is None else replace(scene.angler, head_kg=trip.head_oz * OUNCE_KG)
    return replace(scene, fish=fish, angler=angler)


def trip_records(trip: Trip) -> Iterator[Storable]:
    """Yield the records of a demo trip: the trip, its session, set-ups, shots and reactions."""
    scene = _scene(trip)
    shots, events, seconds = _fished(scene, trip.seed)
    session = _key(trip, "session")
    yield AnglerRecord(id=ANGLER, name=DEMO_ANGLER, created_at=TRIPS[0].day)
    yield TripRecord(
        id=_key(trip),
        source=SOURCE,
        title=trip.title,
        water=WATER,
        day=trip.day,
        notes=trip.notes,
        people=("J. O.",),
        goal=Goal.TABLE.value,
        started_at=trip.day,
        ended_at=trip.day + dt.timedelta(seconds=seconds),
    )
    yield from _day_of(trip, scene, seconds)
    yield SessionRecord(
        id=session,
        source=SOURCE,
        trip_id=_key(trip),
        angler_id=ANGLER,
        device=None,
        owner=None,
        scene=scene.name,
        title=f"{trip.title} · {WATER}",
        seed=trip.seed,
        state="ended",
        started_at=trip.day,
        ended_at=trip.day + dt.timedelta(seconds=seconds),
        known={"water_degc": scene.water.temperature_degc, "lure": "jig", "color": "white", "rod": RODS[0][0], "species": "crappie"},
    )
    first = ReceiverSetup(gain=62.0)
    for at, setup in (
        (0.0, first),
        (95.0, replace(first, gain=trip.gain)),
        (240.0, replace(first, gain=trip.gain, quieting_pings=trip.quieting)),
    ):
        yield SetupRecord(id=_key(trip, "setup", at), session_id=session, session_s=at, values=values_of(first_acquisition(scene), setup))
    for shot in shots:
        yield _shot(trip, session, scene, shot)
    sure = random.Random(trip.seed)  # noqa: S311 - the doubt of a demo
    yield from _catches(trip, session, shots)
    for number, event in enumerate(events):
        yield ReactionRecord(
            id=_key(trip, "reaction", number),
            session_id=session,
            shot_id=None if event.shot is None else _key(trip, "shot", event.shot),
            source=SOURCE,
            track=event.fish.removeprefix("fish"),
            session_s=event.time_s,
            token=event.token.value,
            corrected=None,
            cause=event.cause.value,
            confidence=round(sure.uniform(0.6, 0.98), 2),
        )


def _day_of(trip: Trip, scene: Scene, seconds: float) -> Iterator[Condition | Move]:
    """Yield a trip's weather three times, and its one move."""
    for number, inches in enumerate(trip.pressures_inhg):
        yield Condition(
            id=_key(trip, "condition", number),
            trip_id=_key(trip),
            at=trip.day + dt.timedelta(seconds=seconds * number / len(trip.pressures_inhg)),
            sky=trip.sky.value,
            wind_m_s=trip.wind_mph * MPH_M_S,
            wind_from_rad=math.radians(225.0),
            air_degc=None,
            water_degc=scene.water.temperature_degc,
            clarity=clarity_of(secchi_m=scene.water.secchi_m).value,
            pressure_pa=INCHES_OF_MERCURY.to_core(inches),
            origin="typed",
        )
    yield Move(
        id=_key(trip, "move"),
        trip_id=_key(trip),
        at=trip.day,
        place="The orchard",
        spot_id=None,
        depth_m=20.0 * FOOT_M,
        saw_fish=True,
        note="",
    )


def _catches(trip: Trip, session: uuid.UUID, shots: Sequence[Shot]) -> Iterator[Catch]:
    """Yield the fish that were landed: measured ashore, guessed on the picture a little short; three in four kept."""
    rng = random.Random(trip.seed + 1000)  # noqa: S311 - the fish of a demo
    for number, shot in enumerate(one for one in shots if one.outcome is Outcome.LANDED):
        length = rng.uniform(9.5, 13.5) * INCH_M
        at_s = shot.start_s if shot.end_s is None else shot.end_s
        yield Catch(
            id=_key(trip, "catch", number),
            owner=None,
            trip_id=_key(trip),
            session_id=session,
            source=SOURCE,
            at=trip.day + dt.timedelta(seconds=at_s),
            species="white crappie",
            length_m=round(length, 3),
            weight_kg=None,
            guess_m=round(length * rng.gauss(0.94, 0.08), 3),
            kept=rng.random() < 0.75,
            lure=f"{ounces(trip.head_oz * OUNCE_KG)} white jig",
            rod=RODS[0][0],
            presentation="pitch",
            depth_m=round(rng.uniform(9.0, 15.0) * FOOT_M, 2),
            track="" if shot.fish is None else shot.fish.removeprefix("fish"),
            session_s=at_s,
            note="",
        )


def _shot(trip: Trip, session: uuid.UUID, scene: Scene, shot: Shot) -> ShotRecord:
    return ShotRecord(
        id=_key(trip, "shot", shot.number),
        session_id=session,
        source=SOURCE,
        number=shot.number,
        start_s=shot.start_s,
        end_s=shot.end_s,
        at=trip.day + dt.timedelta(seconds=shot.start_s),
        ahead_m=math.hypot(shot.x_m, shot.y_m),
        head_kg=0.0 if scene.angler is None else scene.angler.head_kg,
        outcome=None if shot.outcome is None else shot.outcome.value,
    )


def _fished(scene: Scene, seed: int) -> tuple[list[Shot], list[ReactionEvent], float]:
    """Let the scripted angler fish a scene until it has thrown enough; return shots, reactions, and how long it took [s]."""
    world = World(scene, seed=seed, longest_step_s=STEP_S)
    acquisition = first_acquisition(scene)
    events: list[ReactionEvent] = []
    while world.time_s < LONGEST_S and (len(world.shots) < SHOTS_A_TRIP or world.shots[-1].end_s is None):
        world.advance(world.time_s + JUDGE_S)
        events += world.judge(world.pose(acquisition), acquisition.fan)
    events += world.last_reactions()
    return [shot for shot in world.shots if shot.end_s is not None], events, world.time_s
