"""The guard at the door: known Host names, own Origin, size of requests, a request id, a device key, a content policy."""

import uuid
from collections.abc import Awaitable, Callable, Mapping, MutableMapping
from typing import Any

import structlog

from mudlamp.web.cookies import ANGLER, DEVICE, Seal, cookies_of, set_cookie

Scope = MutableMapping[str, Any]
Message = MutableMapping[str, Any]
Receive = Callable[[], Awaitable[Message]]
Send = Callable[[Message], Awaitable[None]]
Application = Callable[[Scope, Receive, Send], Awaitable[None]]

SAFE = ("GET", "HEAD", "OPTIONS")
POLICY = "default-src 'self'; img-src 'self' data:; object-src 'none'; base-uri 'none'; form-action 'self'; frame-ancestors 'none'"
HEADERS = (
    (b"content-security-policy", POLICY.encode()),
    (b"x-content-type-options", b"nosniff"),
    (b"referrer-policy", b"same-origin"),
    (b"cross-origin-opener-policy", b"same-origin"),
)


class TooLargeError(Exception):
    """A request body larger than is taken."""


class Guard:
    """An ASGI middleware around the application; `larger` are paths that take larger bodies."""

    def __init__(self, app: Application, *, seal: Seal, hosts: tuple[str, ...], most_bytes: int, larger: Mapping[str, int]) -> None:
        self._app = app
        self._seal = seal
        self._hosts = hosts
        self._most_bytes = most_bytes
        self._larger = larger
        self._log = structlog.get_logger()

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        """Check, then hand on."""
        if scope["type"] not in ("http", "websocket"):
            await self._app(scope, receive, send)
            return
        headers = {name.decode("latin-1"): value.decode("latin-1") for name, value in scope["headers"]}
        state = scope.setdefault("state", {})
        state["request_id"] = uuid.uuid4().hex[:12]
        fresh = self._recognize(headers.get("cookie", ""), state)
        structlog.contextvars.bind_contextvars(request=state["request_id"])
        refused = self._refusal(scope, headers)
        if refused:
            self._log.warning("refused", why=refused, path=scope["path"])
            state["refused"] = refused
            if scope["type"] == "websocket":
                await send({"type": "websocket.close", "code": 1008, "reason": refused})
                return
        await self._app(
            scope,
            self._counted(receive, headers, state, self._larger.get(scope["path"], self._most_bytes)),
            self._dressed(send, fresh, state),
        )

    def _recognize(self, header: str, state: Message) -> list[str]:
        """Note who asks (a browser without a key of ours gets a new one); return the cookies that must be set, or set anew."""
        given, fresh = cookies_of(header), []
        device = self._seal.read(DEVICE, given.get(DEVICE, ""))
        state["device"], is_due = (uuid.uuid4(), True) if device is None else device
        if is_due:
            fresh.append(set_cookie(DEVICE, self._seal.signed(DEVICE, state["device"])))
        angler = self._seal.read(ANGLER, given.get(ANGLER, ""))
        state["angler"] = None if angler is None else angler[0]
        if angler is not None and angler[1]:
            fresh.append(set_cookie(ANGLER, self._seal.signed(ANGLER, angler[0])))
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

    def _counted(self, receive: Receive, headers: dict[str, str], state: Message, most_bytes: int) -> Receive:
        """Refuse a body that is announced, or grows, beyond the limit."""
        announced = headers.get("content-length", "0")
        if not announced.isdigit() or int(announced) > most_bytes:
            state["too_large"] = most_bytes
        total = 0

        async def counted() -> Message:
            nonlocal total
            message = await receive()
            if message["type"] == "http.request":
                total += len(message.get("body", b""))
                if total > most_bytes:
                    raise TooLargeError
            return message

        return counted

    def _dressed(self, send: Send, cookies: list[str], state: Message) -> Send:
        """Add the headers that every answer carries."""

        async def dressed(message: Message) -> None:
            if message["type"] == "http.response.start":
                extra = [*HEADERS, (b"x-request-id", state["request_id"].encode())]
                extra += [(b"set-cookie", cookie.encode()) for cookie in cookies]
                message["headers"] = [*message.get("headers", []), *extra]
            await send(message)

        return dressed
