"""The desk of the boat: packs made and kept, entries taken in once each, in order, and read back."""

import datetime as dt
import hashlib
import json
import uuid
from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, replace

from sqlalchemy import Engine

from mudlamp.core.errors import MissingError
from mudlamp.core.records.boat import BoatEntry, KeptPack
from mudlamp.services.boat.given import BatchGiven, entry_of, offset_s
from mudlamp.services.boat.pack import made_pack, pack_json
from mudlamp.services.boat.staying import MOST_ACTS, own_record
from mudlamp.services.cards.desk import OpenCard
from mudlamp.services.cards.questions import place_of
from mudlamp.services.cast.desk import CastDesk
from mudlamp.services.edge.sun import sun_times
from mudlamp.services.jobs import Job, Jobs
from mudlamp.services.rig.desk import RigDesk
from mudlamp.store import boat as store

# How many entries are read back where no more are asked for.
READ_BACK = 400


@dataclass(frozen=True, slots=True, kw_only=True)
class Refused:
    """An entry that was not taken in, and why."""

    id: str
    why: str


@dataclass(frozen=True, slots=True, kw_only=True)
class Receipt:
    """What became of a queue: entries that are kept now (those that were there already among them), that clash with another, that are refused."""

    kept: Sequence[str]
    clashed: Sequence[str]
    refused: Sequence[Refused]


@dataclass(frozen=True, slots=True, kw_only=True)
class Told:
    """An act as it stands after what was undone and given another rod; `clash_of` is what it clashes with."""

    entry: BoatEntry
    clash_of: BoatEntry | None


class BoatDesk:
    """Packs and entries of all owners."""

    def __init__(self, engine: Engine, jobs: Jobs, rigs: RigDesk, casts: CastDesk, *, now: Callable[[], dt.datetime]) -> None:
        self._engine, self._jobs, self._rigs, self._casts, self._now = engine, jobs, rigs, casts, now

    # The pack.

    def make_pack(self, device: uuid.UUID, owner: uuid.UUID, one: OpenCard, *, now: dt.datetime, last_time: Sequence[str] = ()) -> Job:
        """Start computing an owner's pack of a card; `now` is on the angler's clock. The job that is under way for the same card and rig, where there is one."""
        rig, habit = self._rigs.active(owner), self._casts.own_error(owner).habit
        record, place = own_record(self._engine, owner, [act.entry for act in self.told(owner, limit=MOST_ACTS)]), place_of(one.texts)
        sun = None if place is None else sun_times(latitude_deg=place[0], longitude_deg=place[1], now=now)

        def work(job: Job) -> str:
            pack = made_pack(one, rig, habit, sun, now=now, last_time=last_time, record=record, progress=job.progress)
            return str(store.set_pack(self._engine, owner, pack_json(pack), now=self._now()).id)

        return self._jobs.start(
            device, "make the trip pack", work, same=(one.kept.id, None if rig is None else (rig.kept.id, rig.kept.version), "pack")
        )

    def pack(self, owner: uuid.UUID) -> KeptPack | None:
        """Return the owner's pack, or None."""
        return store.newest_pack(self._engine, owner)

    # Entries.

    def take_in(self, owner: uuid.UUID, device: uuid.UUID, batch: BatchGiven) -> Receipt:
        """Keep a queue's entries, in one transaction: once each, whatever was sent before; what is wrong is refused by itself."""
        now = self._now()
        behind = offset_s(batch.sent_at, now)
        entries, refused = [], []
        for given in batch.entries:
            found = entry_of(given)
            if isinstance(found, str):
                refused.append(Refused(id=str(given.get("id", ""))[:40], why=found))
                continue
            entry, values = found
            entries.append(
                BoatEntry(
                    id=entry.id,
                    device=device,
                    number=entry.number,
                    kind=entry.kind,
                    at=entry.at.astimezone(dt.UTC),
                    offset_s=behind,
                    received_at=now,
                    values=values,
                )
            )
        kept = store.add_entries(self._engine, owner, entries, [store.key_of(owner, one.id, again=_digest(one)) for one in entries])
        pairs = list(zip(entries, kept, strict=True))
        return Receipt(
            kept=[str(one.id) for one, row in pairs if row.clash_of is None],
            clashed=[str(one.id) for one, row in pairs if row.clash_of is not None],
            refused=refused,
        )

    def told(self, owner: uuid.UUID, *, limit: int = READ_BACK) -> list[Told]:
        """Return the newest acts, oldest first, as they stand: what was undone left out, the last word on which rod it was."""
        return _settled(store.entries(self._engine, owner, limit=limit), owner)

    def settle(self, owner: uuid.UUID, key: uuid.UUID, *, keep: str) -> None:
        """Settle a clash: keep the first, the second, or both; raise MissingError where there is no such clash."""
        if not store.settle_clash(self._engine, owner, key, keep_first=keep != "second", keep_second=keep != "first"):
            raise MissingError("There is no such clash any more.")


def _digest(entry: BoatEntry) -> str:
    text = json.dumps([entry.kind, entry.at.isoformat(), dict(entry.values)], sort_keys=True)
    return hashlib.sha256(text.encode()).hexdigest()


def _settled(entries: Sequence[BoatEntry], owner: uuid.UUID) -> list[Told]:
    by_key = {one.id: one for one in entries}
    undone, rods = set(), {}
    for one in entries:
        if one.kind == "undo":
            undone.add(store.key_of(owner, uuid.UUID(str(one.values["of"]))))
        elif one.kind == "rod":
            of = one.values["of"]
            for given in of if isinstance(of, list) else ():
                rods[store.key_of(owner, uuid.UUID(str(given)))] = one.values
    found = []
    for one in entries:
        if one.kind in ("undo", "rod") or one.id in undone:
            continue
        shown = replace(one, values=_with_rod(one.values, rods[one.id])) if one.id in rods else one
        found.append(Told(entry=shown, clash_of=None if one.clash_of is None else by_key.get(one.clash_of)))
    return found


def _with_rod(values: Mapping[str, object], rod: Mapping[str, object]) -> dict[str, object]:
    return dict(values) | {name: rod[name] for name in ("rod", "rod_name", "lure") if name in rod}
