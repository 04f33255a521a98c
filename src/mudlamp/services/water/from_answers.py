"""From answers to a water: the scene that stands for them, as a scene file, and the batch of pings recorded on it."""

import math
from collections.abc import Callable
from dataclasses import replace

from mudlamp.core.advice.answers import BottomShape, CoverKind, Situation
from mudlamp.core.advice.autotune import Batch
from mudlamp.core.advice.forecast import TYPICAL_FISH_M
from mudlamp.core.advice.windows import AHEAD_SHARE
from mudlamp.core.receiver.readings import cells_of_samples
from mudlamp.core.receiver.trial import Sample
from mudlamp.core.scene.model import Scene
from mudlamp.core.scene.truth import TruthRow
from mudlamp.core.setup import Window
from mudlamp.core.units import OUNCE_KG
from mudlamp.formats.scene.file import scene_file
from mudlamp.formats.scene.parts import (
    AnglerPart,
    BoatPart,
    BottomPart,
    CoverPart,
    FaultsPart,
    FishPart,
    FloatPart,
    OtherSonarPart,
    PilingPart,
    SceneFile,
    StonesPart,
    ThermoclinePart,
    TimberPart,
    TransducerPart,
    TreePart,
    WaterPart,
    WeedsPart,
)
from mudlamp.heads.simulated import SimulatedHead
from mudlamp.services.water.aboard import Aboard

FISH = 5
BATCH_PINGS = 14
LOOKED_UP = 8
# A boat that a motor holds: how far it swings to each side [deg] and wanders to each side [m] (common practice: 3 to 6 ft in all, 10 to 30 deg).
HELD_SWAY_DEG = 6.0
HELD_DRIFT_M = 0.5
BATCH_HZ = 15.0
SETTLE_S = 1.0
# Cover grows no higher than this, however deep the water [m] (ours).
TALLEST_TREE_M, TALLEST_TIMBER_M, TALLEST_WEEDS_M = 8.0, 15.0, 4.0
# Fish of one group keep within this of its middle, up and down [m] (ours).
HIGHEST_RISE_M = 4.0
# The lightest head that a scene file takes [oz].
LIGHTEST_OZ = 0.0078
# How often another boat's live sonar pings [Hz] (ours).
OTHER_PING_HZ = 13.0


def fish_place(here: Situation, window: Window) -> tuple[float, float]:
    """Return how far ahead and how deep the fish are [m]: by technique a share of the Reach, within what the fan sees."""
    return max(AHEAD_SHARE[here.technique] * window.reach_m, 1.2), here.fish_m


def scene_from(here: Situation, window: Window, aboard: Aboard, *, title: str, faults: FaultsPart | None = None) -> SceneFile:
    """Return the scene that stands for a situation, fished from a rig, as a scene file; raise SceneError where a key is out of range."""
    ahead, depth = fish_place(here, window)
    troubles = faults or FaultsPart()
    if here.other_sonars and troubles.other_sonar is None:
        troubles = troubles.model_copy(update={"other_sonar": OtherSonarPart(ping_hz=OTHER_PING_HZ)})
    return scene_file(
        name="tuned",
        title=title,
        teaches="Made from the answers of a set-up card.",
        water=WaterPart(
            temperature_degc=here.temperature_degc,
            secchi_m=here.secchi_m,
            wind_m_s=here.wind_m_s,
            thermocline=None if here.thermocline_m is None else ThermoclinePart(depth_m=here.thermocline_m),
        ),
        bottom=BottomPart(
            kind=here.ground,
            depth_m=here.depth_m,
            slope_north=min(math.tan(here.slope_rad), 1.0) if here.shape is BottomShape.SLOPE else 0.0,
            relief_m=0.5 if here.shape is BottomShape.BROKEN else 0.08,
            relief_length_m=7.0,
        ),
        surface=not here.ice,
        boat=BoatPart(
            sway_deg=0.0 if here.ice else HELD_SWAY_DEG, drift_m=0.0 if here.ice else HELD_DRIFT_M, pitch_deg=0.15 * here.wind_m_s
        ),
        transducer=_transducer(here, window, aboard),
        cover=_cover(here, ahead),
        fish=[_fish(here, ahead, depth)],
        angler=AnglerPart(
            lure=aboard.lure.kind,
            head_oz=max(round(aboard.lure.head_kg / OUNCE_KG, 6), LIGHTEST_OZ),
            material=aboard.lure.material,
            line=aboard.line,
            weight_oz=round(aboard.lure.weight_kg / OUNCE_KG, 6),
        ),
        faults=troubles,
    )


def _transducer(here: Situation, window: Window, aboard: Aboard) -> TransducerPart:
    own, mount = aboard.rig.transducer, aboard.rig.mount
    return TransducerPart(
        # Not under the bottom, however deep it hangs elsewhere.
        depth_m=min(mount.depth_m, 0.5 * here.depth_m),
        reach_m=window.reach_m,
        down_to_m=window.down_to_m,
        look_back_m=window.look_back_m,
        # The mount points it wrong by what the aim check found: the correction, dialed in, brings it back.
        aim_error_deg=-math.degrees(mount.aim_rad),
        fan_deg=math.degrees(own.fan_rad),
        thickness_deg=math.degrees(own.thickness_rad),
        carrier_khz=own.carrier_hz / 1000.0,
        facets=own.facets,
    )


def _fish(here: Situation, ahead: float, depth: float) -> FishPart:
    size = TYPICAL_FISH_M[here.target]
    return FishPart(
        species=here.target,
        count=FISH,
        x_m=0.0,
        y_m=ahead,
        z_m=min(max(depth, 0.4), here.depth_m - 0.1),
        # Few enough aside for a fan that is thin near the boat.
        spread_m=min(0.12 * ahead + 0.15, 1.2),
        rise_m=min(0.4 * max(here.fish_to_m - here.fish_from_m, 0.2), HIGHEST_RISE_M),
        shortest_m=0.8 * size,
        longest_m=1.15 * size,
        mood=0.4,
    )


def _cover(here: Situation, ahead: float) -> list[CoverPart]:
    depth = here.depth_m
    match here.cover:
        case CoverKind.BRUSH:
            return [TreePart(kind="tree", x_m=0.2, y_m=ahead + 0.8, height_m=min(max(0.45 * depth, 0.4), TALLEST_TREE_M), spread_m=1.1)]
        case CoverKind.TIMBER:
            height = min(max(0.8 * depth, 0.4), TALLEST_TIMBER_M)
            return [
                TimberPart(kind="timber", x_m=x, y_m=ahead + dy, height_m=height, radius_m=0.12)
                for x, dy in ((0.3, 0.7), (-0.6, 2.2), (0.1, -1.8))
            ]
        case CoverKind.WEEDS:
            height = min(max(0.35 * depth, 0.3), TALLEST_WEEDS_M)
            return [WeedsPart(kind="weeds", x_m=0.0, y_m=ahead + 1.5, radius_m=2.5, height_m=height)]
        case CoverKind.DOCK:
            return [
                FloatPart(kind="float", x_m=0.0, y_m=ahead + 3.0, length_m=5.0, width_m=2.4),
                PilingPart(kind="piling", x_m=0.5, y_m=ahead + 0.6),
            ]
        case CoverKind.ROCKS:
            return [StonesPart(kind="boulders", x_m=0.0, y_m=ahead + 0.5, length_m=5.0, width_m=3.0, count=10)]
        case _:
            return []


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
    # The aim check's correction is dialed in.
    head.set_acquisition(replace(head.acquisition, aim_rad=-scene.transducer.aim_error_rad))
    head.world.advance(SETTLE_S)
    if hang_m is not None:
        pose = head.world.pose(head.acquisition)
        east, north = math.sin(pose.heading_rad), math.cos(pose.heading_rad)
        head.world.hang(pose.x_m + hang_m[0] * east, pose.y_m + hang_m[0] * north, hang_m[1])
    samples: list[Sample] = []
    for number in range(pings):
        ping = head.listen(SETTLE_S + (number + 1) / BATCH_HZ)
        samples.append((ping, _looked_up(head.rows()) if number >= pings - LOOKED_UP else None))
        progress((number + 1) / pings)
    window = head.acquisition.window
    return Batch(samples=tuple(samples), window=window, interval_s=1.0 / BATCH_HZ, cells=cells_of_samples(samples, window))
