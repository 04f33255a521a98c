"""Set-up cards as they are kept."""

import datetime as dt
import uuid
from collections.abc import Mapping
from dataclasses import dataclass

from mudlamp.core.controls import Value
from mudlamp.core.records.rigs import Json


@dataclass(frozen=True, slots=True, kw_only=True)
class KeptCard:
    """A card as it is kept: answers as typed with the gear, the plan they made, values by the controls' core names in SI, costs and auto-tune's find."""

    id: uuid.UUID
    owner: uuid.UUID
    rig_id: uuid.UUID | None
    parent_id: uuid.UUID | None
    name: str | None
    style: str
    answers: Json
    plan: Json | None
    values: Mapping[str, Value]
    costs: Json | None
    tuned: Json | None
    created_at: dt.datetime
    noticed_at: dt.datetime | None
