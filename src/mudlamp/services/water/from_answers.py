"""From answers to a water: the scene that stands for them, as a scene file, and the batch of pings recorded on it."""

import json
import math
from collections.abc import Callable, Mapping
from dataclasses import dataclass, replace
from typing import Any

from mudlamp.core.advice.answers import CoverKind, Shape, Situation, Technique
from mudlamp.core.advice.autotune import Batch
from mudlamp.core.advice.forecast import TYPICAL_FISH_M
from mudlamp.core.casting.lures import Line, LureKind, Material
from mudlamp.core.receiver.setup import Window
from mudlamp.core.scene.model import Scene
from mudlamp.core.scene.truth import TruthRow
from mudlamp.core.units import OUNCE_KG
from mudlamp.formats.scene.file import parse_scene
from mudlamp.heads.simulated import SimulatedHead

AHEAD_SHARE = {Technique.VERTICAL: 0.15, Technique.PITCH: 0.55, Technique.CAST: 0.75, Technique.SCAN: 0.7}
FISH = 5
BATCH_PINGS = 14
LOOKED_UP = 8
BATCH_HZ = 15.0
SETTLE_S = 1.0
# Cover grows no higher than this, however deep the water [m] (ours).
TALLEST_TREE_M, TALLEST_TIMBER_M, TALLEST_WEEDS_M = 8.0, 15.0, 4.0
# Fish of one group keep within this of its middle, up and down [m] (ours).
HIGHEST_RISE_M = 4.0
# The lightest head that a scene file takes [oz].
LIGHTEST_OZ = 0.0078


@dataclass(frozen=True, slots=True, kw_only=True)
class TiedOn:
    """What is tied on: kind, head's and upper weight [kg], material, line."""

    kind: LureKind = LureKind.JIG
    head_kg: float = OUNCE_KG / 16.0
    material: Material = Material.LEAD
    line: Line = Line.FLUOROCARBON
    weight_kg: float = 0.0


@dataclass(frozen=True, slots=True, kw_only=True)
class OwnMeasures:
    """The angler's transducer: fan, thickness [rad], carrier [Hz], facets, depth [m]."""

    fan_rad: float
    thickness_rad: float
    carrier_hz: float
    facets: int
    depth_m: float


def fish_place(here: Situation, window: Window) -> tuple[float, float]:
    """Return how far ahead and how deep the fish are [m]: by technique a share of the Reach, within what the fan sees."""
    return max(AHEAD_SHARE[here.technique] * window.reach_m, 1.2), here.fish_m


def scene_values(
    here: Situation, window: Window, *, tied: TiedOn, own: OwnMeasures | None, title: str, faults: Mapping[str, Any] | None = None
) -> dict[str, Any]:
    """Return the scene that stands for a situation, as the keys of a scene file."""
    ahead, depth = fish_place(here, window)
    size = TYPICAL_FISH_M[here.target]
    transducer: dict[str, Any] = {
        # Not under the bottom, however deep it hangs elsewhere.
        "depth_m": min(0.4 if own is None else own.depth_m, 0.5 * here.depth_m),
        "reach_m": window.reach_m,
        "down_to_m": window.down_to_m,
        "look_back_m": window.look_back_m,
    }
    if own is not None:
        transducer |= {
            "fan_deg": math.degrees(own.fan_rad),
            "thickness_deg": math.degrees(own.thickness_rad),
            "carrier_khz": own.carrier_hz / 1000.0,
            "facets": own.facets,
        }
    troubles = dict(faults or {})
    if here.other_sonars and "other_sonar" not in troubles:
        troubles["other_sonar"] = {"ping_hz": 13.0}
    return {
        "name": "tuned",
        "title": title,
        "teaches": "Made from the answers of a set-up card.",
        "water": {"temperature_degc": here.temperature_degc, "secchi_m": here.secchi_m, "wind_m_s": here.wind_m_s},
        "bottom": {
            "kind": here.ground.value,
            "depth_m": here.depth_m,
            "slope_north": min(math.tan(here.slope_rad), 1.0) if here.shape is Shape.SLOPE else 0.0,
            "relief_m": 0.5 if here.shape is Shape.BROKEN else 0.08,
            "relief_length_m": 7.0,
        },
        "surface": not here.ice,
        "boat": {"sway_deg": 0.0 if here.ice else 1.2, "drift_m": 0.0 if here.ice else 0.15, "pitch_deg": 0.15 * here.wind_m_s},
        "transducer": transducer,
        "cover": _cover(here, ahead),
        "fish": [_fish(here, ahead, depth, size)],
        "angler": {
            "lure": tied.kind.value,
            "head_oz": max(round(tied.head_kg / OUNCE_KG, 6), LIGHTEST_OZ),
            "material": tied.material.value,
            "line": tied.line.value,
            "weight_oz": round(tied.weight_kg / OUNCE_KG, 6),
        },
        "faults": troubles,
    }


def _fish(here: Situation, ahead: float, depth: float, size: float) -> dict[str, Any]:
    return {
        "species": here.target.value,
        "count": FISH,
        "x_m": 0.0,
        "y_m": ahead,
        "z_m": min(max(depth, 0.4), here.depth_m - 0.1),
        # Few enough aside for a fan that is thin near the boat.
        "spread_m": min(0.12 * ahead + 0.15, 1.2),
        "rise_m": min(0.4 * max(here.fish_to_m - here.fish_from_m, 0.2), HIGHEST_RISE_M),
        "shortest_m": 0.8 * size,
        "longest_m": 1.15 * size,
        "mood": 0.4,
    }


def _cover(here: Situation, ahead: float) -> list[dict[str, Any]]:
    depth = here.depth_m
    if here.cover is CoverKind.BRUSH:
        return [{"kind": "tree", "x_m": 0.2, "y_m": ahead + 0.8, "height_m": min(max(0.45 * depth, 0.4), TALLEST_TREE_M), "spread_m": 1.1}]
    if here.cover is CoverKind.TIMBER:
        return [
            {"kind": "timber", "x_m": x, "y_m": ahead + dy, "height_m": min(max(0.8 * depth, 0.4), TALLEST_TIMBER_M), "radius_m": 0.12}
            for x, dy in ((0.3, 0.7), (-0.6, 2.2), (0.1, -1.8))
        ]
    if here.cover is CoverKind.WEEDS:
        return [
            {"kind": "weeds", "x_m": 0.0, "y_m": ahead + 1.5, "radius_m": 2.5, "height_m": min(max(0.35 * depth, 0.3), TALLEST_WEEDS_M)}
        ]
    if here.cover is CoverKind.DOCK:
        return [
            {"kind": "float", "x_m": 0.0, "y_m": ahead + 3.0, "length_m": 5.0, "width_m": 2.4},
            {"kind": "piling", "x_m": 0.5, "y_m": ahead + 0.6},
        ]
    if here.cover is CoverKind.ROCKS:
        return [{"kind": "boulders", "x_m": 0.0, "y_m": ahead + 0.5, "length_m": 5.0, "width_m": 3.0, "count": 10}]
    return []


def scene_text(values: Mapping[str, Any]) -> str:
    """Return a scene's keys as the text of a scene file."""
    return json.dumps(values, indent=2)


def scene_of(values: Mapping[str, Any]) -> Scene:
    """Return the scene; raise SceneError where a key is out of range."""
    return parse_scene(scene_text(values))


def _looked_up(rows: list[TruthRow]) -> list[TruthRow]:
    """Return truth rows in which the hung lure counts wherever the fan lights it: a lure that is drowned costs what it costs."""
    return [replace(row, seen=True) if row.kind == "lure" and row.in_fan else row for row in rows]


def record_batch(
    scene: Scene,
    *,
    hang_m: tuple[float, float] | None,
    seed: int,
    pings: int = BATCH_PINGS,
    progress: Callable[[float], None] = lambda share: None,
) -> Batch:
    """Return a batch of pings on a scene, with truth beside the later ones; the lure hangs so far ahead and so deep [m], if at all."""
    head = SimulatedHead(scene, seed=seed, scripted=False)
    head.world.advance(SETTLE_S)
    if hang_m is not None:
        pose = head.world.pose(head.acquisition)
        east, north = math.sin(pose.heading_rad), math.cos(pose.heading_rad)
        head.world.hang(pose.x_m + hang_m[0] * east, pose.y_m + hang_m[0] * north, hang_m[1])
    samples = []
    for number in range(pings):
        ping = head.listen(SETTLE_S + (number + 1) / BATCH_HZ)
        samples.append((ping, _looked_up(head.rows()) if number >= pings - LOOKED_UP else None))
        progress((number + 1) / pings)
    acquisition = head.acquisition
    window = Window(down_to_m=acquisition.down_to_m, reach_m=acquisition.reach_m, look_back_m=acquisition.look_back_m)
    return Batch(samples=tuple(samples), window=window, interval_s=1.0 / BATCH_HZ)
