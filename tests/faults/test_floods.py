"""Floods: bounded, on loopback. How long bystanders wait exactly is measured by `./lamp bench faults`."""

import contextlib
import os
import threading
import time
import urllib.error
import urllib.request
from collections import Counter
from pathlib import Path

import orjson
import pytest

from tests.faults.conftest import Served
from tests.faults.test_faults import next_text, open_session, socket_to
from tests.patience import PATIENCE_S, until

FLOOD_S = 6.0


def warm_session(served):
    """A session that pings: the first one compiles what is not compiled yet."""
    session, cookie = open_session(served)
    with socket_to(served, session, cookie) as socket:
        next_text(socket, "tracks")
    return session, cookie


def fetch(served, path, cookie):
    request = urllib.request.Request(served.address + path, headers={"Cookie": cookie})
    with urllib.request.urlopen(request, timeout=PATIENCE_S) as answer:
        return answer.read()


def flood(served, session, cookie, end):
    """Send padded commands as fast as they are taken, reading nothing."""
    with socket_to(served, session, cookie) as socket:
        number = 0
        while time.monotonic() < end:
            number += 1
            socket.send(orjson.dumps({"type": "set", "seq": number, "values": {"gain": number % 100}, "pad": "x" * 3850}).decode())


def pictures(served, session, cookie, end):
    while time.monotonic() < end:
        try:
            fetch(served, f"/api/v1/sessions/{session}/picture.png", cookie)
        except OSError:
            time.sleep(0.1)


def test_a_flood_of_commands_beside_pictures_keeps_nobody_waiting(served):
    session, cookie = warm_session(served)
    end = time.monotonic() + FLOOD_S
    hands = [threading.Thread(target=flood, args=(served, session, cookie, end), daemon=True) for _ in range(2)]
    hands.append(threading.Thread(target=pictures, args=(served, session, cookie, end), daemon=True))
    for one in hands:
        one.start()
    served_beside = 0
    while time.monotonic() < end:
        fetch(served, "/static/lamp.svg", "")
        served_beside += any(one.is_alive() for one in hands)
        time.sleep(0.1)
    for one in hands:
        one.join(PATIENCE_S)
    assert served_beside > 0
    # Afterwards it obeys as before.
    with socket_to(served, session, cookie) as socket:
        # What the flooders' lines still held may come after ours, and the later command counts: ask until it stands.
        def stands():
            socket.send('{"type": "set", "seq": 1, "values": {"gain": 61}}')
            return next_text(socket, "state")["panes"][0]["controls"]["gain"] == 61

        until(stands)
    assert fetch(served, f"/api/v1/sessions/{session}/picture.png", cookie).startswith(b"\x89PNG")


def test_thousands_of_commands_at_once_leave_the_session_alive(served):
    session, cookie = warm_session(served)
    with socket_to(served, session, cookie) as socket:
        sending = threading.Thread(
            target=lambda: [
                socket.send(orjson.dumps({"type": "set", "seq": n, "values": {"gain": n % 100}}).decode()) for n in range(1000)
            ],
            daemon=True,
        )
        sending.start()
        heard = 0
        while heard < 999:
            heard = max([heard, *next_text(socket, "state")["acknowledged"]])
        sending.join(PATIENCE_S)


def test_an_onlookers_bad_command_is_answered_to_it_alone(served):
    session, cookie = warm_session(served)
    with socket_to(served, session, cookie) as own, socket_to(served, session, "") as onlooker:
        next_text(own, "state")
        for _ in range(5):
            onlooker.send('{"type": "set", "values": {"gain": 10}}')
        for _ in range(5):
            next_text(onlooker, "refused")
            next_text(onlooker, "state")
        own.send('{"type": "price", "control": "gain"}')
        kinds = []
        while "price" not in kinds:
            message = own.recv(timeout=PATIENCE_S)
            if isinstance(message, str):
                kinds.append(orjson.loads(message)["type"])
        # How things stand is told for its own coming and its own command; not for the onlooker's five.
        assert kinds.count("state") <= 2
        assert "refused" not in kinds


def test_broken_uploads_leave_neither_a_file_nor_a_handle(served, tmp_path):
    def upload():
        request = urllib.request.Request(
            served.address + "/api/v1/recordings?name=broken.nc",
            data=b"\x89HDF\r\n\x1a\n" + bytes(5000),
            headers={"Origin": served.address},
        )
        with pytest.raises(urllib.error.HTTPError) as refused:
            urllib.request.urlopen(request, timeout=PATIENCE_S)
        assert refused.value.code == 422
        refused.value.close()

    def held():
        """The files it holds open: not its sockets, which come and go with the database's pool."""
        found = Counter()
        for handle in Path(f"/proc/{served.process.pid}/fd").iterdir():
            with contextlib.suppress(FileNotFoundError):
                found[os.readlink(handle)] += 1
        return Counter({name: count for name, count in found.items() if name.startswith("/") and not name.startswith("/dev/")})

    def none_left_of(before):
        # What is opened beside it is closed again.
        until(lambda: not held() - before, lambda: held() - before, every_s=0.2)

    upload()
    before = held()
    for _ in range(8):
        upload()
    none_left_of(before)
    assert list((tmp_path / "recordings").iterdir()) == []


HEAVY = {
    "name": "heavy",
    "water": {"temperature_degc": 20, "secchi_m": 6, "wind_m_s": 15},
    "transducer": {"reach_m": 36, "down_to_m": 30, "facets": 4},
    "bottom": {"depth_m": 20, "relief_m": 3, "relief_length_m": 0.5},
    "cover": [{"kind": "boulders", "x_m": 0, "y_m": 10, "length_m": 60, "width_m": 60, "count": 200}] * 20
    + [{"kind": "weeds", "x_m": 0, "y_m": 10, "radius_m": 20, "height_m": 8}] * 20,
    "bait": [{"count": 2000, "x_m": 0, "y_m": 10, "z_m": 4, "radius_m": 10}] * 10,
}


def ask(served, method, path, body=None, cookie=""):
    request = urllib.request.Request(
        served.address + path,
        data=None if body is None else orjson.dumps(body),
        method=method,
        headers={"Origin": served.address, "Content-Type": "application/json", "Cookie": cookie},
    )
    try:
        with urllib.request.urlopen(request, timeout=PATIENCE_S) as answer:
            return answer.status, orjson.loads(answer.read()), answer.headers
    except urllib.error.HTTPError as error:
        with error:
            return error.code, orjson.loads(error.read()), error.headers


def test_a_water_too_heavy_for_this_machine_is_refused_with_the_reason(served):
    status, body, _ = ask(served, "POST", "/api/v1/sessions", {"scene_file": HEAVY})
    assert status == 422
    assert "ms a ping on this machine" in body["error"]["message"]
    assert ask(served, "POST", "/api/v1/sessions", {"scene_file": HEAVY | {"cover": [], "bait": []}})[0] == 200


def test_who_never_comes_back_holds_no_place(private, tmp_path, monkeypatch):
    monkeypatch.setenv("MUDLAMP_FIRST_VIEWER_S", "5")
    monkeypatch.setenv("MUDLAMP_SESSIONS", "2")
    served = Served(private.url("mudlamp"), tmp_path)
    try:
        for _ in range(2):
            assert ask(served, "POST", "/api/v1/sessions", {})[0] == 200
        time.sleep(5.5)
        # A third finds a place: nobody has looked at the others.
        status, body, headers = ask(served, "POST", "/api/v1/sessions", {})
        assert status == 200
        with socket_to(served, body["session"], headers["set-cookie"].split(";")[0]) as socket:
            next_text(socket, "state")
            time.sleep(5.5)
            next_text(socket, "tracks")
    finally:
        served.stop()


def test_many_questions_at_once_are_answered_or_turned_away_and_nobody_else_waits(served):
    question = {"answers": {"depth_ft": 20, "clarity": "muddy", "target": "bass", "technique": "cast"}}
    heard = []
    asking = [
        threading.Thread(
            target=lambda number=number: heard.append(
                ask(served, "POST", "/api/v1/tune", {"answers": question["answers"] | {"depth_ft": 20 + number}})[0]
            )
        )
        for number in range(12)
    ]
    for one in asking:
        one.start()
    fetch(served, "/healthz", "")
    waiting = sum(one.is_alive() for one in asking)
    for one in asking:
        one.join(PATIENCE_S)
    # Without keys of their own they share what one client may ask for.
    assert waiting > 0
    assert set(heard) <= {200, 503}
    assert 503 in heard
    # Who asks again in a minute is answered, however slow the machine is.
    until(lambda: ask(served, "POST", "/api/v1/tune", question)[0] == 200, "who asked again was never answered", every_s=1.0)
