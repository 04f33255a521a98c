"""What is known of a session as it begins: the water's temperature and clarity, what is tied on, which trip it belongs to, the spots there."""

import contextlib
import math
import uuid
from collections import Counter
from dataclasses import dataclass, field, replace

from sqlalchemy import Engine

from mudlamp.core.controls import Value
from mudlamp.core.errors import UnavailableError
from mudlamp.core.records.log import TripRecord
from mudlamp.core.records.rigs import KeptLure, KeptRod
from mudlamp.core.records.spots import Spot
from mudlamp.core.scene.model import Scene
from mudlamp.core.water.clarity import clarity_of
from mudlamp.services.water.plans import Plan
from mudlamp.store import rigs as rig_store
from mudlamp.store import spots as spot_store
from mudlamp.store import trips as trip_store

# A head in the box is the one on the water's line where they weigh the same, within so much.
SAME_HEAD = 0.06


@dataclass(frozen=True, slots=True, kw_only=True)
class Known:
    """What is known: facts by name, for the review; and the trip."""

    facts: dict[str, Value] = field(default_factory=dict)
    trip_id: uuid.UUID | None = None


def known_of(engine: Engine, plan: Plan, owner: uuid.UUID) -> Known:
    """Return what is known of a water that an owner opens; without the database, what the water itself says."""
    facts = {} if plan.scene is None else _of_scene(plan.scene)
    with contextlib.suppress(UnavailableError):
        trip = trip_store.trip_under_way(engine, owner)
        return Known(facts=facts | _in_hand(engine, plan.scene, owner), trip_id=_belongs(trip, plan))
    return Known(facts=facts)


def spots_on(engine: Engine, plan: Plan, owner: uuid.UUID) -> tuple[Spot, ...]:
    """Return an owner's spots on a plan's water, in its own frame; none for a water that does not say where it is, or without the database."""
    if plan.where is None:
        return ()
    x, y, found = plan.where.x_m, plan.where.y_m, []
    with contextlib.suppress(UnavailableError):
        found = spot_store.spots_on(engine, owner, plan.where.water)
    return tuple(replace(one, x_m=one.x_m - x, y_m=one.y_m - y) for one in found)


def _belongs(trip: TripRecord | None, plan: Plan) -> uuid.UUID | None:
    return trip.id if trip is not None and trip.source == plan.source else None


def _of_scene(scene: Scene) -> dict[str, Value]:
    water = scene.water
    facts: dict[str, Value] = {
        "water_degc": round(water.temperature_degc, 1),
        "clarity": clarity_of(secchi_m=water.secchi_m).value,
        "wind_m_s": round(water.wind_m_s, 1),
    }
    if scene.angler is not None:
        facts["lure"] = scene.angler.lure.value
    species = Counter(one.species.value for one in scene.fish).most_common(1)
    return facts | ({"species": species[0][0]} if species else {})


def _in_hand(engine: Engine, scene: Scene | None, owner: uuid.UUID) -> dict[str, Value]:
    """Return the rod that is in hand; its lure's color and finish too, where it is the one that the water is fished with."""
    rig = rig_store.active_rig(engine, owner)
    rod = None if rig is None else next((one for one in rig_store.rods(engine, owner, rig.id) if one.in_hand), None)
    if rig is None or rod is None:
        return {}
    facts: dict[str, Value] = {"rod": rod.name}
    lure = _tied(rig_store.lures(engine, owner, rig.id), rod)
    if lure is None or scene is None or scene.angler is None:
        return facts
    same = lure.kind == scene.angler.lure.value and math.isclose(lure.head_kg, scene.angler.head_kg, rel_tol=SAME_HEAD)
    return facts | {name: text for name, text in (("color", lure.color), ("finish", lure.finish)) if same and text}


def _tied(lures: list[KeptLure], rod: KeptRod) -> KeptLure | None:
    return next((one for one in lures if one.id == rod.lure_id), None)
