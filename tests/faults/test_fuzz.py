"""Every HTTP route and every socket command, asked with what nobody would send: no answer is a 500, no session dies, nothing hangs.

Bounded: so many examples a route and command, each route and command at least LEAST.
"""

import asyncio
import itertools
import json
import re
import time
import uuid
from collections import Counter

import orjson
import pytest
import schemathesis
from fastapi.openapi.utils import get_openapi
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st
from pydantic import TypeAdapter

from mudlamp.core.errors import DomainError
from mudlamp.services.edge.controls import BY_NAME
from mudlamp.services.house import house_on
from mudlamp.services.live.messages import Asked, parse_command
from mudlamp.services.settings import read_settings
from mudlamp.web.app import ROUTERS, make_app
from tests.services.live.test_session import PEAR_TREE, Viewer, sessions, viewer, warm  # noqa: F401 - fixtures
from tests.web.conftest import HOST, Client
from tests.web.test_ownership import FORM, KEYS, things  # noqa: F401 - a fixture

LEAST = 20
quick = settings(max_examples=LEAST, deadline=None, database=None, suppress_health_check=list(HealthCheck))

ODD_NUMBERS = [0, -1, 1, 2**63, -(2**63) - 1, 2**64, 10**400, 1e308, -1e308, 5e-324, 0.1]
ODD_TEXTS = [
    "",
    "\x00",
    "a\x00b",
    "²",
    "٣",
    "-0",
    "1e999",
    "NaN",
    "inf",
    "9" * 400,
    "x" * 5000,
    "<script>",
    "'; drop table rig; --",
    "../../etc/passwd",
    "\u202e",
    "😀" * 200,
]
RAW_BODIES = [
    b"",
    b"{",
    b"null",
    b"[]",
    b'"text"',
    b"\xff\xfe\x00",
    b'{"a":' * 3000 + b"1" + b"}" * 3000,
    b"[" * 100_000,
    b'{"scene": NaN}',
    b'{"answers": {"depth_ft": 1e999}}',
    b'{"name": "\\ud800", "values": {"gain": 1}}',
    b'{"name": "a\\u0000b", "values": {"gain": 1}}',
    b'{"name": "x", "values": {"gain": 1' + b"0" * 400 + b"}}",
    b'{"scene_file": {"name": "a\\u0000", "title": "\\ud83d"}}',
    b'{"kept": 18446744073709551616}',
    b"name=%00&token=%ff%fe&version=%C2%B2&depth_ft=1e999",
    b"version=" + b"9" * 400 + b"&name=" + b"a" * 100_000,
    b"&" * 50_000,
    b"a=b&" * 20_000,
    b'--x\r\nContent-Disposition: form-data; name="name"\r\n\r\nv',
]
KINDS = ["application/json", "application/x-www-form-urlencoded", "multipart/form-data; boundary=x", "text/plain", ""]
odd = st.one_of(st.sampled_from(ODD_TEXTS), st.sampled_from(ODD_NUMBERS), st.none(), st.booleans(), st.just([[]]), st.just({"a": {}}))


class Quick(Client):
    """One loop for all calls: there are thousands."""

    def __init__(self, app, runner):
        super().__init__(app)
        self.runner = runner

    def run(self, call):
        return self.runner.run(call)


@pytest.fixture
def client(engine, tmp_path):
    """The application with room for one session, so that opening them does not take all the time there is."""
    made = make_app(house_on(engine, read_settings({"MUDLAMP_RUN_DIR": str(tmp_path), "MUDLAMP_SESSIONS": "1"})))
    with asyncio.Runner() as runner:
        yield Quick(made, runner)
    made.state.house.close()


@pytest.fixture
def app(client):
    return client.app


def routes():
    return [
        (method, route) for module in ROUTERS for route in module.router.routes for method in sorted(getattr(route, "methods", None) or ())
    ]


# A second each: what lies behind them is reached now and then.
SLOW = ("/try", "/card.pdf")
turns = itertools.count()


def own_path(path, things, fallback):  # noqa: F811
    """A path with keys of the client's own things where it has such, so that what lies behind the door is reached."""
    if path.endswith(SLOW) and next(turns) % 20:
        return re.sub(r"{\w+}", str(fallback), path)
    kind = next((one for start, one in KEYS.items() if path.startswith(start)), "")
    known = {
        "key": things.get(kind),
        "session_id": things["session"],
        "reaction_id": things["reaction"],
        "lure": things["lure"],
        "rod": things["rod"],
        "landed": things["landed"],
        "part": things["part"],
        "job": things["job"],
        "kind": "catches" if "{form}" in path else "catch",
        "form": "csv",
        "species": "gar",
    }
    known |= {"control": "gain", "section": "power", "name": "pear-tree"}
    return re.sub(r"{(\w+)}", lambda one: str(known.get(one[1]) or fallback), path)


class Asking:
    """Sends requests and judges the answers."""

    def __init__(self, client):
        self.client = client
        self.count = Counter()

    def __call__(self, route, method, path, **options):
        headers = {"Origin": HOST} | options.pop("headers", {})
        answer = self.client.call(method, path, headers=headers, **options)
        self.count[method, route.path] += 1
        assert answer.status_code != 500, (method, path, options, answer.text[:300])
        assert "Traceback" not in answer.text


def test_no_body_whatever_it_is_breaks_a_route(client, things):  # noqa: F811
    asking = Asking(client)
    written = [(method, route) for method, route in routes() if method != "GET"]
    for method, route in written:
        path = own_path(route.path, things, uuid.uuid4())
        for number, body in enumerate(RAW_BODIES):
            asking(route, method, path, content=body, headers={"Content-Type": KINDS[number % len(KINDS)], "HX-Request": "true"})
    assert min(asking.count[method, route.path] for method, route in written) >= LEAST


def with_odd_words(asking, method, route, things):  # noqa: F811
    """Ask a route with odd texts in its path, its query and its form."""
    names = [
        *FORM,
        *[
            "version",
            "style",
            "depth_ft",
            "clarity",
            "technique",
            "target",
            "code",
            "symptom",
            "job",
            "limit",
            "demo",
            "before",
            "a",
            "b",
            "card",
            "title",
            "day",
            "starts",
            "people",
            "time",
            "species",
            "length_in",
            "most",
            "water",
            "source",
            "q",
            "page",
            "order",
            "since",
            "column:day",
            "latitude",
            "longitude",
            "away_ft",
            "bearing_deg",
            "words",
            "trip",
        ],
    ]

    @quick
    @given(
        given_texts=st.dictionaries(st.sampled_from(names), st.sampled_from(ODD_TEXTS), min_size=1, max_size=4),
        key=st.sampled_from(ODD_TEXTS),
    )
    def ask(given_texts, key):
        safe = "".join(letter for letter in key if letter.isalnum() and letter.isascii()) or "x"
        body = {} if method == "GET" else {"data": given_texts, "headers": {"HX-Request": "true"}}
        asking(route, method, own_path(route.path, things, safe[:300]), params=given_texts, **body)

    ask()


def test_no_form_or_query_breaks_a_route(client, things):  # noqa: F811
    asking = Asking(client)
    # Those of the API are asked by their schema below.
    pages = [(method, route) for method, route in routes() if not route.path.startswith("/api/")]
    for method, route in pages:
        with_odd_words(asking, method, route, things)
    assert min(asking.count[method, route.path] for method, route in pages) >= LEAST


def as_described(asking, operation, route, things):  # noqa: F811
    """Ask an operation of the API with what its own schema makes of it."""

    @quick
    @given(case=operation.as_strategy())
    def ask(case):
        body = {"json": case.body} if isinstance(case.body, dict | list | str | int | float | bool | None) else {}
        asking(route, operation.method.upper(), own_path(route.path, things, uuid.uuid4()), params=dict(case.query or {}), **body)

    ask()


def test_the_api_keeps_its_word_whatever_is_asked(client, things):  # noqa: F811
    asking = Asking(client)
    schema = schemathesis.openapi.from_dict(get_openapi(title="Mud Lamp", version="1", routes=client.app.routes))
    by_path = {(method, route.path): route for method, route in routes()}
    operations = [found.ok() for found in schema.get_all_operations()]
    assert len(operations) >= 20
    for operation in operations:
        key = (operation.method.upper(), operation.path)
        # An operation that takes nothing has one example: it is asked again.
        while asking.count[key] < LEAST:
            as_described(asking, operation, by_path[key], things)


COMMANDS = {
    one["properties"]["type"]["const"]: sorted(one["properties"])
    for one in TypeAdapter(Asked).json_schema(mode="serialization")["$defs"].values()
    if "type" in one.get("properties", {})
}
VALID = {
    "values": {"gain": 60}, "side": "a", "seq": 1, "pace": "slow", "share": 0.5, "do": "on", "control": "gain", "on": True, "fast": True,
    "ahead_m": 8.0, "across_m": 0.5, "by_m": 0.2, "track": 1, "who": "bass", "head_oz": 0.125, "length_in": 12.5,
}  # fmt: skip
values = st.dictionaries(st.one_of(st.sampled_from(sorted(BY_NAME)), st.sampled_from(ODD_TEXTS)), odd, max_size=4)


def command(kind):
    """A command of a kind: each part as it should be, or odd, or left out."""
    parts = {
        name: st.one_of(st.just(VALID[name]), st.just(VALID[name]), values if name == "values" else odd)
        for name in COMMANDS[kind]
        if name != "type"
    }
    return st.fixed_dictionaries({"type": st.just(kind)}, optional=parts)


def test_there_is_something_to_try():
    assert set(COMMANDS) == {
        "set",
        "pace",
        "twin",
        "auto",
        "price",
        "settle",
        "throw",
        "bail",
        "reel",
        "lift",
        "show_me",
        "tie",
        "who",
        "guess",
    }


@settings(max_examples=300, deadline=None, database=None)
@given(
    raw=st.one_of(
        st.text(),
        st.binary().map(lambda data: data.decode("utf-8", "surrogateescape")),
        st.sampled_from([body.decode("latin-1") for body in RAW_BODIES]),
    )
)
def test_no_text_breaks_the_door_of_the_socket(raw):
    try:
        parse_command(raw)
    except DomainError as error:
        assert str(error)


def send_oddly(session, kind, count):
    """Send a session commands of a kind."""

    @settings(max_examples=2 * LEAST, deadline=None, database=None, suppress_health_check=list(HealthCheck))
    @given(wanted=command(kind))
    def send(wanted):
        count[kind] += 1
        try:
            found = parse_command(json.dumps(wanted))
        except DomainError:
            return
        while not session.command(found):
            time.sleep(0.02)

    send()


def test_no_command_ends_a_session(sessions, viewer):  # noqa: F811
    session = sessions.open(uuid.uuid4(), PEAR_TREE, angler_id=None, seed=1)
    session.attach(viewer.mailbox)
    viewer.read(lambda v: len(v.frames) >= 2)
    count = Counter()
    for kind in COMMANDS:
        # A command without parts has one example: it is sent again.
        while count[kind] < LEAST:
            send_oddly(session, kind, count)
    # It carries out everything, and then what it is asked as before.
    for message in ({"type": "twin", "do": "off"}, {"type": "pace", "pace": "run"}, {"type": "set", "seq": 424242, "values": {"gain": 47}}):
        while not session.command(parse_command(orjson.dumps(message))):
            time.sleep(0.02)
    viewer.read(lambda v: any(424242 in one["acknowledged"] for one in v.of("state")))
    assert viewer.of("state")[-1]["panes"][0]["controls"]["gain"] == 47
    assert not session.ended
    assert set(count) == set(COMMANDS)
    assert min(count.values()) >= LEAST
