import datetime as dt
import os
import signal
import time
import urllib.error
import urllib.request
import uuid
from pathlib import Path

import orjson
import pytest
from websockets.exceptions import ConnectionClosed, InvalidStatus
from websockets.sync.client import connect as connect_socket

from launcher import cluster
from mudlamp.core.errors import UnavailableError
from mudlamp.core.records.log import TrackRecord
from mudlamp.services.live.writer import Writer
from mudlamp.store import log as store
from mudlamp.store.database import connect, ensure_database, migrate
from mudlamp.store.scope import EVERYBODY
from tests.patience import PATIENCE_S, until
from tests.services.live.test_writer import session_record, shot_record


def parent_of(pid):
    return int(Path(f"/proc/{pid}/stat").read_text().rsplit(")", 1)[1].split()[1])


def descendants(pid):
    found = {pid}
    everyone = sorted(int(path.name) for path in Path("/proc").iterdir() if path.name.isdigit())
    for one in everyone:
        try:
            if parent_of(one) in found:
                found.add(one)
        except (FileNotFoundError, ProcessLookupError):
            continue
    return found - {pid}


def is_alive(pid):
    try:
        return Path(f"/proc/{pid}/stat").read_text().rsplit(")", 1)[1].split()[0] != "Z"
    except (FileNotFoundError, ProcessLookupError):
        return False


def kill_postmaster(private):
    os.kill(cluster._postmaster_pid(private), signal.SIGKILL)


@pytest.fixture
def engine(private):
    ensure_database(private.url("killed"))
    found = connect(private.url("killed"))
    migrate(found)
    yield found
    found.dispose()


def test_every_acknowledged_write_outlives_a_killed_database(private, engine):
    session = session_record()
    store.put(engine, [session])
    acknowledged = []
    number, killed = 0, False
    while True:
        number += 1
        try:
            store.put(engine, [shot_record(session.id, number)])
        except UnavailableError:
            break
        acknowledged.append(number)
        if number > 60 and not killed:
            kill_postmaster(private)
            killed = True
    assert cluster.ensure_running(private)
    engine.dispose()
    there = [shot.number for shot in store.session_detail(engine, EVERYBODY, session.id, with_demo=False).shots]
    assert len(acknowledged) > 60
    assert there[: len(acknowledged)] == acknowledged


def test_the_writer_waits_for_the_database_and_loses_nothing(private, engine, tmp_path):
    session = session_record()
    writer = Writer(engine, session.id, folder=tmp_path)
    writer.put(session)
    for number in range(1, 21):
        writer.put(shot_record(session.id, number))
        if number == 8:
            kill_postmaster(private)
        time.sleep(0.02)
    until(lambda: writer.away)
    assert writer.waiting >= 12
    cluster.ensure_running(private)
    writer.close(timeout_s=PATIENCE_S)
    assert writer.waiting == 0
    assert [shot.number for shot in store.session_detail(engine, EVERYBODY, session.id, with_demo=False).shots] == list(range(1, 21))


def test_a_row_that_the_database_refuses_holds_nobody_else_up(engine, tmp_path):
    session = session_record()
    writer = Writer(engine, session.id, folder=tmp_path)
    writer.put(session)
    for number in range(1, 7):
        writer.put(shot_record(session.id, number, source="hearsay" if number == 3 else "simulated"))
    writer.close(timeout_s=PATIENCE_S)
    assert (writer.refused, writer.waiting) == (1, 0)
    assert [shot.number for shot in store.session_detail(engine, EVERYBODY, session.id, with_demo=False).shots] == [1, 2, 4, 5, 6]


def track_record(number):
    return TrackRecord(
        id=uuid.uuid4(),
        session_id=uuid.uuid4(),
        source="simulated",
        number=number,
        first_s=0.0,
        last_s=1.0,
        kind="fish",
        odds={},
        length_m=0.3,
        said=None,
        path=[],
    )


def test_too_many_tracks_drop_the_oldest_and_count_them(tmp_path):
    class NoEngine:
        """Stands for a database that never answers."""

        def __getattr__(self, name):
            raise UnavailableError("away")

    writer = Writer(NoEngine(), uuid.uuid4(), folder=tmp_path)
    for number in range(450):
        writer.put(track_record(number))
    assert writer.dropped == 50
    assert writer.waiting == 400
    writer.close(timeout_s=0.2)


def test_a_page_without_its_database_says_so_and_comes_back(private, served):
    kill_postmaster(private)
    time.sleep(0.3)
    with pytest.raises(urllib.error.HTTPError) as caught:
        urllib.request.urlopen(f"{served.address}/log", timeout=PATIENCE_S)
    with caught.value as error:
        body = error.read().decode()
    assert caught.value.code == 503
    assert "Not available right now" in body
    assert "Traceback" not in body
    with urllib.request.urlopen(f"{served.address}/", timeout=PATIENCE_S) as lamp:
        assert lamp.status == 200
    cluster.ensure_running(private)
    served.await_database()
    with urllib.request.urlopen(f"{served.address}/log", timeout=PATIENCE_S) as log:
        assert log.status == 200


def open_session(served):
    request = urllib.request.Request(f"{served.address}/api/v1/sessions", data=b"{}", method="POST")
    request.add_header("Content-Type", "application/json")
    request.add_header("Origin", served.address)
    with urllib.request.urlopen(request, timeout=PATIENCE_S) as answer:
        cookie = answer.headers["set-cookie"].split(";")[0]
        return orjson.loads(answer.read())["session"], cookie


def socket_to(served, session, cookie, origin=None):
    return connect_socket(
        f"ws://127.0.0.1:{served.port}/api/v1/live/{session}",
        origin=origin or served.address,
        additional_headers={"Cookie": cookie},
        max_size=None,
        compression=None,
    )


def next_text(socket, kind, seconds=PATIENCE_S):
    """The next message of a kind."""
    deadline = time.monotonic() + seconds
    while time.monotonic() < deadline:
        message = socket.recv(timeout=seconds)
        if isinstance(message, str) and orjson.loads(message)["type"] == kind:
            return orjson.loads(message)
    raise AssertionError(f"no {kind} came")


def test_a_dropped_socket_finds_its_session_as_it_was(served):
    session, cookie = open_session(served)
    with socket_to(served, session, cookie) as socket:
        socket.send(orjson.dumps({"type": "set", "seq": 1, "values": {"gain": 71}}).decode())
        while next_text(socket, "state")["panes"][0]["controls"]["gain"] != 71:
            pass
        socket.socket.shutdown(2)
    with socket_to(served, session, cookie) as socket:
        assert next_text(socket, "state")["panes"][0]["controls"]["gain"] == 71


def test_sockets_of_strangers_are_refused_and_onlookers_do_not_steer(served):
    session, cookie = open_session(served)
    with pytest.raises(InvalidStatus):
        socket_to(served, session, cookie, origin="http://evil.example")
    with socket_to(served, session, "lamp_device=" + str(uuid.uuid4())) as onlooker:
        onlooker.send('{"type": "set", "values": {"gain": 10}}')
        assert "you can watch" in next_text(onlooker, "refused")["message"]
    with socket_to(served, session, cookie) as own:
        own.send("{ not json")
        assert "not understood" in next_text(own, "refused")["message"]


def test_a_killed_application_leaves_its_session_marked_interrupted(private, served, tmp_path):
    from tests.faults.conftest import Served

    session, cookie = open_session(served)
    with socket_to(served, session, cookie) as socket:
        socket.send('{"type": "throw", "ahead_m": 8}')
        while next_text(socket, "tracks")["lure"] != "sinking":
            pass
        time.sleep(0.6)
        below = descendants(served.process.pid)
        served.process.kill()
        served.process.wait()
    # The sessions' own processes go with it.
    assert len(below) >= 2
    until(lambda: not any(is_alive(pid) for pid in below), below)
    again = Served(private.url("mudlamp"), tmp_path)
    try:
        engine = connect(private.url("mudlamp"))
        detail = store.session_detail(engine, EVERYBODY, uuid.UUID(session), with_demo=False)
        engine.dispose()
        assert detail.summary.state == "interrupted"
        assert detail.summary.ended_at <= dt.datetime.now(dt.UTC)
        assert [shot.source for shot in detail.shots] == ["simulated"]
    finally:
        again.stop()


def test_a_card_asked_while_the_database_is_away_is_refused_kindly_and_asked_again_it_is_there(private, served):
    def ask():
        form = b"technique=pitch&depth_ft=20&clarity=stained&style=balanced"
        headers = {"Origin": served.address, "HX-Request": "true", "Content-Type": "application/x-www-form-urlencoded"}
        request = urllib.request.Request(f"{served.address}/tune", data=form, headers=headers, method="POST")
        with urllib.request.urlopen(request, timeout=PATIENCE_S) as answer:
            return answer.headers["HX-Redirect"], answer.headers["Set-Cookie"].partition(";")[0]

    kept, cookie = ask()
    kill_postmaster(private)
    with pytest.raises(urllib.error.HTTPError) as refused:
        ask()
    assert refused.value.code == 503
    with refused.value as error:
        said = error.read().decode()
    assert "nothing was saved" in said
    assert "Traceback" not in said
    cluster.ensure_running(private)
    served.await_database()
    # What was acknowledged before is there, once.
    request = urllib.request.Request(served.address + kept, headers={"Cookie": cookie})
    with urllib.request.urlopen(request, timeout=PATIENCE_S) as answer:
        assert "card-row" in answer.read().decode()
    ask()


def post_json(served, path, body, cookie):
    request = urllib.request.Request(f"{served.address}{path}", data=orjson.dumps(body), method="POST")
    for name, value in {"Content-Type": "application/json", "Origin": served.address, "Cookie": cookie}.items():
        request.add_header(name, value)
    with urllib.request.urlopen(request, timeout=PATIENCE_S) as answer:
        return orjson.loads(answer.read())


def session_process(served, session):
    """The process of a session: the one that named itself after it."""
    return next(
        pid for pid in descendants(served.process.pid) if b"forkserver" in Path(f"/proc/{pid}/cmdline").read_bytes() and is_leaf(pid)
    )


def is_leaf(pid):
    return not descendants(pid)


def code_at_end(socket):
    """Read until the other end closes; return the code it closes with."""
    try:
        while True:
            socket.recv(timeout=PATIENCE_S)
    except ConnectionClosed as closed:
        return closed.rcvd.code


@pytest.mark.parametrize("number", [signal.SIGKILL, signal.SIGSTOP])
def test_a_session_whose_process_dies_or_hangs_is_closed_and_made_again_as_it_was(served, number):
    session, cookie = open_session(served)
    with socket_to(served, session, cookie) as socket:
        socket.send(orjson.dumps({"type": "set", "seq": 1, "values": {"gain": 71, "reach_ft": 30}}).decode())
        while next_text(socket, "state")["panes"][0]["controls"]["gain"] != 71:
            pass
        time.sleep(1.5)
        os.kill(session_process(served, session), number)
        assert code_at_end(socket) == 4410
    again = post_json(served, "/api/v1/sessions", {"again": session}, cookie)["session"]
    assert again != session
    with socket_to(served, again, cookie) as socket:
        while (state := next_text(socket, "state"))["panes"][0]["controls"]["gain"] != 71:
            pass
        assert state["window"]["reach_m"] == pytest.approx(30 * 0.3048)
    # Asked again, the one that runs is found.
    assert post_json(served, "/api/v1/sessions", {"again": again}, cookie)["session"] == again
