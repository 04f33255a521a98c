import datetime as dt
import re
import uuid
from dataclasses import replace

import pytest

from mudlamp.store import log as store
from tests.services.live.test_writer import reaction_record, session_record, shot_record


@pytest.fixture
def logged(engine, client):
    session = session_record(owner=client.owner)
    shot = shot_record(session.id, end_s=12.0, outcome="landed")
    reaction = reaction_record(session.id, shot.id, "followed")
    store.put(engine, [session, shot, reaction])
    return session, shot, reaction


@pytest.mark.parametrize(
    "path",
    [
        "/",
        "/find",
        "/find/look-first",
        "/cast",
        "/log",
        "/log?demo=true",
        "/status",
        "/healthz",
        "/api/v1/openapi.json",
        "/api/v1/scenes",
        "/api/v1/sessions",
    ],
)
def test_every_page_answers(client, path):
    answer = client.get(path)
    assert answer.status_code == 200
    assert "default-src 'self'" in answer.headers["content-security-policy"]
    assert answer.headers["x-request-id"]


def test_no_page_loads_anything_from_outside(client):
    for path in ("/", "/find", "/find/look-first", "/cast", "/log", "/status"):
        page = client.get(path).text
        assert not re.findall(r'(?:src|href|action)="(?:https?:)?//', page)
        assert "<script>" not in page
        assert " style=" not in page


def test_the_lamp_page_has_every_control_with_its_engineering_term(client):
    page = client.get("/").text
    for word, term in (
        ("Near cut", "time-varied gain"),
        ("Quieting", "ping integration"),
        ("Ghost cut", "side-lobe suppression"),
        ("Fan", "orientation"),
    ):
        assert word in page
        assert term in page
    order = [
        page.index(f'data-control="{name}"')
        for name in ("down_to_ft", "reach_ft", "gain", "near_cut_db", "quieting_pings", "ghost_cut_db", "punch", "hide_below_db", "ink")
    ]
    assert order == sorted(order)
    assert "simulated" in page
    assert not re.search(r"\blive\b", re.sub(r"<[^>]*>", "", page), re.IGNORECASE)


def test_a_session_page_tells_its_shots_and_what_the_fish_did(client, logged):
    session, _, reaction = logged
    page = client.get(f"/log/{session.id}").text
    assert "26 ft out" in page
    assert "1/16 oz" in page
    assert "landed" in page
    assert "followed" in page
    assert f"reaction-{reaction.id}" in page


def test_a_correction_is_kept_beside_the_machines_word(client, logged, engine):
    _, _, reaction = logged
    answer = client.post(f"/log/reactions/{reaction.id}", data={"token": "refused"}, headers={"HX-Request": "true"})
    assert answer.status_code == 200
    assert "refused" in answer.text
    assert "the tracker said followed" in answer.text
    bad = client.post(f"/log/reactions/{reaction.id}", data={"token": "ate it"}, headers={"HX-Request": "true"})
    assert bad.status_code == 422
    assert "token is ate it: it must be one of not_shown" in bad.text
    assert client.post(f"/log/reactions/{uuid.uuid4()}", data={"token": "bit"}).status_code == 404


def test_the_device_remembers_who_fishes(client):
    answer = client.post("/angler", data={"name": "JO"})
    assert answer.status_code == 303
    assert "JO" in client.get("/log").text
    long = client.post("/angler", data={"name": "x" * 60})
    assert long.status_code == 422
    assert "name is 60 characters long: it must be 1 to 40 characters" in long.text


def test_an_empty_log_teaches(client):
    assert "click the water to cast" in client.get("/log").text


@pytest.mark.parametrize(
    ("path", "status"), [("/nowhere", 404), (f"/log/{uuid.UUID(int=1)}", 404), ("/log/not-a-key", 422), ("/log?before=yesterday", 422)]
)
def test_errors_are_designed_pages_with_the_request_id(client, path, status):
    answer = client.get(path)
    assert answer.status_code == status
    assert answer.headers["x-request-id"] in answer.text
    assert "Traceback" not in answer.text
    fragment = client.get(path, headers={"HX-Request": "true"})
    assert fragment.status_code == status
    assert "<html" not in fragment.text
    assert 'id="_error"' in fragment.text


def test_a_fault_shows_no_traceback(client, app):
    @app.get("/boom")
    def boom():
        raise RuntimeError("secret detail")

    answer = client.get("/boom")
    assert answer.status_code == 500
    assert "secret" not in answer.text
    assert "Something broke on our side" in answer.text


def test_strangers_are_turned_away(client):
    assert client.get("/", headers={"Host": "evil.example"}).status_code == 403
    assert client.call("POST", "/angler", data={"name": "x"}).status_code == 403
    assert client.call("POST", "/angler", data={"name": "x"}, headers={"Origin": "http://evil.example"}).status_code == 403
    assert client.post("/angler", data={"name": "x"}).status_code == 303


def test_too_large_a_request_is_refused(client):
    answer = client.post("/angler", content=b"name=" + b"x" * 3_000_000, headers={"Content-Type": "application/x-www-form-urlencoded"})
    assert answer.status_code == 413
    assert "larger" in answer.text


def test_the_api_names_field_and_range_of_what_is_wrong(client):
    assert client.get("/api/v1/water?temp_f=68").json()["sound_speed_m_s"] == pytest.approx(1482.35, abs=0.1)
    wrong = client.get("/api/v1/water?temp_f=400")
    assert wrong.status_code == 422
    assert "temp_f is 400: input should be less than or equal to 104" in wrong.json()["error"]["message"]
    assert client.post("/api/v1/sessions", json={"scene": "../etc"}).status_code == 422
    assert client.post("/api/v1/sessions", content=b"{", headers={"Content-Type": "application/json"}).status_code == 422


def test_a_session_opened_by_the_api_belongs_to_its_browser(client, app):
    key = client.post("/api/v1/sessions", json={"scene": "pear-tree"}).json()["session"]
    assert client.post("/api/v1/sessions", json={}).json()["session"] == key
    stranger = type(client)(app)
    assert stranger.call("DELETE", f"/api/v1/sessions/{key}", headers={"Origin": "http://127.0.0.1"}).status_code == 404
    assert client.call("DELETE", f"/api/v1/sessions/{key}", headers={"Origin": "http://127.0.0.1"}).status_code == 200
    assert client.get(f"/api/v1/sessions/{key}").json()["summary"]["state"] == "ended"


@pytest.mark.parametrize(
    ("path", "kind"),
    [("/api/v1/tune", "application/json"), ("/tune", "application/x-www-form-urlencoded"), ("/angler", "multipart/form-data; boundary=x")],
)
def test_a_body_that_grows_too_large_is_413_though_nothing_announced_it(client, path, kind):
    async def endless():
        for _ in range(300):
            yield b" " * 10_000

    answer = client.post(path, content=endless(), headers={"Content-Type": kind})
    assert answer.status_code == 413
    assert "larger than 2000000 bytes" in answer.text


def test_a_page_of_the_same_name_under_another_scheme_is_anothers(client):
    assert client.post("/angler", data={"name": "Kim"}, headers={"Origin": "https://127.0.0.1"}).status_code == 403
    assert client.post("/angler", data={"name": "Kim"}, headers={"Origin": "null"}).status_code == 403
    assert client.post("/angler", data={"name": "Kim"}).status_code == 303


def test_a_session_page_says_what_its_shots_show_leaned_on_earlier_ones(client, engine):
    first = session_record(owner=client.owner)
    past = [session_record(owner=client.owner, started_at=first.started_at - dt.timedelta(days=day)) for day in (1, 2, 3)]
    rows = []
    for session in (first, *past):
        rows.append(replace(session, ended_at=session.started_at + dt.timedelta(minutes=20), state="ended"))
        for number, token in enumerate(("looked", "bit", "no_answer", "not_shown"), start=1):
            shot = shot_record(session.id, number=number, end_s=12.0 * number)
            rows += [shot, reaction_record(session.id, shot.id, token)]
    store.put(engine, rows)
    page = " ".join(client.get(f"/log/{first.id}").text.split())
    # Of four shots three got there, of those two were answered and one taken.
    assert "3 of 4" in page
    assert "2 of 3" in page
    assert "1 of 3" in page
    assert "Nothing that 4 shots show here is more than chance explains." in page
    assert "Rates lean on 3 earlier sessions on this water." in page
    assert "1 take in 20 min here (your own record: 3 in 60 min)" in page
    # The angler's word on the spot is asked for, and turns what is said of it.
    part = {"HX-Request": "true"}
    blind = client.get(f"/log/{first.id}?seen=false", headers=part).text
    assert 'value="false" checked' in blind
    assert client.get(f"/log/{first.id}?seen=false&trophy=true", headers=part).text.count("checked") == 2
    assert client.get(f"/log/{first.id}?seen=perhaps").status_code == 422
