"""What every route may ask for: the house, the browser and its angler; and how a page is rendered."""

import re
import uuid
from collections.abc import Mapping
from dataclasses import dataclass
from pathlib import Path
from typing import Annotated

import jinja2
from fastapi import Depends, Request
from fastapi.responses import HTMLResponse
from fastapi.templating import Jinja2Templates

from mudlamp.core.errors import UnavailableError
from mudlamp.core.texts import mended
from mudlamp.services.edge.controls import LABELS
from mudlamp.services.house import House

# Of all that Unicode calls a digit, these are numbers.
DIGITS = re.compile(r"[0-9]{1,9}")
HERE = Path(__file__).parent
PAGES = (
    ("/", "Lamp"),
    ("/find", "Find"),
    ("/tune", "Tune"),
    ("/rig", "Rig"),
    ("/cast", "Cast"),
    ("/boat", "Boat"),
    ("/log", "Log"),
    ("/status", "Status"),
)

_environment = jinja2.Environment(
    loader=jinja2.FileSystemLoader(HERE / "templates"),
    autoescape=True,
    undefined=jinja2.StrictUndefined,
    trim_blocks=True,
    lstrip_blocks=True,
)
# Templates call controls by `label.gain` and the like.
_environment.globals["label"] = LABELS
templates = Jinja2Templates(env=_environment)


def house_of(request: Request) -> House:
    """Return the house (a FastAPI dependency)."""
    found: House = request.app.state.house
    return found


At = Annotated[House, Depends(house_of)]


def device_of(request: Request) -> uuid.UUID:
    """Return the browser's own key, which the guard hands out as a cookie."""
    found: uuid.UUID = request.scope["state"]["device"]
    return found


@dataclass(frozen=True, slots=True, kw_only=True)
class Visitor:
    """Who asks: the browser's key, who fishes (None where nobody said), and on whose account work is done."""

    device: uuid.UUID
    angler_id: uuid.UUID | None
    angler: str | None
    client: uuid.UUID

    @property
    def owner(self) -> uuid.UUID:
        """Whose things these are, whatever is kept: who fishes, else the browser's own key."""
        return self.device if self.angler_id is None else self.angler_id


def visitor_of(request: Request) -> Visitor:
    """Return who asks (a FastAPI dependency): the angler that the browser remembers; nobody while the database is away."""
    state = request.scope["state"]
    try:
        found = None if state["angler"] is None else house_of(request).log.angler(state["angler"])
    except UnavailableError:
        found = None
    return Visitor(
        device=state["device"],
        angler_id=None if found is None else found.id,
        angler=None if found is None else found.name,
        client=state["device"] if state["is_known"] else _client_at(request),
    )


def _client_at(request: Request) -> uuid.UUID:
    """Return a key for all who come from an address without a key of their own: they share what one may ask for."""
    return uuid.uuid5(uuid.NAMESPACE_URL, request.client.host if request.client else "")


Who = Annotated[Visitor, Depends(visitor_of)]


async def form_of(request: Request) -> Mapping[str, str]:
    """Return the texts of a posted form (a FastAPI dependency)."""
    return {mended(name): mended(str(value)) for name, value in (await request.form()).items()}


Form = Annotated[Mapping[str, str], Depends(form_of)]


def whole_number(text: str) -> int | None:
    """Return the number of a text of up to nine plain digits; None for any other text."""
    return int(text) if DIGITS.fullmatch(text) else None


def is_part(request: Request) -> bool:
    """Return whether htmx asks: it gets a part of a page."""
    return request.headers.get("HX-Request") == "true"


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
    frame = Frame(
        path=request.url.path,
        theme="dusk" if request.cookies.get("lamp_theme") == "dusk" else "noon",
        angler=None if is_part(request) or status >= 400 else visitor_of(request).angler,
        request_id=str(request.scope.get("state", {}).get("request_id", "")),
        build=request.app.state.build,
    )
    return templates.TemplateResponse(request, name, {"view": view, "frame": frame}, status_code=status)


def in_place(answer: HTMLResponse, target: str) -> HTMLResponse:
    """Return an answer that htmx puts in the place of an element, also where it is an error: a form comes back where it stood."""
    answer.headers["HX-Retarget"], answer.headers["HX-Reswap"] = target, "outerHTML"
    return answer


def go_to(path: str) -> HTMLResponse:
    """Answer htmx with another page."""
    return HTMLResponse("", headers={"HX-Redirect": path})
