import datetime as dt
import json
import re
import uuid

import httpx
import pytest

from mudlamp.services.doors.names import Doors
from mudlamp.services.house import house_on
from mudlamp.services.settings import read_settings
from mudlamp.web.app import make_app
from tests.web.conftest import Client

AWAY = "https://mudlamp.local:8470"


class Phone(Client):
    """A device in the same network: it comes from an address that is not this machine's."""

    def call(self, method, path, *, headers=None, origin=AWAY, **options):
        async def go():
            transport = httpx.ASGITransport(app=self.app, raise_app_exceptions=False, client=("192.168.1.77", 40404))
            async with httpx.AsyncClient(transport=transport, base_url=AWAY, cookies=self.cookies) as client:
                answer = await client.request(
                    method,
                    path,
                    headers={"Origin": origin} | ({"Content-Type": "application/json"} if "content" in options else {}) | (headers or {}),
                    **options,
                )
                self.cookies.update(client.cookies)
                return answer

        return self.run(go())

    def post(self, path, **options):
        return self.call("POST", path, **options)


@pytest.fixture
def app(engine, tmp_path):
    doors = Doors(hosts=("mudlamp.local", "192.168.1.20"), port=8470, authority=b"0authority")
    made = make_app(house_on(engine, read_settings({"MUDLAMP_RUN_DIR": str(tmp_path)})), doors)
    yield made
    made.state.house.close()


@pytest.fixture
def phone(app):
    return Phone(app)


def shown_code(client):
    client.post("/angler", data={"name": "Wren"})
    return re.search(r'class="door-code">([A-Z0-9]{8})<', client.post("/door/code").text)[1]


def batch():
    now = dt.datetime.now(dt.UTC).isoformat()
    return json.dumps(
        {"sent_at": now, "entries": [{"id": str(uuid.uuid4()), "number": 1, "at": now, "kind": "outcome", "values": {"token": "bit"}}]}
    )


def test_who_is_not_paired_sees_the_door_and_nothing_else(app, phone, client):
    card = client.post("/tune", data={"depth_ft": "20"}, headers={"HX-Request": "true"}).headers["hx-redirect"]
    for path in ("/", "/tune", "/log", "/boat", "/status", card):
        answer = phone.get(path)
        assert (answer.status_code, answer.headers["location"]) == (303, "/pair")
    for path in ("/api/v1/sessions", "/api/v1/boat/pack", "/api/v1/openapi.json"):
        assert phone.get(path).status_code == 403
    assert phone.call("POST", "/api/v1/boat/entries", content=batch()).status_code == 403
    assert phone.post("/door/code").status_code == 403
    assert phone.post("/angler", data={"name": "Wren"}).status_code == 403
    assert "What to trust" in phone.get("/pair").text
    door = phone.get("/door").text
    assert "Show a code" not in door
    assert "data:image/svg+xml" in door
    assert phone.get("/door/authority.crt").content == b"0authority"
    # Another's angler cookie alone lets nobody in.
    client.post("/angler", data={"name": "Wren"})
    phone.cookies.set("lamp_angler", client.cookies["lamp_angler"])
    assert phone.get("/log").status_code == 303


def test_a_device_comes_in_by_a_code_acts_as_who_showed_it_and_is_turned_away(app, phone, client):
    code = shown_code(client)
    wrong = phone.post("/pair", data={"code": "AAAAAAAA", "name": "phone"})
    assert (wrong.status_code, "code is not one that is open" in wrong.text) == (422, True)
    came = phone.post("/pair", data={"code": code, "name": "phone"})
    assert (came.status_code, came.headers["location"]) == (303, "/boat")
    assert all("Secure" in one and "HttpOnly" in one and "SameSite=Strict" in one for one in came.headers.get_list("set-cookie"))
    # A stolen code is spent.
    assert Phone(app).post("/pair", data={"code": code}).status_code == 422
    # A phone that is in lets no other in.
    assert phone.post("/door/code").status_code == 422
    assert "Show a code" not in phone.get("/door").text
    queue = batch()
    assert phone.call("POST", "/api/v1/boat/entries", content=queue).json()["kept"]
    assert "Bit 1" in client.get("/log").text
    # From another site, or under another name, nothing is taken.
    assert phone.call("POST", "/api/v1/boat/entries", content=batch(), origin="https://evil.example").status_code == 403
    assert phone.call("GET", "/boat", headers={"Host": "evil.example"}).status_code == 403
    # Turned away, what it noted meanwhile waits, and is taken once it is paired anew.
    device = re.search(r'hx-post="/door/devices/([0-9a-f-]{36})"', client.get("/door").text)[1]
    assert phone.post(f"/door/devices/{uuid.uuid4()}").status_code == 404
    client.post(f"/door/devices/{device}")
    later = batch()
    assert phone.call("POST", "/api/v1/boat/entries", content=later).status_code == 403
    assert phone.get("/boat").status_code == 303
    phone.post("/pair", data={"code": shown_code(client)})
    for content in (later, queue, later):
        assert phone.call("POST", "/api/v1/boat/entries", content=content).status_code == 200
    assert "Bit 2" in client.get("/log").text


def test_a_code_is_shown_to_those_who_said_who_they_are(client):
    refused = client.post("/door/code")
    assert (refused.status_code, "say who fishes first" in refused.text) == (422, True)
