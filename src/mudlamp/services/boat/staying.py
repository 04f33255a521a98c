"""Stay or move, looked up in the boat: takes since the last move, how long that was, whether fish are seen, against the angler's own record."""

import uuid
from collections.abc import Sequence
from dataclasses import dataclass

from sqlalchemy import Engine

from mudlamp.core.fishing.moving import Spell, stay_or_move
from mudlamp.core.reactions import Reaction
from mudlamp.core.records.boat import BoatEntry
from mudlamp.services.words.deciding import move_words
from mudlamp.store import trips as trip_store

STEP_MIN, MOST_MIN, MOST_TAKES = 5, 120, 8
MOST_ACTS, MOST_TRIPS = 5000, 400


@dataclass(frozen=True, slots=True, kw_only=True)
class StayTable:
    """What to say by whether fish are seen (yes, no), then minutes in steps, then takes from none on."""

    step_min: int
    most_min: int
    most_takes: int
    said: Sequence[str]


def own_record(engine: Engine, owner: uuid.UUID, acts: Sequence[BoatEntry]) -> Spell:
    """Return an angler's own record on the water: takes among acts in the boat, as they stand, on trips that ended, and how long those were."""
    trips = [one for one in trip_store.trips(engine, owner, limit=MOST_TRIPS) if one.source == "real"]
    spans = [(one.started_at, one.ended_at) for one in trips if one.started_at is not None and one.ended_at is not None]
    bites = [one.at for one in acts if one.kind == "outcome" and one.values.get("token") == Reaction.BIT]
    return Spell(
        takes=sum(any(start <= at <= end for start, end in spans) for at in bites),
        minutes=sum((end - start).total_seconds() for start, end in spans) / 60.0,
    )


def stay_table(record: Spell, *, is_trophy: bool) -> StayTable:
    """Return what to say about a spot after every time there, by how many took and whether fish are seen."""
    said = []
    for sees_fish in (True, False):
        for minutes in range(0, MOST_MIN + 1, STEP_MIN):
            for takes in range(MOST_TAKES + 1):
                here = Spell(takes=takes, minutes=float(minutes))
                said.append(move_words(stay_or_move(here, record, sees_fish=sees_fish, is_trophy=is_trophy), here, record))
    return StayTable(step_min=STEP_MIN, most_min=MOST_MIN, most_takes=MOST_TAKES, said=said)
