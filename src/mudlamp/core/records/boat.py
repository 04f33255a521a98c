"""What comes from a phone in a boat, and the pack that it took along, as they are kept."""

import datetime as dt
import uuid
from dataclasses import dataclass

from mudlamp.core.records.rigs import Json


@dataclass(frozen=True, slots=True, kw_only=True)
class BoatEntry:
    """One act in the boat, under the key it was born with: when by its own clock, how far that clock was off [s], the order on its device.

    `clash_of` is the entry that came under the same key before and says something else.
    """

    id: uuid.UUID
    device: uuid.UUID
    number: int
    kind: str
    at: dt.datetime
    offset_s: float
    received_at: dt.datetime
    values: Json
    clash_of: uuid.UUID | None = None


@dataclass(frozen=True, slots=True, kw_only=True)
class KeptPack:
    """A trip pack: what was computed for a trip, ready to be looked up."""

    id: uuid.UUID
    made_at: dt.datetime
    content: Json


@dataclass(frozen=True, slots=True, kw_only=True)
class Pairing:
    """A device that is let in from another machine, as an angler."""

    id: uuid.UUID
    device: uuid.UUID
    angler: uuid.UUID
    name: str
    paired_at: dt.datetime
