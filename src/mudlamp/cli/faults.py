"""`./lamp bench faults`: a Mud Lamp of its own is killed, flooded and fed bombs while three viewers look on; what is lost, and who waits, is counted."""

import contextlib
import json
import multiprocessing
import os
import random
import shutil
import signal
import socket
import subprocess
import tempfile
import threading
import time
import urllib.error
import urllib.request
import uuid
from pathlib import Path
from typing import Any

from websockets.exceptions import WebSocketException
from websockets.sync.client import ClientConnection, connect
from websockets.typing import Origin

from mudlamp.cli.load import below, server_mb
from mudlamp.core.errors import UnavailableError
from mudlamp.services.bench.month import heavy_month
from mudlamp.services.live.frames import HEADER

VIEWERS = 3
LEAST_HZ, WINDOW_S = 12.0, 1.0
START_S, WARM_S, FLOOD_S = 90.0, 12.0, 8.0
MALFORMED, QUICK_MALFORMED = 1000, 60
# What a checkout needs to be served from.
NEEDED = ("lamp", "launcher", "src", "requirements")
SEED = 7
# So many different ends of tracebacks are said.
MOST_ENDS = 10
BODIES = (
    b"",
    b"{",
    b"[" * 5000,
    b'{"name": "\\ud800"}',
    b"\xff\xfe",
    b'{"values": {"gain": 1e999}}',
    b"null",
    b'{"again": 1}',
    b"a=b&" * 500,
)
COMMANDS = (
    "{",
    "[]",
    '{"type": "set", "seq": 1e308}',
    '{"type": "throw", "ahead_m": "inf"}',
    '{"type": "set", "values": {"gain": NaN}}',
    "²",
)
EDGE = "edge-of-a-strangers-form"
_CHART = b'{"type":"FeatureCollection","features":[{"type":"Feature","geometry":{"type":"LineString","coordinates":[[-85.0,34.1],[-85.001,34.1],[-85.001,34.101],[-85.0,34.102]]},"properties":{"depth_ft":6}},{"type":"Feature","geometry":{"type":"Point","coordinates":[-85.0005,34.1006]},"properties":{"depth_ft":12}}]}'
_GPX = b'<?xml version="1.0"?><gpx xmlns="http://www.topografix.com/GPX/1/1" version="1.1" creator="x"><wpt lat="-41.25" lon="-18.5"><name>1</name><type>brush</type></wpt></gpx>'
_SPOTS = b'{"type":"FeatureCollection","features":[{"type":"Feature","geometry":{"type":"Point","coordinates":[-18.5,-41.25]},"properties":{"kind":"brush"}}]}'
# Of each kind of file that the log takes: where it goes, in which field (none: as the body), with which words, a whole one (empty: a month as an archive).
STRANGE: tuple[tuple[str, str, dict[str, str], bytes], ...] = (
    ("/log/keep/sheet", "sheet", {"kind": "catches"}, b"Date,Fish,Inches,Lure\n2026-10-03,crappie,12,white\n2026-10-04,gar,30,\n"),
    ("/log/keep/archive", "archive", {}, b""),
    ("/log/spots/chart", "chart", {"name": "Pond"}, _CHART),
    ("/api/v1/find/spots.geojson", "", {}, _GPX),
    ("/api/v1/find/spots.geojson", "", {}, _SPOTS),
)
SERVE = b"mudlamp.cli\0serve"
BROKEN_HDF5 = b"\x89HDF\r\n\x1a\n"


def _ask(
    address: str, method: str, path: str, body: bytes | None = None, cookie: str = "", kind: str = "application/json"
) -> tuple[int, Any, str]:
    headers = {"Origin": address, "Cookie": cookie, "Content-Type": kind}
    request = urllib.request.Request(address + path, data=body, method=method, headers=headers)  # noqa: S310 - our own address
    try:
        with urllib.request.urlopen(request, timeout=30.0) as answer:  # noqa: S310 - our own address
            status, content, set_cookies = answer.status, answer.read(), answer.headers.get_all("Set-Cookie") or ()
    except urllib.error.HTTPError as error:
        with error:
            status, content, set_cookies = error.code, error.read(), ()
    cookies = "; ".join(line.split(";")[0] for line in set_cookies)
    try:
        return status, json.loads(content), cookies
    except ValueError:
        return status, None, cookies


class Place:
    """A checkout of its own in a folder of its own, served by `./lamp up`."""

    def __init__(self, folder: Path) -> None:
        root = Path(os.environ.get("MUDLAMP_ROOT", "."))
        self.folder = folder
        for name in NEEDED:
            source = root / name
            (shutil.copytree if source.is_dir() else shutil.copy)(source, folder / name)
        (folder / ".venv").symlink_to((root / ".venv").resolve())
        if (root / ".run" / "numba").is_dir():
            # What is compiled already need not be again.
            shutil.copytree(root / ".run" / "numba", folder / ".run" / "numba")
        # The database's own user walks through.
        for path in (folder, *folder.parents[:-2]):
            path.chmod(0o755)
        with socket.socket() as probe:
            probe.bind(("127.0.0.1", 0))
            self.port = probe.getsockname()[1]
        self.address = f"http://127.0.0.1:{self.port}"
        self.launcher: subprocess.Popen[bytes] | None = None

    def start(self) -> None:
        """Start `./lamp up` and wait until it answers."""
        output = (self.folder / "up.log").open("ab")
        self.launcher = subprocess.Popen(
            [str(self.folder / "lamp"), "up", "--port", str(self.port)], stdout=output, stderr=output, start_new_session=True
        )
        output.close()
        self.await_answer()

    def await_answer(self) -> float:
        """Wait until it and its database answer; return how long that took [s]."""
        begun = time.monotonic()
        while time.monotonic() - begun < START_S:
            with contextlib.suppress(OSError, ValueError):
                if self.ask("GET", "/healthz")[1] == {"ok": True, "database": True}:
                    return time.monotonic() - begun
            time.sleep(0.1)
        raise UnavailableError(f"./lamp up did not answer for {START_S:.0f} s: {self.folder / 'up.log'} may say why")

    def ask(
        self, method: str, path: str, body: bytes | None = None, cookie: str = "", kind: str = "application/json"
    ) -> tuple[int, Any, str]:
        """Return status, JSON answer (None where it is none) and the cookies set by a request."""
        return _ask(self.address, method, path, body, cookie, kind)

    def processes(self, word: bytes) -> list[int]:
        """Return the processes below the launcher whose command holds a word."""
        return [] if self.launcher is None else below(self.launcher.pid, word)

    def stop(self) -> None:
        """Stop it."""
        if self.launcher is not None and self.launcher.poll() is None:
            self.launcher.terminate()
            self.launcher.wait(20)


def _line(address: str, session: str, cookie: str) -> ClientConnection:
    """Return a connection to a session's socket."""
    return connect(
        f"{address.replace('http', 'ws', 1)}/api/v1/live/{session}",
        origin=Origin(address),
        additional_headers={"Cookie": cookie},
        max_size=None,
        compression=None,
    )


class Viewer:
    """Looks on from beginning to end, connects anew by itself, saves something now and then, and notes what was acknowledged."""

    def __init__(self, place: Place) -> None:
        self.place = place
        self.cookie = place.ask("GET", "/healthz")[2]
        self.session = ""
        self.seen: list[float] = []
        self.acknowledged: set[str] = set()
        self._ending = threading.Event()
        self.threads = [threading.Thread(target=work, daemon=True) for work in (self._watch, self._save)]
        for thread in self.threads:
            thread.start()

    def _watch(self) -> None:
        while not self._ending.is_set():
            with contextlib.suppress(OSError, ValueError, WebSocketException, KeyError, TypeError):
                wanted = json.dumps({"again": self.session} if self.session else {}).encode()
                status, answer, _ = self.place.ask("POST", "/api/v1/sessions", wanted, self.cookie)
                self.session = answer["session"] if status == 200 else ""
                self._look()
            self._ending.wait(0.2)

    def _look(self) -> None:
        last = -1
        with _line(self.place.address, self.session, self.cookie) as line:
            while not self._ending.is_set():
                message = line.recv(timeout=20.0)
                if isinstance(message, bytes):
                    number = HEADER.unpack_from(message)[2]
                    if number != last:
                        self.seen.append(time.monotonic())
                    last = number

    def _save(self) -> None:
        number = 0
        while not self._ending.wait(0.25):
            number += 1
            body = json.dumps({"name": f"kept {number}", "values": {"gain": number % 100}}).encode()
            with contextlib.suppress(OSError, ValueError):
                status, answer, _ = self.place.ask("POST", "/api/v1/setups", body, self.cookie)
                if status == 201:
                    self.acknowledged.add(answer["id"])

    def end(self) -> int:
        """Stop; return how much of what was acknowledged is not there."""
        self._ending.set()
        for thread in self.threads:
            thread.join(30.0)
        kept = {one["id"] for one in self.place.ask("GET", "/api/v1/setups", cookie=self.cookie)[1]["setups"]}
        return len(self.acknowledged - kept)


def bench_faults(*, minutes: float, quick: bool) -> dict[str, Any]:
    """Return what rounds of kills, floods, bombs and malformed input, over so long [min] or one round, did to three viewers."""
    with tempfile.TemporaryDirectory(prefix="mudlamp-faults-") as name:
        place = Place(Path(name))
        place.start()
        try:
            return _rounds(
                place, until_s=time.monotonic() + (0.0 if quick else 60.0 * minutes), count=QUICK_MALFORMED if quick else MALFORMED
            )
        finally:
            place.stop()


def _rounds(place: Place, *, until_s: float, count: int) -> dict[str, Any]:
    viewers = [Viewer(place) for _ in range(VIEWERS)]
    while not all(viewer.seen for viewer in viewers):
        time.sleep(0.2)
    time.sleep(WARM_S)
    chance = random.Random(SEED)  # noqa: S311 - chance of a bench
    answers = [0, 0]
    slow: dict[str, float] = {}
    back: dict[str, float] = {}
    # A session's own process fills its ring of the last minute: `bench soak` watches those.
    sizes, rounds = [server_mb(place.processes(SERVE))], 0
    while rounds == 0 or time.monotonic() < until_s:
        rounds += 1
        for name, attack in ATTACKS.items():
            begun = time.monotonic()
            attack(place, count, chance, answers)
            longest = max(_longest_slow_s(viewer.seen, begun, time.monotonic()) for viewer in viewers)
            slow[name] = round(max(slow.get(name, 0.0), longest), 1)
        sizes.append(server_mb(place.processes(SERVE)))
        for name, kill in (("application", _kill_application), ("launcher", _kill_launcher)):
            back[name] = round(max(back.get(name, 0.0), kill(place)), 1)
            time.sleep(WARM_S)
    lost = sum(viewer.end() for viewer in viewers)
    owed = place.folder / ".run" / "owed"
    until = time.monotonic() + WARM_S
    while list(owed.glob("*.jsonl")) and time.monotonic() < until:
        time.sleep(0.2)
    return {
        "rounds": rounds,
        "acknowledged": sum(len(viewer.acknowledged) for viewer in viewers),
        "acknowledged_lost": lost,
        "owed_rows_left": sum(path.read_bytes().count(b"\n") for path in owed.glob("*.jsonl")),
        "longest_under_12_pictures_s": slow,
        "answers": answers[0],
        "answers_500": answers[1],
        "tracebacks": len(traces := _traces(place)),
        "ends": sorted(set(traces))[:MOST_ENDS],
        "application_mb": [round(size, 1) for size in sizes],
        "back_after_s": back,
    }


def _traces(place: Place) -> list[str]:
    """Return the last line of each traceback in the logs."""
    found = []
    for path in (place.folder / ".run" / "log").glob("*.log*"):
        for part in path.read_text(errors="replace").split("Traceback")[1:]:
            lines = part.split('", "')[0].split('"}')[0].replace("\\n", "\n").strip().splitlines()
            found.append(next((line for line in reversed(lines) if line[:1].isalpha()), "?")[:200])
    return found


def _longest_slow_s(seen: list[float], begun: float, ended: float) -> float:
    """Return for how long on end [s] there were fewer pictures a second than there must be."""
    times = [at for at in seen if begun - WINDOW_S <= at <= ended]
    longest, since = 0.0, None
    at = begun
    while at <= ended:
        enough = sum(at - WINDOW_S < one <= at for one in times) >= LEAST_HZ * WINDOW_S
        since = None if enough else at if since is None else since
        longest = max(longest, 0.0 if since is None else at - since)
        at += 0.1
    return longest


def _session(place: Place) -> tuple[str, str]:
    """Open a session that is nobody's concern; return its key and cookie."""
    status, answer, cookie = place.ask("POST", "/api/v1/sessions", b"{}")
    if status != 200:
        raise UnavailableError(f"no session was opened for the bench: {answer}")
    return answer["session"], cookie


def _flood(place: Place, _count: int, _chance: random.Random, _answers: list[int]) -> None:
    """Two sockets send padded commands as fast as they are taken, beside pictures; nobody reads what comes back."""
    session, cookie = _session(place)
    # In processes of their own: they must not hold up the viewers on this side of the line.
    kind = multiprocessing.get_context("spawn")
    hands = [kind.Process(target=work, args=(place.address, session, cookie), daemon=True) for work in (_send, _send, _look)]
    for hand in hands:
        hand.start()
    for hand in hands:
        hand.join(60.0)
    place.ask("DELETE", f"/api/v1/sessions/{session}", cookie=cookie)


def _send(address: str, session: str, cookie: str) -> None:
    until = time.monotonic() + FLOOD_S
    command = json.dumps({"type": "set", "seq": 1, "values": {"gain": 50}, "pad": "x" * 3800})
    with contextlib.suppress(OSError, WebSocketException), _line(address, session, cookie) as line:
        while time.monotonic() < until:
            line.send(command)


def _look(address: str, session: str, cookie: str) -> None:
    until = time.monotonic() + FLOOD_S
    while time.monotonic() < until:
        with contextlib.suppress(OSError):
            _ask(address, "GET", f"/api/v1/sessions/{session}/picture.png", cookie=cookie)


def _bombs(place: Place, _count: int, _chance: random.Random, answers: list[int]) -> None:
    """Send recordings that are far larger inside than outside."""
    import h5py

    for shape, pieces in (((100_000, 1024, 4096), (1, 1024, 4096)), ((64, 1024, 4096), (64, 1024, 4096))):
        path = place.folder / "bomb.nc"
        with h5py.File(path, "w") as file:
            file.create_dataset("echo_level_db", shape, "f4", chunks=pieces, compression="gzip")
        _note(place.ask("POST", "/api/v1/recordings?name=bomb.nc", path.read_bytes()), answers)


def _malformed(place: Place, count: int, chance: random.Random, answers: list[int]) -> None:
    """Send bodies, commands and files that are none."""
    paths = ("/api/v1/tune", "/api/v1/sessions", "/api/v1/setups", "/tune", "/angler", "/rig", f"/rig/{uuid.uuid4()}/mount")
    for _ in range(count):
        _note(place.ask("POST", chance.choice(paths), chance.choice(BODIES) + chance.randbytes(chance.randrange(40))), answers)
    session, cookie = _session(place)
    with _line(place.address, session, cookie) as line:
        for _ in range(count):
            line.send(chance.choice(COMMANDS) + chr(chance.randrange(32, 1000)))
    place.ask("DELETE", f"/api/v1/sessions/{session}", cookie=cookie)
    for _ in range(count):
        _note(place.ask("POST", "/api/v1/recordings?name=broken.nc", BROKEN_HDF5 + chance.randbytes(chance.randrange(4000))), answers)


def _strange_files(place: Place, count: int, chance: random.Random, answers: list[int]) -> None:
    """Send files of each kind that the log takes, whole ones spoiled at a few places."""
    month = heavy_month(1)[0]
    for path, field, words, known in STRANGE:
        whole = known or month
        for _ in range(count):
            data = bytearray(whole[: chance.randrange(1, len(whole))] if chance.random() < 0.3 else whole)
            for _ in range(chance.randrange(1, 6)):
                data[chance.randrange(len(data))] = chance.randrange(256)
            if not field:
                _note(place.ask("POST", path, bytes(data)), answers)
                continue
            form = "".join(f'--{EDGE}\r\nContent-Disposition: form-data; name="{name}"\r\n\r\n{value}\r\n' for name, value in words.items())
            head = f'{form}--{EDGE}\r\nContent-Disposition: form-data; name="{field}"; filename="a"\r\n\r\n'.encode()
            body = head + bytes(data) + f"\r\n--{EDGE}--\r\n".encode()
            _note(place.ask("POST", path, body, kind=f"multipart/form-data; boundary={EDGE}"), answers)


def _note(answer: tuple[int, Any, str], answers: list[int]) -> None:
    answers[0] += 1
    answers[1] += answer[0] == 500


def _kill_session(place: Place, _count: int, _chance: random.Random, _answers: list[int]) -> None:
    """Kill the process of a session of its own: the newest."""
    before = set(place.processes(b"forkserver"))
    session, cookie = _session(place)
    for pid in set(place.processes(b"forkserver")) - before:
        os.kill(pid, signal.SIGKILL)
    time.sleep(1.0)
    place.ask("DELETE", f"/api/v1/sessions/{session}", cookie=cookie)


def _kill_database(place: Place, _count: int, _chance: random.Random, _answers: list[int]) -> None:
    os.kill(min(place.processes(b"postgres\0-D")), signal.SIGKILL)
    time.sleep(0.5)
    place.await_answer()


ATTACKS = {
    "flood": _flood,
    "bombs": _bombs,
    "malformed": _malformed,
    "strange files": _strange_files,
    "killed session": _kill_session,
    "killed database": _kill_database,
}


def _kill_application(place: Place) -> float:
    os.kill(min(place.processes(SERVE)), signal.SIGKILL)
    time.sleep(0.5)
    return place.await_answer()


def _kill_launcher(place: Place) -> float:
    if place.launcher is not None:
        place.launcher.kill()
        place.launcher.wait()
    # What it started ends with it; until then the port is taken.
    while _is_taken(place.port):
        time.sleep(0.1)
    begun = time.monotonic()
    place.start()
    return time.monotonic() - begun


def _is_taken(port: int) -> bool:
    with socket.socket() as probe:
        return probe.connect_ex(("127.0.0.1", port)) == 0
