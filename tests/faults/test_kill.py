"""kill -9 of the application, then of the database, in the middle of a thousand writes: every acknowledged write is there once."""

import http.client
import os
import signal
import threading
import time
import uuid

import numpy as np
import orjson
from sqlalchemy import text

from launcher import cluster
from mudlamp.store.database import connect
from tests.faults.conftest import Served
from tests.faults.test_faults import kill_postmaster
from tests.patience import PATIENCE_S, until

WRITES, WRITERS = 1000, 4
HEADERS = {"Content-Type": "application/json"}


class Writing:
    """Threads that each send their share of acts in the boat, again until each is acknowledged, as a phone does."""

    def __init__(self, served, cookie):
        self.served, self.cookie = served, cookie
        self.acknowledged, self.sent = [], 0
        self.lock = threading.Lock()
        self.threads = [threading.Thread(target=self._write, args=(i,)) for i in range(WRITERS)]

    def _write(self, i):
        for number in range(WRITES // WRITERS):
            key = str(uuid.uuid5(uuid.UUID(int=7), f"{i}:{number}"))
            entry = {
                "id": key,
                "number": number + 1,
                "at": "2026-11-01T12:00:00Z",
                "kind": "outcome",
                "values": {"token": "looked", "lure": f"{i}:{number}"},
            }
            body = orjson.dumps({"sent_at": "2026-11-01T12:00:00Z", "entries": [entry]})
            while True:
                with self.lock:
                    self.sent += 1
                if self._post(body):
                    break
                time.sleep(0.1)
            with self.lock:
                self.acknowledged.append(key)

    def _post(self, body):
        line = http.client.HTTPConnection("127.0.0.1", self.served.port, timeout=PATIENCE_S)
        try:
            line.request("POST", "/api/v1/boat/entries", body, HEADERS | {"Origin": self.served.address, "Cookie": self.cookie})
            answer = line.getresponse()
            data = answer.read()
            return answer.status == 200 and len(orjson.loads(data)["kept"]) == 1
        except (OSError, http.client.HTTPException, ValueError):
            return False
        finally:
            line.close()

    def written(self, count):
        until(lambda: len(self.acknowledged) >= count, lambda: len(self.acknowledged), every_s=0.01)


def test_every_acknowledged_write_is_there_once(private, tmp_path):
    served = Served(private.url("kill"), tmp_path)
    line = http.client.HTTPConnection("127.0.0.1", served.port, timeout=PATIENCE_S)
    line.request("GET", "/log")
    answer = line.getresponse()
    answer.read()
    cookie = "; ".join(value.partition(";")[0] for name, value in answer.getheaders() if name.lower() == "set-cookie")
    line.close()
    writing = Writing(served, cookie)
    when = np.random.default_rng(7)
    for thread in writing.threads:
        thread.start()
    # The application first, while it writes; another takes its place on the same port.
    writing.written(int(when.integers(150, 300)))
    os.kill(served.process.pid, signal.SIGKILL)
    served.process.wait()
    served.log.close()
    early = set(writing.acknowledged)
    again = Served(private.url("kill"), tmp_path)
    writing.served = again
    # Then the database.
    writing.written(int(when.integers(500, 700)))
    kill_postmaster(private)
    time.sleep(0.3)
    late = set(writing.acknowledged)
    cluster.ensure_running(private)
    for thread in writing.threads:
        thread.join(timeout=PATIENCE_S)
        assert not thread.is_alive()
    engine = connect(private.url("kill"))
    with engine.connect() as connection:
        rows = connection.execute(text("select given, count(*) from boat_entry group by given")).all()
    engine.dispose()
    there = {str(key): count for key, count in rows}
    assert set(there.values()) == {1}
    assert early <= late <= set(writing.acknowledged) == set(there)
    assert len(there) == WRITES
    # Some were sent more than once: the test shows nothing where nothing broke.
    assert writing.sent > WRITES
    again.stop()
