"""Whether lures arrive: casts of an angler who misses as anglers do, by the solver's advice and as one throws without it, on drawn waters."""

import math
from collections.abc import Iterator, Sequence
from dataclasses import dataclass, replace

import numpy as np

from mudlamp.core.arrays import FloatArray
from mudlamp.core.casting.fall import REEL_M_S
from mudlamp.core.casting.lure_on_line import ROD_AHEAD_M, ROD_HEIGHT_M, Lure
from mudlamp.core.casting.lures import tackle
from mudlamp.core.casting.solve import DIRECTION_ERROR_RAD, DISTANCE_ERROR, Cast, CastQuery, solve
from mudlamp.core.ping import Fan
from mudlamp.core.scene.draw import draw_water
from mudlamp.core.scene.fish import Fish
from mudlamp.core.scene.species import Species
from mudlamp.core.scene.world import World, first_acquisition
from mudlamp.core.units import FOOT_M
from mudlamp.services.crew import Crew

STEP_S = 0.05
# So many fish of a water are thrown at, one after the other; each is watched before, as an angler does.
FISH, FIRST_S, BETWEEN_S, WATCHED_S = 3, 3.0, 4.0, 1.0
# Fish that stand well in the fan, as far as one throws.
NEAREST_M, FARTHEST_M, IN_FAN, LEAST_DEEP_M = ROD_AHEAD_M + 1.0, 25.0, 0.7, 1.0
# Slower than this an angler sees it hold still [m/s].
MOVES_M_S = 0.12
# A lure has arrived 0 to 3 ft over a fish and so far before its nose [m] (common practice, no source).
OVER_M = 3.0 * FOOT_M
BEFORE_M = {Species.CRAPPIE: (1.0 * FOOT_M, 3.0 * FOOT_M), Species.LARGEMOUTH: (3.0 * FOOT_M, 6.0 * FOOT_M)}
# A fish whose nose points this far from the fan's plane shows neither end: either side of it is before it.
ACROSS = 0.5
# Who throws without a solver counts a foot a second, and reels so fast.
NAIVE_M_S, NAIVE_REEL_M_S = FOOT_M, 0.3
AFTER_S = 16.0
# Reeling comes in pulls, so many a second.
PULLS_HZ = 2.0


@dataclass(frozen=True, slots=True, kw_only=True)
class Plan:
    """A throw as it is meant: how far [m], how far to the right [m], the count [s], on a tight line or not, how fast to reel [m/s]."""

    cast_m: float
    right_m: float
    count_s: float
    is_tight: bool
    reel_m_s: float


@dataclass(frozen=True, slots=True, kw_only=True)
class Moment:
    """Where things are at a time [s]: the fish's head and its nose's way (3,), the rod tip and the boat (3,) [m], ahead and right (3,)."""

    time_s: float
    head_m: FloatArray
    nose: FloatArray
    tip_m: FloatArray
    boat_m: FloatArray
    ahead: FloatArray
    right: FloatArray


@dataclass(frozen=True, slots=True, kw_only=True)
class Thrown:
    """What came of throws at a fish: by advice, and without."""

    advised: bool
    naive: bool


@dataclass(frozen=True, slots=True, kw_only=True)
class CastBench:
    """Shares of lures that arrived, over so many throws on so many waters."""

    waters: int
    throws: int
    arrived: float
    naive: float


def bench_casts(seeds: Sequence[int], *, cluster: str | None = None) -> CastBench:
    """Return how many lures arrive on the drawn waters of some seeds."""
    with Crew(cluster=cluster) as crew:
        waters = [thrown for thrown in crew.each(throws_on, list(seeds)) if thrown]
    every = [one for thrown in waters for one in thrown]
    count = max(len(every), 1)
    return CastBench(
        waters=len(waters),
        throws=len(every),
        arrived=round(sum(one.advised for one in every) / count, 3),
        naive=round(sum(one.naive for one in every) / count, 3),
    )


def throws_on(seed: int) -> list[Thrown]:
    """Return what came of throws at fish of a drawn water; none where no crappie or bass is in reach, or the fan shows no depth."""
    scene = draw_water(seed).scene
    if scene.angler is None or scene.bottom is None or scene.transducer.fan is Fan.FLAT:
        return []
    return [one for number in range(FISH) if (one := _thrown_at(World(scene, seed=seed, scripted=False), seed, number)) is not None]


def _thrown_at(world: World, seed: int, number: int) -> Thrown | None:
    rng = np.random.default_rng((seed, number))
    world.advance(FIRST_S + BETWEEN_S * number)
    fish = _chosen(world, rng)
    if fish is None or world.lure is None:
        return None
    before = fish.position_m.copy()
    world.advance(world.time_s + WATCHED_S)
    now = _moment(world, fish)
    query = _query(world, fish, now, swims_m_s=float((fish.position_m - before) @ now.ahead) / WATCHED_S)
    cast, tackled = _told(query, world.lure)
    shown_m = math.hypot(query.range_m + ROD_AHEAD_M, query.depth_m - world.scene.transducer.depth_m)
    reel = 0.0 if cast.retrieve is None else NAIVE_REEL_M_S
    naive = Plan(cast_m=shown_m, right_m=0.0, count_s=query.depth_m / NAIVE_M_S, is_tight=True, reel_m_s=reel)
    advised = _advised(cast)
    # The fish lives on as if nothing fell in: it must not come to a lure that missed it.
    end_s = world.time_s + max(naive.count_s, advised.count_s) + AFTER_S
    moments = list(_moments(world, fish, end_s))
    miss = 1.0 + rng.normal(0.0, DISTANCE_ERROR), rng.normal(0.0, DIRECTION_ERROR_RAD)
    plans = ((advised, tackled), (naive, world.lure))
    there = [_arrives(world, lure, fish.species, plan, cast, now, moments, miss) for plan, lure in plans]
    return Thrown(advised=there[0], naive=there[1])


def _chosen(world: World, rng: np.random.Generator) -> Fish | None:
    """Return a crappie or bass that stands well in the fan, within a throw."""
    half = IN_FAN * math.tan(world.profile.thickness_rad / 2.0)
    found = []
    for fish in world.fish:
        at = _moment(world, fish)
        away = fish.position_m - at.boat_m
        ahead, aside = float(away @ at.ahead), float(away @ at.right)
        if fish.species in BEFORE_M and NEAREST_M < ahead < FARTHEST_M and abs(aside) < half * ahead and fish.position_m[2] > LEAST_DEEP_M:
            found.append(fish)
    return found[int(rng.integers(len(found)))] if found else None


def _moment(world: World, fish: Fish) -> Moment:
    pose = world.pose(first_acquisition(world.scene))
    east, north = math.sin(pose.heading_rad), math.cos(pose.heading_rad)
    return Moment(
        time_s=world.time_s,
        head_m=fish.head_m.copy(),
        nose=fish.axis,
        tip_m=world.tip_m(),
        boat_m=np.array([pose.x_m, pose.y_m, 0.0]),
        ahead=np.array([east, north, 0.0]),
        right=np.array([north, -east, 0.0]),
    )


def _moments(world: World, fish: Fish, end_s: float) -> Iterator[Moment]:
    while world.time_s < end_s:
        world.advance(world.time_s + STEP_S)
        yield _moment(world, fish)


def _query(world: World, fish: Fish, now: Moment, *, swims_m_s: float) -> CastQuery:
    angler, lure = world.scene.angler, world.lure
    if angler is None or lure is None:
        raise RuntimeError("no angler aboard")
    moves = abs(swims_m_s) > MOVES_M_S
    return CastQuery(
        range_m=float((fish.position_m - now.boat_m) @ now.ahead) - ROD_AHEAD_M,
        depth_m=float(fish.position_m[2]),
        is_slant=False,
        head_kg=angler.head_kg,
        lure=angler.lure,
        sink_m_s=lure.tackle.sink_m_s,
        species=fish.species,
        thickness_rad=world.profile.thickness_rad,
        rod_tip_m=ROD_HEIGHT_M,
        speed_m_s=abs(swims_m_s) if moves else None,
        heading_rad=(0.0 if swims_m_s > 0.0 else math.pi) if moves else None,
    )


def _told(query: CastQuery, tied: Lure) -> tuple[Cast, Lure]:
    """Return the cast as the solver says it, and what is tied on for it: where it names a heavier head, that is tied on and asked again."""
    cast = solve(query)
    if cast.heavier_kg is None:
        return cast, tied
    heavier = tackle(kind=query.lure, head_kg=cast.heavier_kg)
    return solve(replace(query, head_kg=cast.heavier_kg, sink_m_s=heavier.sink_m_s)), Lure(cast.heavier_kg, heavier)


def _advised(cast: Cast) -> Plan:
    return Plan(
        cast_m=cast.cast_m,
        right_m=cast.right_m,
        count_s=cast.fall.seconds,
        is_tight=cast.fall.toward_rod_m > 0.0,
        reel_m_s=0.0 if cast.retrieve is None else cast.retrieve.reel_m_s,
    )


def _arrives(
    world: World, tied: Lure, species: Species, plan: Plan, cast: Cast, now: Moment, moments: Sequence[Moment], miss: tuple[float, float]
) -> bool:
    """Return whether a lure thrown by a plan, and missing by (share, angle [rad]), comes before the fish's nose while it is still seen."""
    lure = _thrown(tied, plan, now, miss)
    splash_s: float | None = None
    for at in moments:
        floor_m = world.bottom_m(float(lure.position_m[0]), float(lure.position_m[1]))
        lure.step(time_s=at.time_s, dt_s=STEP_S, tip_m=at.tip_m, bottom_m=floor_m)
        if not lure.in_water:
            if splash_s is None:
                continue
            return False
        if splash_s is None:
            splash_s = at.time_s
            if plan.is_tight:
                lure.close_bail(at.tip_m)
        if at.time_s - splash_s >= plan.count_s:
            lure.reel((at.time_s * PULLS_HZ) % 1.0 < plan.reel_m_s / REEL_M_S, at.tip_m)
            lure.close_bail(at.tip_m)
        if _is_there(lure.position_m, species, cast.tolerance_m, at):
            return True
    return False


def _thrown(tied: Lure, plan: Plan, now: Moment, miss: tuple[float, float]) -> Lure:
    far = miss[0] * math.hypot(plan.cast_m, plan.right_m)
    way = math.atan2(plan.right_m, max(plan.cast_m, 1e-6)) + miss[1]
    spot = now.boat_m + (ROD_AHEAD_M + far * math.cos(way)) * now.ahead + far * math.sin(way) * now.right
    lure = Lure(tied.head_kg, tied.tackle)
    lure.throw(x_m=float(spot[0]), y_m=float(spot[1]), time_s=now.time_s)
    return lure


def _is_there(lure_m: FloatArray, species: Species, tolerance_m: float, at: Moment) -> bool:
    off = lure_m - at.head_m
    along, aside = float(off @ at.ahead), float(off @ at.right)
    faces = float(at.nose @ at.ahead)
    before = along * math.copysign(1.0, faces) if abs(faces) > ACROSS else abs(along)
    near, far = BEFORE_M[species]
    is_seen = abs(float((lure_m - at.boat_m) @ at.right)) < tolerance_m
    return is_seen and 0.0 <= -off[2] <= OVER_M and near <= before <= far and abs(aside) <= far
