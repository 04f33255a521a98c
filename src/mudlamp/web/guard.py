"""The guard at the door: known Host names, own Origin, size of requests, a request id, a device key, a content policy."""

import uuid
from collections.abc import Awaitable, Callable, Mapping, MutableMapping
from typing import Any

import structlog
from starlette.requests import ClientDisconnect

from mudlamp.core.errors import UnavailableError
from mudlamp.services.doors.names import is_loopback
from mudlamp.web.cookies import ANGLER, DEVICE, Seal, cookies_of, set_cookie
from mudlamp.web.times import COOKIE as ZONE_COOKIE
from mudlamp.web.times import use_zone

Scope = MutableMapping[str, Any]
Message = MutableMapping[str, Any]
Receive = Callable[[], Awaitable[Message]]
Send = Callable[[Message], Awaitable[None]]
Application = Callable[[Scope, Receive, Send], Awaitable[None]]

# What a device that is not paired may ask for: the door itself.
OPEN = ("/pair", "/door", "/door/authority.crt", "/healthz")
NOT_PAIRED = "this device is not paired: open /pair on it"
SAFE = ("GET", "HEAD", "OPTIONS")
POLICY = "default-src 'self'; img-src 'self' data:; object-src 'none'; base-uri 'none'; form-action 'self'; frame-ancestors 'none'"
HEADERS = (
    (b"content-security-policy", POLICY.encode()),
    (b"x-content-type-options", b"nosniff"),
    (b"referrer-policy", b"same-origin"),
    (b"cross-origin-opener-policy", b"same-origin"),
)


class Guard:
    """An ASGI middleware around the application; `larger` are paths that take larger bodies.

    Whoever comes from another machine is let in as the angler that `acts_as` names for their device, or sent to the door.
    """

    def __init__(
        self,
        app: Application,
        *,
        seal: Seal,
        hosts: tuple[str, ...],
        most_bytes: int,
        larger: Mapping[str, int],
        acts_as: Callable[[uuid.UUID], uuid.UUID | None],
    ) -> None:
        self._app = app
        self._seal = seal
        self._hosts = hosts
        self._most_bytes = most_bytes
        self._larger = larger
        self._acts_as = acts_as
        self._log = structlog.get_logger()

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        """Check, then hand on."""
        if scope["type"] not in ("http", "websocket"):
            await self._app(scope, receive, send)
            return
        headers = {name.decode("latin-1"): value.decode("latin-1") for name, value in scope["headers"]}
        state = scope.setdefault("state", {})
        state["request_id"] = uuid.uuid4().hex[:12]
        fresh = self._recognize(headers.get("cookie", ""), state, is_secure=scope["scheme"] in ("https", "wss"))
        structlog.contextvars.bind_contextvars(request=state["request_id"])
        refused = self._refusal(scope, headers)
        if refused:
            self._log.warning("refused", why=refused, path=scope["path"])
            state["refused"] = refused
            if scope["type"] == "websocket":
                await send({"type": "websocket.close", "code": 1008, "reason": refused})
                return
        if "refused" not in state and not self._let_in(scope, state):
            if scope["type"] == "websocket":
                await send({"type": "websocket.close", "code": 1008, "reason": NOT_PAIRED})
                return
            if scope["method"] in SAFE and not scope["path"].startswith("/api/"):
                await self._dressed(send, fresh, state)(
                    {"type": "http.response.start", "status": 303, "headers": [(b"location", b"/pair")]}
                )
                await send({"type": "http.response.body", "body": b""})
                return
            state["refused"] = NOT_PAIRED
        await self._answer(scope, receive, self._dressed(send, fresh, state), state, headers)

    async def _answer(self, scope: Scope, receive: Receive, send: Send, state: Message, headers: Mapping[str, str]) -> None:
        """Hand on; where the body is too large, or grows to be, the answer is 413, whatever would be made of a part of it."""
        most_bytes = self._larger.get(scope["path"], self._most_bytes)
        announced = headers.get("content-length")
        if announced is not None:
            # More digits than any size has are too large, too. No more than what is announced comes.
            is_size = announced.isascii() and announced.isdigit() and len(announced) <= 18
            if not is_size or int(announced) > most_bytes:
                state["too_large"] = most_bytes
        elif scope["type"] == "http" and scope["path"] in self._larger:
            await self._stream(scope, receive, send, most_bytes)
            return
        elif scope["type"] == "http" and scope["method"] not in SAFE:
            body = await _whole(receive, most_bytes)
            if body is None:
                state["too_large"] = most_bytes
            else:
                receive = _again(body, receive)
        await self._app(scope, receive, send)

    async def _stream(self, scope: Scope, receive: Receive, send: Send, most_bytes: int) -> None:
        """Hand on a body as it comes; where it grows too large its reader sees it broken off."""
        grew = False
        total = 0

        async def counted() -> Message:
            nonlocal grew, total
            message = await receive()
            total += len(message.get("body", b""))
            if total > most_bytes:
                grew = True
                return {"type": "http.disconnect"}
            return message

        async def unless_it_grew(message: Message) -> None:
            if not grew:
                await send(message)

        try:
            await self._app(scope, counted, unless_it_grew)
        except ClientDisconnect:
            if not grew:
                raise
        if grew:
            scope["state"]["too_large"] = most_bytes
            await self._app(scope, receive, send)

    def _let_in(self, scope: Scope, state: Message) -> bool:
        """Return whether who asks is let in: from this machine, or from a device that is paired, which acts as its angler."""
        client = scope.get("client")
        state["is_here"] = client is None or is_loopback(client[0])
        if state["is_here"]:
            return True
        try:
            angler = self._acts_as(state["device"])
        except UnavailableError:
            angler = None
        if angler is not None:
            state["angler"] = angler
            return True
        # Nobody is anybody by a cookie alone.
        state["angler"] = None
        return scope["type"] == "http" and (scope["path"] in OPEN or scope["path"].startswith("/static/"))

    def _recognize(self, header: str, state: Message, *, is_secure: bool) -> list[str]:
        """Note who asks (a browser without a key of ours gets a new one); return the cookies that must be set, or set anew."""
        given, fresh = cookies_of(header), []
        use_zone(given.get(ZONE_COOKIE, ""))
        device = self._seal.read(DEVICE, given.get(DEVICE, ""))
        state["device"], is_due = (uuid.uuid4(), True) if device is None else device
        if is_due:
            fresh.append(set_cookie(DEVICE, self._seal.signed(DEVICE, state["device"]), is_secure=is_secure))
        angler = self._seal.read(ANGLER, given.get(ANGLER, ""))
        state["angler"] = None if angler is None else angler[0]
        if angler is not None and angler[1]:
            fresh.append(set_cookie(ANGLER, self._seal.signed(ANGLER, angler[0]), is_secure=is_secure))
        state["is_known"] = device is not None
        return fresh

    def _refusal(self, scope: Scope, headers: dict[str, str]) -> str | None:
        host = headers.get("host", "")
        name = host.rpartition(":")[0] if ":" in host and not host.endswith("]") else host
        if name not in self._hosts:
            return f"host {name[:60] or 'missing'} is not served here"
        if scope["type"] == "websocket" or scope["method"] not in SAFE:
            origin = headers.get("origin")
            # The whole of it: a page of the same name under another scheme is another's.
            if origin != f"{'https' if scope['scheme'] in ('https', 'wss') else 'http'}://{host}":
                return "the request did not come from this application's own page"
        return None

    def _dressed(self, send: Send, cookies: list[str], state: Message) -> Send:
        """Add the headers that every answer carries."""

        async def dressed(message: Message) -> None:
            if message["type"] == "http.response.start":
                extra = [*HEADERS, (b"x-request-id", state["request_id"].encode())]
                extra += [(b"set-cookie", cookie.encode()) for cookie in cookies]
                message["headers"] = [*message.get("headers", []), *extra]
            await send(message)

        return dressed


async def _whole(receive: Receive, most_bytes: int) -> bytes | None:
    """Return a body whose size nobody announced; None where it is larger than is taken."""
    body = bytearray()
    while True:
        message = await receive()
        body += message.get("body", b"")
        if len(body) > most_bytes:
            return None
        if not message.get("more_body"):
            return bytes(body)


def _again(body: bytes, receive: Receive) -> Receive:
    """Return what gives a body that was read already, and then what comes after it."""
    given = False

    async def first_the_body() -> Message:
        nonlocal given
        if given:
            return await receive()
        given = True
        return {"type": "http.request", "body": body, "more_body": False}

    return first_the_body
