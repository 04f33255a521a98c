"""What fish and lure send back: their scatterers at a moment, put among all others."""

import math
from collections.abc import Sequence

import numpy as np

from mudlamp.core.arrays import FloatArray
from mudlamp.core.casting.lure_on_line import Lure
from mudlamp.core.casting.lures import LINE_STEP_M, LINE_TS_DB, line_places, line_square, part_places
from mudlamp.core.scene.fish import Fish
from mudlamp.core.scene.species import Bodies, bodies_of, bodies_scatterers
from mudlamp.core.sonar.scatterers import NOBODY, Scatterers

LURE_OWNER = 1_000_000
WEIGHT_OWNER = 1_000_001
BAIT_OWNER = 2_000_000


def bodies_of_fish(fish: Sequence[Fish], *, carrier_hz: float) -> Bodies:
    """Return the bodies of fish as a carrier [Hz] meets them."""
    return bodies_of([(one.species, one.length_m) for one in fish], carrier_hz=carrier_hz)


def add_fish(scatterers: Scatterers, fish: Sequence[Fish], bodies: Bodies, *, origin_m: FloatArray) -> None:
    """Put in what fish send back to an origin (3,) [m]."""
    place = np.array([one.position_m for one in fish])
    turned = np.array([[math.sin(one.heading_rad), math.cos(one.heading_rad)] for one in fish])
    level = np.zeros((len(fish), 1))
    sight = place - origin_m
    position, amplitude = bodies_scatterers(
        bodies,
        position_m=place,
        axis=np.hstack((turned, level)),
        sideways=np.hstack((turned[:, 1:], -turned[:, :1], level)),
        sight=sight / np.maximum(np.linalg.norm(sight, axis=1, keepdims=True), 1e-6),
        tail_sway=np.array([one.tail_sway for one in fish]),
    )
    phase = np.concatenate([one.scatter_phase_rad for one in fish])
    before = scatterers.count
    scatterers.add(position.reshape(-1, 3), amplitude.ravel(), phase, owner=NOBODY)
    owners = np.repeat(np.arange(len(fish)), position.shape[1])
    scatterers.owner[before : scatterers.count] = owners[: scatterers.count - before]


def add_lure(scatterers: Scatterers, lure: Lure, *, time_s: float, tip_m: FloatArray, phase_rad: FloatArray, origin_m: FloatArray) -> None:
    """Put in a lure's parts (weak neighbors make its level swing as it turns), its weight, and its line to the tip (3,) [m]."""
    parts = lure.tackle.parts
    place = lure.position_m + part_places(parts, heading_rad=lure.heading_rad, turn_rad=3.0 * time_s)
    level = np.array([10.0 ** (part.ts_db / 20.0) for part in parts])
    heavy = np.array([part.weight for part in parts])
    for mask, owner in ((~heavy, LURE_OWNER), (heavy, WEIGHT_OWNER)):
        scatterers.add(place[mask], level[mask], phase_rad[: int(mask.sum())], owner=owner)
    points = line_places(tip_m, lure.position_m)
    # A stretch of line echoes as its centimeters would, added at random.
    amplitude = math.sqrt(100.0 * LINE_STEP_M) * 10.0 ** (LINE_TS_DB[lure.tackle.line] / 20.0)
    scatterers.add(points, amplitude * line_square(points, origin_m), phase_rad[-max(len(points), 1) :][: len(points)], owner=NOBODY)
