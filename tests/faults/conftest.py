"""A cluster of its own for tests that kill it, and a served application on a real port."""

import contextlib
import http.client
import os
import secrets
import socket
import subprocess
import sys
from pathlib import Path

import pytest

from launcher import cluster
from tests.patience import PATIENCE_S, until

ROOT = Path(__file__).resolve().parents[2]


@pytest.fixture
def private(tmp_path_factory):
    """A PostgreSQL cluster that may be killed."""
    folder = tmp_path_factory.mktemp("pg")
    for path in (folder, *folder.parents[:3]):
        path.chmod(0o755)
    found = cluster.at(folder)
    cluster.ensure_running(found)
    yield found
    cluster.stop(found)


def _free_port(*, and_next):
    """A port that nobody uses; with the one after it, if asked: then under those that connections get by themselves."""
    while True:
        with socket.socket() as probe, socket.socket() as beside:
            try:
                probe.bind(("127.0.0.1", secrets.randbelow(10_000) + 20_000 if and_next else 0))
                port = probe.getsockname()[1]
                if and_next:
                    beside.bind(("127.0.0.1", port + 1))
            except OSError:
                continue
            return port


class Served:
    """`serve` as a child process, on a free port; without the demo, which takes half a minute to make, unless asked for."""

    def __init__(self, url, run_dir, *more, demo=False):
        self.port = _free_port(and_next="--host" in more)
        # Where others are let in, plain http is on the port after it.
        self.plain_port = self.port + (1 if "--host" in more else 0)
        self.address = f"http://127.0.0.1:{self.port}"
        # Of the water's own time a ping takes no more than a twelfth of a second however busy the machine is: with more pings tests are no faster.
        environ = os.environ | {
            "MUDLAMP_DATABASE_URL": url,
            "MUDLAMP_RUN_DIR": str(run_dir),
            "MUDLAMP_PING_HZ": "12",
            "MUDLAMP_DEMO": str(int(demo)),
        }
        self.log = (Path(run_dir) / "serve.log").open("w")
        self.process = subprocess.Popen(
            [sys.executable, "-m", "mudlamp.cli", "serve", "--port", str(self.port), *more], env=environ, stdout=self.log, stderr=self.log
        )
        self._wait()

    def _wait(self):
        until(lambda: self.health() or self.process.poll() is not None, every_s=0.1)
        assert self.process.poll() is None, f"did not serve: {Path(self.log.name).read_text()[-800:]}"

    def health(self):
        """What it says of itself; nothing where it does not answer."""
        with contextlib.closing(http.client.HTTPConnection("127.0.0.1", self.plain_port, timeout=20)) as line:
            try:
                line.request("GET", "/healthz")
                return line.getresponse().read()
            except (OSError, http.client.HTTPException):
                return b""

    def await_database(self):
        """Wait until the application knows that its database answers."""
        until(lambda: b'"database":true' in self.health(), "the database did not come back")

    def stop(self):
        if self.process.poll() is None:
            self.process.terminate()
            self.process.wait(PATIENCE_S)
        self.log.close()


@pytest.fixture
def served(private, tmp_path):
    found = Served(private.url("mudlamp"), tmp_path)
    yield found
    found.stop()
