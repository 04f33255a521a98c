"""Queries of trips: the day, its weather, its moves."""

import datetime as dt
import uuid
from collections.abc import Mapping, Sequence

from sqlalchemy import Engine, delete, select, update
from sqlalchemy.dialects.postgresql import insert

from mudlamp.core.records.log import TripRecord
from mudlamp.core.records.trips import BoatPoint, Condition, Move
from mudlamp.store.database import work
from mudlamp.store.models import BoatPointRow, ConditionRow, MoveRow, SessionRow, TripRow
from mudlamp.store.scope import EVERYBODY, Whose

Part = Condition | Move
_ROWS: Mapping[type, type[ConditionRow] | type[MoveRow]] = {Condition: ConditionRow, Move: MoveRow}
_TRIP = tuple(TripRecord.__dataclass_fields__)
_POINT = tuple(BoatPoint.__dataclass_fields__)
# A statement has room for so many rows.
AT_ONCE = 2000


def _trip(row: TripRow) -> TripRecord:
    return TripRecord(**{name: getattr(row, name) for name in _TRIP} | {"people": tuple(row.people)})


def trips(engine: Engine, owner: uuid.UUID, *, limit: int, before: dt.datetime | None = None) -> list[TripRecord]:
    """Return the owner's trips, newest day first."""
    with work(engine, owner) as session:
        query = select(TripRow).order_by(TripRow.day.desc(), TripRow.id).limit(limit)
        if before is not None:
            query = query.where(TripRow.day < before)
        return [_trip(row) for row in session.scalars(query)]


def find_trip(engine: Engine, owner: uuid.UUID, key: uuid.UUID) -> TripRecord | None:
    """Return one of the owner's trips (or of the demo's), or None."""
    with work(engine, owner, and_nobodys=True) as session:
        row = session.scalars(select(TripRow).where(TripRow.id == key)).one_or_none()
        return None if row is None else _trip(row)


def put_trip(engine: Engine, trip: TripRecord) -> None:
    """Keep a trip of somebody's; one that is there already by its key is written anew where it has the same owner."""
    values = {name: getattr(trip, name) for name in _TRIP} | {"people": list(trip.people)}
    fresh = {name: value for name, value in values.items() if name not in ("id", "owner")}
    with work(engine, EVERYBODY) as session:
        session.execute(
            insert(TripRow).values(values).on_conflict_do_update(index_elements=["id"], set_=fresh, where=TripRow.owner == trip.owner)
        )


def trip_under_way(engine: Engine, owner: uuid.UUID) -> TripRecord | None:
    """Return the owner's trip that is under way, the newest where there are several, or None."""
    with work(engine, owner) as session:
        query = select(TripRow).where(TripRow.started_at.is_not(None), TripRow.ended_at.is_(None))
        row = session.scalars(query.order_by(TripRow.started_at.desc()).limit(1)).first()
        return None if row is None else _trip(row)


def all_under_way(engine: Engine, source: str) -> list[uuid.UUID]:
    """Return the keys of everybody's trips that are under way, of a source."""
    with work(engine, EVERYBODY) as session:
        query = select(TripRow.id).where(
            TripRow.started_at.is_not(None), TripRow.ended_at.is_(None), TripRow.deleted_at.is_(None), TripRow.source == source
        )
        return list(session.scalars(query))


def end_others(engine: Engine, owner: uuid.UUID, keep: uuid.UUID, *, now: dt.datetime) -> None:
    """End all of the owner's trips that are under way but one."""
    with work(engine, owner) as session:
        session.execute(
            update(TripRow).where(TripRow.id != keep, TripRow.started_at.is_not(None), TripRow.ended_at.is_(None)).values(ended_at=now),
            execution_options={"synchronize_session": False},
        )


def put_part(engine: Engine, owner: uuid.UUID, part: Part) -> bool:
    """Keep a condition or a move of a trip of the owner's, once by its key; return whether the trip is theirs."""
    with work(engine, owner) as session:
        if session.scalars(select(TripRow.id).where(TripRow.id == part.trip_id)).first() is None:
            return False
        values = {name: getattr(part, name) for name in type(part).__dataclass_fields__}
        session.execute(insert(_ROWS[type(part)]).values(values).on_conflict_do_nothing(index_elements=["id"]))
        return True


def put_fed(engine: Engine, conditions: Sequence[Condition]) -> None:
    """Keep what a feed said of trips that are under way."""
    with work(engine, EVERYBODY) as session:
        for one in conditions:
            values = {name: getattr(one, name) for name in Condition.__dataclass_fields__}
            session.execute(insert(ConditionRow).values(values).on_conflict_do_nothing(index_elements=["id"]))


def delete_part(engine: Engine, owner: uuid.UUID, key: uuid.UUID) -> bool:
    """Delete a condition or a move of the owner's by its key; return whether there was one."""
    with work(engine, owner) as session:
        gone = [
            session.execute(delete(row).where(row.id == key), execution_options={"synchronize_session": False}).rowcount  # type: ignore[attr-defined]
            for row in (ConditionRow, MoveRow)
        ]
        return any(gone)


def conditions(engine: Engine, owner: uuid.UUID, trip: uuid.UUID) -> list[Condition]:
    """Return a trip's conditions by time."""
    with work(engine, owner, and_nobodys=True) as session:
        rows = session.scalars(select(ConditionRow).where(ConditionRow.trip_id == trip).order_by(ConditionRow.at, ConditionRow.id))
        return [Condition(**{name: getattr(row, name) for name in Condition.__dataclass_fields__}) for row in rows]


def moves(engine: Engine, owner: uuid.UUID, trip: uuid.UUID) -> list[Move]:
    """Return a trip's moves by time."""
    with work(engine, owner, and_nobodys=True) as session:
        rows = session.scalars(select(MoveRow).where(MoveRow.trip_id == trip).order_by(MoveRow.at, MoveRow.id))
        return [Move(**{name: getattr(row, name) for name in Move.__dataclass_fields__}) for row in rows]


def points(engine: Engine, owner: uuid.UUID, trip: uuid.UUID) -> list[BoatPoint]:
    """Return where the boat was on a trip, by time."""
    with work(engine, owner, and_nobodys=True) as session:
        columns = [getattr(BoatPointRow, name) for name in _POINT]
        rows = session.execute(select(*columns).where(BoatPointRow.trip_id == trip).order_by(BoatPointRow.at)).all()
        return [BoatPoint(**dict(zip(_POINT, row, strict=True))) for row in rows]


def newest_points(engine: Engine, owner: uuid.UUID, *, most: int) -> list[BoatPoint]:
    """Return where the owner's boat was last on any trip, by time."""
    with work(engine, owner) as session:
        columns = [getattr(BoatPointRow, name) for name in _POINT]
        rows = session.execute(select(*columns).order_by(BoatPointRow.at.desc()).limit(most)).all()
        return [BoatPoint(**dict(zip(_POINT, row, strict=True))) for row in reversed(rows)]


def put_points(engine: Engine, owner: Whose, points: Sequence[BoatPoint], *, instead: bool = False) -> None:
    """Keep where a boat was on trips of the owner's, once by each key, all in one transaction; `instead` of what a file said before."""
    if not points:
        return
    with work(engine, owner) as session:
        if instead:
            gone = delete(BoatPointRow).where(BoatPointRow.trip_id == points[0].trip_id, BoatPointRow.origin == points[0].origin)
            session.execute(gone, execution_options={"synchronize_session": False})
        rows = [{name: getattr(one, name) for name in _POINT} for one in points]
        for i in range(0, len(rows), AT_ONCE):
            session.execute(insert(BoatPointRow).values(rows[i : i + AT_ONCE]).on_conflict_do_nothing(index_elements=["id"]))


def place_where_none(engine: Engine, trips: Sequence[uuid.UUID], *, latitude_deg: float, longitude_deg: float) -> None:
    """Say where trips are, those of which nobody said so yet."""
    with work(engine, EVERYBODY) as session:
        session.execute(
            update(TripRow)
            .where(TripRow.id.in_(trips), TripRow.latitude_deg.is_(None))
            .values(latitude_deg=latitude_deg, longitude_deg=longitude_deg),
            execution_options={"synchronize_session": False},
        )


def claim_running(engine: Engine, owner: uuid.UUID, trip: TripRecord) -> None:
    """Let the owner's sessions that run and belong to no trip yet belong to one, where they are of its source."""
    with work(engine, owner) as session:
        running = (SessionRow.state == "running", SessionRow.trip_id.is_(None), SessionRow.source == trip.source)
        session.execute(update(SessionRow).where(*running).values(trip_id=trip.id), execution_options={"synchronize_session": False})


def sessions_of(engine: Engine, owner: uuid.UUID, trip: TripRecord) -> list[uuid.UUID]:
    """Return the keys of a trip's sessions by time."""
    with work(engine, owner, and_nobodys=True) as session:
        return list(session.scalars(select(SessionRow.id).where(SessionRow.trip_id == trip.id).order_by(SessionRow.started_at)))
