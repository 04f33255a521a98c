import datetime as dt
import uuid
from dataclasses import replace

import pytest
from sqlalchemy import func, select, text

from mudlamp.core.errors import DomainError
from mudlamp.core.records.log import BaitRecord, ReactionRecord, SessionRecord, ShotRecord
from mudlamp.services.demo import SHOTS_A_TRIP, TRIPS, ensure_demo, trip_records
from mudlamp.services.log.review import Word, review
from mudlamp.services.log.timeline import timeline_of
from mudlamp.store import log as store
from mudlamp.store import review as season
from mudlamp.store.database import ensure_database, is_up, migrate, work
from mudlamp.store.models import Base, ReactionRow, SessionRow, ShotRow
from mudlamp.store.scope import EVERYBODY

NOW = dt.datetime(2026, 11, 1, 12, 0, tzinfo=dt.UTC)


def session_record(**changes):
    base = SessionRecord(
        id=uuid.uuid4(),
        source="simulated",
        trip_id=None,
        angler_id=None,
        device=None,
        owner=None,
        scene="pear-tree",
        title="Pear tree",
        seed=1,
        state="running",
        started_at=NOW,
        ended_at=None,
    )
    return replace(base, **changes)


def shot_record(session, number=1, **changes):
    base = ShotRecord(
        id=uuid.uuid4(),
        session_id=session,
        source="simulated",
        number=number,
        start_s=1.0,
        end_s=None,
        at=NOW,
        ahead_m=8.0,
        head_kg=0.00177,
        outcome=None,
    )
    return replace(base, **changes)


def reaction_record(session, shot, token="looked"):
    return ReactionRecord(
        id=uuid.uuid4(),
        session_id=session,
        shot_id=shot,
        source="simulated",
        track="3",
        session_s=2.0,
        token=token,
        corrected=None,
        cause="lure",
        confidence=0.9,
    )


def bait_record(session, **changes):
    base = BaitRecord(
        id=uuid.uuid4(), session_id=session, source="simulated", session_s=3.0, doing="bursts", ahead_m=7.3, other_m=3.7, before_m=0.6, after_m=1.1
    )  # fmt: skip
    return replace(base, **changes)


@pytest.fixture
def logged(engine):
    session = session_record()
    shot = shot_record(session.id)
    reaction = reaction_record(session.id, shot.id)
    store.put(engine, [session, shot, reaction])
    return session, shot, reaction


def count(engine, model):
    with work(engine) as session:
        return session.execute(select(func.count()).select_from(model)).scalar_one()


def test_a_row_said_twice_is_there_once(engine, logged):
    session, shot, reaction = logged
    store.put(engine, [session, shot, replace(reaction, token="bit")])
    assert [count(engine, model) for model in (SessionRow, ShotRow, ReactionRow)] == [1, 1, 1]
    assert store.session_detail(engine, EVERYBODY, session.id, with_demo=False).shots[0].reactions[0].token == "looked"


def test_what_bait_did_is_kept_with_its_session(engine, logged):
    session, _, _ = logged
    store.put(engine, [bait_record(session.id, session_s=9.0, doing="tightens"), bait_record(session.id)])
    detail = store.session_detail(engine, EVERYBODY, session.id, with_demo=False)
    assert [(one.session_s, one.doing, one.ahead_m) for one in detail.bait] == [(3.0, "bursts", 7.3), (9.0, "tightens", 7.3)]
    (lane,) = [one for one in timeline_of(detail).lanes if one.word == "bait"]
    assert [mark.said for mark in lane.marks] == ["0:03 bait bursts, 24 ft ahead", "0:09 bait tightens, 24 ft ahead"]


def test_what_is_settled_later_is_brought_up_to_date(engine, logged):
    session, shot, _ = logged
    store.put(engine, [replace(shot, end_s=9.0, outcome="landed"), replace(session, state="ended", ended_at=NOW)])
    store.put(engine, [shot])
    detail = store.session_detail(engine, EVERYBODY, session.id, with_demo=False)
    assert (detail.shots[0].end_s, detail.shots[0].outcome) == (9.0, "landed")
    assert detail.summary.state == "ended"


def test_a_bite_whose_end_is_known_counts_be_it_told_or_not(engine):
    owner = uuid.uuid4()
    first = session_record(owner=owner, ended_at=NOW)
    ends = (None, "missed", "landed")
    shots = [shot_record(first.id, i, outcome=ends[i], at=NOW + dt.timedelta(minutes=i)) for i in range(len(ends))]
    told = reaction_record(first.id, shots[2].id, token="bit")
    newest = session_record(started_at=NOW + dt.timedelta(days=1))
    store.put(engine, [first, *shots, told, newest, shot_record(newest.id)])
    detail = store.session_detail(engine, EVERYBODY, first.id, with_demo=False)
    assert review(detail, [], Word()).here.takes == 2
    assert [one.tokens for one in season.shots(engine, owner, "simulated", most=9)] == [[], ["bit"], ["bit"]]
    later = next(one for one in store.sessions(engine, EVERYBODY, with_demo=False) if one.id == newest.id)
    past = store.past_shots(engine, EVERYBODY, later)
    assert sorted((one.tokens, one.count) for one in past) == [([], 1), (["bit"], 2)]


def test_a_batch_is_whole_or_not_at_all(engine, logged):
    session, _, _ = logged
    good, bad = shot_record(session.id, 2), shot_record(session.id, 3, source="hearsay")
    with pytest.raises(Exception, match="source"):
        store.put(engine, [good, bad])
    assert count(engine, ShotRow) == 1


def test_the_demo_is_left_out_unless_it_is_asked_for(engine, logged):
    session, _, _ = logged
    demo = session_record(source="demo", started_at=NOW - dt.timedelta(days=2))
    store.put(engine, [demo, shot_record(demo.id, source="demo"), shot_record(session.id, 2, source="demo")])
    (own,) = store.sessions(engine, EVERYBODY, with_demo=False)
    assert (own.id, own.shots) == (session.id, 1)
    both = store.sessions(engine, EVERYBODY, with_demo=True)
    assert [one.id for one in both] == [session.id, demo.id]
    assert both[0].shots == 2
    assert [shot.number for shot in store.session_detail(engine, EVERYBODY, session.id, with_demo=False).shots] == [1]


def test_a_correction_keeps_the_machines_word(engine, logged):
    _, _, reaction = logged
    found = store.correct_reaction(engine, EVERYBODY, reaction.id, "refused")
    assert (found.token, found.corrected) == ("looked", "refused")
    assert store.sessions(engine, EVERYBODY, with_demo=False)[0].reactions == {"refused": 1}
    assert store.correct_reaction(engine, EVERYBODY, reaction.id, None).corrected is None
    assert store.correct_reaction(engine, EVERYBODY, uuid.uuid4(), "bit") is None


def test_sessions_that_a_crash_left_running_are_marked(engine, logged):
    assert store.mark_interrupted(engine, now=NOW) == 1
    assert store.mark_interrupted(engine, now=NOW) == 0
    assert store.sessions(engine, EVERYBODY, with_demo=False)[0].state == "interrupted"


def test_only_the_newest_fifty_scripted_shots_are_kept(engine, logged):
    session, _, _ = logged
    rows = [shot_record(session.id, 10 + i, source="demo", at=NOW + dt.timedelta(seconds=i)) for i in range(60)]
    store.put(engine, rows)
    store.trim_demo(engine)
    kept = [shot.number for shot in store.session_detail(engine, EVERYBODY, session.id, with_demo=True).shots]
    assert kept == [1, *range(20, 70)]


def test_an_angler_is_remembered_by_name_and_made_once(engine):
    one = store.remember_angler(engine, "  J.  Orchard ", now=NOW)
    assert store.remember_angler(engine, "J. Orchard", now=NOW) == (one[0], False)
    assert store.angler(engine, one[0].id) == one[0]
    assert store.angler(engine, uuid.uuid4()) is None
    with pytest.raises(DomainError, match="name is 0 characters long: it must be 1 to 40"):
        store.remember_angler(engine, "   ", now=NOW)


def test_the_demo_hangs_together_and_is_loaded_once(engine):
    # A start that was cut short had loaded one trip: the next one loads the rest.
    store.put(engine, list(trip_records(TRIPS[0])))
    ensure_demo(engine)
    before = count(engine, ShotRow)
    ensure_demo(engine)
    assert len(store.trip_keys(engine)) == len(TRIPS) == 4
    assert before == count(engine, ShotRow) == pytest.approx(4 * SHOTS_A_TRIP, abs=4)
    for summary in store.sessions(engine, EVERYBODY, with_demo=True):
        detail = store.session_detail(engine, EVERYBODY, summary.id, with_demo=True)
        bites = sum(shot.outcome is not None for shot in detail.shots)
        assert summary.source == "demo"
        assert summary.reactions["looked"] > 10
        assert summary.reactions.get("bit", 0) >= 0.5 * bites
        for shot in detail.shots:
            assert shot.end_s > shot.start_s
    store.empty(engine)
    assert len(store.trip_keys(engine)) == count(engine, ShotRow) == 0


def test_the_demo_is_the_same_every_time():
    assert list(trip_records(TRIPS[3])) == list(trip_records(TRIPS[3]))


def test_the_schema_is_what_the_models_say(engine):
    from alembic.autogenerate import compare_metadata
    from alembic.migration import MigrationContext

    with engine.connect() as connection:
        assert compare_metadata(MigrationContext.configure(connection, opts={"compare_type": True}), Base.metadata) == []


def test_migrating_twice_changes_nothing(engine, database_url):
    ensure_database(database_url)
    migrate(engine)
    assert is_up(engine)
    with engine.connect() as connection:
        assert connection.execute(text("select version_num from alembic_version")).scalars().all() == ["0018"]
