"""The socket of a session: frames and texts out, commands in."""

import asyncio
import time
import uuid

from fastapi import APIRouter, WebSocket
from starlette.types import Message

from mudlamp.core.errors import DomainError
from mudlamp.services.live.frames import Mailbox
from mudlamp.services.live.handle import SessionHandle
from mudlamp.services.live.messages import parse_command
from mudlamp.services.live.told import RefusedTold, text_of

router = APIRouter()
GONE, ENDED = 4404, 4410
LONGEST_COMMAND = 4000
# More than a hand on a slider sends.
COMMANDS_S, COMMANDS_AT_ONCE = 150.0, 60
FULL_S = 0.02
WATCHING = "another browser controls this session; you can watch"


@router.websocket("/api/v1/live/{session_id}")
async def live(socket: WebSocket, session_id: uuid.UUID) -> None:
    """Serve one viewer until it leaves or the session ends."""
    session: SessionHandle | None = socket.app.state.house.sessions.find(session_id)
    await socket.accept()
    if session is None:
        await socket.close(GONE, "no such session")
        return
    mailbox = Mailbox(asyncio.get_running_loop())
    session.attach(mailbox)
    steers = socket.scope["state"]["device"] == session.device
    sending = asyncio.create_task(_send(socket, mailbox))
    try:
        await _receive(socket, session, mailbox, steers=steers)
    finally:
        session.detach(mailbox)
        sending.cancel()
        await asyncio.gather(sending, return_exceptions=True)


async def _send(socket: WebSocket, mailbox: Mailbox) -> None:
    """Send what the mailbox holds; a viewer that stops reading blocks nobody but itself."""
    while True:
        texts, frames = await mailbox.fetch()
        for message in texts:
            await socket.send_text(message)
        for frame in frames:
            await socket.send_bytes(frame)
        if mailbox.closed:
            await socket.close(ENDED, "the session has ended")
            return


async def _receive(socket: WebSocket, session: SessionHandle, mailbox: Mailbox, *, steers: bool) -> None:
    pace = Allowance(COMMANDS_S, at_once=COMMANDS_AT_ONCE)
    while True:
        # While a viewer waits here its connection is not read either: it can flood nobody but itself.
        await pace.wait()
        message = await socket.receive()
        if message["type"] == "websocket.disconnect":
            return
        try:
            if not steers:
                raise DomainError(WATCHING)
            command = parse_command(_text(message))
        except DomainError as error:
            mailbox.put_text("refused", text_of(RefusedTold(message=str(error))))
            # A control on the page that was moved for it goes back.
            session.remind(mailbox)
            continue
        while not session.command(command) and not session.ended:
            await asyncio.sleep(FULL_S)


def _text(message: Message) -> str:
    """Return a message's text; raise DomainError where it has none or too much."""
    raw = message.get("text")
    if not isinstance(raw, str):
        raise DomainError("command is binary: it must be text")
    if len(raw) > LONGEST_COMMAND:
        raise DomainError(f"command is {len(raw)} characters long: it must be at most {LONGEST_COMMAND}")
    return raw


class Allowance:
    """How much one may ask for: so many a second in the long run, and so many at once."""

    def __init__(self, per_s: float, *, at_once: int) -> None:
        self._per_s = per_s
        self._at_once = at_once
        self._left = float(at_once)
        self._asked = time.monotonic()

    async def wait(self) -> None:
        """Wait until one more may be asked for."""
        now = time.monotonic()
        self._left = min(self._at_once, self._left + (now - self._asked) * self._per_s) - 1.0
        self._asked = now
        # Others get their turn, whether or not this one has to wait.
        await asyncio.sleep(max(0.0, -self._left / self._per_s))
