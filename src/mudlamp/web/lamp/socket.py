"""The socket of a session: frames and texts out, commands in."""

import asyncio
import uuid

import orjson
from fastapi import APIRouter, WebSocket, WebSocketDisconnect

from mudlamp.services.live.frames import Mailbox, text
from mudlamp.services.live.handle import SessionHandle

router = APIRouter()
GONE = 4404
LONGEST_COMMAND = 4000


@router.websocket("/api/v1/live/{session_id}")
async def live(socket: WebSocket, session_id: uuid.UUID) -> None:
    """Serve one viewer until it leaves or the session ends."""
    session: SessionHandle | None = socket.app.state.context.sessions.find(session_id)
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
            message = orjson.loads(raw) if len(raw) <= LONGEST_COMMAND else None
        except orjson.JSONDecodeError:
            message = None
        if not isinstance(message, dict) or "type" not in message:
            mailbox.put_text(text("refused", {"message": "a command was not understood"}))
        elif not steers:
            mailbox.put_text(text("refused", {"message": "another browser steers this session; you may watch"}))
        else:
            session.command(message)
