"""The Log page, a session's page, corrections, and who fishes."""

import datetime as dt
import uuid
from typing import Annotated

from fastapi import APIRouter, Depends, Form, HTTPException, Request
from fastapi.responses import HTMLResponse, RedirectResponse, Response

from mudlamp.core.errors import DomainError
from mudlamp.core.reactions import Reaction
from mudlamp.store import log as store
from mudlamp.store import rigs as rig_store
from mudlamp.web.context import Context, context_of, device_of, render
from mudlamp.web.guard import YEAR_S
from mudlamp.web.lamp.views import log_view, reaction_view, session_page_view

PAGE = 25
router = APIRouter(include_in_schema=False)
Own = Annotated[Context, Depends(context_of)]


@router.get("/log")
def log(request: Request, context: Own, demo: bool = False, before: dt.datetime | None = None) -> HTMLResponse:
    """Show the sessions, newest first; the demo only where it is asked for."""
    view = log_view(store.sessions(context.engine, with_demo=demo, limit=PAGE, before=before), with_demo=demo, page=PAGE)
    is_part = request.headers.get("HX-Request") == "true"
    return render(request, "log/_sessions.html" if is_part else "log/page.html", view)


@router.get("/log/{session_id}")
def session(request: Request, context: Own, session_id: uuid.UUID, demo: bool = False) -> HTMLResponse:
    """Show one session."""
    detail = store.session_detail(context.engine, session_id, with_demo=demo)
    if detail is None:
        raise HTTPException(404, "There is no session of that key.")
    return render(request, "log/session.html", session_page_view(detail, with_demo=demo))


@router.post("/log/reactions/{reaction_id}")
def correct(request: Request, context: Own, reaction_id: uuid.UUID, token: Annotated[str, Form()] = "") -> HTMLResponse:
    """Take the angler's word for a reaction; the machine's is kept beside it."""
    if token and token not in list(Reaction):
        raise DomainError(f"token is {token[:30]}: it must be one of {', '.join(Reaction)}")
    found = store.correct_reaction(context.engine, reaction_id, token or None)
    if found is None:
        raise HTTPException(404, "There is no reaction of that key.")
    return render(request, "log/_reaction.html", reaction_view(found))


@router.post("/angler")
def angler(request: Request, context: Own, name: Annotated[str, Form()] = "") -> Response:
    """Remember who fishes on this device."""
    found = store.remember_angler(context.engine, name, now=context.now())
    # What this browser made before anybody said who fishes is theirs now.
    rig_store.adopt(context.engine, device_of(request), found.id)
    answer = RedirectResponse("/log", status_code=303)
    answer.set_cookie("lamp_angler", str(found.id), max_age=YEAR_S, httponly=True, samesite="strict")
    return answer
