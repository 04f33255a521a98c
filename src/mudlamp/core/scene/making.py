"""What a scene's plans make, each from a seed's own stream: its bottom, its fish, what is tied on, and what stands in the water."""

from collections.abc import Callable
from dataclasses import dataclass

import numpy as np

from mudlamp.core.arrays import BoolArray, FloatArray
from mudlamp.core.casting.lure_on_line import Lure
from mudlamp.core.casting.lures import tackle
from mudlamp.core.chance import stream
from mudlamp.core.scene.bottom import Bottom, make_bottom
from mudlamp.core.scene.cover import build_cover
from mudlamp.core.scene.fish import Fish
from mudlamp.core.scene.model import Scene
from mudlamp.core.scene.shadow import Shade, Shades
from mudlamp.core.sonar.scatterers import NOBODY, Scatterers

# Cover reaches no deeper than this [m].
DEEPEST_M = 60.0


@dataclass(frozen=True, slots=True, kw_only=True)
class Standing:
    """What stands in the water: its points, what each of the cover's faces (N, 3) and whether it is a stick's (N,), and the posts that shade."""

    points: Scatterers
    facing: FloatArray
    stick: BoolArray
    shades: Shades


def bottom_of(scene: Scene, seed: int) -> Bottom | None:
    """Return a scene's bottom, or None where it has none."""
    plan = scene.bottom
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


def fish_of(scene: Scene, seed: int) -> list[Fish]:
    """Return a scene's fish, each at its home."""
    made: list[Fish] = []
    for group in scene.fish:
        for _ in range(group.count):
            rng = stream(seed, "fish", len(made))
            home = np.array([group.x_m, group.y_m, group.z_m]) + rng.uniform(-1.0, 1.0, 3) * [group.spread_m, group.spread_m, group.rise_m]
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


def lure_of(scene: Scene, head_kg: float | None = None) -> Lure | None:
    """Return what a scene's angler has tied on, with another head [kg] where one is given; None where nobody fishes."""
    plan = scene.angler
    if plan is None:
        return None
    head = plan.head_kg if head_kg is None else head_kg
    return Lure(head, tackle(kind=plan.lure, head_kg=head, material=plan.material, line=plan.line, weight_kg=plan.weight_kg))


def standing_of(scene: Scene, seed: int, *, bottom_m: Callable[[float, float], float]) -> Standing:
    """Return what stands in a scene's water, cover first, then the targets that were put there; `bottom_m` tells the depth [m] at a place [m]."""
    points = Scatterers(capacity=20_000)
    shades: list[Shade] = []
    facing, stick = [np.zeros((0, 3))], [np.zeros(0, dtype=bool)]
    numbers = scene.cover_seeds or range(len(scene.cover))
    for number, plan in zip(numbers, scene.cover, strict=True):
        built = build_cover(plan, depth_at=lambda x, y: min(bottom_m(x, y), DEEPEST_M), rng=stream(seed, "cover", number))
        points.add(built.position_m, built.amplitude, built.phase_rad, owner=NOBODY)
        shades += built.shades
        facing.append(built.facing)
        stick.append(built.stick)
    points.first_object = points.count
    for i, target in enumerate(scene.targets):
        points.add(
            np.array([[target.x_m, target.y_m, target.z_m]]),
            np.array([10.0 ** (target.ts_db / 20.0)]),
            np.zeros(1),
            owner=NOBODY - 1 - i,
        )
    return Standing(points=points, facing=np.concatenate(facing), stick=np.concatenate(stick), shades=Shades(shades))
