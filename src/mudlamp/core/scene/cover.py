"""Cover: what stands on the bottom or floats, as point scatterers and as the posts that shade what is behind it. Levels are invented."""

import math
from collections.abc import Callable
from dataclasses import dataclass

import numpy as np

from mudlamp.core.arrays import BoolArray, FloatArray
from mudlamp.core.scene.model import Boulders, Cover, FishHabit, Float, Post, Tree, Wall, Weeds
from mudlamp.core.scene.shadow import Shade

LIMBS = 9
TWIGS_A_LIMB = 4
POINT_SPACING_M = 0.035
# Target strength of a point of wood seen square [dB re 1 m^2] (invented; limbs outshine twigs, so that branches can be told).
TRUNK_TS_DB = -40.0
LIMB_TS_DB = -42.0
TWIG_TS_DB = -60.0
WOOD_LOSS_DB = 26.0
CROWN_LOSS_DB_M = 2.5
STONE_LOSS_DB = 40.0
FLOAT_LOSS_DB = 45.0
WOOD_DB_M2 = -27.0
STONE_DB_M2 = -15.0
FLOAT_DB_M2 = -10.0
MOST_POINTS = 1200
MOST_WEED_POINTS = 2400
# Stalks a square meter, points on each, their target strength [dB], two-way loss of the bed [dB/m].
WEED_GROWTH = {FishHabit.PACKED: (14.0, 8, -53.0, 1.4), FishHabit.BROAD: (2.2, 6, -46.0, 0.6)}


@dataclass(frozen=True, slots=True, kw_only=True)
class Built:
    """Cover as the sonar meets it: (N, 3) positions [m], (N,) amplitudes [m] and phases [rad], and what shades.

    `facing` (N, 3) says how a point echoes by where it is seen from: a surface's unit normal, a stick's direction, or nothing (zeros) for what
    echoes alike to all sides; `stick` (N,) tells sticks from surfaces.
    """

    position_m: FloatArray
    amplitude: FloatArray
    phase_rad: FloatArray
    shades: tuple[Shade, ...]
    facing: FloatArray
    stick: BoolArray


DepthAt = Callable[[float, float], float]


def build_cover(plan: Cover, *, depth_at: DepthAt, rng: np.random.Generator) -> Built:
    """Return a piece of cover, standing on the bottom of `depth_at` (x, y) [m], drawn from `rng`."""
    if isinstance(plan, Tree):
        return _tree(plan, depth_at(plan.x_m, plan.y_m), rng)
    if isinstance(plan, Post):
        return _post(plan, depth_at(plan.x_m, plan.y_m), rng)
    if isinstance(plan, Float):
        return _float(plan, rng)
    if isinstance(plan, Weeds):
        return _weeds(plan, depth_at, rng)
    if isinstance(plan, Wall):
        return _wall(plan, depth_at, rng)
    return _boulders(plan, depth_at, rng)


def _built(
    position: FloatArray,
    amplitude: FloatArray,
    rng: np.random.Generator,
    shades: tuple[Shade, ...],
    facing: FloatArray | None = None,
    stick: BoolArray | None = None,
) -> Built:
    """Return cover whose points fluctuate as many small echoes would (exponential power, random phase)."""
    strength = amplitude * np.sqrt(rng.exponential(1.0, len(position)))
    return Built(
        position_m=position,
        amplitude=strength,
        phase_rad=rng.uniform(0.0, 2.0 * math.pi, len(position)),
        shades=shades,
        facing=np.zeros_like(position) if facing is None else facing,
        stick=np.zeros(len(position), dtype=bool) if stick is None else stick,
    )


def _tree(tree: Tree, bottom_m: float, rng: np.random.Generator) -> Built:
    """The trunk stands on the bottom; limbs leave it upward and outward, twigs leave the limbs."""
    foot = np.array([tree.x_m, tree.y_m, bottom_m])
    top = foot + [0.0, 0.0, -0.62 * tree.height_m]
    pieces = [_stretch(foot, top, TRUNK_TS_DB, taper=0.3)]
    for _ in range(LIMBS):
        start = foot + rng.uniform(0.25, 1.0) * (top - foot)
        bearing = rng.uniform(0.0, 2.0 * math.pi)
        out = tree.spread_m * rng.uniform(0.45, 1.0)
        up = min(tree.height_m * rng.uniform(0.12, 0.5), start[2] - (bottom_m - tree.height_m))
        end = start + [out * math.sin(bearing), out * math.cos(bearing), -max(up, 0.1)]
        pieces.append(_stretch(start, end, LIMB_TS_DB))
        for _ in range(TWIGS_A_LIMB):
            fork = start + rng.uniform(0.3, 1.0) * (end - start)
            pieces.append(_stretch(fork, fork + rng.normal(0.0, 0.22 * tree.spread_m, 3) + [0.0, 0.0, -0.12], TWIG_TS_DB))
    position = np.concatenate([piece[0] for piece in pieces])
    crown_top = bottom_m - tree.height_m
    shades = (
        Shade(x_m=tree.x_m, y_m=tree.y_m, radius_m=0.09, top_m=float(top[2]), foot_m=bottom_m, loss_db=WOOD_LOSS_DB),
        Shade(x_m=tree.x_m, y_m=tree.y_m, radius_m=0.6 * tree.spread_m, top_m=crown_top + 0.3, foot_m=bottom_m, loss_db_m=CROWN_LOSS_DB_M),
    )
    amplitude, facing = (np.concatenate([piece[i] for piece in pieces]) for i in (1, 2))
    return _built(position, amplitude, rng, shades, facing, np.ones(len(position), dtype=bool))


def _stretch(start: FloatArray, end: FloatArray, ts_db: float, taper: float = 0.6) -> tuple[FloatArray, FloatArray, FloatArray]:
    """Return the places, amplitudes and directions of a stick's points; it thins toward its end by `taper`."""
    span = float(np.linalg.norm(end - start))
    count = max(2, int(span / POINT_SPACING_M))
    share = np.linspace(0.0, 1.0, count)[:, None]
    along = np.tile((end - start) / max(span, 1e-6), (count, 1))
    return start + share * (end - start), 10.0 ** (ts_db / 20.0) * (1.0 - taper * share[:, 0]), along


def _surface_points(area_m2: float, strength_db_m2: float, spacing_m: float) -> tuple[int, float]:
    """Return how many points stand for a rough surface, and the amplitude of each, so that they add up to its strength times its area."""
    count = int(min(max(area_m2 / spacing_m**2, 12), MOST_POINTS))
    return count, math.sqrt(area_m2 / count * 10.0 ** (strength_db_m2 / 10.0))


def _post(post: Post, bottom_m: float, rng: np.random.Generator) -> Built:
    top = 0.0 if post.height_m is None else max(bottom_m - post.height_m, 0.05)
    tall = bottom_m - top
    count, amplitude = _surface_points(2.0 * math.pi * post.radius_m * tall, WOOD_DB_M2, 0.09)
    turn, z = rng.uniform(0.0, 2.0 * math.pi, count), rng.uniform(top + 0.02, bottom_m, count)
    position = np.column_stack((post.x_m + post.radius_m * np.sin(turn), post.y_m + post.radius_m * np.cos(turn), z))
    shade = Shade(x_m=post.x_m, y_m=post.y_m, radius_m=post.radius_m, top_m=top, foot_m=bottom_m, loss_db=WOOD_LOSS_DB)
    facing = np.column_stack((np.sin(turn), np.cos(turn), np.zeros(count)))
    return _built(position, np.full(count, amplitude), rng, (shade,), facing)


def _float(dock: Float, rng: np.random.Generator) -> Built:
    """A box in the water: its underside and its edge echo; round posts side by side stand for the box where it shades."""
    under, amplitude = _surface_points(dock.length_m * dock.width_m, FLOAT_DB_M2 - 12.0, 0.2)
    edge, edge_amplitude = _surface_points(2.0 * (dock.length_m + dock.width_m) * dock.draft_m, FLOAT_DB_M2, 0.1)
    along = rng.uniform(-0.5, 0.5, under) * dock.length_m
    aside = rng.uniform(-0.5, 0.5, under) * dock.width_m
    round_ = rng.uniform(0.0, 2.0 * (dock.length_m + dock.width_m), edge)
    long_side = np.mod(round_, dock.length_m + dock.width_m) < dock.length_m
    sign = np.where(round_ < dock.length_m + dock.width_m, 0.5, -0.5)
    rest = np.mod(round_, dock.length_m + dock.width_m)
    edge_along = np.where(long_side, rest - 0.5 * dock.length_m, sign * dock.length_m)
    edge_aside = np.where(long_side, sign * dock.width_m, rest - dock.length_m - 0.5 * dock.width_m)
    z = np.concatenate((np.full(under, dock.draft_m), rng.uniform(0.05, dock.draft_m, edge)))
    position = _placed(dock.x_m, dock.y_m, dock.bearing_rad, np.concatenate((along, edge_along)), np.concatenate((aside, edge_aside)), z)
    radius = 0.5 * min(dock.length_m, dock.width_m)
    spots = np.arange(-0.5 * dock.length_m + radius, 0.5 * dock.length_m - radius + 0.01, radius)
    shades = [
        Shade(x_m=float(x), y_m=float(y), radius_m=radius, top_m=0.0, foot_m=dock.draft_m, loss_db=FLOAT_LOSS_DB)
        for x, y, _ in _placed(dock.x_m, dock.y_m, dock.bearing_rad, spots, np.zeros(len(spots)), np.zeros(len(spots)))
    ]
    return _built(position, np.concatenate((np.full(under, amplitude), np.full(edge, edge_amplitude))), rng, tuple(shades))


def _placed(x_m: float, y_m: float, bearing_rad: float, along: FloatArray, aside: FloatArray, z: FloatArray) -> FloatArray:
    """Return world places (N, 3) [m] of points along and to the right of a bearing."""
    east, north = math.sin(bearing_rad), math.cos(bearing_rad)
    return np.column_stack((x_m + along * east + aside * north, y_m + along * north - aside * east, z))


def _weeds(bed: Weeds, depth_at: DepthAt, rng: np.random.Generator) -> Built:
    """Stalks that stand on the bottom and lean a little; none in the pocket."""
    density, points, ts_db, loss_db_m = WEED_GROWTH[bed.habit]
    wanted = int(density * math.pi * bed.radius_m**2)
    stalks = min(wanted, MOST_WEED_POINTS // points)
    # Of a large bed only a part of the stalks is laid out: each stands for as many, in power.
    amplitude = 10.0 ** (ts_db / 20.0) * math.sqrt(wanted / max(stalks, 1))
    spot = bed.radius_m * np.sqrt(rng.uniform(0.0, 1.0, stalks))
    turn = rng.uniform(0.0, 2.0 * math.pi, stalks)
    # Nothing grows in a circle: the edge swings in and out.
    waves = rng.uniform(0.0, 2.0 * math.pi, 3)
    edge = 1.0 + 0.14 * np.sin(2.0 * turn + waves[0]) + 0.09 * np.sin(3.0 * turn + waves[1]) + 0.05 * np.sin(7.0 * turn + waves[2])
    x, y = bed.x_m + spot * edge * np.sin(turn), bed.y_m + spot * edge * np.cos(turn)
    bare = np.hypot(x - bed.pocket_x_m, y - bed.pocket_y_m) < bed.pocket_m
    x, y = x[~bare], y[~bare]
    foot = np.array([depth_at(float(a), float(b)) for a, b in zip(x, y, strict=True)])
    tall = bed.height_m * rng.uniform(0.6, 1.0, len(x))
    lean = rng.normal(0.0, 0.12, (len(x), 2)) * tall[:, None]
    # Packed grass echoes all along its stalks; a broad leaf is one bright bit where it spreads.
    if bed.habit is FishHabit.PACKED:
        share = np.tile(np.linspace(0.05, 1.0, points), (len(x), 1))
    else:
        share = np.repeat(rng.uniform(0.5, 1.0, (len(x), 1)), points, axis=1)
    wide = 0.0 if bed.habit is FishHabit.PACKED else 0.12
    jitter = rng.normal(0.0, 1.0, (len(x), points, 3)) * np.array([wide, wide, 0.25 * wide])
    px = x[:, None] + lean[:, :1] * share + jitter[:, :, 0]
    py = y[:, None] + lean[:, 1:] * share + jitter[:, :, 1]
    pz = np.maximum(foot[:, None] - tall[:, None] * share + jitter[:, :, 2], 0.05)
    position = np.column_stack((px.ravel(), py.ravel(), pz.ravel()))
    # Soft posts about the pocket, so that a look into the pocket costs no more than the weeds before it.
    shades = _bed_shades(bed, depth_at, loss_db_m)
    return _built(position, np.full(len(position), amplitude), rng, shades)


def _bed_shades(bed: Weeds, depth_at: DepthAt, loss_db_m: float) -> tuple[Shade, ...]:
    floor = depth_at(bed.x_m, bed.y_m)
    whole = Shade(
        x_m=bed.x_m,
        y_m=bed.y_m,
        radius_m=bed.radius_m,
        top_m=max(floor - 0.85 * bed.height_m, 0.0),
        foot_m=floor + 1.0,
        loss_db_m=loss_db_m,
    )
    if bed.pocket_m <= 0.0:
        return (whole,)
    small = 0.5 * bed.radius_m
    spots = np.arange(0.0, 2.0 * math.pi, math.pi / 3.0)
    ring = [(bed.x_m + small * math.sin(turn), bed.y_m + small * math.cos(turn)) for turn in spots]
    return tuple(
        Shade(x_m=x, y_m=y, radius_m=0.45 * bed.radius_m, top_m=whole.top_m, foot_m=whole.foot_m, loss_db_m=loss_db_m)
        for x, y in ring
        if math.dist((x, y), (bed.pocket_x_m, bed.pocket_y_m)) > bed.pocket_m + 0.2 * bed.radius_m
    )


def _boulders(plan: Boulders, depth_at: DepthAt, rng: np.random.Generator) -> Built:
    """Round stones half in the ground: the points of each lie on its upper half."""
    along = rng.uniform(-0.5, 0.5, plan.count) * plan.length_m
    aside = rng.uniform(-0.5, 0.5, plan.count) * plan.width_m
    radius = rng.uniform(plan.smallest_m, plan.largest_m, plan.count)
    middle = _placed(plan.x_m, plan.y_m, plan.bearing_rad, along, aside, np.zeros(plan.count))
    pieces, levels, shades, facing = [], [], [], []
    for (x, y, _), size in zip(middle, radius, strict=True):
        floor = depth_at(float(x), float(y))
        count, amplitude = _surface_points(2.0 * math.pi * size**2, STONE_DB_M2, 0.09)
        count = min(count, max(12, MOST_POINTS // plan.count))
        amplitude = math.sqrt(2.0 * math.pi * size**2 / count * 10.0 ** (STONE_DB_M2 / 10.0))
        up = rng.uniform(0.0, 1.0, count)
        turn = rng.uniform(0.0, 2.0 * math.pi, count)
        flat = size * np.sqrt(1.0 - up**2)
        pieces.append(np.column_stack((x + flat * np.sin(turn), y + flat * np.cos(turn), floor - size * up)))
        facing.append(np.column_stack((flat / size * np.sin(turn), flat / size * np.cos(turn), -up)))
        levels.append(np.full(count, amplitude))
        if size > 0.2:
            shades.append(
                Shade(
                    x_m=float(x),
                    y_m=float(y),
                    radius_m=float(size),
                    top_m=floor - 0.8 * float(size),
                    foot_m=floor + 0.5,
                    loss_db=STONE_LOSS_DB,
                )
            )
    return _built(np.concatenate(pieces), np.concatenate(levels), rng, tuple(shades), np.concatenate(facing))


def _wall(wall: Wall, depth_at: DepthAt, rng: np.random.Generator) -> Built:
    """A low wall of stones: points over its faces and top, short solid posts side by side where it shades."""
    count, amplitude = _surface_points(2.0 * wall.length_m * wall.height_m, STONE_DB_M2, 0.1)
    along = rng.uniform(-0.5, 0.5, count) * wall.length_m
    aside = rng.choice([-0.2, 0.2], count) + rng.normal(0.0, 0.04, count)
    flat = _placed(wall.x_m, wall.y_m, wall.bearing_rad, along, aside, np.zeros(count))
    floor = np.array([depth_at(float(x), float(y)) for x, y, _ in flat])
    flat[:, 2] = floor - wall.height_m * rng.uniform(0.0, 1.0, count)
    spots = np.arange(-0.5 * wall.length_m, 0.5 * wall.length_m + 0.01, 0.4)
    shades = []
    for x, y, _ in _placed(wall.x_m, wall.y_m, wall.bearing_rad, spots, np.zeros(len(spots)), np.zeros(len(spots))):
        foot = depth_at(float(x), float(y))
        shades.append(
            Shade(x_m=float(x), y_m=float(y), radius_m=0.24, top_m=foot - 0.9 * wall.height_m, foot_m=foot + 0.5, loss_db=STONE_LOSS_DB)
        )
    return _built(flat, np.full(count, amplitude), rng, tuple(shades))
