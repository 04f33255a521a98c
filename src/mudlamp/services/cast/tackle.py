"""What is aboard, as the cast's form begins with it: the transducer, the rod in hand, what is tied on it."""

import math
import uuid
from collections.abc import Sequence
from dataclasses import dataclass

from mudlamp.core.records.rigs import KeptLure, KeptRod
from mudlamp.core.units import OUNCE_KG, feet
from mudlamp.services.cast.form import START
from mudlamp.services.edge.weights import ounces
from mudlamp.services.rig.box import KINDS
from mudlamp.services.rig.desk import OpenRig


@dataclass(frozen=True, slots=True, kw_only=True)
class RodChoice:
    """A rod that may be taken in hand: its key, what it is called, what is tied on it."""

    id: str
    name: str
    lure: str
    chosen: bool


def chosen_rod(rig: OpenRig | None, key: uuid.UUID | None) -> KeptRod | None:
    """Return the rod of a key, else the one that is in hand, else the first with a lure; None without a rig or rods."""
    rods = [] if rig is None else list(rig.rods)
    wanted = next((rod for rod in rods if rod.id == key), None)
    in_hand = next((rod for rod in rods if rod.in_hand), None)
    return wanted or in_hand or next((rod for rod in rods if rod.lure_id is not None), None)


def rod_choices(rig: OpenRig | None, chosen: KeptRod | None) -> Sequence[RodChoice]:
    """Return the rods of a rig."""
    if rig is None:
        return []
    return [
        RodChoice(id=str(rod.id), name=rod.name, lure=_tied_words(_tied(rig, rod)), chosen=chosen is not None and rod.id == chosen.id)
        for rod in rig.rods
    ]


def start_of(rig: OpenRig | None, rod: KeptRod | None) -> dict[str, str]:
    """Return what stands in the form at first: a usual fish, and what is aboard."""
    start = dict(START)
    if rig is not None:
        start |= {
            "transducer_ft": f"{feet(rig.profile.mount.depth_m):.3g}",
            "thickness_deg": f"{math.degrees(rig.profile.transducer.thickness_rad):.3g}",
        }
    if rig is None or rod is None:
        return start
    start["rod_ft"] = f"{feet(rod.length_m):.3g}"
    lure = _tied(rig, rod)
    if lure is not None:
        start |= {"lure": lure.kind, "head_oz": f"{lure.head_kg / OUNCE_KG:.4g}"}
    return start


def _tied(rig: OpenRig, rod: KeptRod) -> KeptLure | None:
    return next((lure for lure in rig.lures if lure.id == rod.lure_id), None)


def _tied_words(lure: KeptLure | None) -> str:
    return "nothing tied on" if lure is None else " ".join(part for part in (ounces(lure.head_kg), lure.color, KINDS[lure.kind]) if part)
