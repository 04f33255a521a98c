"""Queries of catches, their photos, and an angler's own limits."""

import uuid
from collections.abc import Sequence

from sqlalchemy import Engine, delete, select
from sqlalchemy.dialects.postgresql import insert

from mudlamp.core.records.log import TripRecord
from mudlamp.core.records.trips import BagRule, Catch, Photo
from mudlamp.store.database import work
from mudlamp.store.models import BagRuleRow, CatchRow, PhotoRow
from mudlamp.store.scope import EVERYBODY

_CATCH = tuple(Catch.__dataclass_fields__)
_PHOTO = tuple(Photo.__dataclass_fields__)
_RULE = tuple(BagRule.__dataclass_fields__)


def _catch(row: CatchRow) -> Catch:
    return Catch(**{name: getattr(row, name) for name in _CATCH})


def put_catches(engine: Engine, catches: Sequence[Catch]) -> None:
    """Keep catches in one transaction; one that is there already by its key is written anew where it has the same owner."""
    with work(engine, EVERYBODY) as session:
        for one in catches:
            values = {name: getattr(one, name) for name in _CATCH}
            fresh = {name: value for name, value in values.items() if name not in ("id", "owner")}
            session.execute(
                insert(CatchRow).values(values).on_conflict_do_update(index_elements=["id"], set_=fresh, where=CatchRow.owner == one.owner)
            )


def find_catch(engine: Engine, owner: uuid.UUID, key: uuid.UUID) -> Catch | None:
    """Return one of the owner's catches, or None."""
    with work(engine, owner) as session:
        row = session.scalars(select(CatchRow).where(CatchRow.id == key)).one_or_none()
        return None if row is None else _catch(row)


def catches(engine: Engine, owner: uuid.UUID, *, source: str | None = None) -> list[Catch]:
    """Return the owner's catches by time, of one source or of all."""
    with work(engine, owner) as session:
        query = select(CatchRow).order_by(CatchRow.at, CatchRow.id)
        if source is not None:
            query = query.where(CatchRow.source == source)
        return [_catch(row) for row in session.scalars(query)]


def catches_of(engine: Engine, owner: uuid.UUID, trip: TripRecord) -> list[Catch]:
    """Return a trip's catches by time."""
    with work(engine, owner, and_nobodys=True) as session:
        return [
            _catch(row) for row in session.scalars(select(CatchRow).where(CatchRow.trip_id == trip.id).order_by(CatchRow.at, CatchRow.id))
        ]


def add_photo(engine: Engine, photo: Photo, caught: Catch) -> bool:
    """Keep a photo and its catch in one transaction; return False, and keep neither, where the owner has that photo already."""
    with work(engine, EVERYBODY) as session:
        same = select(PhotoRow.id).where(PhotoRow.owner == photo.owner, PhotoRow.digest == photo.digest)
        if session.scalars(same).first() is not None:
            return False
        session.execute(insert(CatchRow).values({name: getattr(caught, name) for name in _CATCH}))
        session.execute(insert(PhotoRow).values({name: getattr(photo, name) for name in _PHOTO}))
        return True


def photos_of(engine: Engine, owner: uuid.UUID, catches: Sequence[uuid.UUID]) -> dict[uuid.UUID, Photo]:
    """Return photos by their catches' keys."""
    with work(engine, owner) as session:
        rows = session.scalars(select(PhotoRow).where(PhotoRow.catch_id.in_(catches)).order_by(PhotoRow.created_at))
        return {row.catch_id: Photo(**{name: getattr(row, name) for name in _PHOTO}) for row in rows if row.catch_id is not None}


def find_photo(engine: Engine, owner: uuid.UUID, key: uuid.UUID) -> Photo | None:
    """Return one of the owner's photos, or None."""
    with work(engine, owner) as session:
        row = session.scalars(select(PhotoRow).where(PhotoRow.id == key)).one_or_none()
        return None if row is None else Photo(**{name: getattr(row, name) for name in _PHOTO})


def photo_keys(engine: Engine) -> set[uuid.UUID]:
    """Return the keys of everybody's photos."""
    with work(engine, EVERYBODY) as session:
        return set(session.scalars(select(PhotoRow.id)))


def photo_bytes(engine: Engine, owner: uuid.UUID) -> int:
    """Return how much room an owner's photos take [bytes]."""
    with work(engine, owner) as session:
        return sum(session.scalars(select(PhotoRow.size_bytes)))


def rules(engine: Engine, owner: uuid.UUID) -> list[BagRule]:
    """Return the owner's own limits by species."""
    with work(engine, owner) as session:
        rows = session.scalars(select(BagRuleRow).order_by(BagRuleRow.species))
        return [BagRule(**{name: getattr(row, name) for name in _RULE}) for row in rows]


def put_rule(engine: Engine, rule: BagRule) -> None:
    """Keep an owner's limit of a species in the place of the one before."""
    values = {name: getattr(rule, name) for name in _RULE}
    with work(engine, EVERYBODY) as session:
        session.execute(
            insert(BagRuleRow)
            .values(values)
            .on_conflict_do_update(constraint="one_bag_rule_a_species", set_={name: values[name] for name in ("most", "wanted", "least_m")})
        )


def delete_rule(engine: Engine, owner: uuid.UUID, species: str) -> None:
    """Delete the owner's limit of a species."""
    with work(engine, owner) as session:
        session.execute(delete(BagRuleRow).where(BagRuleRow.species == species), execution_options={"synchronize_session": False})
