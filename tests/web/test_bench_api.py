import uuid

import netCDF4
import orjson
import pytest

from mudlamp.formats.recording import RecordingWriter
from mudlamp.formats.scene.file import LISTED, load_scene
from mudlamp.heads.simulated import SimulatedHead


def made(client, **wanted):
    answer = client.post("/api/v1/sessions", json=wanted)
    assert answer.status_code == 200, answer.text
    return answer.json()["session"]


def test_another_water_is_opened_only_when_asked_anew(client):
    first = made(client)
    assert made(client, scene="piling") == first
    second = made(client, scene="piling", anew=True)
    assert second != first
    page = client.get("/").text
    assert "Old bridge piling with bait" in page
    assert "simulated" in page


def test_a_scene_file_is_opened_saved_and_refused_by_path(client):
    scene = {
        "name": "mine",
        "title": "My pond",
        "bottom": {"kind": "mud", "depth_m": 3},
        "fish": [{"species": "bluegill", "x_m": 0, "y_m": 4, "z_m": 1}],
    }
    session = made(client, scene_file=scene, anew=True)
    saved = client.get(f"/api/v1/sessions/{session}/scene.json")
    assert orjson.loads(saved.content) == scene
    assert 'filename="mine.json"' in saved.headers["content-disposition"]
    scene["bottom"]["depth_m"] = 900
    refused = client.post("/api/v1/sessions", json={"scene_file": scene, "anew": True})
    assert refused.status_code == 422
    assert "$.bottom.depth_m is '900': it must be a number, 1 to 60 m" in refused.json()["error"]["message"]
    # Nothing was lost: the session that ran still runs.
    assert made(client) == session
    assert client.post("/api/v1/sessions", json={"scene": "piling", "recording": str(uuid.uuid4())}).status_code == 422
    assert client.post("/api/v1/sessions", json={"scene": "nowhere", "anew": True}).status_code == 422


def test_every_stock_scene_is_served_and_keeps_its_own_published_schema(client):
    schema = client.get("/api/v1/scenes/schema").json()
    assert schema["properties"]["bottom"] is not None
    for name in LISTED:
        file = client.get(f"/api/v1/scenes/{name}").json()
        assert file["name"] == name
        assert set(file) <= set(schema["properties"])
    assert client.get("/api/v1/scenes/nowhere").status_code == 422


@pytest.fixture
def recording(tmp_path):
    path = tmp_path / "mine.nc"
    head = SimulatedHead(load_scene("lone"), seed=1)
    pings = [head.listen(number / 10.0) for number in range(5)]
    with RecordingWriter(path, pings[0].setup) as writer:
        for ping in pings:
            writer.write(ping)
    return path


def test_a_recording_is_uploaded_replayed_kept_downloaded_and_deleted(client, recording):
    sent = client.post("/api/v1/recordings?name=mine.nc", content=recording.read_bytes())
    assert sent.status_code == 201, sent.text
    key = sent.json()["id"]
    assert [one["id"] for one in client.get("/api/v1/recordings").json()["recordings"]] == [key]
    assert "mine.nc" in client.get("/recordings").text
    made(client, recording=key, anew=True)
    assert "recording" in client.get("/").text
    assert client.get(f"/api/v1/recordings/{key}/file").content == recording.read_bytes()
    kept = client.post(f"/recordings/{key}/kept?kept=true")
    assert "Kept" in kept.text
    assert client.call("PATCH", f"/api/v1/recordings/{key}", headers={"Origin": "http://127.0.0.1"}, json={"kept": False}).json()[
        "expires_at"
    ]
    gone = client.call("DELETE", f"/api/v1/recordings/{key}", headers={"Origin": "http://127.0.0.1"})
    assert gone.json() == {"deleted": True}
    assert client.get(f"/api/v1/recordings/{key}/file").status_code == 404


def test_broken_foreign_and_huge_uploads_are_refused_clearly(client, recording, app, tmp_path):
    refused = client.post("/api/v1/recordings?name=cat.jpg", content=b"\xff\xd8 a picture of a cat")
    assert refused.status_code == 422
    assert "cat.jpg" in refused.json()["error"]["message"]
    foreign = tmp_path / "foreign.nc"
    with netCDF4.Dataset(foreign, "w") as file:
        file.createDimension("x", 3)
        file.createVariable("temperature", "f4", ("x",))
    other = client.post("/api/v1/recordings?name=foreign.nc", content=foreign.read_bytes())
    assert other.status_code == 422
    assert "has no variable echo_level_db" in other.json()["error"]["message"]
    most = app.state.house.settings.recording_bytes
    huge = client.post("/api/v1/recordings?name=huge.nc", content=b"x", headers={"Content-Length": str(most + 1)})
    assert huge.status_code == 413
    assert list((app.state.house.settings.run_dir / "recordings").iterdir()) == []


def test_a_set_up_is_saved_by_name_and_a_bad_one_refused(client):
    saved = client.post("/api/v1/setups", json={"name": "murky", "values": {"gain": 68, "quieting_pings": 2}})
    assert saved.status_code == 201
    assert client.get("/api/v1/setups").json()["setups"][0]["values"]["gain"] == 68
    bad = client.post("/api/v1/setups", json={"name": "x", "values": {"gain": 400}})
    assert "gain is 400: it must be 0 to 100" in bad.json()["error"]["message"]
    assert client.post("/api/v1/setups", json={"name": "   ", "values": {}}).status_code == 422
    key = saved.json()["id"]
    assert client.call("DELETE", f"/api/v1/setups/{key}", headers={"Origin": "http://127.0.0.1"}).json() == {"deleted": True}
    assert client.call("DELETE", f"/api/v1/setups/{key}", headers={"Origin": "http://127.0.0.1"}).status_code == 404


def test_a_session_is_its_own_browsers_alone(client, app):
    from tests.web.conftest import Client

    session, stranger = made(client), Client(app)
    for path in ("scene.json", "picture.png"):
        assert stranger.get(f"/api/v1/sessions/{session}/{path}").status_code == 404
    assert stranger.post(f"/api/v1/sessions/{session}/minute", json={}).status_code == 404


def test_keeping_a_minute_before_the_first_ping_says_so(client):
    # Nobody looks on: no ping was made.
    session = made(client)
    job = client.post(f"/api/v1/sessions/{session}/minute", json={"name": "too soon"}).json()
    job = client.done(job)
    assert (job["state"], job["error"]) == ("failed", "there is no minute to save yet: let it run for a moment")
    assert client.get(f"/api/v1/sessions/{session}/picture.png").status_code == 404
    assert client.get(f"/api/v1/jobs/{uuid.uuid4()}").status_code == 404


def test_a_number_that_no_file_holds_is_refused_by_name(client):
    refused = client.post("/api/v1/sessions", json={"scene_file": {"name": -(2**63) - 1}, "anew": True})
    assert refused.status_code == 422
    assert "scene_file cannot be read" in refused.json()["error"]["message"]
