"""Sessions, waters and scenes by the HTTP API."""

import uuid
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Annotated, Any

import orjson
from fastapi import APIRouter, Query, Request
from fastapi.responses import Response
from pydantic import BaseModel, ConfigDict, Field

from mudlamp.core.errors import DomainError, MissingError
from mudlamp.core.records.log import SessionDetail, SessionSummary
from mudlamp.formats.scene.file import scene_schema, stock_text
from mudlamp.services.house import House
from mudlamp.services.live.handle import SessionHandle
from mudlamp.services.log.desk import edge_detail
from mudlamp.services.recordings.picture import picture_bytes
from mudlamp.services.water.plans import FIRST_SCENE, ScenePlan
from mudlamp.services.water.sound import SceneRow, SoundInWater, scene_rows, sound_in_water
from mudlamp.web.context import At, Who, device_of

router = APIRouter(prefix="/api/v1")


class OpenRequest(BaseModel):
    """Which water to open: a stock scene by name, a scene file's content, a recording, or that of an ended session, with its set-up, `again`.

    `anew` ends the running session first.
    """

    model_config = ConfigDict(extra="forbid")

    scene: str | None = Field(default=None, max_length=40, pattern=r"^[a-z0-9-]+$")
    scene_file: dict[str, Any] | None = None
    recording: uuid.UUID | None = None
    again: uuid.UUID | None = None
    anew: bool = False


class OpenAnswer(BaseModel):
    """The session that is open for this browser."""

    session: uuid.UUID


@dataclass(frozen=True, slots=True, kw_only=True)
class SessionsAnswer:
    """Logged sessions."""

    sessions: Sequence[SessionSummary]


@dataclass(frozen=True, slots=True, kw_only=True)
class ScenesAnswer:
    """Stock scenes."""

    scenes: Sequence[SceneRow]


@router.post("/sessions")
def open_session(house: At, who: Who, wanted: OpenRequest) -> OpenAnswer:
    """Open a session for this browser, or find the one it has."""
    given = [name for name in ("scene", "scene_file", "recording", "again") if getattr(wanted, name) is not None]
    if len(given) > 1:
        raise DomainError(f"{' and '.join(given)} are given: it must be one of scene, scene_file, recording, again")
    screen = house.rigs.screen_of(house.rigs.try_active(who.owner))
    if wanted.again is not None:
        return OpenAnswer(
            session=house.open_again(wanted.again, owner=who.owner, device=who.device, angler_id=who.angler_id, screen=screen).id
        )
    if wanted.recording is not None:
        plan = house.waters.recording(who.owner, wanted.recording)
    elif wanted.scene_file is not None:
        plan = house.waters.strangers(_text_of(wanted.scene_file))
    else:
        plan = house.waters.stock(wanted.scene or FIRST_SCENE)
    session = house.sessions.open(who.device, plan, angler_id=who.angler_id, screen=screen, anew=wanted.anew)
    return OpenAnswer(session=session.id)


@router.delete("/sessions/{session_id}")
def end_session(request: Request, house: At, session_id: uuid.UUID) -> OpenAnswer:
    """End this browser's session."""
    own_session(request, house, session_id)
    house.sessions.end(session_id)
    return OpenAnswer(session=session_id)


@router.get("/sessions")
def sessions(house: At, who: Who, demo: bool = False, limit: Annotated[int, Query(ge=1, le=200)] = 50) -> SessionsAnswer:
    """List one's own logged sessions, newest first; the demo's where asked for."""
    return SessionsAnswer(sessions=house.log.sessions(who.owner, with_demo=demo, limit=limit))


@router.get("/sessions/{session_id}")
def session(house: At, who: Who, session_id: uuid.UUID, demo: bool = False) -> SessionDetail:
    """Return one of one's own logged sessions, or of the demo's: set-ups by their edge names and units, shots, reactions."""
    return edge_detail(house.log.session(who.owner, session_id, with_demo=demo))


@router.get("/water")
def water(
    temp_f: Annotated[float, Query(ge=32, le=104)],
    freq_khz: Annotated[float, Query(ge=10, le=5000)] = 900.0,
    reach_ft: Annotated[float, Query(ge=1, le=400)] = 40.0,
) -> SoundInWater:
    """Return sound speed, absorption and ping limit."""
    return sound_in_water(temp_f=temp_f, freq_khz=freq_khz, reach_ft=reach_ft)


@router.get("/scenes")
def scenes() -> ScenesAnswer:
    """List the stock scenes."""
    return ScenesAnswer(scenes=scene_rows())


@router.get("/scenes/schema")
def schema() -> dict[str, Any]:
    """Return the JSON Schema of scene files."""
    return scene_schema()


@router.get("/scenes/{name}")
def scene(name: str) -> Response:
    """Return a stock scene's file, as it ships."""
    return _file(stock_text(name).encode(), f"{name}.json", "application/json")


@router.get("/sessions/{session_id}/scene.json")
def scene_of_session(request: Request, house: At, session_id: uuid.UUID) -> Response:
    """Return the scene file of this browser's session."""
    plan = own_session(request, house, session_id).plan
    if not isinstance(plan, ScenePlan):
        raise MissingError("This is a recording: it has no scene.")
    return _file(plan.text.encode(), f"{plan.name}.json", "application/json")


@router.get("/sessions/{session_id}/picture.png")
def picture(request: Request, house: At, session_id: uuid.UUID) -> Response:
    """Return the picture that this browser's session shows, in its true shape."""
    session = own_session(request, house, session_id)
    shown = session.picture()
    if shown is None:
        raise MissingError("There is no picture yet.")
    return _file(picture_bytes(shown), f"{session.plan.name}.png", "image/png")


def own_session(request: Request, house: House, session_id: uuid.UUID) -> SessionHandle:
    """Return this browser's running session of a key; raise MissingError where there is none."""
    session = house.sessions.find(session_id)
    if session is None or session.device != device_of(request):
        raise MissingError("There is no running session with that key for this browser.")
    return session


def _file(content: bytes, name: str, kind: str) -> Response:
    return Response(content, media_type=kind, headers={"Content-Disposition": f'attachment; filename="{name}"'})


def _text_of(scene_file: dict[str, Any]) -> str:
    """Return a scene file's text; raise DomainError for what no file could hold, such as a whole number of 65 bits."""
    try:
        return orjson.dumps(scene_file).decode()
    except orjson.JSONEncodeError as error:
        raise DomainError(f"scene_file cannot be read ({str(error)[:60]}): it must be a scene file's JSON") from None
