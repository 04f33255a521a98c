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
from mudlamp.core.records.spots import Spot
from mudlamp.formats.fields import PlainText
from mudlamp.formats.scene.file import scene_schema, stock_text
from mudlamp.services.house import House
from mudlamp.services.live.handle import SessionHandle
from mudlamp.services.live.spotting import Tapped, keep_tapped, show_spots
from mudlamp.services.log.desk import edge_detail
from mudlamp.services.recordings.picture import picture_bytes
from mudlamp.services.water.plans import FIRST_SCENE, ScenePlan
from mudlamp.services.water.sound import SceneRow, SoundInWater, scene_rows, sound_in_water
from mudlamp.services.words.find import spot_words
from mudlamp.web.context import At, Visitor, Who, device_of

router = APIRouter(prefix="/api/v1")


class OpenRequest(BaseModel):
    """Which water to open: a stock scene by name, a scene file's content, a recording, or that of an ended session, with its set-up, `again`.

    `anew` ends the running session first; `at_s` is the second that a recording plays from.
    """

    model_config = ConfigDict(extra="forbid")

    scene: str | None = Field(default=None, max_length=40, pattern=r"^[a-z0-9-]+$")
    scene_file: dict[str, Any] | None = None
    recording: uuid.UUID | None = None
    at_s: float = Field(default=0.0, ge=0.0, le=86_400.0)
    again: uuid.UUID | None = None
    anew: bool = False


class TapRequest(BaseModel):
    """A mark on the picture: how far ahead and to the right [m], how deep [m], what it is."""

    model_config = ConfigDict(extra="forbid", allow_inf_nan=False)

    ahead_m: float
    across_m: float = 0.0
    depth_m: float | None = Field(default=None, ge=0.0, le=200.0)
    kind: str = Field(default="other", max_length=20)
    note: PlainText = Field(default="", max_length=400)


class KindRequest(BaseModel):
    """What a spot is."""

    model_config = ConfigDict(extra="forbid")

    kind: str = Field(max_length=20)


@dataclass(frozen=True, slots=True, kw_only=True)
class TappedAnswer:
    """A spot that was kept, in words."""

    id: uuid.UUID
    said: str


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
        plan = house.waters.recording(who.owner, wanted.recording, from_s=wanted.at_s)
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


@router.post("/sessions/{session_id}/spots", status_code=201)
def keep_spot(request: Request, house: At, who: Who, session_id: uuid.UUID, wanted: TapRequest) -> TappedAnswer:
    """Keep a mark on the picture of this browser's session as a spot: it is drawn again whenever the fan looks there."""
    session = own_session(request, house, session_id)
    tapped = Tapped(ahead_m=wanted.ahead_m, across_m=wanted.across_m, depth_m=wanted.depth_m, kind=wanted.kind, note=wanted.note)
    return _tapped(keep_tapped(house.spots, session, who.owner, tapped), house, who)


@router.patch("/spots/{key}")
def name_spot(house: At, who: Who, key: uuid.UUID, wanted: KindRequest) -> TappedAnswer:
    """Say what a spot of one's own is."""
    return _tapped(house.spots.rename(who.owner, key, wanted.kind), house, who)


@router.delete("/spots/{key}")
def take_back_spot(house: At, who: Who, key: uuid.UUID) -> dict[str, bool]:
    """Take a spot of one's own back."""
    house.spots.delete_spot(who.owner, key)
    _show(house, who)
    return {"deleted": True}


def _tapped(spot: Spot, house: House, who: Visitor) -> TappedAnswer:
    _show(house, who)
    return TappedAnswer(id=spot.id, said=spot_words(spot))


def _show(house: House, who: Visitor) -> None:
    show_spots(house.engine, house.sessions.of_device(who.device), who.owner)


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
