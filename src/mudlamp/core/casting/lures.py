"""Lures: kinds, what they are made of, the line they hang on; as parts with a target strength each, and a sink speed."""

import math
from dataclasses import dataclass
from enum import StrEnum

import numpy as np

from mudlamp.core.arrays import FloatArray
from mudlamp.core.casting.heads import LEAD_KG_M3, TUNGSTEN_ALLOY_KG_M3, head_target_strength_db, sink_speed_m_s


class LureKind(StrEnum):
    """Kinds of lure."""

    JIG = "jig"
    SOFT_PLASTIC = "soft_plastic"
    SWIMBAIT = "swimbait"
    MINNOW = "minnow"
    BLADED_JIG = "bladed_jig"
    JERKBAIT = "jerkbait"
    SPINNERBAIT = "spinnerbait"
    UMBRELLA = "umbrella"
    DROP_SHOT = "drop_shot"
    SPLIT_SHOT = "split_shot"


class Material(StrEnum):
    """What a head or weight is made of."""

    LEAD = "lead"
    TUNGSTEN = "tungsten"


class Line(StrEnum):
    """Kinds of line."""

    BRAID = "braid"
    MONOFILAMENT = "monofilament"
    FLUOROCARBON = "fluorocarbon"


DENSITY_KG_M3 = {Material.LEAD: LEAD_KG_M3, Material.TUNGSTEN: TUNGSTEN_ALLOY_KG_M3}
# Target strength of a centimeter of line seen broadside [dB re 1 m^2] (invented; braid holds air and shows as a thread, common practice).
LINE_TS_DB = {Line.BRAID: -84.0, Line.MONOFILAMENT: -96.0, Line.FLUOROCARBON: -99.0}
SQUARE_DB = 13.0
SQUARE_COSINE = 0.15
LINE_STEP_M = 0.06
LINE_POINTS = 220


@dataclass(frozen=True, slots=True, kw_only=True)
class LurePart:
    """One echoing part: how far behind the head [m], above it along the line [m], its target strength [dB], how it flutters [m]."""

    behind_m: float
    above_m: float
    ts_db: float
    flutter_m: float = 0.0
    weight: bool = False


@dataclass(frozen=True, slots=True, kw_only=True)
class LureShape:
    """A kind of lure: its other parts besides the head, and its added drag area [m^2]. Levels and areas are invented."""

    parts: tuple[LurePart, ...]
    drag_area_m2: float


def _part(behind_m: float, ts_db: float, *, above_m: float = 0.0, flutter_m: float = 0.01) -> LurePart:
    return LurePart(behind_m=behind_m, above_m=above_m, ts_db=ts_db, flutter_m=flutter_m)


SHAPES = {
    LureKind.JIG: LureShape(parts=(_part(0.012, -66.0), _part(0.03, -69.5)), drag_area_m2=3.4e-4),
    LureKind.SOFT_PLASTIC: LureShape(parts=(_part(0.03, -64.0), _part(0.08, -66.0), _part(0.13, -68.0)), drag_area_m2=6e-4),
    LureKind.SWIMBAIT: LureShape(parts=(_part(0.04, -58.0), _part(0.09, -57.0), _part(0.13, -60.0, flutter_m=0.03)), drag_area_m2=9e-4),
    LureKind.MINNOW: LureShape(parts=(_part(0.03, -61.0), _part(0.08, -64.0, flutter_m=0.015)), drag_area_m2=4e-4),
    LureKind.BLADED_JIG: LureShape(parts=(_part(-0.03, -50.0, flutter_m=0.02), _part(0.06, -62.0)), drag_area_m2=1.2e-3),
    LureKind.JERKBAIT: LureShape(parts=(_part(0.03, -50.0), _part(0.07, -48.0), _part(0.11, -52.0)), drag_area_m2=6e-3),
    LureKind.SPINNERBAIT: LureShape(
        parts=(_part(0.08, -49.0, above_m=0.06, flutter_m=0.02), _part(0.04, -52.0, above_m=0.05, flutter_m=0.02)), drag_area_m2=2.5e-3
    ),
    LureKind.UMBRELLA: LureShape(
        parts=tuple(
            _part(0.16, -51.0, above_m=above, flutter_m=side)
            for above, side in ((0.12, 0.12), (0.12, -0.12), (-0.12, 0.12), (-0.12, -0.12))
        ),
        drag_area_m2=5e-3,
    ),
    LureKind.DROP_SHOT: LureShape(parts=(_part(0.02, -62.0),), drag_area_m2=3e-4),
    LureKind.SPLIT_SHOT: LureShape(parts=(_part(0.02, -60.0), _part(0.06, -64.0)), drag_area_m2=6e-4),
}
# Weights sit so far up the line from the lure; a drop shot's hangs below it.
WEIGHT_UP_M = 0.45
DROP_SHOT_DOWN_M = 0.35


@dataclass(frozen=True, slots=True, kw_only=True)
class Tackle:
    """A lure as tied on: its parts (a weight among them, if any), its sink speed [m/s], its line."""

    kind: LureKind
    parts: tuple[LurePart, ...]
    sink_m_s: float
    line: Line

    @property
    def ts_db(self) -> float:
        """The target strength of all lure parts together [dB re 1 m^2], weights left out: the sum of their powers."""
        return 10.0 * math.log10(sum(10.0 ** (part.ts_db / 10.0) for part in self.parts if not part.weight))

    @property
    def mark_db(self) -> float:
        """The target strength of its strongest part [dB re 1 m^2]: the parts of a long lure fill cells of their own. Weights are left out."""
        return max(part.ts_db for part in self.parts if not part.weight)

    @property
    def weight_at_m(self) -> float | None:
        """How far up the line a weight sits [m], or None without one; negative is below."""
        return next((part.above_m for part in self.parts if part.weight), None)


def tackle(
    *, kind: LureKind, head_kg: float, material: Material = Material.LEAD, line: Line = Line.FLUOROCARBON, weight_kg: float = 0.0
) -> Tackle:
    """Return a lure as tied on.

    `head_kg` is the head's mass [kg]; of a drop shot the weight's below the bait, of a split shot the shot's above it. `weight_kg` is a
    weight above the lure [kg], 0 for none. Raises DomainError for a mass out of range. Source: invented parts; heads and weights are
    spheres (20 log a / 2) that sink by the balance of weight, buoyancy and drag.
    """
    shape, density = SHAPES[kind], DENSITY_KG_M3[material]
    ball = head_target_strength_db(mass_kg=head_kg, density_kg_m3=density)
    parts = list(shape.parts)
    if kind is LureKind.DROP_SHOT:
        parts.append(LurePart(behind_m=0.0, above_m=-DROP_SHOT_DOWN_M, ts_db=ball, weight=True))
    elif kind is LureKind.SPLIT_SHOT:
        parts.append(LurePart(behind_m=0.0, above_m=WEIGHT_UP_M, ts_db=ball, weight=True))
    else:
        parts.insert(0, LurePart(behind_m=0.0, above_m=0.0, ts_db=ball))
    if weight_kg > 0.0:
        above = head_target_strength_db(mass_kg=weight_kg, density_kg_m3=density)
        parts.append(LurePart(behind_m=0.0, above_m=WEIGHT_UP_M, ts_db=above, weight=True))
    sink = sink_speed_m_s(mass_kg=head_kg + weight_kg, density_kg_m3=density, drag_area_m2=shape.drag_area_m2)
    return Tackle(kind=kind, parts=tuple(parts), sink_m_s=sink, line=line)


def part_places(parts: tuple[LurePart, ...], *, heading_rad: float, turn_rad: float) -> FloatArray:
    """Return where parts are (N, 3) [m] from the head: behind it along its heading, up the line, fluttering to the side with `turn_rad`."""
    forward = np.array([math.sin(heading_rad), math.cos(heading_rad), 0.0])
    side = np.array([math.cos(heading_rad), -math.sin(heading_rad), 0.0])
    rows = []
    for i, part in enumerate(parts):
        swing = part.flutter_m * math.sin(turn_rad * (1.0 + 0.3 * i) + i)
        lift = np.array([0.0, 0.0, -part.above_m + 0.4 * part.flutter_m * math.cos(turn_rad + i)])
        rows.append(-part.behind_m * forward + swing * side + lift)
    return np.array(rows)


def line_places(tip_m: FloatArray, lure_m: FloatArray) -> FloatArray:
    """Return where the line's echoing points are (N, 3) [m]: straight from where it enters the water to the lure."""
    drop = float(lure_m[2] - tip_m[2])
    if drop <= 1e-6 or lure_m[2] <= 0.0:
        return np.zeros((0, 3))
    entry = tip_m + (lure_m - tip_m) * max(0.0, -float(tip_m[2]) / drop)
    span = float(np.linalg.norm(lure_m - entry))
    count = min(LINE_POINTS, int(span / LINE_STEP_M))
    return entry + (np.arange(count) / max(count, 1))[:, None] * (lure_m - entry)


def line_square(points_m: FloatArray, origin_m: FloatArray) -> FloatArray:
    """Return how strongly the points (N, 3) of a straight line echo toward a place, as amplitudes (N,): a taut line glints seen square.

    Within some 9 deg of square its echoes add up in step, SQUARE_DB stronger. Source: invented, after the echo of a long cylinder.
    """
    if len(points_m) < 2:
        return np.ones(len(points_m))
    along = (points_m[-1] - points_m[0]) / max(float(np.linalg.norm(points_m[-1] - points_m[0])), 1e-6)
    sight = points_m - origin_m
    cosine = sight @ along / np.maximum(np.linalg.norm(sight, axis=1), 1e-6)
    glint: FloatArray = np.sqrt(0.5 + 10.0 ** (SQUARE_DB / 10.0) * np.exp(-((cosine / SQUARE_COSINE) ** 2)))
    return glint
