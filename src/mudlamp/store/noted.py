"""Shots noted in the boat, as lines of the list of shots: what was undone left out, the last word on which rod it was."""

import operator
import uuid
from typing import Any

from sqlalchemy import Double, String, case, cast, exists, func, literal, select
from sqlalchemy.dialects.postgresql import array
from sqlalchemy.orm import Session, aliased

from mudlamp.core.records.shots import ShotLine, ShotWanted
from mudlamp.core.units import FOOT_M
from mudlamp.store.models import BoatEntryRow, TripRow

OUTCOMES = ("missed", "hooked", "lost", "landed")
IN_THE_BOAT = "in the boat"
_TOKEN = BoatEntryRow.values["token"].astext
NOTED_OUT_M = cast(BoatEntryRow.values["out_ft"].astext, Double) * FOOT_M
NOTED_OUTCOME = case((_TOKEN.in_(OUTCOMES), cast(_TOKEN, String(12))))


def narrowed_notes(query: Any, wanted: ShotWanted) -> Any:
    """Return a query of entries narrowed to the shots that are wanted."""
    undo = aliased(BoatEntryRow)
    was_undone = exists().where(undo.kind == "undo", undo.values["of"].astext == cast(BoatEntryRow.given, String(36)))
    found = [BoatEntryRow.kind == "outcome", ~was_undone]
    for value, column, compare in (
        (wanted.outcome, _TOKEN, operator.eq),
        (wanted.token, _TOKEN, operator.eq),
        (wanted.since, BoatEntryRow.at, operator.ge),
        (wanted.until, BoatEntryRow.at, operator.lt),
        (wanted.least_m, NOTED_OUT_M, operator.ge),
        (wanted.most_m, NOTED_OUT_M, operator.le),
    ):
        if value not in (None, ""):
            found.append(compare(column, value))
    if wanted.text:
        found.append(BoatEntryRow.words.bool_op("@@")(func.websearch_to_tsquery("english", wanted.text)))
    return query.where(*found)


def noted_lines(session: Session, keys: list[uuid.UUID]) -> list[ShotLine]:
    """Return entries as lines of the list, each on the trip that was under way then."""
    if not keys:
        return []
    rows = session.scalars(select(BoatEntryRow).where(BoatEntryRow.id.in_(keys))).all()
    rods = _rods(session, [row.given for row in rows])
    first, last = min(row.at for row in rows), max(row.at for row in rows)
    trips = session.scalars(
        select(TripRow).where(TripRow.started_at <= last, func.coalesce(TripRow.ended_at, last) >= first, TripRow.source == "real")
    ).all()
    found = []
    for row in rows:
        values = row.values | rods.get(str(row.given), {})
        token, out = str(values.get("token", "")), values.get("out_ft")
        trip = next((one for one in trips if one.started_at is not None and one.started_at <= row.at <= (one.ended_at or row.at)), None)
        found.append(
            ShotLine(
                id=row.id,
                session_id=None,
                title=IN_THE_BOAT if trip is None else trip.title,
                source="real",
                number=row.number,
                at=row.at,
                ahead_m=out * FOOT_M if isinstance(out, int | float) else None,
                head_kg=0.0,
                lasted_s=None,
                outcome=token if token in OUTCOMES else None,
                tokens=[] if token in OUTCOMES else [token],
                known={"lure": str(values.get("lure") or values.get("rod_name") or "")},
            )
        )
    return found


def _rods(session: Session, given: list[uuid.UUID]) -> dict[str, dict[str, Any]]:
    """Return what was said later of which rod acts were made with, by the acts' own keys; the last word counts."""
    said = BoatEntryRow.values["of"].has_any(array([literal(str(key)) for key in given]))
    query = select(BoatEntryRow.values).where(BoatEntryRow.kind == "rod", said).order_by(BoatEntryRow.at, BoatEntryRow.number)
    found: dict[str, dict[str, Any]] = {}
    for values in session.scalars(query):
        rod = {name: values[name] for name in ("rod_name", "lure") if name in values}
        found |= {str(key): rod for key in values["of"]}
    return found
