"""A session's timeline: what happened stands where it happened."""

import datetime as dt
import uuid

import pytest

from mudlamp.core.records.log import LoggedReaction, LoggedSetup, LoggedShot, SessionDetail, SessionSummary
from mudlamp.services.log.timeline import timeline_of

START = dt.datetime(2026, 10, 24, 8, 0, tzinfo=dt.UTC)


def _reaction(seconds, token, corrected=None):
    return LoggedReaction(
        id=uuid.uuid4(), shot_id=None, track="fish 2", session_s=seconds, token=token, corrected=corrected, cause="lure", confidence=0.9
    )


def _detail(*, shots=(), loose=(), setups=(0.0,), minutes=10.0):
    summary = SessionSummary(
        id=uuid.uuid4(), source="simulated", title="t", scene="s", state="ended", angler=None, started_at=START,
        ended_at=START + dt.timedelta(minutes=minutes), shots=len(shots), reactions={},
    )  # fmt: skip
    return SessionDetail(
        summary=summary, setups=[LoggedSetup(session_s=at, values={"gain": 60.0}) for at in setups], shots=shots, loose=loose
    )


def _shot(number, start, end, *reactions, outcome=None):
    return LoggedShot(
        id=uuid.uuid4(), source="simulated", number=number, start_s=start, end_s=end, at=START, ahead_m=9.0, head_kg=0.002, outcome=outcome,
        reactions=reactions,
    )  # fmt: skip


def test_marks_stand_by_their_share_of_the_session():
    shot = _shot(1, 60.0, 120.0, _reaction(90.0, "looked"), _reaction(110.0, "bit"), outcome="landed")
    found = timeline_of(_detail(shots=[shot], loose=[_reaction(300.0, "spooked")], setups=(0.0, 450.0)))
    lanes = {lane.word: lane for lane in found.lanes}
    assert list(lanes) == ["shots", "looked", "bit", "spooked", "landed", "set-up changed"]
    (mark,) = lanes["shots"].marks
    assert (mark.at_pct, mark.wide_pct, mark.href) == (pytest.approx(10.0), pytest.approx(10.0), "#shot-1")
    assert lanes["looked"].marks[0].at_pct == pytest.approx(15.0)
    assert lanes["spooked"].marks[0].href == ""
    assert lanes["set-up changed"].marks[0].at_pct == pytest.approx(75.0)
    assert lanes["looked"].marks[0].href == "#shot-1"


def test_the_anglers_word_counts_and_an_unended_session_ends_with_its_last_event():
    found = timeline_of(_detail(shots=[_shot(1, 10.0, None, _reaction(200.0, "looked", corrected="followed"))], minutes=0.0))
    assert [lane.word for lane in found.lanes] == ["shots", "followed"]
    assert found.lanes[1].marks[0].at_pct == 100.0


@pytest.mark.parametrize("minutes", [0.5, 3.0, 11.0, 47.0, 240.0, 600.0])
def test_ticks_are_round_and_few(minutes):
    ticks = timeline_of(_detail(minutes=minutes)).ticks
    assert 1 <= len(ticks) <= 8
    assert ticks[0] == (0.0, "0:00")
    assert all(0.0 <= at <= 100.0 for at, _ in ticks)


def test_a_session_without_anything_has_no_lanes():
    assert timeline_of(_detail()).lanes == []
