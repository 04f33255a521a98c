"""Queries of the log. Rows go in by insert-or-ignore on their key, so that saying a thing twice does no harm."""

import datetime as dt
import uuid
from collections import Counter
from collections.abc import Mapping, Sequence
from dataclasses import fields

from sqlalchemy import Engine, case, delete, func, select, update
from sqlalchemy.dialects.postgresql import insert
from sqlalchemy.orm import Session

from mudlamp.core.errors import DomainError
from mudlamp.core.reactions import Reaction
from mudlamp.core.records.cards import KeptCard
from mudlamp.core.records.log import (
    Angler,
    AnglerRecord,
    BaitRecord,
    LoggedBait,
    LoggedReaction,
    LoggedSetup,
    LoggedShot,
    PastShot,
    ReactionRecord,
    Record,
    SessionDetail,
    SessionRecord,
    SessionSummary,
    SetupRecord,
    ShotRecord,
    TrackRecord,
    TripRecord,
)
from mudlamp.core.records.rigs import KeptLure, KeptRig, KeptRod
from mudlamp.core.records.trips import Catch, Condition, Move
from mudlamp.store.database import work
from mudlamp.store.models import (
    AnglerRow,
    BagRuleRow,
    BaitRow,
    Base,
    BoatEntryRow,
    CardRow,
    CatchRow,
    ChartRow,
    ConditionRow,
    EndedRow,
    LandingRow,
    LaunchRow,
    LureRow,
    MoveRow,
    NamedSetupRow,
    PackRow,
    PairingRow,
    PhotoRow,
    ReactionRow,
    RecordingRow,
    RigRow,
    RodRow,
    SessionRow,
    SetupChangeRow,
    ShotRow,
    SpotRow,
    TrackRow,
    TripRow,
)
from mudlamp.store.names import free_name
from mudlamp.store.scope import EVERYBODY, Whose

DEMO_SHOTS_KEPT = 50
# Earlier sessions that a rate leans on.
PAST_SESSIONS = 6
_BIT_OF = {token.value: 1 << number for number, token in enumerate(Reaction)}
_SHOT = tuple(one.name for one in fields(LoggedShot) if one.name != "reactions")
_REACTION = tuple(one.name for one in fields(LoggedReaction))
_BAIT = tuple(one.name for one in fields(LoggedBait))
_QUIET = {"synchronize_session": False}


_TABLES: Mapping[type, type[Base]] = {
    AnglerRecord: AnglerRow,
    TripRecord: TripRow,
    SessionRecord: SessionRow,
    SetupRecord: SetupChangeRow,
    ShotRecord: ShotRow,
    ReactionRecord: ReactionRow,
    BaitRecord: BaitRow,
    TrackRecord: TrackRow,
    KeptRig: RigRow,
    KeptLure: LureRow,
    KeptRod: RodRow,
    KeptCard: CardRow,
    Condition: ConditionRow,
    Move: MoveRow,
    Catch: CatchRow,
}
_SETTLED = {ShotRecord: ("end_s", "outcome"), SessionRecord: ("state", "ended_at")}
Storable = Record | KeptRig | KeptLure | KeptRod | KeptCard | Condition | Move | Catch


def put(engine: Engine, records: Sequence[Storable]) -> None:
    """Write records in one transaction: one whose key is there already is left as it is, but for what a later word settles.

    A shot's end and outcome and a session's state are settled later than they are born: those columns are brought up to date.
    """
    with work(engine) as session:
        for record in records:
            _put_one(session, record)


def _put_one(session: Session, record: Storable) -> None:
    values = {one.name: getattr(record, one.name) for one in fields(record)}
    if isinstance(record, TripRecord):
        values["people"] = list(record.people)
    statement = insert(_TABLES[type(record)]).values(**values)
    later = {name: values[name] for name in _SETTLED.get(type(record), ()) if values[name] is not None}
    if later:
        session.execute(statement.on_conflict_do_update(index_elements=["id"], set_=later))
    else:
        session.execute(statement.on_conflict_do_nothing(index_elements=["id"]))


def remember_angler(engine: Engine, name: str, *, now: dt.datetime) -> tuple[Angler, bool]:
    """Return the angler of a name or initials, made where new, and whether it was; raise DomainError for an empty or overlong one."""
    cleaned = " ".join(name.split())
    if not 1 <= len(cleaned) <= 40:
        raise DomainError(f"name is {len(cleaned)} characters long: it must be 1 to 40 characters")
    with work(engine) as session:
        statement = insert(AnglerRow).values(id=uuid.uuid4(), name=cleaned, created_at=now).on_conflict_do_nothing(index_elements=["name"])
        is_new = session.execute(statement.returning(AnglerRow.id)).first() is not None
        row = session.execute(select(AnglerRow).where(AnglerRow.name == cleaned)).scalar_one()
        return Angler(id=row.id, name=row.name), is_new


def angler(engine: Engine, key: uuid.UUID) -> Angler | None:
    """Return an angler by key, or None."""
    with work(engine) as session:
        row = session.get(AnglerRow, key)
        return None if row is None else Angler(id=row.id, name=row.name)


def mark_interrupted(engine: Engine, *, now: dt.datetime) -> int:
    """Mark sessions that a crash left running as interrupted; return how many."""
    with work(engine, EVERYBODY) as session:
        done = session.execute(update(SessionRow).where(SessionRow.state == "running").values(state="interrupted", ended_at=now))
        return int(done.rowcount)  # type: ignore[attr-defined]


def trim_demo(engine: Engine) -> None:
    """Keep only the newest demo shots that a scripted angler made on a page; the demo trips stay whole."""
    with work(engine, EVERYBODY) as session:
        keep = (
            select(ShotRow.id)
            .join(SessionRow)
            .where(ShotRow.source == "demo", SessionRow.trip_id.is_(None))
            .order_by(ShotRow.at.desc())
            .limit(DEMO_SHOTS_KEPT)
        )
        gone = select(ShotRow.id).join(SessionRow).where(ShotRow.source == "demo", SessionRow.trip_id.is_(None), ShotRow.id.not_in(keep))
        session.execute(delete(ReactionRow).where(ReactionRow.shot_id.in_(gone)))
        session.execute(delete(ShotRow).where(ShotRow.id.in_(gone)))


def sessions(engine: Engine, whose: Whose, *, with_demo: bool, limit: int = 50, before: dt.datetime | None = None) -> list[SessionSummary]:
    """Return somebody's sessions, newest first; without the demo, what the demo and the scripted angler did is left out and not counted.

    A session in which nobody took the rod is no entry then.
    """
    with work(engine, whose, and_nobodys=with_demo) as session:
        query = select(SessionRow, AnglerRow.name).outerjoin(AnglerRow).order_by(SessionRow.started_at.desc(), SessionRow.id).limit(limit)
        if before is not None:
            query = query.where(SessionRow.started_at < before)
        if not with_demo:
            by_hand = select(ShotRow.id).where(ShotRow.session_id == SessionRow.id, ShotRow.source != "demo").exists()
            query = query.where(SessionRow.source != "demo", by_hand)
        rows = session.execute(query).all()
        keys = [row.id for row, _ in rows]
        return [_summary(row, name, *counts) for (row, name), counts in zip(rows, _counts(session, keys, with_demo=with_demo), strict=True)]


def demo_trips(engine: Engine) -> list[SessionSummary]:
    """Return the demo's trips, newest first."""
    with work(engine, EVERYBODY, and_nobodys=True) as session:
        query = select(SessionRow, AnglerRow.name).outerjoin(AnglerRow).where(SessionRow.trip_id.is_not(None), SessionRow.source == "demo")
        rows = session.execute(query.order_by(SessionRow.started_at.desc())).all()
        counts = _counts(session, [row.id for row, _ in rows], with_demo=True)
        return [_summary(row, name, *count) for (row, name), count in zip(rows, counts, strict=True)]


def _counts(session: Session, keys: list[uuid.UUID], *, with_demo: bool) -> list[tuple[int, dict[str, int]]]:
    shot_query = select(ShotRow.session_id, func.count()).where(ShotRow.session_id.in_(keys)).group_by(ShotRow.session_id)
    token = func.coalesce(ReactionRow.corrected, ReactionRow.token)
    reaction_query = (
        select(ReactionRow.session_id, token, func.count()).where(ReactionRow.session_id.in_(keys)).group_by(ReactionRow.session_id, token)
    )
    if not with_demo:
        shot_query = shot_query.where(ShotRow.source != "demo")
        reaction_query = reaction_query.where(ReactionRow.source != "demo")
    shots = {key: int(count) for key, count in session.execute(shot_query).all()}
    reactions: dict[uuid.UUID, dict[str, int]] = {}
    for key, name, count in session.execute(reaction_query).all():
        reactions.setdefault(key, {})[name] = int(count)
    return [(shots.get(key, 0), reactions.get(key, {})) for key in keys]


def _summary(row: SessionRow, name: str | None, shots: int, reactions: Mapping[str, int]) -> SessionSummary:
    return SessionSummary(
        id=row.id,
        source=row.source,
        title=row.title,
        scene=row.scene,
        state=row.state,
        angler=name,
        started_at=row.started_at,
        ended_at=row.ended_at,
        shots=shots,
        reactions=reactions,
    )


def session_detail(engine: Engine, whose: Whose, key: uuid.UUID, *, with_demo: bool) -> SessionDetail | None:
    """Return one of somebody's sessions (or of the demo's) with its set-ups, shots and reactions, or None where there is none of that key."""
    with work(engine, whose, and_nobodys=True) as session:
        found = session.execute(select(SessionRow, AnglerRow.name).outerjoin(AnglerRow).where(SessionRow.id == key)).one_or_none()
        if found is None:
            return None
        row, name = found
        shown = with_demo or row.source == "demo"
        setups = session.execute(
            select(SetupChangeRow.session_s, SetupChangeRow.values)
            .where(SetupChangeRow.session_id == key)
            .order_by(SetupChangeRow.session_s)
        ).all()
        # Plain columns: a heavy day's rows as objects of the mapper took most of a page's time.
        shot_query = select(*(getattr(ShotRow, name) for name in _SHOT)).where(ShotRow.session_id == key).order_by(ShotRow.number)
        said = (getattr(ReactionRow, name) for name in _REACTION)
        reaction_query = select(*said).where(ReactionRow.session_id == key).order_by(ReactionRow.session_s)
        if not shown:
            shot_query, reaction_query = shot_query.where(ShotRow.source != "demo"), reaction_query.where(ReactionRow.source != "demo")
        reactions = [LoggedReaction(**dict(zip(_REACTION, one, strict=True))) for one in session.execute(reaction_query)]
        of_shot: dict[uuid.UUID, list[LoggedReaction]] = {}
        for each in reactions:
            if each.shot_id is not None:
                of_shot.setdefault(each.shot_id, []).append(each)
        shots = [LoggedShot(**dict(zip(_SHOT, one, strict=True)), reactions=of_shot.get(one.id, [])) for one in session.execute(shot_query)]
        bait_query = select(*(getattr(BaitRow, name) for name in _BAIT)).where(BaitRow.session_id == key).order_by(BaitRow.session_s)
        tally = Counter(one.corrected or one.token for one in reactions)
        return SessionDetail(
            summary=_summary(row, name, len(shots), tally),
            setups=[LoggedSetup(session_s=session_s, values=values) for session_s, values in setups],
            shots=shots,
            loose=[each for each in reactions if each.shot_id is None],
            bait=[LoggedBait(**dict(zip(_BAIT, one, strict=True))) for one in session.execute(bait_query)],
            known=row.known,
            trip_id=row.trip_id,
        )


def past_shots(engine: Engine, whose: Whose, summary: SessionSummary, *, limit: int = PAST_SESSIONS) -> list[PastShot]:
    """Return the shots of the newest sessions before one, on the same water and from the same source: what is simulated stays apart.

    Those of a session that had the same head and the same answers are told as one, with how many they were.
    """
    with work(engine, whose, and_nobodys=summary.source == "demo") as session:
        token = func.coalesce(ReactionRow.corrected, ReactionRow.token)
        past = (
            select(SessionRow.id, SessionRow.started_at, SessionRow.ended_at)
            .where(SessionRow.scene == summary.scene, SessionRow.source == summary.source, SessionRow.started_at < summary.started_at)
            .where(SessionRow.ended_at.is_not(None))
            .order_by(SessionRow.started_at.desc())
            .limit(limit)
            .subquery()
        )
        # A bit for each token: to sort the words of each shot took half of a heavy session's page.
        bitten = case((ShotRow.outcome.is_not(None), _BIT_OF[Reaction.BIT.value]), else_=0)
        answered = func.coalesce(func.bit_or(case(_BIT_OF, value=token)), 0).op("|")(bitten).label("tokens")
        each = (
            select(ShotRow.session_id, ShotRow.head_kg, answered)
            .outerjoin(ReactionRow, (ReactionRow.shot_id == ShotRow.id) & ReactionRow.session_id.in_(select(past.c.id)))
            .where(ShotRow.source == summary.source, ShotRow.session_id.in_(select(past.c.id)))
            .group_by(ShotRow.session_id, ShotRow.id, ShotRow.head_kg, ShotRow.outcome)
            .subquery()
        )
        query = (
            select(past.c.id, past.c.started_at, past.c.ended_at, each.c.head_kg, each.c.tokens, func.count())
            .join(each, each.c.session_id == past.c.id)
            .group_by(past.c.id, past.c.started_at, past.c.ended_at, each.c.head_kg, each.c.tokens)
            .order_by(past.c.started_at)
        )
        return [
            PastShot(
                session_id=key,
                minutes=(ended - started).total_seconds() / 60.0,
                head_kg=head,
                tokens=[token for token, bit in _BIT_OF.items() if bits & bit],
                count=count,
            )
            for key, started, ended, head, bits, count in session.execute(query).all()
        ]


def _reaction(row: ReactionRow) -> LoggedReaction:
    return LoggedReaction(**{name: getattr(row, name) for name in _REACTION})


def correct_reaction(engine: Engine, whose: Whose, key: uuid.UUID, token: str | None) -> LoggedReaction | None:
    """Set (or with None take back) the angler's word for a reaction of theirs; return it, or None where there is none of that key."""
    with work(engine, whose) as session:
        row = session.scalars(select(ReactionRow).where(ReactionRow.id == key)).first()
        if row is None:
            return None
        row.corrected = token
        session.flush()
        return _reaction(row)


def adopt(engine: Engine, device: uuid.UUID, angler: uuid.UUID) -> None:
    """Give the sessions, recordings, named set-ups and what was learned of a hand, kept by a browser before anybody said who fishes, to the angler.

    A named set-up whose name the angler has already gets a number.
    """
    with work(engine, EVERYBODY) as session:
        taken = set(session.scalars(select(NamedSetupRow.name).where(NamedSetupRow.owner == angler)))
        for row in session.scalars(select(NamedSetupRow).where(NamedSetupRow.owner == device)):
            row.name = free_name(row.name, taken)
            taken.add(row.name)
            row.owner = angler
        mine = (
            SessionRow,
            RecordingRow,
            LandingRow,
            EndedRow,
            PackRow,
            BoatEntryRow,
            SpotRow,
            LaunchRow,
            TripRow,
            CatchRow,
            ChartRow,
            PhotoRow,
            BagRuleRow,
        )
        _make_way(session, device, angler)
        for model in mine:
            session.execute(update(model).where(model.owner == device).values(owner=angler))


def _make_way(session: Session, device: uuid.UUID, angler: uuid.UUID) -> None:
    """Delete of a browser's own limits, photos and charts those that the angler has already: there may be one of each."""
    for row, what in ((BagRuleRow, BagRuleRow.species), (PhotoRow, PhotoRow.digest), (ChartRow, ChartRow.name)):
        theirs = select(what).where(row.owner == angler)
        session.execute(delete(row).where(row.owner == device, what.in_(theirs)), execution_options=_QUIET)


def trip_keys(engine: Engine) -> set[uuid.UUID]:
    """Return the keys of all trips whose weather was noted: those that a release before this one loaded have none."""
    with work(engine, EVERYBODY) as session:
        return set(session.execute(select(ConditionRow.trip_id)).scalars())


def empty(engine: Engine) -> None:
    """Delete everything that was logged, and all rigs and cards."""
    with work(engine, EVERYBODY) as session:
        for model in (
            SessionRow,
            TripRow,
            AnglerRow,
            CardRow,
            RigRow,
            LandingRow,
            EndedRow,
            PackRow,
            BoatEntryRow,
            SpotRow,
            LaunchRow,
            CatchRow,
            ChartRow,
            PhotoRow,
            BagRuleRow,
            PairingRow,
        ):
            session.execute(delete(model))
