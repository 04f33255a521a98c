"""How far out a lure and a fish show on a card's water: their echoes drawn at many distances, looked at by the real receiver."""

import math
from collections.abc import Callable
from dataclasses import dataclass, replace

import numpy as np

from mudlamp.core.advice.answers import Situation
from mudlamp.core.advice.autotune import SETTLED_S, Batch
from mudlamp.core.advice.forecast import END_ON_DB, TYPICAL_FISH_M
from mudlamp.core.advice.lure_seen import CLEAR_DB
from mudlamp.core.advice.planner import Card
from mudlamp.core.advice.sight import Sight, sight_of
from mudlamp.core.arrays import FloatArray
from mudlamp.core.casting.lures import Tackle, tackle
from mudlamp.core.receiver.readings import cells_of_samples
from mudlamp.core.receiver.trial import metered
from mudlamp.core.scene.species import side_target_strength_db
from mudlamp.core.setup import ReceiverSetup, Window
from mudlamp.formats.scene.build import scene_of
from mudlamp.formats.scene.parts import BoatPart, PointPart, SceneFile
from mudlamp.services.cards.advising import SEEDS_END, scene_for
from mudlamp.services.water.aboard import Aboard
from mudlamp.services.water.from_answers import record_batch

# Looked at from here on, to so many times the Reach and no less than the second, no more than the third [m] (ours);
# the last of them a little inside.
FROM_M, TIMES, LEAST_M, MOST_M, ROOM_M = 2.0, 1.6, 15.0, 36.0, 0.5
POINTS, WATERS, PINGS, LOOKED_AT = 22, 4, 7, 3


@dataclass(frozen=True, slots=True, kw_only=True)
class SightWaters:
    """Pings on several waters with a thing at each of many distances (distance,) [m]: a batch a water."""

    distance_m: FloatArray
    batches: tuple[Batch, ...]


def lure_waters(card: Card, aboard: Aboard, *, seed: int) -> SightWaters:
    """Return waters like the card's with its lure at many distances, at the depth of the fish, swinging as it hangs."""
    lure = aboard.lure
    tied = tackle(kind=lure.kind, head_kg=lure.head_kg, material=lure.material, line=aboard.line, weight_kg=lure.weight_kg)
    return _waters(card, aboard, seed, lambda rng, count: _swung_db(tied, rng, count))


def fish_waters(card: Card, aboard: Aboard, *, seed: int) -> SightWaters:
    """Return waters like the card's with a fish of the kind sought at many distances, each turned some way."""
    return _waters(card, aboard, seed, lambda rng, count: _turned_db(card.here, aboard, rng, count))


def sight(setup: ReceiverSetup, waters: SightWaters) -> Sight:
    """Return how far out what is on the waters shows under a set-up."""
    names = [f"point{at + 1}" for at in range(len(waters.distance_m))]
    over, shown = [], []
    for batch in waters.batches:
        meter = metered(setup, batch.samples, batch.window, settling_s=SETTLED_S, cells=batch.cells)
        found, erased = meter.over_db(), meter.erased()
        over.append([max(found.get(name, 0.0), 0.0) for name in names])
        shown.append([found.get(name, 0.0) >= CLEAR_DB and name not in erased for name in names])
    return sight_of(waters.distance_m, np.array(shown), np.array(over))


def _waters(card: Card, aboard: Aboard, seed: int, levels_db: Callable[[np.random.Generator, int], FloatArray]) -> SightWaters:
    reach = min(max(TIMES * card.window.reach_m, LEAST_M), MOST_M)
    # Range is slant: the farthest of them is still within it.
    farthest = math.sqrt((reach - ROOM_M) ** 2 - min(card.here.fish_m, reach - LEAST_M / 2.0) ** 2)
    distance = np.linspace(FROM_M, max(farthest, 2.0 * FROM_M), POINTS)
    plain = scene_for(card, aboard, title="How far it shows")
    batches = []
    for number in range(WATERS):
        levels = levels_db(np.random.default_rng((seed, number)), POINTS)
        scene = _with_points(plain, card, distance, levels, reach)
        recorded = record_batch(scene_of(scene), hang_m=None, seed=(seed + number) % SEEDS_END, pings=PINGS)
        batches.append(_counted(recorded, card.window))
    return SightWaters(distance_m=distance, batches=tuple(batches))


def _with_points(plain: SceneFile, card: Card, distance_m: FloatArray, levels_db: FloatArray, reach_m: float) -> SceneFile:
    """Return a water without fish, lure or cover, held dead on the points: the angler aims at what is looked for."""
    points = [
        PointPart(x_m=0.0, y_m=float(y), z_m=card.here.fish_m, ts_db=float(level)) for y, level in zip(distance_m, levels_db, strict=True)
    ]
    return plain.model_copy(
        update={
            "targets": points,
            "fish": [],
            "cover": [],
            "angler": None,
            "boat": BoatPart(pitch_deg=plain.boat.pitch_deg),
            "transducer": plain.transducer.model_copy(update={"reach_m": reach_m}),
        }
    )


def _counted(batch: Batch, window: Window) -> Batch:
    """Return a batch seen through a window whose points count as lures in the last few pings, and nowhere else."""
    first = len(batch.samples) - LOOKED_AT
    samples = tuple(
        (ping, None if at < first or rows is None else [replace(row, kind="lure") for row in rows])
        for at, (ping, rows) in enumerate(batch.samples)
    )
    return Batch(samples=samples, window=window, interval_s=batch.interval_s, cells=cells_of_samples(samples, window))


def _swung_db(tied: Tackle, rng: np.random.Generator, count: int) -> FloatArray:
    """Return so many levels of a lure whose parts add up in any phase [dB re 1 m^2]."""
    pressure = 10.0 ** (np.array([part.ts_db for part in tied.parts if not part.weight]) / 20.0)
    sums = np.abs(np.exp(2j * np.pi * rng.random((count, len(pressure)))) @ pressure)
    return np.asarray(np.clip(20.0 * np.log10(np.maximum(sums, 1e-5)), -90.0, 0.0), dtype=np.float64)


def _turned_db(here: Situation, aboard: Aboard, rng: np.random.Generator, count: int) -> FloatArray:
    """Return so many levels of a fish, anywhere from side on to end on [dB re 1 m^2]."""
    side = side_target_strength_db(species=here.target, length_m=TYPICAL_FISH_M[here.target], carrier_hz=aboard.profile.carrier_hz)
    return np.asarray(side - END_ON_DB * rng.random(count), dtype=np.float64)
