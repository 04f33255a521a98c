"""Queries of spots."""

import uuid
from collections.abc import Sequence

from sqlalchemy import Engine, delete, func, select
from sqlalchemy.dialects.postgresql import insert

from mudlamp.core.records.spots import OwnChart, Spot
from mudlamp.store.database import work
from mudlamp.store.models import ChartRow, MoveRow, SpotRow
from mudlamp.store.scope import EVERYBODY

_FIELDS = tuple(Spot.__dataclass_fields__)
_CHART = tuple(OwnChart.__dataclass_fields__)


def _spot(row: SpotRow) -> Spot:
    return Spot(**{name: getattr(row, name) for name in _FIELDS})


def spots_on(engine: Engine, owner: uuid.UUID, water: str) -> list[Spot]:
    """Return the owner's spots on a water, and the demo's, oldest first."""
    with work(engine, owner, and_nobodys=True) as session:
        rows = session.scalars(select(SpotRow).where(SpotRow.water == water).order_by(SpotRow.created_at, SpotRow.id)).all()
        return [_spot(row) for row in rows]


def waters_of(engine: Engine, owner: uuid.UUID) -> list[str]:
    """Return the waters that the owner has spots on."""
    with work(engine, owner) as session:
        return list(session.scalars(select(SpotRow.water).distinct().order_by(SpotRow.water)))


def visits(engine: Engine, owner: uuid.UUID) -> dict[uuid.UUID, tuple[int, int]]:
    """Return how often the owner came to a spot, and how often fish were there, by the spot's key."""
    with work(engine, owner) as session:
        found: dict[uuid.UUID, tuple[int, int]] = {}
        for key, saw in session.execute(select(MoveRow.spot_id, MoveRow.saw_fish).where(MoveRow.spot_id.is_not(None))).all():
            if key is not None:
                came, fish = found.get(key, (0, 0))
                found[key] = came + 1, fish + bool(saw)
        return found


def put_chart(engine: Engine, chart: OwnChart) -> None:
    """Keep an owner's chart in the place of the one of the same name."""
    values = {name: getattr(chart, name) for name in _CHART} | {"soundings": list(chart.soundings)}
    fresh = {name: value for name, value in values.items() if name not in ("id", "owner", "name")}
    with work(engine, EVERYBODY) as session:
        session.execute(insert(ChartRow).values(values).on_conflict_do_update(constraint="one_chart_a_water", set_=fresh))


def charts(engine: Engine, owner: uuid.UUID) -> list[OwnChart]:
    """Return the owner's charts by name."""
    with work(engine, owner) as session:
        rows = session.scalars(select(ChartRow).order_by(ChartRow.name))
        return [OwnChart(**{name: getattr(row, name) for name in _CHART}) for row in rows]


def delete_chart(engine: Engine, owner: uuid.UUID, key: uuid.UUID) -> bool:
    """Delete a chart of the owner's; return whether it was there."""
    with work(engine, owner) as session:
        found = session.execute(delete(ChartRow).where(ChartRow.id == key), execution_options={"synchronize_session": False})
        return bool(found.rowcount)  # type: ignore[attr-defined]


def find_spot(engine: Engine, owner: uuid.UUID, key: uuid.UUID, *, with_demo: bool = True) -> Spot | None:
    """Return a spot of the owner's (or the demo's) by its key, or None."""
    with work(engine, owner, and_nobodys=with_demo) as session:
        row = session.scalars(select(SpotRow).where(SpotRow.id == key)).one_or_none()
        return None if row is None else _spot(row)


def count_spots(engine: Engine, owner: uuid.UUID) -> int:
    """Return how many spots an owner has."""
    with work(engine, owner) as session:
        return int(session.scalar(select(func.count()).select_from(SpotRow)) or 0)


def put_spots(engine: Engine, spots: Sequence[Spot]) -> None:
    """Keep spots in one transaction; one that is there already by its key is written anew where it has the same owner."""
    with work(engine, EVERYBODY) as session:
        for spot in spots:
            values = {name: getattr(spot, name) for name in _FIELDS}
            fresh = {name: value for name, value in values.items() if name not in ("id", "owner", "created_at")} | {"deleted_at": None}
            session.execute(
                insert(SpotRow)
                .values(values)
                .on_conflict_do_update(index_elements=["id"], set_=fresh, where=SpotRow.owner.is_not_distinct_from(spot.owner))
            )
