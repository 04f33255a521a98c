"""Rigs, lures and rods as they are kept."""

import datetime as dt
import uuid
from collections.abc import Mapping
from dataclasses import dataclass

# A document as it is kept: a JSON object.
Json = Mapping[str, object]


@dataclass(frozen=True, slots=True, kw_only=True)
class KeptRig:
    """A rig as it is kept: its parts as a plain mapping in SI, its version for changes made in the meantime."""

    id: uuid.UUID
    owner: uuid.UUID | None
    name: str
    active: bool
    version: int
    values: Json
    created_at: dt.datetime
    changed_at: dt.datetime


@dataclass(frozen=True, slots=True, kw_only=True)
class KeptLure:
    """A lure of a box."""

    id: uuid.UUID
    rig_id: uuid.UUID
    kind: str
    head_kg: float
    material: str
    color: str
    finish: str
    trailer: str
    weight_kg: float
    recipe: str
    created_at: dt.datetime


@dataclass(frozen=True, slots=True, kw_only=True)
class KeptRod:
    """A rod, and the key of the lure on it."""

    id: uuid.UUID
    rig_id: uuid.UUID
    name: str
    length_m: float
    line: str
    line_n: float | None
    lure_id: uuid.UUID | None
    in_hand: bool
    created_at: dt.datetime
