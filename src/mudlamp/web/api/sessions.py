"""The HTTP API, version 1: the same services, as JSON."""

import uuid
from dataclasses import asdict
from typing import Annotated, Any

import orjson
from fastapi import APIRouter, Depends, HTTPException, Query, Request
from fastapi.responses import Response
from pydantic import BaseModel, ConfigDict, Field

from mudlamp.core.errors import DomainError
from mudlamp.formats.scene.file import scene_schema, stock_text
from mudlamp.services.live.handle import SessionHandle
from mudlamp.services.recordings.measure import picture_bytes
from mudlamp.services.water.plans import FIRST_SCENE, ScenePlan
from mudlamp.services.water.sound import scene_rows, sound_in_water
from mudlamp.store import log as store
from mudlamp.web.context import Context, angler_of, context_of, device_of

router = APIRouter(prefix="/api/v1")
Own = Annotated[Context, Depends(context_of)]


class OpenRequest(BaseModel):
    """Which water to open: a stock scene by name, a scene file's content, or a recording; `anew` ends the running session first."""

    model_config = ConfigDict(extra="forbid")

    scene: str | None = Field(default=None, max_length=40, pattern=r"^[a-z0-9-]+$")
    scene_file: dict[str, Any] | None = None
    recording: uuid.UUID | None = None
    anew: bool = False


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
    given = [name for name in ("scene", "scene_file", "recording") if getattr(wanted, name) is not None]
    if len(given) > 1:
        raise DomainError(f"{' and '.join(given)} are given: it must be one of scene, scene_file, recording")
    angler = angler_of(request, context)
    device = device_of(request)
    if wanted.recording is not None:
        plan = context.waters.recording(device, wanted.recording)
    elif wanted.scene_file is not None:
        plan = context.waters.scene_file(orjson.dumps(wanted.scene_file).decode())
    else:
        plan = context.waters.stock(wanted.scene or FIRST_SCENE)
    session = context.sessions.open(device, plan, angler_id=None if angler is None else angler.id, anew=wanted.anew)
    return OpenAnswer(session=session.id)


@router.delete("/sessions/{session_id}")
def end_session(request: Request, context: Own, session_id: uuid.UUID) -> OpenAnswer:
    """End this browser's session."""
    own_session(request, context, session_id)
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


@router.get("/scenes/schema")
def schema() -> dict[str, Any]:
    """Return the JSON Schema of scene files."""
    return scene_schema()


@router.get("/scenes/{name}")
def scene(name: str) -> Response:
    """Return a stock scene's file, as it ships."""
    return _file(stock_text(name).encode(), f"{name}.json", "application/json")


@router.get("/sessions/{session_id}/scene.json")
def scene_of_session(request: Request, context: Own, session_id: uuid.UUID) -> Response:
    """Return the scene file of this browser's session."""
    plan = own_session(request, context, session_id).plan
    if not isinstance(plan, ScenePlan):
        raise HTTPException(404, "This is a recording: it has no scene.")
    return _file(plan.text.encode(), f"{plan.name}.json", "application/json")


@router.get("/sessions/{session_id}/picture.png")
def picture(request: Request, context: Own, session_id: uuid.UUID) -> Response:
    """Return the picture that this browser's session shows, in its true shape."""
    session = own_session(request, context, session_id)
    shown = session.picture()
    if shown is None:
        raise HTTPException(404, "There is no picture yet.")
    return _file(picture_bytes(shown), f"{session.plan.name}.png", "image/png")


def own_session(request: Request, context: Context, session_id: uuid.UUID) -> SessionHandle:
    """Return this browser's running session of a key, or answer that there is none."""
    session = context.sessions.find(session_id)
    if session is None or session.device != device_of(request):
        raise HTTPException(404, "There is no running session of that key for this browser.")
    return session


def _file(content: bytes, name: str, kind: str) -> Response:
    return Response(content, media_type=kind, headers={"Content-Disposition": f'attachment; filename="{name}"'})
