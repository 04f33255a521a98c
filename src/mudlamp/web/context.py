"""What every route may ask for: the engine, the sessions, the settings, the clock; and how a page is rendered."""

import datetime as dt
import uuid
from dataclasses import dataclass
from pathlib import Path
from typing import Any

import jinja2
from fastapi import Request
from fastapi.responses import HTMLResponse
from fastapi.templating import Jinja2Templates
from sqlalchemy import Engine

from mudlamp.core.errors import UnavailableError
from mudlamp.services.cards.desk import Cards
from mudlamp.services.jobs import Jobs
from mudlamp.services.live.registry import Sessions
from mudlamp.services.recordings.library import Library
from mudlamp.services.settings import Settings
from mudlamp.services.water.plans import Waters
from mudlamp.store import log as store

HERE = Path(__file__).parent
PAGES = (("/", "Lamp"), ("/tune", "Tune"), ("/rig", "Rig"), ("/log", "Log"), ("/status", "Status"))

_environment = jinja2.Environment(
    loader=jinja2.FileSystemLoader(HERE / "templates"),
    autoescape=True,
    undefined=jinja2.StrictUndefined,
    trim_blocks=True,
    lstrip_blocks=True,
)
templates = Jinja2Templates(env=_environment)


@dataclass(frozen=True, slots=True, kw_only=True)
class Context:
    """The application's own things."""

    engine: Engine
    sessions: Sessions
    waters: Waters
    library: Library
    jobs: Jobs
    cards: Cards
    settings: Settings
    build: str

    def now(self) -> dt.datetime:
        """Return the present time in UTC."""
        return dt.datetime.now(dt.UTC)


def context_of(request: Request) -> Context:
    """Return the application's context (a FastAPI dependency)."""
    found: Context = request.app.state.context
    return found


def device_of(request: Request) -> uuid.UUID:
    """Return the browser's own key, which the guard hands out as a cookie."""
    found: uuid.UUID = request.scope["state"]["device"]
    return found


def angler_of(request: Request, context: Context) -> store.Angler | None:
    """Return the angler this device remembers, or None; None too while the database is away."""
    try:
        key = uuid.UUID(request.cookies.get("lamp_angler", ""))
        return store.angler(context.engine, key)
    except (ValueError, UnavailableError):
        return None


def owner_of(request: Request, context: Context) -> uuid.UUID:
    """Return whose rigs and cards these are: who fishes, where the device remembers it, else the browser's own key."""
    angler = angler_of(request, context)
    return device_of(request) if angler is None else angler.id


@dataclass(frozen=True, slots=True, kw_only=True)
class Frame:
    """What surrounds every page: where we are, the theme, who fishes, the request's id, the build (for static files)."""

    path: str
    theme: str
    angler: str | None
    request_id: str
    build: str
    pages: tuple[tuple[str, str], ...] = PAGES


def render(request: Request, name: str, view: object, *, status: int = 200) -> HTMLResponse:
    """Return a template with its view and the frame around it."""
    context = context_of(request)
    asks_page = request.headers.get("HX-Request") != "true"
    angler = angler_of(request, context) if asks_page and status < 500 else None
    frame = Frame(
        path=request.url.path,
        theme="dusk" if request.cookies.get("lamp_theme") == "dusk" else "noon",
        angler=None if angler is None else angler.name,
        request_id=str(request.scope.get("state", {}).get("request_id", "")),
        build=context.build,
    )
    values: dict[str, Any] = {"view": view, "frame": frame}
    return templates.TemplateResponse(request, name, values, status_code=status)


def in_place(answer: HTMLResponse, target: str) -> HTMLResponse:
    """Return an answer told to htmx to take the place of an element, also where it is an error: a form comes back where it stood."""
    answer.headers["HX-Retarget"], answer.headers["HX-Reswap"] = target, "outerHTML"
    return answer
