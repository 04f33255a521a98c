"""The HTTP API, version 1: the same services, as JSON."""

import uuid
from dataclasses import asdict
from typing import Annotated, Any

from fastapi import APIRouter, Depends, HTTPException, Query, Request
from pydantic import BaseModel, Field

from mudlamp.services.water import scene_rows, sound_in_water
from mudlamp.store import log as store
from mudlamp.web.context import Context, angler_of, context_of, device_of

router = APIRouter(prefix="/api/v1")
Own = Annotated[Context, Depends(context_of)]


class OpenRequest(BaseModel):
    """Which water to open."""

    scene: str = Field(default="pear-tree", max_length=40, pattern=r"^[a-z0-9-]+$")


class OpenAnswer(BaseModel):
    """The session that is open for this browser."""

    session: uuid.UUID


class WaterAnswer(BaseModel):
    """Sound in fresh water."""

    sound_speed_m_s: float
    absorption_db_m: float
    ping_limit_hz: float


@router.post("/sessions")
def open_session(request: Request, context: Own, wanted: OpenRequest) -> OpenAnswer:
    """Open a session for this browser, or find the one it has."""
    angler = angler_of(request, context)
    session = context.sessions.open(device_of(request), wanted.scene, angler_id=None if angler is None else angler.id)
    return OpenAnswer(session=session.id)


@router.delete("/sessions/{session_id}")
def end_session(request: Request, context: Own, session_id: uuid.UUID) -> OpenAnswer:
    """End this browser's session."""
    session = context.sessions.find(session_id)
    if session is None or session.device != device_of(request):
        raise HTTPException(404, "There is no running session of that key for this browser.")
    context.sessions.end(session_id)
    return OpenAnswer(session=session_id)


@router.get("/sessions")
def sessions(context: Own, demo: bool = False, limit: Annotated[int, Query(ge=1, le=200)] = 50) -> dict[str, Any]:
    """List the logged sessions, newest first."""
    return {"sessions": [asdict(one) for one in store.sessions(context.engine, with_demo=demo, limit=limit)]}


@router.get("/sessions/{session_id}")
def session(context: Own, session_id: uuid.UUID, demo: bool = False) -> dict[str, Any]:
    """Return one logged session: set-ups, shots, reactions."""
    detail = store.session_detail(context.engine, session_id, with_demo=demo)
    if detail is None:
        raise HTTPException(404, "There is no session of that key.")
    return asdict(detail)


@router.get("/water")
def water(
    temp_f: Annotated[float, Query(ge=32, le=104)],
    freq_khz: Annotated[float, Query(ge=10, le=5000)] = 900.0,
    reach_ft: Annotated[float, Query(ge=1, le=400)] = 40.0,
) -> WaterAnswer:
    """Return sound speed, absorption and ping limit."""
    return WaterAnswer(**asdict(sound_in_water(temp_f=temp_f, freq_khz=freq_khz, reach_ft=reach_ft)))


@router.get("/scenes")
def scenes() -> dict[str, Any]:
    """List the stock scenes."""
    return {"scenes": scene_rows()}
