"""The benchmark of set-up cards: how fast they are planned and measured, and whether auto-tune beats common practice on waters it did not see."""

import math
import statistics
import time
from dataclasses import dataclass

from mudlamp.core.advice.answers import Answers, Technique, situation
from mudlamp.core.advice.autotune import Batch, autotune, measured
from mudlamp.core.advice.planner import mid_band, plan
from mudlamp.core.advice.styles import Style, objective_of
from mudlamp.core.rig.profile import BoxedLure
from mudlamp.core.scene.model import Scene
from mudlamp.core.units import FOOT_M
from mudlamp.services.cards.advising import SEARCHED, TUNED_WATERS, batches_of, card_of, costs_of
from mudlamp.services.water.aboard import Aboard
from mudlamp.services.water.from_answers import record_batch

SEEN_SEED = 11
UNSEEN_SEEDS = (101, 102, 103)
CAST_FROM_M = 52.0 * FOOT_M
PLANS = 9


@dataclass(frozen=True, slots=True, kw_only=True)
class Contest:
    """How auto-tune did against the usual mid-band set-up on a scene: scores on seeds it did not see, its time [s], where Gain starts."""

    scene: str
    mid_band: float
    tuned: float
    better_pct: float
    seconds: float
    start_gain: float
    lure_ts_db: float


@dataclass(frozen=True, slots=True, kw_only=True)
class TuneBench:
    """The time of a plan [ms] and of its costs [s], and the contest on each scene."""

    plan_ms: float
    costs_s: float
    won: int
    of: int
    worst_pct: float
    scenes: list[Contest]


def answers_of_scene(scene: Scene) -> Answers:
    """Return the answers that an angler on a scene would give: its water, bottom, first fish; casting where the picture reaches far."""
    fish = scene.fish[0]
    deepest = min(max(group.z_m + group.rise_m for group in scene.fish), scene.depth_m or 60.0)
    return Answers(
        target=fish.species,
        technique=Technique.CAST if scene.transducer.reach_m > CAST_FROM_M else Technique.PITCH,
        depth_m=scene.depth_m,
        fish_from_m=max(min(group.z_m - group.rise_m for group in scene.fish), 0.3),
        fish_to_m=deepest,
        ground=None if scene.bottom is None else scene.bottom.ground,
        secchi_m=scene.water.secchi_m,
        wind_m_s=scene.water.wind_m_s,
        temperature_degc=scene.water.temperature_degc,
    )


def aboard_of_scene(scene: Scene) -> Aboard:
    """Return what is aboard on a scene: the usual rig, the scene's own lure."""
    plan_ = scene.angler
    if plan_ is None:
        return Aboard()
    lure = BoxedLure(kind=plan_.lure, head_kg=plan_.head_kg, material=plan_.material, weight_kg=plan_.weight_kg)
    return Aboard(lure=lure, line=plan_.line)


def scene_batch(scene: Scene, seed: int) -> Batch:
    """Return a batch of a scene's pings, the lure hanging a little short of its first fish."""
    fish = scene.fish[0]
    hang = None if scene.angler is None else (max(math.hypot(fish.x_m, fish.y_m) - 1.0, 1.5), max(fish.z_m - 0.3, 0.3))
    return record_batch(scene, hang_m=hang, seed=seed)


def contest(scene: Scene, *, unseen: tuple[int, ...] = UNSEEN_SEEDS) -> Contest:
    """Return how auto-tune does against the usual mid-band set-up on a scene: scores on seeds it did not see, and its time [s]."""
    here = situation(answers_of_scene(scene))
    objective = objective_of(Style.BALANCED, here.technique, here.goal)
    middle = mid_band(here)
    started = time.perf_counter()
    seen = [scene_batch(scene, SEEN_SEED + number) for number in range(TUNED_WATERS)]
    found = autotune(seen[:SEARCHED], objective, middle, judges=seen[SEARCHED:], seed=1).setup
    seconds = time.perf_counter() - started
    batches = [scene_batch(scene, seed) for seed in unseen]
    scores = [statistics.fmean(measured(setup, batch, objective)[1] for batch in batches) for setup in (middle, found)]
    tied = aboard_of_scene(scene)
    card = plan(here, tied.gear)
    return Contest(
        scene=scene.name,
        mid_band=round(scores[0], 2),
        tuned=round(scores[1], 2),
        better_pct=round(100.0 * (scores[1] / scores[0] - 1.0), 2),
        seconds=round(seconds, 2),
        start_gain=card.setup.gain,
        lure_ts_db=round(tied.gear.lure_ts_db or 0.0, 1),
    )


def bench_tune(scenes: list[Scene]) -> TuneBench:
    """Return the time of a plan [ms] and of its costs [s], and the contest on each scene."""
    card_of(Answers(), Aboard())
    plans = []
    for number in range(PLANS):
        started = time.perf_counter()
        card = card_of(Answers(depth_m=5.0 + 0.5 * number), Aboard())
        plans.append(1000.0 * (time.perf_counter() - started))
    costs_of(card, batches_of(card, Aboard(), seed=0))
    started = time.perf_counter()
    costs_of(card, batches_of(card, Aboard(), seed=1))
    costs = time.perf_counter() - started
    rows = [contest(scene) for scene in scenes]
    return TuneBench(
        plan_ms=round(statistics.median(plans), 1),
        costs_s=round(costs, 2),
        won=sum(row.better_pct > 0.0 for row in rows),
        of=len(rows),
        worst_pct=min(row.better_pct for row in rows),
        scenes=rows,
    )
