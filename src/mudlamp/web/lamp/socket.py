"""The socket of a session: frames and texts out, commands in."""

import asyncio
import uuid

from fastapi import APIRouter, WebSocket, WebSocketDisconnect

from mudlamp.core.errors import DomainError
from mudlamp.services.live.frames import Mailbox
from mudlamp.services.live.handle import SessionHandle
from mudlamp.services.live.messages import parse_command
from mudlamp.services.live.told import RefusedTold, text_of

router = APIRouter()
GONE = 4404
LONGEST_COMMAND = 4000
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
    except WebSocketDisconnect:
        pass
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


async def _receive(socket: WebSocket, session: SessionHandle, mailbox: Mailbox, *, steers: bool) -> None:
    while True:
        raw = await socket.receive_text()
        try:
            if not steers:
                raise DomainError(WATCHING)
            if len(raw) > LONGEST_COMMAND:
                raise DomainError(f"command is {len(raw)} characters long: it must be at most {LONGEST_COMMAND}")
            session.command(parse_command(raw))
        except DomainError as error:
            mailbox.put_text(text_of(RefusedTold(message=str(error))))
            # A control on the page that was moved for it goes back.
            session.say_state()
