"""A database that freezes, a disk that fills, processes killed while rows are owed: nothing acknowledged or owed is lost."""

import contextlib
import gc
import os
import signal
import threading
import time
import urllib.error
import urllib.request
import uuid
from pathlib import Path

import pytest

from launcher import cluster
from mudlamp.core.errors import UnavailableError
from mudlamp.services.live import writer as writer_module
from mudlamp.services.live.owed import Owed, settle_all
from mudlamp.services.live.writer import Writer
from mudlamp.store import log as store
from mudlamp.store.database import connect, ensure_database, is_up, migrate
from mudlamp.store.pulse import Pulse, why_full
from mudlamp.store.scope import EVERYBODY
from tests.faults.conftest import Served
from tests.faults.test_faults import descendants, kill_postmaster, next_text, open_session, socket_to
from tests.patience import PATIENCE_S, until
from tests.services.live.test_writer import session_record, shot_record

# A connection that is cut while it is being made is nobody's to close: what is left of it is collected here.
pytestmark = pytest.mark.filterwarnings("ignore::pytest.PytestUnraisableExceptionWarning")


@pytest.fixture
def engine(private):
    ensure_database(private.url("frozen"))
    found = connect(private.url("frozen"))
    migrate(found)
    yield found
    found.dispose()
    gc.collect()


@contextlib.contextmanager
def frozen(private):
    """Stop every process of a cluster, as a machine that swaps does, and let them go on."""
    postmaster = cluster._postmaster_pid(private)
    everyone = [postmaster, *descendants(postmaster)]
    for pid in everyone:
        with contextlib.suppress(ProcessLookupError):
            os.kill(pid, signal.SIGSTOP)
    try:
        yield
    finally:
        for pid in [*everyone, *descendants(postmaster)]:
            with contextlib.suppress(ProcessLookupError):
                os.kill(pid, signal.SIGCONT)


def shots_in(engine, session):
    return [shot.number for shot in store.session_detail(engine, EVERYBODY, session.id, with_demo=False).shots]


def test_who_waits_for_a_frozen_database_is_let_go_and_who_comes_is_told_at_once(private, engine, tmp_path):
    pulse = Pulse(engine, folder=tmp_path, least_free_bytes=0)
    session = session_record()
    store.put(engine, [session])
    waited = []

    def wait():
        begun = time.monotonic()
        with pytest.raises(UnavailableError):
            store.put(engine, [shot_record(session.id, 1)])
        waited.append(time.monotonic() - begun)

    with frozen(private):
        waiting = [threading.Thread(target=wait) for _ in range(15)]
        for one in waiting:
            one.start()
        for one in waiting:
            one.join(PATIENCE_S)
        assert len(waited) == 15
        assert not is_up(engine)
        wait()
        # The others waited for what the database is given to answer.
        assert waited[-1] < 0.5 * min(waited[:-1])
    until(lambda: is_up(engine))
    store.put(engine, [shot_record(session.id, 2)])
    assert shots_in(engine, session) == [2]
    pulse.stop()


def test_rows_wait_for_a_frozen_database_and_none_is_thrown_away(private, engine, tmp_path, monkeypatch):
    monkeypatch.setattr(writer_module, "MOST_IN_MEMORY", 6)
    pulse = Pulse(engine, folder=tmp_path, least_free_bytes=0)
    session = session_record()
    writer = Writer(engine, session.id, folder=tmp_path / "owed")
    writer.put(session)
    until(lambda: writer.waiting == 0)
    with frozen(private):
        for number in range(1, 21):
            writer.put(shot_record(session.id, number))
            time.sleep(0.3)
        assert writer.away
        assert writer.waiting == 20
    writer.close(timeout_s=PATIENCE_S)
    assert (writer.refused, writer.waiting) == (0, 0)
    assert shots_in(engine, session) == list(range(1, 21))
    until(lambda: not list((tmp_path / "owed").iterdir()))
    pulse.stop()


def test_pages_of_a_frozen_database_say_503_and_small_things_still_come(private, served):
    with frozen(private):
        answers = []

        def ask():
            try:
                with urllib.request.urlopen(f"{served.address}/log", timeout=PATIENCE_S) as answer:
                    answers.append(answer.status)
            except urllib.error.HTTPError as error:
                answers.append(error.code)
                error.close()

        asking = [threading.Thread(target=ask) for _ in range(30)]
        for one in asking:
            one.start()
        time.sleep(0.5)
        with urllib.request.urlopen(f"{served.address}/healthz", timeout=PATIENCE_S) as answer:
            assert answer.status == 200
        for one in asking:
            one.join(PATIENCE_S)
        assert answers == [503] * 30
        until(lambda: b'"database":false' in served.health())
    served.await_database()


def test_what_a_killed_application_still_owed_is_there_when_it_starts_again(private, served, tmp_path):
    session, cookie = open_session(served)
    with socket_to(served, session, cookie) as socket:
        next_text(socket, "state")
        kill_postmaster(private)
        socket.send('{"type": "set", "seq": 1, "values": {"gain": 33}}')
        while not any(b'"gain":33' in path.read_bytes() for path in (tmp_path / "owed").glob("*.jsonl")):
            assert socket.recv(timeout=PATIENCE_S)
        served.process.kill()
        served.process.wait()
    cluster.ensure_running(private)
    again = Served(private.url("mudlamp"), tmp_path)
    try:
        engine = connect(private.url("mudlamp"))
        detail = store.session_detail(engine, EVERYBODY, uuid.UUID(session), with_demo=False)
        engine.dispose()
        assert detail.setups[-1].values["gain"] == 33
        assert detail.summary.state == "interrupted"
        assert list((tmp_path / "owed").iterdir()) == []
    finally:
        again.stop()


def test_a_note_that_was_cut_off_loses_no_other(engine, tmp_path):
    session = session_record()
    owed = Owed(tmp_path / f"{session.id}.jsonl")
    owed.note(session)
    owed.note(shot_record(session.id, 1))
    with Path(owed._path).open("ab") as file:
        file.write(b'{"kind": "ShotRecord", "row": {"id"')
    assert settle_all(engine, tmp_path) == 2
    assert shots_in(engine, session) == [1]
    assert list(tmp_path.iterdir()) == []


def test_a_full_disk_refuses_writes_in_a_line_and_still_reads_and_deletes(engine, tmp_path):
    session = session_record()
    store.put(engine, [session])
    pulse = Pulse(engine, folder=tmp_path, least_free_bytes=10**15)
    until(lambda: why_full(engine) is not None)
    with pytest.raises(UnavailableError, match="MB are kept for the database: nothing was saved"):
        store.put(engine, [shot_record(session.id, 1)])
    assert shots_in(engine, session) == []
    store.trim_demo(engine)
    pulse.stop()


def test_no_text_is_one_that_the_database_cannot_take(engine):
    session = session_record()
    odd = type(session)(**{name: getattr(session, name) for name in session.__slots__} | {"title": "a\x00b\ud800c"})
    store.put(engine, [odd])
    assert store.session_detail(engine, EVERYBODY, session.id, with_demo=False).summary.title == "ab\ufffdc"
