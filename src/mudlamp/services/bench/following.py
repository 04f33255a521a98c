"""How well the tracker follows fish and lure: on stock scenes and on drawn waters that nothing was learned on."""

from collections.abc import Callable, Sequence
from dataclasses import dataclass

import numpy as np
from scipy.spatial import cKDTree

from mudlamp.core.arrays import BoolArray
from mudlamp.core.scene.draw import draw_water
from mudlamp.core.scene.model import Scene
from mudlamp.core.scene.world import World
from mudlamp.core.score.following import Following, FollowingScore
from mudlamp.core.tracking.tracker import Tracker
from mudlamp.formats.learned import shipped
from mudlamp.heads.simulated import SimulatedHead
from mudlamp.services.crew import Crew

STOCK_HZ = 15.0
# Two feet: a fish so near to cover or another fish is hard to follow.
HARD_M = 0.61


@dataclass(frozen=True, slots=True, kw_only=True)
class Job:
    """A water to be followed: a scene, its seed, how often it pings [Hz], how long [s], and the name it is counted under."""

    scene: Scene
    seed: int
    ping_hz: float
    seconds: float
    kind: str
    drawn: bool


@dataclass(frozen=True, slots=True, kw_only=True)
class FollowingRow:
    """Figures of some waters: how many, with the hand told and from pings alone. Shares, rates a minute, GOSPA [m]."""

    waters: int
    with_hand: dict[str, float]
    from_pings: dict[str, float]


def jobs_of(scenes: Sequence[Scene], seeds: Sequence[int], *, seconds: float, drawn: bool) -> list[Job]:
    """Return the waters to follow: each scene on the first of the seeds, and, where wanted, the drawn water of each seed."""
    jobs = [Job(scene=scene, seed=seeds[0], ping_hz=STOCK_HZ, seconds=seconds, kind=scene.name, drawn=False) for scene in scenes]
    for seed in seeds if drawn else ():
        water = draw_water(seed)
        jobs.append(Job(scene=water.scene, seed=seed, ping_hz=water.ping_hz, seconds=seconds, kind=str(water.kind), drawn=True))
    return jobs


def follow(job: Job) -> tuple[Following, Following]:
    """Return how well a water's fish and lure were followed with the hand told, and from pings alone."""
    head, learned = SimulatedHead(job.scene, seed=job.seed), shipped()
    told, alone = Tracker(learned), Tracker(learned)
    with_hand, from_pings = FollowingScore(), FollowingScore()
    cover = head.world.cover_places()
    tree = cKDTree(cover) if len(cover) else None
    for number in range(int(job.seconds * job.ping_hz)):
        time_s = number / job.ping_hz
        ping = head.listen(time_s)
        truth = head.rows()
        hard = {fish.name for fish, near in zip(head.world.fish, _is_hard(head.world, tree), strict=True) if near}
        with_hand.add(time_s, truth, told.update(ping, head.world.hand()), hard)
        from_pings.add(time_s, truth, alone.update(ping), hard)
    return with_hand.result(), from_pings.result()


def _is_hard(world: World, cover: cKDTree | None) -> BoolArray:
    """Return which of a world's fish are near cover or another fish (fish,)."""
    if not world.fish:
        return np.zeros(0, dtype=bool)
    places = np.array([fish.position_m for fish in world.fish])
    gap = np.linalg.norm(places[:, None] - places[None], axis=2)
    np.fill_diagonal(gap, np.inf)
    near: BoolArray = gap.min(axis=1) < HARD_M
    return near if cover is None else near | (cover.query(places)[0] < HARD_M)


def bench_following(
    jobs: Sequence[Job], *, cluster: str | None = None, progress: Callable[[float], None] | None = None
) -> dict[str, FollowingRow]:
    """Return figures for all stock scenes, all drawn waters, and each scene and kind of water."""
    found: list[tuple[Following, Following]] = []
    with Crew(cluster=cluster) as crew:
        for one in crew.each(follow, jobs):
            found.append(one)
            if progress is not None:
                progress(len(found) / len(jobs))
    groups: dict[str, list[tuple[Following, Following]]] = {}
    for job, pair in zip(jobs, found, strict=True):
        groups.setdefault("drawn waters" if job.drawn else "stock scenes", []).append(pair)
        if job.drawn and not job.scene.fish_count:
            groups.setdefault("no fish", []).append(pair)
        groups.setdefault(job.kind, []).append(pair)
    return {name: _row(pairs) for name, pairs in groups.items()}


def _row(pairs: Sequence[tuple[Following, Following]]) -> FollowingRow:
    told, alone = (Following.total([pair[i] for pair in pairs]).figures() for i in (0, 1))
    return FollowingRow(waters=len(pairs), with_hand=_rounded(told), from_pings=_rounded(alone))


def _rounded(figures: dict[str, float]) -> dict[str, float]:
    return {name: round(value, 3) for name, value in figures.items()}
