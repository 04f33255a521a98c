"""The Log page, a session's page, corrections, and who fishes."""

import datetime as dt
import uuid
from typing import Annotated

from fastapi import APIRouter, Form, Request
from fastapi.responses import HTMLResponse, RedirectResponse, Response

from mudlamp.web.context import At, device_of, is_part, render
from mudlamp.web.guard import YEAR_S
from mudlamp.web.log.views import log_view, reaction_view, session_page_view

PAGE = 25
router = APIRouter(include_in_schema=False)


@router.get("/log")
def log(request: Request, house: At, demo: bool = False, before: dt.datetime | None = None) -> HTMLResponse:
    """Show the sessions, newest first; the demo only where it is asked for."""
    view = log_view(house.log.sessions(with_demo=demo, limit=PAGE, before=before), with_demo=demo, page=PAGE)
    return render(request, "log/_sessions.html" if is_part(request) else "log/page.html", view)


@router.get("/log/{session_id}")
def session(request: Request, house: At, session_id: uuid.UUID, demo: bool = False) -> HTMLResponse:
    """Show one session."""
    detail = house.log.session(session_id, with_demo=demo)
    return render(request, "log/session.html", session_page_view(detail, with_demo=demo))


@router.post("/log/reactions/{reaction_id}")
def correct(request: Request, house: At, reaction_id: uuid.UUID, token: Annotated[str, Form()] = "") -> HTMLResponse:
    """Take the angler's word for a reaction; the machine's is kept beside it."""
    return render(request, "log/_reaction.html", reaction_view(house.log.correct(reaction_id, token)))


@router.post("/angler")
def angler(request: Request, house: At, name: Annotated[str, Form()] = "") -> Response:
    """Remember who fishes on this device."""
    found = house.log.remember_angler(name, device=device_of(request), now=house.now())
    answer = RedirectResponse("/log", status_code=303)
    answer.set_cookie("lamp_angler", str(found.id), max_age=YEAR_S, httponly=True, samesite="strict")
    return answer
