import datetime as dt
import json
import re
import uuid

NOW = dt.datetime(2026, 5, 1, 18, 0, tzinfo=dt.UTC)
OWN = {"Origin": "http://127.0.0.1", "Content-Type": "application/json"}


def batch(*entries):
    return json.dumps({"sent_at": dt.datetime.now(dt.UTC).isoformat(), "entries": list(entries)})


def entry(number, **values):
    return {
        "id": str(uuid.uuid4()),
        "number": number,
        "at": dt.datetime.now(dt.UTC).isoformat(),
        "kind": "outcome",
        "values": {"token": "followed"} | values,
    }


def test_all_that_the_page_is_made_of_is_there_and_nothing_comes_from_outside(client):
    page = client.get("/boat")
    worker = client.get("/boat/worker.js")
    assert worker.headers["content-type"].startswith("text/javascript")
    files = json.loads(re.search(r"const FILES = (\[.*?\]);", worker.text, re.S)[1])
    assert {client.get(path).status_code for path in files} == {200}
    # Every script that a kept script asks for is kept as well.
    wanted = {f"/static/js/{found[3:] if found.startswith('../') else 'boat/' + found[2:]}" for path in files if path.endswith(".js") or ".js?" in path
              for found in re.findall(r'from "([^"]+)"', client.get(path).text)}  # fmt: skip
    assert wanted <= {path.partition("?")[0] for path in files}
    for src in re.findall(r'(?:src|href)="(/static[^"]+)"', page.text):
        assert src in files
    assert not re.findall(r'(?:src|href)="(?:https?:)?//', page.text)


def test_a_pack_is_made_for_the_newest_card_and_for_the_demos_until_there_is_one(client):
    assert client.get("/api/v1/boat/pack").json() is None
    assert client.get("/boat/print").status_code == 404
    job = client.call("POST", "/api/v1/boat/pack", headers=OWN).json()
    job = client.done(job)
    assert job["state"] == "done"
    pack = client.get("/api/v1/boat/pack").json()
    assert pack["title"].startswith("Pitching to crappie, 20 ft over sand")
    assert len(json.dumps(pack)) < 2_000_000
    sheet = client.get("/boat/print").text
    assert "Counts, 16 ft out" in sheet
    assert client.call("POST", f"/api/v1/boat/pack?card={uuid.uuid4()}", headers=OWN).status_code == 404


def test_a_queue_is_shown_in_the_log_and_another_sites_is_refused(client, app):
    from tests.web.conftest import Client

    foreign = client.call("POST", "/api/v1/boat/entries", content=batch(entry(1)), headers=OWN | {"Origin": "http://evil.example"})
    assert foreign.status_code == 403
    given = [entry(1, lure="White 1/16", depth_ft=12.0), entry(2, token="bit"), entry(3, token="landed")]
    for _ in range(3):
        answer = client.call("POST", "/api/v1/boat/entries", content=batch(*given), headers=OWN)
        assert (answer.status_code, len(answer.json()["kept"])) == (200, 3)
    log = client.get("/log").text
    assert log.count("Followed, White 1/16, 12 ft down") == 1
    assert "Followed 1, Bit 1, Landed 1" in log
    assert "From the boat" not in Client(app).get("/log").text
    for wrong in ("{", "[]", json.dumps({"entries": []}), json.dumps({"sent_at": "now", "entries": []}), batch(*[entry(1)] * 501)):
        assert client.call("POST", "/api/v1/boat/entries", content=wrong, headers=OWN).status_code == 422


def test_a_clash_is_asked_about_on_the_log(client):
    one = entry(1)
    client.call("POST", "/api/v1/boat/entries", content=batch(one), headers=OWN)
    client.call("POST", "/api/v1/boat/entries", content=batch(one | {"values": {"token": "bit"}}), headers=OWN)
    page = client.get("/log").text
    key = re.search(r'hx-post="/boat/clashes/([0-9a-f-]{36})"', page)[1]
    assert client.post(f"/boat/clashes/{key}", data={"keep": "neither"}).status_code == 422
    assert client.post(f"/boat/clashes/{key}", data={"keep": "both"}).status_code == 200
    page = client.get("/log").text
    assert sorted(re.search(r"boat-days.*?</b> ([^<]*)</summary>", page, re.DOTALL)[1].split(", ")) == ["Bit 1", "Followed 1"]
    assert client.post(f"/boat/clashes/{key}", data={"keep": "both"}).status_code == 404


def test_a_queue_that_left_the_phone_as_a_file_is_taken_in_once(client):
    one, refused = entry(1), entry(2) | {"why": "token is purred", "values": {"token": "purred"}}
    client.call("POST", "/api/v1/boat/entries", content=batch(one), headers=OWN)
    content = json.dumps({"sent_at": NOW.isoformat(), "entries": [one, entry(3, token="bit")], "refused": [refused]})
    for _ in range(2):
        assert client.post("/boat/file", files={"queue": ("mud-lamp-queue.json", content)}).status_code == 303
    assert sorted(re.search(r"boat-days.*?</b> ([^<]*)</summary>", client.get("/log").text, re.DOTALL)[1].split(", ")) == [
        "Bit 1",
        "Followed 1",
    ]
    for wrong in ("", "{", "[]", json.dumps({"entries": []}), "\x00\xff"):
        answer = client.post("/boat/file", files={"queue": ("x.json", wrong)})
        assert (answer.status_code, "not as a phone saves it" in answer.text) == (422, True)
