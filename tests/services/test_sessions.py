import asyncio
import datetime as dt
import threading
import time
import uuid

import orjson
import pytest

from mudlamp.core.errors import DomainError, UnavailableError
from mudlamp.services.controls import apply_acquisition, apply_receiver, edge_values
from mudlamp.services.frames import HEADER, MAGIC, Mailbox
from mudlamp.services.sessions import Sessions
from mudlamp.services.settings import read_settings
from mudlamp.services.warm import warm_up
from mudlamp.store import log as store


class Viewer:
    """A mailbox with an event loop of its own, read from the test."""

    def __init__(self):
        self.loop = asyncio.new_event_loop()
        self.thread = threading.Thread(target=self.loop.run_forever, daemon=True)
        self.thread.start()
        self.mailbox = Mailbox(self.loop)
        self.texts, self.frames = [], []

    def read(self, until, seconds=20.0):
        deadline = time.monotonic() + seconds
        while time.monotonic() < deadline:
            texts, frame = asyncio.run_coroutine_threadsafe(self.mailbox.fetch(), self.loop).result(seconds)
            self.texts += [orjson.loads(text) for text in texts]
            if frame is not None:
                self.frames.append(frame)
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
def sessions(engine):
    found = Sessions(engine, read_settings({"MUDLAMP_SESSIONS": "2"}), now=lambda: dt.datetime.now(dt.UTC))
    yield found
    found.end_all()


@pytest.fixture
def viewer():
    found = Viewer()
    yield found
    found.close()


def test_a_session_shows_pictures_and_answers_its_controls(sessions, viewer):
    session = sessions.open(uuid.uuid4(), "pear-tree", angler_id=None, seed=1)
    session.attach(viewer.mailbox)
    viewer.read(lambda v: len(v.frames) >= 3)
    magic, key, number, revision, _, beams, bins, _ = HEADER.unpack_from(viewer.frames[-1])
    assert (magic, key, beams, bins, revision) == (MAGIC, session.id.bytes, 192, 700, 0)
    assert len(viewer.frames[-1]) == HEADER.size + 192 * 700
    session.command({"type": "set", "seq": 7, "values": {"gain": 20, "reach_ft": 30}})
    viewer.read(lambda v: any(7 in state["acknowledged"] for state in v.of("state")))
    state = viewer.of("state")[-1]
    assert (state["controls"]["gain"], state["controls"]["reach_ft"], state["revision"]) == (20, 30, 1)
    viewer.read(lambda v: HEADER.unpack_from(v.frames[-1])[3] == 1)
    assert HEADER.unpack_from(viewer.frames[-1])[2] > number
    dim = sum(viewer.frames[-1][HEADER.size :])
    session.command({"type": "set", "seq": 8, "values": {"gain": 90}})
    viewer.read(lambda v: HEADER.unpack_from(v.frames[-1])[3] == 2)
    assert sum(viewer.frames[-1][HEADER.size :]) > dim


def test_a_bad_control_is_refused_by_name_and_changes_nothing(sessions, viewer):
    session = sessions.open(uuid.uuid4(), "pear-tree", angler_id=None, seed=1)
    session.attach(viewer.mailbox)
    for message in (
        {"type": "set", "values": {"gain": 500}},
        {"type": "set", "values": [1]},
        {"type": "dance"},
        {"type": "throw", "ahead_m": "x"},
    ):
        session.command(message)
    viewer.read(lambda v: len(v.of("refused")) >= 4)
    said = [message["message"] for message in viewer.of("refused")]
    assert "gain is 500: it must be 0 to 100" in said
    assert any("command is dance" in line for line in said)
    assert any("ahead_m is x" in line for line in said)
    viewer.read(lambda v: len(v.frames) >= 2)
    assert viewer.of("state")[-1]["controls"]["gain"] == 65


def test_a_throw_takes_the_rod_from_the_script_and_is_logged(sessions, viewer, engine):
    session = sessions.open(uuid.uuid4(), "pear-tree", angler_id=None, seed=1)
    session.attach(viewer.mailbox)
    viewer.read(lambda v: bool(v.of("state")))
    assert viewer.of("state")[0]["scripted"]
    session.command({"type": "throw", "ahead_m": 8.0, "across_m": 0.5})
    viewer.read(lambda v: any(message["lure"] == "sinking" for message in v.of("tracks")))
    assert not viewer.of("state")[-1]["scripted"]
    session.command({"type": "reel", "on": True})
    viewer.read(lambda v: v.of("tracks")[-1]["lure"] == "tight")
    sessions.end(session.id)
    detail = store.session_detail(engine, session.id, with_demo=False)
    assert detail.summary.state == "ended"
    (shot,) = [shot for shot in detail.shots if shot.source == "simulated"]
    assert shot.ahead_m == pytest.approx(8.0, abs=0.4)
    assert detail.setups[0].values["gain"] == 65


def test_a_browser_finds_its_session_again_and_a_full_house_says_so(sessions):
    device = uuid.uuid4()
    session = sessions.open(device, "pear-tree", angler_id=None)
    assert sessions.open(device, "pear-tree", angler_id=None) is session
    sessions.open(uuid.uuid4(), "pear-tree", angler_id=None)
    with pytest.raises(UnavailableError, match="2 sessions are running, and 2 is the most at once"):
        sessions.open(uuid.uuid4(), "pear-tree", angler_id=None)
    sessions.end(session.id)
    assert sessions.find(session.id) is None


def test_without_a_viewer_the_water_stands_still(sessions, viewer):
    session = sessions.open(uuid.uuid4(), "pear-tree", angler_id=None, seed=1)
    session.attach(viewer.mailbox)
    viewer.read(lambda v: len(v.frames) >= 3)
    session.detach(viewer.mailbox)
    time.sleep(0.3)
    before = session._time_s
    time.sleep(0.5)
    assert session._time_s == before


def test_a_slow_viewer_loses_frames_and_blocks_nobody():
    viewer = Viewer()
    for number in range(10):
        viewer.mailbox.put_frame(bytes([number]))
    viewer.mailbox.put_text('{"type": "a"}')
    viewer.read(lambda v: bool(v.frames))
    assert viewer.frames == [b"\x09"]
    assert viewer.mailbox.dropped == 9
    assert viewer.texts == [{"type": "a"}]
    viewer.close()


def test_controls_turn_edge_units_into_the_cores_and_back(pear_tree):
    from mudlamp.core.receiver.setup import ReceiverSetup
    from mudlamp.core.scene.world import first_acquisition

    acquisition = apply_acquisition(first_acquisition(pear_tree), {"reach_ft": "30", "fan": "flat"}, pear_tree)
    assert acquisition.reach_m == pytest.approx(9.144)
    values = edge_values(acquisition, apply_receiver(ReceiverSetup(), {"quieting_pings": "3", "ink": "chalk"}))
    assert (values["reach_ft"], values["fan"], values["tilt_deg"], values["quieting_pings"], values["ink"]) == (
        30.0,
        "flat",
        80.0,
        3,
        "chalk",
    )
    with pytest.raises(DomainError, match="shine is not a control of the receiver"):
        apply_receiver(ReceiverSetup(), {"shine": 1})


def test_settings_out_of_range_are_named():
    with pytest.raises(DomainError, match="MUDLAMP_SESSIONS is 99: it must be 1 to 32"):
        read_settings({"MUDLAMP_SESSIONS": "99"})
    assert read_settings({}).ping_hz == 20.0
