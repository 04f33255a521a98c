"""Queries of shots as a list, and of the words of the log (PostgreSQL's own text search)."""

import operator
import uuid
from collections.abc import Mapping
from typing import Any

from sqlalchemy import ColumnElement, Engine, Select, func, literal, null, select, union_all
from sqlalchemy.orm import Session

from mudlamp.core.records.shots import FoundText, ShotLine, ShotOrder, ShotWanted
from mudlamp.store.database import work
from mudlamp.store.models import BoatEntryRow, CatchRow, ReactionRow, SessionRow, ShotRow, SpotRow, TripRow
from mudlamp.store.noted import NOTED_OUT_M, NOTED_OUTCOME, narrowed_notes, noted_lines

_said = func.coalesce(ReactionRow.corrected, ReactionRow.token)
# What a list is sorted by: of a session's shots, and of those noted in the boat (None: nobody noted that).
_ORDERS: Mapping[ShotOrder, tuple[Any, Any]] = {
    ShotOrder.AT: (ShotRow.at, BoatEntryRow.at),
    ShotOrder.OUT: (ShotRow.ahead_m, NOTED_OUT_M),
    ShotOrder.HEAD: (ShotRow.head_kg, None),
    ShotOrder.LASTED: (ShotRow.end_s - ShotRow.start_s, None),
    ShotOrder.OUTCOME: (ShotRow.outcome, NOTED_OUTCOME),
    ShotOrder.WATER: (SessionRow.title, None),
}


def shots(engine: Engine, owner: uuid.UUID, wanted: ShotWanted, *, page: int, size: int, with_demo: bool) -> tuple[list[ShotLine], int]:
    """Return a page (from 0) of the owner's shots as they are wanted, those noted in the boat among them, and how many there are on all pages.

    The demo's only where asked for.
    """
    with work(engine, owner, and_nobodys=with_demo) as session:
        order, noted_order = _ORDERS[wanted.order]
        in_water = select(ShotRow.id, literal(True).label("in_water"), ShotRow.at.label("at"), order.label("value"))
        found: Any = _narrowed(in_water.join(SessionRow, SessionRow.id == ShotRow.session_id), wanted, with_demo=with_demo)
        if _can_be_noted(wanted):
            value = null() if noted_order is None else noted_order
            noted = select(BoatEntryRow.id, literal(False), BoatEntryRow.at, value)
            found = union_all(found, narrowed_notes(noted, wanted))
        keys = found.subquery()
        sorted_by = (keys.c.value.asc() if wanted.up else keys.c.value.desc()).nulls_last()
        query = select(keys.c.id, keys.c.in_water, func.count().over()).order_by(sorted_by, keys.c.at.desc(), keys.c.id)
        rows = session.execute(query.limit(size).offset(page * size)).all()
        lines = {one.id: one for one in _lines(session, [key for key, is_shot, _ in rows if is_shot])}
        lines |= {one.id: one for one in noted_lines(session, [key for key, is_shot, _ in rows if not is_shot])}
        # A page behind the last one has no row that would say how many there are.
        count = rows[0][2] if rows else session.scalar(select(func.count()).select_from(keys)) if page else 0
        return [lines[key] for key, _, _ in rows if key in lines], int(count or 0)


def _can_be_noted(wanted: ShotWanted) -> bool:
    """Return whether a shot that was noted in the boat can be among those wanted: nobody weighed its head."""
    return wanted.source in ("", "real") and wanted.least_kg is None and wanted.most_kg is None


def _lines(session: Session, keys: list[uuid.UUID]) -> list[ShotLine]:
    if not keys:
        return []
    rows = session.execute(
        select(ShotRow, SessionRow).join(SessionRow, SessionRow.id == ShotRow.session_id).where(ShotRow.id.in_(keys))
    ).all()
    tokens = _tokens(session, keys)
    return [_line(shot, one, tokens.get(shot.id, [])) for shot, one in rows]


def _narrowed(query: Any, wanted: ShotWanted, *, with_demo: bool) -> Any:
    """Return a query of shots and their sessions, narrowed."""
    found: list[ColumnElement[bool]] = [] if with_demo else [ShotRow.source != "demo"]
    for value, column, compare in (
        (wanted.source, ShotRow.source, operator.eq),
        (wanted.outcome, ShotRow.outcome, operator.eq),
        (wanted.since, ShotRow.at, operator.ge),
        (wanted.until, ShotRow.at, operator.lt),
        (wanted.least_m, ShotRow.ahead_m, operator.ge),
        (wanted.most_m, ShotRow.ahead_m, operator.le),
        (wanted.least_kg, ShotRow.head_kg, operator.ge),
        (wanted.most_kg, ShotRow.head_kg, operator.le),
    ):
        if value not in (None, ""):
            found.append(compare(column, value))
    if wanted.text:
        found.append(SessionRow.words.bool_op("@@")(_asked(wanted.text)))
    if wanted.token:
        # Read once as an array: joined, it was planned as every shot of that answer against every session.
        told = select(ReactionRow.shot_id).where(_said == wanted.token).scalar_subquery()
        found.append(ShotRow.id == func.any(func.array(told)))
    return query.where(*found)


def _asked(text: str) -> ColumnElement[Any]:
    return func.websearch_to_tsquery("english", text)


def _tokens(session: Session, keys: list[uuid.UUID]) -> dict[uuid.UUID, list[str]]:
    found: dict[uuid.UUID, list[str]] = {}
    query = select(ReactionRow.shot_id, _said).where(ReactionRow.shot_id.in_(keys)).order_by(ReactionRow.session_s)
    for key, token in session.execute(query).all():
        if key is not None:
            found.setdefault(key, []).append(token)
    return found


def _line(shot: ShotRow, session: SessionRow, tokens: list[str]) -> ShotLine:
    return ShotLine(
        id=shot.id,
        session_id=session.id,
        title=session.title,
        source=shot.source,
        number=shot.number,
        at=shot.at,
        ahead_m=shot.ahead_m,
        head_kg=shot.head_kg,
        lasted_s=None if shot.end_s is None else shot.end_s - shot.start_s,
        outcome=shot.outcome,
        tokens=tokens,
        known=session.known,
    )


def search(engine: Engine, owner: uuid.UUID, text: str, *, most: int) -> list[FoundText]:
    """Return what of the owner's log holds the words of a text, the best of each kind first."""
    with work(engine, owner) as session:
        found = [
            FoundText(kind="trip", id=one.id, name=one.title, more=f"{one.water} {one.notes}", at=one.day)
            for one in session.scalars(_with_words(TripRow, text, most))
        ]
        found += [
            FoundText(
                kind="catch",
                id=one.id,
                name=one.species,
                more=" ".join(part for part in (one.lure, one.rod, one.note) if part),
                at=one.at,
            )
            for one in session.scalars(_with_words(CatchRow, text, most))
        ]
        found += [
            FoundText(kind="spot", id=one.id, name=one.kind, more=one.note, at=one.created_at)
            for one in session.scalars(_with_words(SpotRow, text, most))
        ]
        found += [
            FoundText(kind="session", id=one.id, name=one.title, more="", at=one.started_at)
            for one in session.scalars(_with_words(SessionRow, text, most))
        ]
        found += [
            FoundText(
                kind="boat",
                id=one.id,
                name=one.kind,
                more=", ".join(str(value) for value in one.values.values() if isinstance(value, str)),
                at=one.at,
            )
            for one in session.scalars(_with_words(BoatEntryRow, text, most))
        ]
        return found


def _with_words(row: Any, text: str, most: int) -> Select[Any]:
    asked = _asked(text)
    return select(row).where(row.words.bool_op("@@")(asked)).order_by(func.ts_rank(row.words, asked).desc(), row.id).limit(most)
