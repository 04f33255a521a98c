"""What is really there at a ping: a row per object, for scoring. Never given to receiver or tracker."""

import math
from dataclasses import dataclass, replace

import numpy as np

from mudlamp.core.arrays import FloatArray
from mudlamp.core.casting.lure_on_line import LureState
from mudlamp.core.ping import Pose
from mudlamp.core.scene.echoing import BAIT_OWNER, LURE_OWNER, WEIGHT_OWNER
from mudlamp.core.scene.shadow import SHADOWED_DB
from mudlamp.core.scene.world import World
from mudlamp.core.sonar.scatterers import NOBODY, Scatterers
from mudlamp.core.sonar.synthesis import Synthesizer
from mudlamp.core.vectors import length

SEEN_OVER_DB = 10.0
# A fish is side-on with its body so near to the fan's plane, seen for so long.
SIDE_RAD = math.radians(25.0)
SIDE_S = 1.0
# Where along a body its level is looked for, in lengths from its middle.
BODY_CELLS = (-0.27, -0.1, 0.05, 0.17, 0.42)


@dataclass(frozen=True, slots=True, kw_only=True)
class TruthRow:
    """One object at one ping, in the fields of the truth file; lengths [m], angles [rad], speeds [m/s].

    `over_db` is its level over the mean of all else in its cells; `seen` says whether any picture could show it; `side_on`, of a fish,
    whether its side was seen for a second so far.
    """

    time_s: float
    id: str
    kind: str
    species: str | None
    x_m: float
    y_m: float
    z_m: float
    length_m: float | None
    heading_rad: float | None
    speed_m_s: float
    range_m: float
    angle_rad: float
    across_rad: float
    over_db: float
    in_fan: bool
    seen: bool
    radius_m: float | None = None
    side_on: bool | None = None


class SideWatch:
    """Knows since when each fish shows its side: body within SIDE_RAD of the fan's plane, and seen."""

    def __init__(self) -> None:
        self._since_s: dict[str, float] = {}

    def watched(self, rows: list[TruthRow], normal: FloatArray) -> list[TruthRow]:
        """Return the rows with `side_on` filled in for fish; `normal` (3,) is the fan's."""
        return [self._watched(row, normal) if row.kind == "fish" else row for row in rows]

    def _watched(self, row: TruthRow, normal: FloatArray) -> TruthRow:
        turn = row.heading_rad or 0.0
        off = abs(math.sin(turn) * float(normal[0]) + math.cos(turn) * float(normal[1]))
        if not row.seen or off > math.sin(SIDE_RAD):
            self._since_s.pop(row.id, None)
            return replace(row, side_on=False)
        since_s = self._since_s.setdefault(row.id, row.time_s)
        return replace(row, side_on=row.time_s - since_s >= SIDE_S)


@dataclass(frozen=True, slots=True, kw_only=True)
class _Thing:
    id: str
    kind: str
    species: str | None
    position_m: FloatArray
    length_m: float | None
    heading_rad: float | None
    speed_m_s: float
    owner: int
    radius_m: float | None = None


def truth_rows(world: World, synthesizer: Synthesizer, scatterers: Scatterers, *, pose: Pose) -> list[TruthRow]:
    """Return a row per object; `scatterers` must hold what the ping was made of, bottom included."""
    things = _things(world)
    if not things:
        return []
    position = np.array([thing.position_m for thing in things])
    origin = np.array([pose.x_m, pose.y_m, pose.z_m])
    range_m, angle, across = synthesizer.fan_axes(pose).locate(position - origin)
    over = _over_db(things, synthesizer, scatterers, pose)
    half_fan = world.profile.fan_rad / 2.0
    half_thickness = world.profile.thickness_rad / 2.0
    farthest = float(synthesizer.setup.range_m[-1])
    shadow = world.shades.loss_db(origin, position)
    rows = []
    for i, thing in enumerate(things):
        in_fan = bool(abs(angle[i]) <= half_fan)
        hidden = bool(shadow[i] >= SHADOWED_DB) or (world.ground is not None and world.ground.hides(origin, position[i]))
        seen = in_fan and bool(range_m[i] <= farthest and abs(across[i]) <= half_thickness and over[i] >= SEEN_OVER_DB) and not hidden
        rows.append(
            TruthRow(
                time_s=world.time_s,
                id=thing.id,
                kind=thing.kind,
                species=thing.species,
                x_m=float(position[i, 0]),
                y_m=float(position[i, 1]),
                z_m=float(position[i, 2]),
                length_m=thing.length_m,
                heading_rad=thing.heading_rad,
                speed_m_s=thing.speed_m_s,
                range_m=float(range_m[i]),
                angle_rad=float(angle[i]),
                across_rad=float(across[i]),
                over_db=float(over[i]),
                in_fan=in_fan,
                seen=seen,
                radius_m=thing.radius_m,
            )
        )
    return rows


def _over_db(things: list[_Thing], synthesizer: Synthesizer, scatterers: Scatterers, pose: Pose) -> FloatArray:
    """Return each object's level over all else (N,) [dB], in the best of the cells that it fills: a long body fills several."""
    offsets = np.array([_body_offset(thing) for thing in things])
    places = np.array([thing.position_m for thing in things])[:, None, :] + np.array(BODY_CELLS)[None, :, None] * offsets[:, None, :]
    owner = np.repeat([thing.owner for thing in things], len(BODY_CELLS))
    over = synthesizer.cell_power(scatterers, pose=pose, position_m=places.reshape(-1, 3), owner=owner).over_db()
    return over.reshape(len(things), len(BODY_CELLS)).max(axis=1)


def _body_offset(thing: _Thing) -> FloatArray:
    if thing.length_m is None or thing.heading_rad is None:
        return np.zeros(3)
    return thing.length_m * np.array([math.sin(thing.heading_rad), math.cos(thing.heading_rad), 0.0])


def _things(world: World) -> list[_Thing]:
    things = [
        _Thing(
            id=fish.name,
            kind="fish",
            species=fish.species.value,
            position_m=fish.position_m,
            length_m=fish.length_m,
            heading_rad=fish.heading_rad % (2.0 * math.pi),
            speed_m_s=length(fish.velocity_m_s),
            owner=i,
        )
        for i, fish in enumerate(world.fish)
    ]
    lure = world.lure
    if lure is not None and lure.state in (LureState.SINKING, LureState.TIGHT, LureState.TAKEN):
        speed = length(lure.velocity_m_s)
        things.append(
            _Thing(
                id="lure",
                kind="lure",
                species=None,
                position_m=lure.position_m,
                length_m=None,
                heading_rad=None,
                speed_m_s=speed,
                owner=LURE_OWNER,
            )
        )
        weight_at = lure.tackle.weight_at_m
        if weight_at is not None:
            things.append(
                _Thing(
                    id="weight",
                    kind="weight",
                    species=None,
                    position_m=lure.position_m - [0.0, 0.0, weight_at],
                    length_m=None,
                    heading_rad=None,
                    speed_m_s=speed,
                    owner=WEIGHT_OWNER,
                )
            )
    for i, cloud in enumerate(world.clouds):
        center = cloud.center_m(world.time_s)
        things.append(
            _Thing(
                id=cloud.name,
                kind="bait",
                species=None,
                position_m=center,
                length_m=None,
                heading_rad=None,
                speed_m_s=0.0,
                owner=BAIT_OWNER + i,
                radius_m=cloud.radius_m,
            )
        )
    for i, target in enumerate(world.scene.targets):
        place = np.array([target.x_m, target.y_m, target.z_m])
        things.append(
            _Thing(
                id=f"point{i + 1}",
                kind="point",
                species=None,
                position_m=place,
                length_m=None,
                heading_rad=None,
                speed_m_s=0.0,
                owner=NOBODY - 1 - i,
            )
        )
    return things
