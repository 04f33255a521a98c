"""Whose things are whose: every route is walked with the keys of another."""

import re
import uuid
from dataclasses import replace

import pytest
from sqlalchemy import text

from mudlamp.core.records.library import Recording
from mudlamp.services.demo import DEMO_RIG, TRIPS, rig_records, trip_records
from mudlamp.services.find.demo import demo_spots
from mudlamp.store import library
from mudlamp.store import log as store
from mudlamp.store.models import Base
from mudlamp.store.scope import EVERYBODY
from mudlamp.store.spots import put_spots
from mudlamp.web.app import ROUTERS
from mudlamp.web.cookies import DEVICE, Seal
from tests.services.find.test_own_charts import pond
from tests.services.live.test_writer import NOW, reaction_record, session_record, shot_record
from tests.services.trips.conftest import photo_bytes
from tests.web.conftest import Client
from tests.web.test_tune_pages import made_rig

HTMX = {"HX-Request": "true"}


@pytest.fixture
def another(app):
    return Client(app)


@pytest.fixture
def things(client, app, engine, tmp_path):
    """One of each thing of `client`'s, by the kind that a path names."""
    rig = made_rig(client, "mine")
    box = client.post(f"/rig/{rig}/lures", data={"kind": "jig", "head_oz": "0.25", "material": "lead"}, headers=HTMX).text
    box = client.post(f"/rig/{rig}/rods", data={"name": "Long one", "length_ft": "12", "line": "braid"}, headers=HTMX).text
    card = client.post("/tune", data={"depth_ft": "20", "technique": "pitch"}, headers=HTMX).headers["HX-Redirect"].partition("=")[2]
    client.post(f"/tune/cards/{card}/name", data={"name": "mine"}, headers=HTMX)
    logged = session_record(owner=client.owner)
    shot = shot_record(logged.id)
    reaction = reaction_record(logged.id, shot.id, "looked")
    store.put(engine, [logged, shot, reaction])
    recording = Recording(
        id=uuid.uuid4(),
        owner=client.owner,
        source="recorded",
        name="mine",
        digest="0" * 64,
        size_bytes=1,
        pings=1,
        seconds=1.0,
        fan="ahead",
        created_at=NOW,
        expires_at=None,
    )
    library.add_recording(engine, recording)
    setup = client.post("/api/v1/setups", json={"name": "mine", "values": {"gain": 50}}).json()["id"]
    for token in ("looked", "bit"):
        one = {"id": str(uuid.UUID(int=77)), "number": 1, "at": NOW.isoformat(), "kind": "outcome", "values": {"token": token}}
        client.post("/api/v1/boat/entries", json={"sent_at": NOW.isoformat(), "entries": [one]})
    clash = next(one for one in app.state.house.boat.told(client.owner) if one.clash_of is not None)
    spot = next(demo_spots(NOW))
    put_spots(engine, [replace(spot, id=uuid.uuid5(client.owner, "spot"), owner=client.owner, source="simulated")])
    pairing = app.state.house.pairing
    pairing.pair(pairing.show(client.owner), uuid.UUID(int=78), "phone")
    job = app.state.house.jobs.start(uuid.uuid5(client.owner, "job"), "mine", lambda _job: "done")
    trip = client.post("/log/trips", data=TRIP, headers=HTMX).headers["HX-Redirect"].rpartition("/")[2]
    for part, given in (
        ("conditions", {"sky": "cloud"}),
        ("moves", {"place": "here"}),
        ("catches", {"species": "crappie"}),
        ("rules", {"species": "gar", "most": "1"}),
    ):
        client.post(f"/log/trips/{trip}/{part}", data=given, headers=HTMX)
    client.post("/log/photos", data={"trip": trip}, files={"photos": ("a.jpg", photo_bytes(), "image/jpeg")})
    landed = shot_record(logged.id, 2, outcome="landed")
    store.put(engine, [landed])
    with engine.begin() as connection:
        connection.execute(text("update session set trip_id = :trip where id = :key"), {"trip": trip, "key": logged.id})
    opened = app.state.house.trips.open(client.owner, uuid.UUID(trip))
    sheet, _ = app.state.house.keep.look(client.owner, "catches", b"day,species\n2026-10-01,gar\n", None)
    water = app.state.house.spots.read_chart(client.owner, pond(), "Pond")
    return {
        "trip": trip,
        "part": str(opened.moves[0].id),
        "catch": str(opened.catches[0].id),
        "photo": str(next(iter(opened.photos.values())).id),
        "landed": str(opened.landed[0].caught.id),
        "sheet": str(sheet),
        "chart": water.removeprefix("own-"),
        "rig": rig,
        "lure": re.search(r'/lures/([0-9a-f-]+)"', box)[1],
        "rod": re.search(r'/rods/([0-9a-f-]+)/lure"', box)[1],
        "card": card,
        "session": str(logged.id),
        "reaction": str(reaction.id),
        "recording": str(recording.id),
        "setup": setup,
        "job": str(job.id),
        "device": str(pairing.of(client.owner)[0].id),
        "clash": str(clash.entry.id),
        "spot": str(uuid.uuid5(client.owner, "spot")),
    }


# What the key in a path is of, by how the path begins.
KEYS = {
    "/api/v1/find/": "spot",
    "/api/v1/spots/": "spot",
    "/boat/clashes/": "clash",
    "/door/devices/": "device",
    "/rig/": "rig",
    "/tune/cards/": "card",
    "/api/v1/cards/": "card",
    "/recordings/": "recording",
    "/api/v1/recordings/": "recording",
    "/api/v1/jobs/": "job",
    "/api/v1/setups/": "setup",
    "/log/reactions/": "reaction",
    "/log/trips/": "trip",
    "/log/catches/": "catch",
    "/log/photos/": "photo",
    "/log/keep/sheet/": "sheet",
    "/log/keep/archive/": "job",
    "/log/keep/reading/": "job",
    "/log/spots/chart/": "chart",
    "/log/spots/": "spot",
    "/log/recordings/": "recording",
    "/log/": "session",
    "/api/v1/sessions/": "session",
}
OTHERS = {"lure": "lure", "rod": "rod", "landed": "landed", "part": "part"}
WORDS = {"control": "gain", "section": "mount", "name": "pear-tree", "kind": "session", "species": "gar"}
TRIP = {"title": "Mine", "water": "Pond", "day": "2026-11-01", "source": "simulated"}
# Of these nothing is anybody's: they name a kind of thing, not a thing.
NO_KEYS = ("/api/v1/scenes", "/log/keep/{kind}.{form}")
FORM = {
    "keep": "both",
    "name": "stolen",
    "token": "bit",
    "what": "raw",
    "cause": "gain_low",
    "kind": "jig",
    "head_oz": "0.25",
    "version": "1",
    "line": "braid",
}


def walked():
    """Every route that names a thing: (method, path with its parts)."""
    for module in ROUTERS:
        for route in module.router.routes:
            if "{" in route.path and getattr(route, "methods", None) and not route.path.startswith(NO_KEYS):
                for method in route.methods:
                    yield method, route.path


def filled(path, things):
    kind = next(kind for start, kind in KEYS.items() if path.startswith(start))
    parts = {name: things[OTHERS.get(name, kind)] if name not in WORDS else WORDS[name] for name in re.findall(r"{(\w+)}", path)}
    query = "?kept=true" if path.startswith("/recordings/") else f"?job={uuid.uuid4()}&cause=gain_low" if path.startswith("/tune/") else ""
    return path.format(**parts) + query


def body_of(method, path):
    """What a route of the API is sent: so that nothing but whose it is can be wrong with it."""
    if "spots" in path:
        return {"kind": "brush"} if method == "PATCH" else {"ahead_m": 5.0}
    return {"kept": True} if method == "PATCH" else {"name": "stolen"}


def everything(engine):
    with engine.connect() as connection:
        return {name: sorted(map(str, connection.execute(text(f"select * from {name}")))) for name in Base.metadata.tables}


def test_no_route_shows_or_changes_what_is_anothers(client, another, things, engine):
    assert another.owner != client.owner
    before = everything(engine)
    answered = {}
    for method, path in walked():
        body = {"json": body_of(method, path)} if path.startswith("/api/") else {"data": FORM}
        answer = another.call(
            method, filled(path, things), headers={"Origin": "http://127.0.0.1"} | HTMX, **(body if method != "GET" else {})
        )
        answered[method, path] = answer.status_code
    assert set(answered.values()) == {404}, {way: status for way, status in answered.items() if status != 404}
    assert everything(engine) == before
    # Lists are empty, and what is asked for by a query or a body is not there either.
    assert another.get("/api/v1/sessions?demo=true").json()["sessions"] == []
    assert another.get("/api/v1/recordings").json()["recordings"] == []
    assert another.get("/api/v1/setups").json()["setups"] == []
    assert another.get("/api/v1/cards").json()["cards"] == []
    assert another.get("/api/v1/rigs").json()["rigs"] == []
    for page in ("/log?demo=true", "/log/shots?demo=true", "/log/search?q=mine", "/log/keep", "/log/spots", "/log/review?source=simulated"):
        answer = another.get(page)
        assert answer.status_code == 200
        assert not [name for name, key in things.items() if key in answer.text]
    assert another.get(f"/tune?card={things['card']}").status_code == 404
    assert another.get(f"/tune/compare?a={things['card']}&b={things['card']}").status_code == 404
    assert another.post("/api/v1/sessions", json={"recording": things["recording"]}).status_code == 404
    # Its owner sees all of it still.
    assert client.get(f"/log/{things['session']}").status_code == 200
    assert client.get(f"/tune?card={things['card']}").status_code == 200


def test_the_demo_can_be_read_and_not_changed(client, engine):
    store.put(engine, [*rig_records(), *trip_records(TRIPS[0])])
    before = everything(engine)
    (trip,) = client.get("/api/v1/sessions?demo=true").json()["sessions"]
    page = client.get(f"/log/{trip['id']}?demo=true").text
    assert "chip token-" in page
    assert "What was it really?" not in page
    reaction = re.search(r'id="reaction-([0-9a-f-]+)"', page)[1]
    assert client.post(f"/log/reactions/{reaction}", data={"token": "bit"}).status_code == 404
    for path in (f"/rig/{DEMO_RIG}/delete", f"/rig/{DEMO_RIG}/active", f"/rig/{DEMO_RIG}/mount", f"/rig/{DEMO_RIG}/lures"):
        assert client.post(path, data=FORM).status_code == 404
    refused = client.post("/angler", data={"name": "J. Orchard (demo)"})
    assert refused.status_code == 422
    assert "this is the demo" in refused.text
    assert everything(engine) == before


def test_a_key_that_was_made_up_is_none(client, engine):
    for value in (str(uuid.uuid4()), f"{uuid.uuid4()}.abc.def", Seal(["another secret"]).signed(DEVICE, uuid.uuid4()), ""):
        client.cookies.clear()
        answer = client.get("/rig", headers={"Cookie": f"lamp_device={value}"})
        assert "lamp_device=" in answer.headers["set-cookie"]
        assert value == "" or value not in answer.headers["set-cookie"]


def test_a_known_anglers_name_takes_the_code_that_the_terminal_shows(client, another, capsys):
    client.post("/rig", data={"name": "mine"})
    assert client.post("/angler", data={"name": "Kim"}).status_code == 303
    assert client.post("/angler", data={"name": "Kim"}).status_code == 303
    capsys.readouterr()
    page = another.post("/angler", data={"name": "Kim"})
    assert page.status_code == 422
    assert "somebody goes by it already" in page.text
    code = re.search(r"code ([A-Z0-9]{8})", capsys.readouterr().err)[1]
    for guess in ("AAAAAAAA", "", "x" * 5000):
        assert another.post("/angler", data={"name": "Kim", "code": guess}).status_code == 422
    assert another.get("/rig").text.count("mine") == 0
    assert another.post("/angler", data={"name": "Kim", "code": code.lower()}).status_code == 303
    assert another.owner == client.owner
    assert "mine" in another.get("/rig").text
    # A code is used up.
    third = Client(another.app)
    assert third.post("/angler", data={"name": "Kim", "code": code}).status_code == 422


def test_guessing_a_code_ends_after_five(client, another, capsys):
    client.post("/angler", data={"name": "Kim"})
    another.post("/angler", data={"name": "Kim"})
    code = re.search(r"code ([A-Z0-9]{8})", capsys.readouterr().err)[1]
    for _ in range(5):
        another.post("/angler", data={"name": "Kim", "code": "WRONGONE"})
    assert another.post("/angler", data={"name": "Kim", "code": code}).status_code == 422


def test_what_a_browser_kept_becomes_its_anglers(client, things, engine):
    device = client.owner
    client.post("/angler", data={"name": "Lee"})
    assert client.owner != device
    assert client.get(f"/log/{things['session']}").status_code == 200
    assert len(client.get("/api/v1/recordings").json()["recordings"]) == 1
    assert len(client.get("/api/v1/setups").json()["setups"]) == 1
    assert store.sessions(engine, device, with_demo=False) == []
    assert len(store.sessions(engine, EVERYBODY, with_demo=False)) == 1


def test_a_query_of_owned_things_must_say_whose(engine):
    from sqlalchemy import select

    from mudlamp.store.database import work
    from mudlamp.store.models import LureRow, RigRow, ShotRow

    for model in (RigRow, LureRow, ShotRow):
        with pytest.raises(LookupError, match="must say whose"), work(engine) as session:
            session.execute(select(model))
