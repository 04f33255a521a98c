"""Queries of many sessions at once, for the review: shots with what was known, set-ups and tracks, casts."""

import datetime as dt
import uuid
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Any

from sqlalchemy import Engine, func, select

from mudlamp.core.casting.habit import Landing
from mudlamp.core.controls import Value
from mudlamp.core.records.shots import with_bite
from mudlamp.core.records.trips import Condition
from mudlamp.store.database import work
from mudlamp.store.models import ConditionRow, LandingRow, ReactionRow, SessionRow, SetupChangeRow, ShotRow, TrackRow

_SAID = func.coalesce(ReactionRow.corrected, ReactionRow.token)


@dataclass(frozen=True, slots=True, kw_only=True)
class ReviewedShot:
    """A shot with what was known of its session, and the tokens of what fish did."""

    id: uuid.UUID
    session_id: uuid.UUID
    trip_id: uuid.UUID | None
    at: dt.datetime
    ahead_m: float
    head_kg: float
    lasted_s: float | None
    known: Mapping[str, Value]
    tokens: Sequence[str]


@dataclass(frozen=True, slots=True, kw_only=True)
class Watched:
    """A session's set-ups, each from when [s], when fish came up and were lost [s], and how long it took [s]."""

    setups: Sequence[tuple[float, Mapping[str, Value]]]
    first_s: Sequence[float]
    last_s: Sequence[float]
    length_s: float


def mark_of(engine: Engine, owner: uuid.UUID, source: str) -> tuple[int, int, int]:
    """Return numbers that change whenever an owner's shots of a source, what was said of reactions to them, or sessions do."""
    with work(engine, owner) as session:
        shots = session.scalar(select(func.count()).select_from(ShotRow).where(ShotRow.source == source))
        # Which word stands at which reaction: a correction of a correction changes no count.
        words = func.sum(func.hashtext(func.concat(ReactionRow.id, _SAID)))
        said = session.scalar(select(words).where(ReactionRow.source == source))
        ended = session.scalar(select(func.count(SessionRow.ended_at)).where(SessionRow.source == source))
        return int(shots or 0), int(said or 0), int(ended or 0)


def sources(engine: Engine, owner: uuid.UUID) -> dict[str, int]:
    """Return how many shots an owner has of each source."""
    with work(engine, owner) as session:
        return {
            source: int(count) for source, count in session.execute(select(ShotRow.source, func.count()).group_by(ShotRow.source)).all()
        }


def shots(engine: Engine, owner: uuid.UUID, source: str, *, most: int) -> list[ReviewedShot]:
    """Return the owner's newest shots of a source, oldest first."""
    with work(engine, owner) as session:
        newest = select(ShotRow.id).where(ShotRow.source == source).order_by(ShotRow.at.desc()).limit(most).subquery()
        tokens: dict[uuid.UUID, list[str]] = {}
        said = select(ReactionRow.shot_id, _SAID).where(ReactionRow.shot_id.in_(select(newest.c.id)))
        for key, token in session.execute(said).all():
            if key is not None:
                tokens.setdefault(key, []).append(token)
        query = (
            select(
                ShotRow.id,
                ShotRow.session_id,
                SessionRow.trip_id,
                ShotRow.at,
                ShotRow.ahead_m,
                ShotRow.head_kg,
                ShotRow.start_s,
                ShotRow.end_s,
                SessionRow.known,
                ShotRow.outcome,
            )
            .join(SessionRow, SessionRow.id == ShotRow.session_id)
            .where(ShotRow.id.in_(select(newest.c.id)))
            .order_by(ShotRow.at)
        )
        return [_shot(tuple(row), tokens) for row in session.execute(query).all()]


def _shot(row: tuple[Any, ...], tokens: Mapping[uuid.UUID, Sequence[str]]) -> ReviewedShot:
    key, session_id, trip_id, at, ahead, head, start, end, known, outcome = row
    return ReviewedShot(
        id=key,
        session_id=session_id,
        trip_id=trip_id,
        at=at,
        ahead_m=ahead,
        head_kg=head,
        lasted_s=None if end is None else end - start,
        known=known,
        tokens=with_bite(tokens.get(key, ()), outcome),
    )


def conditions(engine: Engine, owner: uuid.UUID) -> dict[uuid.UUID, list[Condition]]:
    """Return the conditions of all of the owner's trips, by trip and time."""
    with work(engine, owner) as session:
        found: dict[uuid.UUID, list[Condition]] = {}
        for row in session.scalars(select(ConditionRow).order_by(ConditionRow.at)):
            one = Condition(**{name: getattr(row, name) for name in Condition.__dataclass_fields__})
            found.setdefault(one.trip_id, []).append(one)
        return found


def watched(engine: Engine, owner: uuid.UUID, source: str, *, most: int) -> list[Watched]:
    """Return the set-ups and fish tracks of the owner's newest sessions of a source."""
    with work(engine, owner) as session:
        query = select(SessionRow.id, SessionRow.started_at, SessionRow.ended_at).where(
            SessionRow.source == source, SessionRow.ended_at.is_not(None)
        )
        rows = session.execute(query.order_by(SessionRow.started_at.desc()).limit(most)).all()
        keys = [key for key, _, _ in rows]
        setups: dict[uuid.UUID, list[tuple[float, Mapping[str, Value]]]] = {}
        changes = select(SetupChangeRow).where(SetupChangeRow.session_id.in_(keys)).order_by(SetupChangeRow.session_s)
        for change in session.scalars(changes):
            setups.setdefault(change.session_id, []).append((change.session_s, change.values))
        spans: dict[uuid.UUID, list[tuple[float, float]]] = {}
        tracks = select(TrackRow.session_id, TrackRow.first_s, TrackRow.last_s).where(
            TrackRow.session_id.in_(keys), TrackRow.kind == "fish"
        )
        for key, first, last in session.execute(tracks).all():
            spans.setdefault(key, []).append((first, last))
        return [
            Watched(
                setups=setups.get(key, ()),
                first_s=[first for first, _ in spans.get(key, ())],
                last_s=[last for _, last in spans.get(key, ())],
                length_s=0.0 if ended is None else (ended - started).total_seconds(),
            )
            for key, started, ended in rows
        ]


def guessed(engine: Engine, owner: uuid.UUID, source: str) -> list[tuple[float, float]]:
    """Return what the owner guessed of fish on the picture and what the echo measured of them [m], where both are lengths at all."""
    with work(engine, owner) as session:
        query = select(TrackRow.guess_m, TrackRow.length_m).where(
            TrackRow.source == source, TrackRow.guess_m > 0.0, TrackRow.length_m > 0.0
        )
        return [(guess, length) for guess, length in session.execute(query).all() if guess is not None and length is not None]


def landings(engine: Engine, owner: uuid.UUID) -> list[tuple[dt.datetime, Landing]]:
    """Return when and where the owner's casts landed, oldest first."""
    with work(engine, owner) as session:
        rows = session.scalars(select(LandingRow).order_by(LandingRow.created_at))
        return [(row.created_at, Landing(aimed_m=row.aimed_m, landed_m=row.landed_m, off_rad=row.off_rad)) for row in rows]


def heights(engine: Engine, owner: uuid.UUID, source: str, *, most: int) -> dict[uuid.UUID, tuple[float, float]]:
    """Return how deep the fish and the lure of a shot were [m] when the fish first did something, of the newest such shots, by the shot's key."""
    with work(engine, owner) as session:
        query = (
            select(ReactionRow.shot_id, ReactionRow.session_id, ReactionRow.track, func.min(ReactionRow.session_s))
            .join(ShotRow, ShotRow.id == ReactionRow.shot_id)
            .where(ReactionRow.source == source)
            .group_by(ReactionRow.shot_id, ReactionRow.session_id, ReactionRow.track)
            .order_by(func.max(ShotRow.at).desc())
            .limit(most)
        )
        rows = session.execute(query).all()
        keys = {row[1] for row in rows}
        paths: dict[uuid.UUID, list[tuple[str, str, Sequence[float]]]] = {}
        tracks = select(TrackRow.session_id, TrackRow.number, TrackRow.kind, TrackRow.path).where(TrackRow.session_id.in_(keys))
        for key, number, kind, path in session.execute(tracks).all():
            paths.setdefault(key, []).append((str(number), kind, path))
        found: dict[uuid.UUID, tuple[float, float]] = {}
        for shot, key, track, at in rows:
            fish = _depth_at([path for number, kind, path in paths.get(key, ()) if number == track and kind == "fish"], at)
            lure = _depth_at([path for _, kind, path in paths.get(key, ()) if kind == "lure"], at)
            if shot is not None and fish is not None and lure is not None:
                found.setdefault(shot, (fish, lure))
        return found


def _depth_at(paths: Sequence[Sequence[float]], at_s: float) -> float | None:
    """Return how deep the path that was there at a time is then [m], within half a second; None where none was."""
    for path in paths:
        times = path[0::3]
        near = min(range(len(times)), key=lambda i: abs(times[i] - at_s), default=None)
        if near is not None and abs(times[near] - at_s) <= 0.5:
            return float(path[3 * near + 2])
    return None
