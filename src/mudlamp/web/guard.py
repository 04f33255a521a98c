"""The guard at the door: known Host names, own Origin, size of requests, a request id, a device key, a content policy."""

import uuid
from collections.abc import Awaitable, Callable, Mapping, MutableMapping
from http.cookies import CookieError, SimpleCookie
from typing import Any

import structlog

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
YEAR_S = 31_536_000


class TooLargeError(Exception):
    """A request body larger than is taken."""


class Guard:
    """An ASGI middleware around the application; `larger` are paths that take larger bodies."""

    def __init__(self, app: Application, *, hosts: tuple[str, ...], most_bytes: int, larger: Mapping[str, int]) -> None:
        self._app = app
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
        device, is_new = _device(headers.get("cookie", ""))
        state["device"] = device
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
            self._dressed(send, device if is_new else None, state),
        )

    def _refusal(self, scope: Scope, headers: dict[str, str]) -> str | None:
        host = headers.get("host", "")
        name = host.rpartition(":")[0] if ":" in host and not host.endswith("]") else host
        if name not in self._hosts:
            return f"host {name[:60] or 'missing'} is not served here"
        if scope["type"] == "websocket" or scope["method"] not in SAFE:
            origin = headers.get("origin")
            if origin is None or origin.partition("://")[2] != host:
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

    def _dressed(self, send: Send, new_device: uuid.UUID | None, state: Message) -> Send:
        """Add the headers that every answer carries."""

        async def dressed(message: Message) -> None:
            if message["type"] == "http.response.start":
                extra = [*HEADERS, (b"x-request-id", state["request_id"].encode())]
                if new_device is not None:
                    cookie = f"lamp_device={new_device}; Path=/; Max-Age={YEAR_S}; HttpOnly; SameSite=Strict"
                    extra.append((b"set-cookie", cookie.encode()))
                message["headers"] = [*message.get("headers", []), *extra]
            await send(message)

        return dressed


def _device(header: str) -> tuple[uuid.UUID, bool]:
    """Return the browser's key from its cookies, or a new one (and that it is new)."""
    try:
        cookies = SimpleCookie(header)
        return uuid.UUID(cookies["lamp_device"].value), False
    except (CookieError, KeyError, ValueError):
        return uuid.uuid4(), True
