import asyncio
import datetime as dt
import os
import queue
import signal
import threading
import time
import uuid
from dataclasses import replace

import numpy as np
import orjson
import pytest
from sqlalchemy import select

from mudlamp.core.errors import DomainError, RecordingError, UnavailableError
from mudlamp.core.receiver.screen import Screen
from mudlamp.core.records.log import TripRecord
from mudlamp.core.tracking.track import KINDS
from mudlamp.core.tracking.traits import TRAITS
from mudlamp.formats.recording import RecordingWriter
from mudlamp.formats.scene.file import load_scene, stock_text
from mudlamp.heads.simulated import SimulatedHead
from mudlamp.services.find.spot_book import SpotBook
from mudlamp.services.jobs import Jobs
from mudlamp.services.live.audience import Audience
from mudlamp.services.live.frames import HEADER, MAGIC, Mailbox
from mudlamp.services.live.known import spots_on
from mudlamp.services.live.messages import parse_command
from mudlamp.services.live.registry import Sessions
from mudlamp.services.live.spotting import Tapped, keep_tapped, show_spots
from mudlamp.services.log.replays import BEFORE_S, recordings_of, replay
from mudlamp.services.recordings.library import Library
from mudlamp.services.recordings.minute import Minute
from mudlamp.services.settings import read_settings
from mudlamp.services.training.corrections import as_samples, corrections
from mudlamp.services.trips.behind import FishMinutes
from mudlamp.services.warm import warm_up
from mudlamp.services.water.plans import RecordingPlan, ScenePlan, Waters
from mudlamp.store import log as store
from mudlamp.store import trips as trip_store
from mudlamp.store.corrections import Corrected, corrected_tracks
from mudlamp.store.database import work
from mudlamp.store.models import TrackRow
from mudlamp.store.scope import EVERYBODY
from tests.patience import PATIENCE_S, until
from tests.services.live.test_writer import shot_record

TAPPED = Tapped(ahead_m=5.0, across_m=0.0, depth_m=None, kind="other", note="")
PEAR_TREE = ScenePlan(scene=load_scene("pear-tree"), text=stock_text("pear-tree"), script_rest_s=600.0)


def send(session, **message):
    """What the socket does with a command."""
    session.command(parse_command(orjson.dumps(message)))


class Viewer:
    """A mailbox with an event loop of its own, read from the test."""

    def __init__(self):
        self.loop = asyncio.new_event_loop()
        self.thread = threading.Thread(target=self.loop.run_forever, daemon=True)
        self.thread.start()
        self.mailbox = Mailbox(self.loop)
        self.texts, self.frames = [], []

    def read(self, until, seconds=PATIENCE_S):
        deadline = time.monotonic() + seconds
        while time.monotonic() < deadline:
            texts, frames = asyncio.run_coroutine_threadsafe(self.mailbox.fetch(), self.loop).result(seconds)
            self.texts += [orjson.loads(text) for text in texts]
            self.frames += frames
            if until(self):
                return
        raise AssertionError("it did not come in time")

    def of(self, kind):
        return [message for message in self.texts if message["type"] == kind]

    def close(self):
        self.loop.call_soon_threadsafe(self.loop.stop)
        self.thread.join(5)
        self.loop.close()


@pytest.fixture(scope="module", autouse=True)
def warm():
    warm_up()


@pytest.fixture
def sessions(engine, tmp_path):
    # Until its viewer comes a session keeps its place for as long as another takes to start on a busy machine.
    settings = read_settings({"MUDLAMP_SESSIONS": "2", "MUDLAMP_RUN_DIR": str(tmp_path), "MUDLAMP_FIRST_VIEWER_S": "600"})
    found = Sessions(engine, settings, now=lambda: dt.datetime.now(dt.UTC))
    yield found
    handles = [*found.running(), *found._ended.values()]
    found.end_all()
    # On a busy machine the last row is written after the end: the database stays until then.
    for one in handles:
        one._thread.join(30.0)
        one.writer._thread.join(30.0)


@pytest.fixture
def viewer():
    found = Viewer()
    yield found
    found.close()


def test_a_session_shows_pictures_and_answers_its_controls(sessions, viewer):
    session = sessions.open(uuid.uuid4(), PEAR_TREE, angler_id=None, seed=1)
    session.attach(viewer.mailbox)
    viewer.read(lambda v: len(v.frames) >= 3)
    magic, key, number, revision, _, beams, bins, _ = HEADER.unpack_from(viewer.frames[-1])
    assert (magic, key, beams, bins, revision) == (MAGIC, session.id.bytes, 192, 700, 0)
    assert len(viewer.frames[-1]) == HEADER.size + 192 * 700
    send(session, type="set", seq=7, values={"gain": 20, "reach_ft": 30})
    viewer.read(lambda v: any(7 in state["acknowledged"] for state in v.of("state")))
    state = viewer.of("state")[-1]
    (pane,) = state["panes"]
    assert (pane["controls"]["gain"], pane["controls"]["reach_ft"], state["revision"]) == (20, 30, 1)
    viewer.read(lambda v: HEADER.unpack_from(v.frames[-1])[3] == 1)
    assert HEADER.unpack_from(viewer.frames[-1])[2] > number
    dim = sum(viewer.frames[-1][HEADER.size :])
    send(session, type="set", seq=8, values={"gain": 90})
    viewer.read(lambda v: HEADER.unpack_from(v.frames[-1])[3] == 2)
    assert sum(viewer.frames[-1][HEADER.size :]) > dim


def test_a_throw_takes_the_rod_from_the_script_and_is_logged(sessions, viewer, engine):
    session = sessions.open(uuid.uuid4(), PEAR_TREE, angler_id=None, seed=1)
    session.attach(viewer.mailbox)
    viewer.read(lambda v: bool(v.of("state")))
    assert viewer.of("state")[0]["scripted"]
    send(session, type="throw", ahead_m=8.0, across_m=0.5)
    viewer.read(lambda v: any(message["lure"] == "sinking" for message in v.of("tracks")))
    assert not viewer.of("state")[-1]["scripted"]
    send(session, type="reel", on=True)
    viewer.read(lambda v: v.of("tracks")[-1]["lure"] == "tight")
    sessions.end(session.id)
    detail = store.session_detail(engine, EVERYBODY, session.id, with_demo=False)
    assert detail.summary.state == "ended"
    (shot,) = [shot for shot in detail.shots if shot.source == "simulated"]
    assert shot.ahead_m == pytest.approx(8.0, abs=0.4)
    assert detail.setups[0].values["gain"] == 65


def test_a_browser_finds_its_session_again_and_a_full_house_says_so(sessions):
    device = uuid.uuid4()
    session = sessions.open(device, PEAR_TREE, angler_id=None)
    assert sessions.open(device, PEAR_TREE, angler_id=None) is session
    sessions.open(uuid.uuid4(), PEAR_TREE, angler_id=None)
    with pytest.raises(UnavailableError, match="2 sessions are running, and 2 is the most at once"):
        sessions.open(uuid.uuid4(), PEAR_TREE, angler_id=None)
    sessions.end(session.id)
    assert sessions.find(session.id) is None


def side_of(frame):
    return HEADER.unpack_from(frame)[7]


def number_of(frame):
    return HEADER.unpack_from(frame)[2]


def test_frozen_water_stands_still_takes_one_ping_and_shows_controls_at_once(sessions, viewer):
    session = sessions.open(uuid.uuid4(), PEAR_TREE, angler_id=None, seed=1)
    session.attach(viewer.mailbox)
    viewer.read(lambda v: len(v.frames) >= 4)
    send(session, type="pace", pace="frozen")
    viewer.read(lambda v: v.of("state")[-1]["pace"] == "frozen")
    time.sleep(0.3)
    at = session.picture().ping.number
    send(session, type="set", seq=3, values={"gain": 20})
    viewer.read(lambda v: HEADER.unpack_from(v.frames[-1])[3] == 1)
    # The same ping under the new set-up: what it costs comes along.
    assert session.picture().ping.number == at
    number = number_of(viewer.frames[-1])
    send(session, type="pace", pace="step")
    viewer.read(lambda v: number_of(v.frames[-1]) > number)
    assert number_of(viewer.frames[-1]) == number + 1
    send(session, type="pace", pace="run")
    viewer.read(lambda v: number_of(v.frames[-1]) > number + 3)


def test_the_last_minute_plays_again_and_is_not_now(sessions, viewer):
    session = sessions.open(uuid.uuid4(), PEAR_TREE, angler_id=None, seed=1)
    session.attach(viewer.mailbox)
    viewer.read(lambda v: len(v.frames) >= 12)
    send(session, type="pace", pace="replay")
    viewer.read(lambda v: len(v.of("place")) >= 3)
    newest, shares = max(number_of(frame) for frame in viewer.frames), [place["share"] for place in viewer.of("place")[:3]]
    assert shares == sorted(shares)
    viewer.frames.clear()
    viewer.read(lambda v: len(v.frames) >= 3)
    assert max(number_of(frame) for frame in viewer.frames) <= newest
    send(session, type="pace", pace="replay", share=1.0)
    viewer.read(lambda v: v.of("place")[-1]["share"] < 0.9)


def test_the_twin_shows_the_same_pings_under_two_set_ups_and_their_difference(sessions, viewer):
    session = sessions.open(uuid.uuid4(), PEAR_TREE, angler_id=None, seed=1)
    session.attach(viewer.mailbox)
    send(session, type="set", side="b", seq=1, values={"gain": 40})
    viewer.read(lambda v: bool(v.of("refused")))
    assert "the twin picture is off" in viewer.of("refused")[-1]["message"]
    send(session, type="twin", do="on")
    send(session, type="set", side="b", seq=2, values={"gain": 85})
    viewer.read(lambda v: any(state["panes"][1:] and state["panes"][1]["controls"]["gain"] == 85 for state in v.of("state")))
    assert viewer.of("state")[-1]["panes"][0]["controls"]["gain"] == 65
    viewer.frames.clear()
    viewer.read(lambda v: {side_of(frame) for frame in v.frames} == {0, 1})
    last = {side_of(frame): frame for frame in viewer.frames}
    assert sum(last[1][HEADER.size :]) > sum(last[0][HEADER.size :])
    viewer.read(
        lambda v: v.of("readings") and any(row["title"] == "Clutter" and row["better"] == "a" for row in v.of("readings")[-1]["twin"])
    )
    # The pings are shared: B may show less of them, never more, and never another fan.
    for seq, values, reason in (
        (3, {"reach_ft": 60}, "reach_ft is 60 ft: it must be at most 40 ft, what the pings of set-up A cover"),
        (4, {"fan": "flat"}, "Fan is shared by both pictures, which show the same pings: set it on set-up A"),
    ):
        send(session, type="set", side="b", seq=seq, values=values)
        viewer.read(lambda v, reason=reason: any(one["message"] == reason for one in v.of("refused")))
    send(session, type="set", side="b", seq=5, values={"reach_ft": 25})
    viewer.read(lambda v: v.of("state")[-1]["panes"][1]["controls"]["reach_ft"] == 25.0)
    state = viewer.of("state")[-1]
    assert (state["panes"][0]["controls"]["reach_ft"], state["window"]["reach_m"]) == (40.0, pytest.approx(12.192, abs=0.01))
    send(session, type="twin", do="swap")
    viewer.read(lambda v: v.of("state")[-1]["panes"][0]["controls"]["gain"] == 85)
    send(session, type="twin", do="copy", side="a")
    viewer.read(lambda v: v.of("state")[-1]["panes"][1]["controls"]["gain"] == 85)
    send(session, type="twin", do="off")
    viewer.read(lambda v: len(v.of("state")[-1]["panes"]) == 1)


def test_what_is_erased_gets_its_cheapest_remedy_and_controls_their_price(sessions, viewer):
    session = sessions.open(uuid.uuid4(), PEAR_TREE, angler_id=None, seed=1)
    session.attach(viewer.mailbox)
    send(session, type="set", seq=1, values={"gain": 30})
    viewer.read(lambda v: any(message["change"] for message in v.of("remedy")))
    remedy = next(message for message in viewer.of("remedy") if message["change"])
    assert "brings back" in remedy["words"]
    assert remedy["change"]["control"] in ("gain", "punch")
    send(session, type="price", control="gain")
    viewer.read(lambda v: bool(v.of("price")))
    assert viewer.of("price")[0]["now"].startswith("Now, 30 instead of 24:")


def test_auto_sets_gain_by_its_rule_says_why_and_yields_to_the_hand(sessions, viewer):
    session = sessions.open(uuid.uuid4(), PEAR_TREE, angler_id=None, seed=1)
    session.attach(viewer.mailbox)
    viewer.read(lambda v: len(v.frames) >= 4)
    send(session, type="set", seq=1, values={"gain": 95})
    send(session, type="auto", control="gain", on=True)
    viewer.read(lambda v: "gain" in v.of("state")[-1]["panes"][0]["why"])
    pane = viewer.of("state")[-1]["panes"][0]
    assert "is the best trade of lure over clutter" in pane["why"]["gain"]
    assert pane["auto"] == ["gain"]
    send(session, type="set", seq=2, values={"gain": 50})
    viewer.read(lambda v: v.of("state")[-1]["panes"][0]["auto"] == [])


def test_a_guess_stands_beside_its_fish_and_goes_to_the_database_with_it(sessions, viewer, engine):
    session = sessions.open(uuid.uuid4(), PEAR_TREE, angler_id=None, seed=1)
    session.attach(viewer.mailbox)
    viewer.read(lambda v: any(one["kind"] == "fish" for one in v.of("tracks")[-1]["tracks"]) if v.of("tracks") else False)
    fish = next(one for one in viewer.of("tracks")[-1]["tracks"] if one["kind"] == "fish")
    assert (fish["guess_in"], fish["guess"], viewer.of("tracks")[-1]["guessing"]) == (None, "", "")
    send(session, type="guess", track=fish["id"], length_in=31.5)
    viewer.read(lambda v: any(one["guess_in"] == 31.5 for one in v.of("tracks")[-1]["tracks"]))
    told = next(one for one in viewer.of("tracks")[-1]["tracks"] if one["id"] == fish["id"])
    assert told["guess"].startswith("you guess 31.5 in")
    send(session, type="guess", track=999_999, length_in=12)
    viewer.read(lambda v: any("track is 999999: it is not followed any more" in one["message"] for one in v.of("refused")))
    sessions.end(session.id)
    with work(engine, EVERYBODY) as found:
        guesses = found.scalars(select(TrackRow.guess_m).where(TrackRow.session_id == session.id, TrackRow.number == fish["id"])).all()
    assert guesses == [pytest.approx(31.5 * 0.0254)]


@pytest.mark.parametrize(("who", "kind"), [("unknown", "cover"), ("catfish", "fish")])
def test_what_an_angler_says_of_a_mark_is_kept_with_what_was_measured_and_can_be_learned_from(sessions, viewer, engine, who, kind):
    session = sessions.open(uuid.uuid4(), PEAR_TREE, angler_id=None, seed=1)
    session.attach(viewer.mailbox)
    viewer.read(lambda v: any(one["kind"] == "fish" for one in v.of("tracks")[-1]["tracks"]) if v.of("tracks") else False)
    fish = next(one for one in viewer.of("tracks")[-1]["tracks"] if one["kind"] == "fish")
    send(session, type="who", track=fish["id"], who=who)
    # What is no fish is told no more.
    viewer.read(lambda v: all(one["said"] == who for one in v.of("tracks")[-1]["tracks"] if one["id"] == fish["id"]))
    sessions.end(session.id)
    with work(engine, EVERYBODY) as found:
        row = found.scalars(select(TrackRow).where(TrackRow.session_id == session.id, TrackRow.said.is_not(None))).one()
        assert (row.number, row.said, row.kind) == (fish["id"], who, kind)
        # The machine's own answer stands beside it.
        assert sum(row.odds.values()) == pytest.approx(1.0, abs=0.01)
        looks = row.looks
    assert set(looks[0]) == set(TRAITS)
    learned = as_samples([one for one in corrected_tracks(engine) if one.session_id == session.id])
    assert learned.traits.shape == (len(looks), len(TRAITS))
    assert {KINDS[number].value for number in learned.kinds} == {kind}
    assert any(len(samples) == len(looks) for samples in corrections(engine))
    # What an archive from elsewhere may bring is left out, not learned and not stumbled over.
    strange = [{**looks[0], TRAITS[0]: "loud"}, {"level_db": -40.0}, 7]
    odd = [Corrected(session_id=session.id, said=said, looks=[*strange, *looks]) for said in (who, "mermaid")]
    assert len(as_samples(odd)) == len(looks)


def test_the_rigs_screen_is_judged_and_a_new_one_takes_its_place(sessions, viewer):
    device = uuid.uuid4()
    session = sessions.open(device, PEAR_TREE, angler_id=None, seed=1, screen=Screen(diagonal_m=0.25, width_px=1280, height_px=800))
    session.attach(viewer.mailbox)
    viewer.read(lambda v: bool(v.of("state")))
    assert viewer.of("state")[-1]["screen"] == {"width_px": 1280, "height_px": 800}
    sessions.use_screen(device, Screen(diagonal_m=0.2286, width_px=800, height_px=480, distance_m=1.0))
    viewer.read(lambda v: v.of("readings") and v.of("readings")[-1]["screen"]["across_px_ft"] < 20)
    viewer.read(lambda v: v.of("state")[-1]["screen"]["width_px"] != 1280)
    # 800 px over 42 ft across, 480 over 24 ft down (geometry).
    assert viewer.of("readings")[-1]["screen"]["down_px_ft"] == pytest.approx(20.0, abs=0.2)
    assert viewer.of("state")[-1]["screen"] == {"width_px": 800, "height_px": 480}


@pytest.fixture
def recorded(tmp_path):
    path = tmp_path / "short.nc"
    head = SimulatedHead(load_scene("pear-tree"), seed=2)
    first = head.listen(0.0)
    with RecordingWriter(path, first.setup) as writer:
        writer.write(first)
        for number in range(1, 12):
            writer.write(head.listen(number / 15.0))
    return path


def test_a_recording_plays_round_and_round_under_any_set_up_and_cannot_be_fished(sessions, viewer, recorded, engine):
    session = sessions.open(uuid.uuid4(), RecordingPlan(path=recorded, title="short"), angler_id=None)
    session.attach(viewer.mailbox)
    # Twelve pings are a fifth of what is waited for.
    viewer.read(lambda v: len(v.frames) >= 30 and number_of(v.frames[-1]) >= 25)
    state = viewer.of("state")[-1]
    assert (state["source"], state["fan"], state["scripted"]) == ("recorded", "ahead", False)
    # Down to was found from its first pings: 20 ft of water and a margin.
    assert state["panes"][0]["controls"]["down_to_ft"] == pytest.approx(24, abs=2.5)
    for message, reason in (
        ({"type": "throw", "ahead_m": 5}, "there is no rod in it"),
        ({"type": "set", "values": {"fan": "flat"}}, "Fan cannot be changed: this is a recording"),
        ({"type": "set", "values": {"reach_ft": 60}}, "reach_ft is 60 ft: it must be at most 40 ft"),
    ):
        send(session, **message)
        viewer.read(lambda v, reason=reason: any(reason in one["message"] for one in v.of("refused")))
    send(session, type="set", seq=9, values={"reach_ft": 25, "gain": 80})
    viewer.read(lambda v: v.of("state")[-1]["window"]["reach_m"] < 8.0)
    viewer.read(lambda v: v.of("readings") and v.of("readings")[-1]["erased"] == "needs simulated water")
    assert any(row["figure"].startswith("estimated") for row in viewer.of("readings")[-1]["readings"])
    sessions.end(session.id)
    assert store.session_detail(engine, EVERYBODY, session.id, with_demo=False).summary.source == "recorded"


def test_a_mark_is_kept_as_a_spot_and_drawn_wherever_the_fan_looks_there_again(sessions, viewer, recorded, engine):
    owner, book = uuid.uuid4(), SpotBook(engine, now=lambda: dt.datetime.now(dt.UTC))
    session = sessions.open(owner, PEAR_TREE, angler_id=None)
    session.attach(viewer.mailbox)
    viewer.read(lambda v: len(v.frames) > 3 and v.of("tracks"))
    assert viewer.of("tracks")[-1]["spots"] == []
    spot = keep_tapped(book, session, owner, Tapped(ahead_m=7.5, across_m=0.0, depth_m=4.2, kind="brush", note="cedar"))
    assert (spot.water, spot.kind, spot.depth_m, spot.away_m) == ("scene-pear-tree", "brush", 4.2, pytest.approx(7.5))
    show_spots(engine, session, owner)
    viewer.read(lambda v: v.of("tracks")[-1]["spots"])
    (drawn,) = viewer.of("tracks")[-1]["spots"]
    assert (drawn["id"], drawn["words"], drawn["depth_m"]) == (str(spot.id), "cedar", 4.2)
    # The boat sways by a few degrees meanwhile.
    assert (drawn["ahead_m"], drawn["across_m"]) == pytest.approx((7.5, 0.0), abs=0.8)
    # Turned away it is not there; turned back it is.
    send(session, type="set", values={"aim_deg": 60})
    viewer.read(lambda v: not v.of("tracks")[-1]["spots"])
    send(session, type="set", values={"aim_deg": 0})
    viewer.read(lambda v: v.of("tracks")[-1]["spots"])
    # The next session on this water has it from the start; somebody else's has not.
    again = sessions.open(owner, PEAR_TREE, angler_id=None, anew=True)
    again.attach(viewer.mailbox)
    viewer.read(lambda v: v.of("tracks")[-1]["spots"] and v.of("state")[-1]["session"] == str(again.id))
    assert spots_on(engine, PEAR_TREE, uuid.uuid4()) == ()
    for wrong, why in ((replace(TAPPED, kind="ufo"), "kind is ufo"), (replace(TAPPED, ahead_m=900.0), "ahead_m is 900")):
        with pytest.raises(DomainError, match=why):
            keep_tapped(book, again, owner, wrong)
    playing = sessions.open(owner, RecordingPlan(path=recorded, title="short"), angler_id=None, anew=True)
    with pytest.raises(DomainError, match="does not say where the boat was"):
        keep_tapped(book, playing, owner, TAPPED)


def test_the_minute_behind_a_landed_fish_is_kept_and_played_from_there(sessions, viewer, engine, tmp_path):
    owner, now = uuid.uuid4(), dt.datetime.now(dt.UTC)
    jobs, library = Jobs(), Library(engine, read_settings({"MUDLAMP_RUN_DIR": str(tmp_path)}), now=lambda: dt.datetime.now(dt.UTC))
    sessions.landed = FishMinutes(engine, jobs, library).landed
    session = sessions.open(owner, PEAR_TREE, angler_id=None)
    session.attach(viewer.mailbox)
    viewer.read(lambda v: len(v.frames) > 15)
    landed = shot_record(session.id, end_s=0.5, outcome="landed", source="simulated")

    def told(shot):
        shot = replace(shot, id=uuid.uuid4())
        # It comes again as it ends, and is one fish still.
        session._take_record(shot)
        session._take_record(replace(shot, end_s=0.6))
        until(lambda: all(one.over for one in jobs._all.values()))
        return library.all(owner)

    # Without a trip under way nothing is kept; nor of the demo's fish.
    assert told(landed) == []
    trip = TripRecord(id=uuid.uuid4(), source="simulated", title="t", water="w", day=now, notes="", owner=owner, started_at=now)
    trip_store.put_trip(engine, trip)
    assert told(replace(landed, source="demo")) == []
    (kept,) = told(landed)
    assert (kept.session_id, kept.name) == (session.id, "shot 1, landed")
    found = recordings_of(engine, owner, [session.id], now=now)
    assert found == [kept]
    middle = kept.begins_s + 0.5 * kept.seconds
    assert replay(found, session.id, middle) == f"/?recording={kept.id}&at={max(0.5 * kept.seconds - BEFORE_S, 0.0):.0f}"
    assert replay(found, session.id, kept.begins_s + kept.seconds + 1.0) == replay(found, uuid.uuid4(), middle) == ""
    # Played from its middle on, its first ping is that of its middle.
    reader = library.open(kept)
    plan = Waters(library, script_rest_s=1.0).recording(owner, kept.id, from_s=0.5 * kept.seconds)
    water = plan.make(1)
    first = [number for number in range(len(reader)) if reader.time_s(number) - reader.time_s(0) <= 0.5 * kept.seconds + 1e-9][-1]
    assert np.array_equal(water.listen(0.0).echo_level_db, reader.ping(first).echo_level_db)
    water.close()
    reader.close()
    # Where there is little room a fish's minute is not what takes it.
    library._settings = library._settings.model_copy(update={"quota_bytes": int(1.9 * kept.size_bytes)})
    assert told(landed) == [kept]
    jobs.end_all()


def test_the_minute_keeps_levels_to_a_quarter_decibel_and_only_the_newest(pear_tree):
    head, minute = SimulatedHead(pear_tree, seed=3), Minute(most=5)
    pings = [head.listen(number / 15.0) for number in range(8)]
    for ping in pings:
        minute.keep(ping, f"beside {ping.number}")
    assert len(minute) == 5
    assert [minute.ping(at).number for at in range(5)] == [3, 4, 5, 6, 7]
    assert minute.beside(0) == "beside 3"
    # Where a moment stands on the tape.
    assert [minute.share_of(number / 15.0) for number in (2, 3, 5, 7, 8)] == [None, 0.0, pytest.approx(0.5), pytest.approx(1.0), None]
    inside = (pings[5].echo_level_db > -149.0) & (pings[5].echo_level_db < -24.0)
    np.testing.assert_allclose(minute.ping(2).echo_level_db[inside], pings[5].echo_level_db[inside], atol=0.26)
    copy = minute.stretch()
    minute.keep(head.listen(1.0), "")
    assert [ping.number for ping in copy] == [3, 4, 5, 6, 7]
    head.set_acquisition(replace(head.acquisition, reach_m=9.0))
    minute.keep(head.listen(1.1), "")
    assert len(minute.stretch()) == 1


def test_without_a_viewer_the_water_stands_still(sessions, viewer):
    session = sessions.open(uuid.uuid4(), PEAR_TREE, angler_id=None, seed=1)
    session.attach(viewer.mailbox)
    viewer.read(lambda v: len(v.frames) >= 3)
    session.detach(viewer.mailbox)
    time.sleep(0.6)
    before = session.picture().ping.number
    time.sleep(0.5)
    assert session.picture().ping.number == before


class Listening:
    """A listener that keeps what it is given."""

    def __init__(self):
        self.dropped, self.heard = 0, []

    def put_text(self, message):
        self.heard.append(message)

    def put_latest(self, kind, message):
        self.heard.append((kind, message))

    def put_frame(self, data, side=0):
        self.heard.append((side, data))


def test_a_slow_processor_shows_late_and_who_left_hears_no_more():
    audience, one, two = Audience(), Listening(), Listening()
    for listener in (one, two, two):
        audience.join(listener)
    assert len(audience) == 2
    audience.show([b"first"], lag_s=0.1)
    assert one.heard == []
    time.sleep(0.15)
    audience.leave(two)
    audience.show([b"second", b"twin"], lag_s=0.0)
    assert one.heard == [(0, b"first"), (0, b"second"), (1, b"twin")]
    assert two.heard == []


def test_an_answer_that_came_too_late_is_not_taken_for_the_next(sessions):
    session = sessions.open(uuid.uuid4(), PEAR_TREE, angler_id=None, seed=1)
    session._answered(77, "what an earlier question was answered too late")
    assert session.picture() is None


def test_those_who_ask_the_same_share_an_answer_and_too_many_are_turned_away(sessions):
    session = sessions.open(uuid.uuid4(), PEAR_TREE, angler_id=None, seed=1)
    os.kill(session._process.pid, signal.SIGSTOP)
    heard = queue.SimpleQueue()

    def ask():
        try:
            heard.put(session.picture())
        except UnavailableError as error:
            heard.put(str(error))

    askers = [threading.Thread(target=ask) for _ in range(12)]
    for one in askers:
        one.start()
    refused = [heard.get(timeout=PATIENCE_S) for _ in range(4)]
    assert all("8 requests are waiting" in one for one in refused)
    assert len(session._asked) == 1
    os.kill(session._process.pid, signal.SIGCONT)
    for one in askers:
        one.join(PATIENCE_S)
    assert heard.qsize() == 8


def test_a_refused_command_is_followed_by_how_things_stand(sessions, viewer):
    session = sessions.open(uuid.uuid4(), PEAR_TREE, angler_id=None, seed=1)
    session.attach(viewer.mailbox)
    send(session, type="twin", do="on")
    send(session, type="auto", side="b", control="down_to_ft", on=True)
    viewer.read(lambda v: v.of("refused"))
    viewer.read(
        lambda v: v.texts and v.texts.index(v.of("refused")[0]) < len(v.texts) - 1 - [m["type"] for m in v.texts][::-1].index("state")
    )
    assert "auto Down to is shared by both pictures" in viewer.of("refused")[0]["message"]
    assert viewer.of("state")[-1]["panes"][1]["auto"] == []


def test_a_session_whose_process_dies_says_so_and_is_marked_interrupted(sessions, viewer, engine):
    device = uuid.uuid4()
    session = sessions.open(device, PEAR_TREE, angler_id=None, seed=1)
    session.attach(viewer.mailbox)
    viewer.read(lambda v: len(v.frames) >= 3)
    session._process.kill()
    viewer.read(lambda v: v.of("ended"))
    assert viewer.of("ended")[-1]["state"] == "interrupted"
    session._thread.join(5)
    assert store.session_detail(engine, EVERYBODY, session.id, with_demo=False).summary.state == "interrupted"
    with pytest.raises(UnavailableError, match="the session has ended"):
        session.last_minute()
    # The browser gets a new one.
    assert sessions.open(device, PEAR_TREE, angler_id=None, seed=1).id != session.id


def test_a_water_that_cannot_be_made_is_refused_and_the_running_one_stays(sessions, tmp_path):
    device = uuid.uuid4()
    session = sessions.open(device, PEAR_TREE, angler_id=None, seed=1)
    with pytest.raises(RecordingError, match=r"gone\.nc"):
        sessions.open(device, RecordingPlan(path=tmp_path / "gone.nc", title="gone"), angler_id=None, anew=True)
    assert sessions.of_device(device) is session


def test_a_slow_viewer_loses_frames_and_blocks_nobody():
    viewer = Viewer()
    for number in range(10):
        viewer.mailbox.put_frame(bytes([number]))
    viewer.mailbox.put_text("a", '{"type": "a"}')
    viewer.read(lambda v: bool(v.frames))
    assert viewer.frames == [b"\x09"]
    assert viewer.mailbox.dropped == 9
    assert viewer.texts == [{"type": "a"}]
    viewer.close()


def test_settings_out_of_range_are_named():
    with pytest.raises(DomainError, match="MUDLAMP_SESSIONS is '99': it must be a whole number, 1 to 32"):
        read_settings({"MUDLAMP_SESSIONS": "99"})
    assert read_settings({}).ping_hz == 20.0


def test_whatever_breaks_in_the_listening_thread_ends_the_session_and_nobody_waits_for_it(sessions, viewer, engine, monkeypatch):
    session = sessions.open(uuid.uuid4(), PEAR_TREE, angler_id=None, seed=1)
    session.attach(viewer.mailbox)
    viewer.read(lambda v: len(v.frames) >= 2)

    def broken(message):
        raise ArithmeticError("not foreseen")

    monkeypatch.setattr(session, "_take", broken)
    viewer.read(lambda v: v.of("ended"))
    session._thread.join(10)
    assert session.ended
    session._process.join(10)
    assert not session._process.is_alive()
    with pytest.raises(UnavailableError, match="the session has ended"):
        session.picture()
    assert store.session_detail(engine, EVERYBODY, session.id, with_demo=False).summary.state == "interrupted"


def test_a_session_stopped_before_its_first_ping_leaves_no_row_running(sessions, engine):
    session = sessions.open(uuid.uuid4(), PEAR_TREE, angler_id=None, seed=1)
    sessions.end(session.id)
    assert store.session_detail(engine, EVERYBODY, session.id, with_demo=False).summary.state in ("ended", "interrupted")
