"""The Log page, a session's page, corrections, and who fishes."""

import datetime as dt
import uuid

from fastapi import APIRouter, Query, Request
from fastapi.responses import HTMLResponse, RedirectResponse, Response

from mudlamp.core.errors import DomainError
from mudlamp.services.house import House
from mudlamp.services.log.review import Word
from mudlamp.services.trips.review import last_time_words
from mudlamp.web.context import At, Form, Visitor, Who, is_part, render
from mudlamp.web.cookies import ANGLER, set_cookie
from mudlamp.web.log.launch import launch_of, launch_view
from mudlamp.web.log.trip_views import trip_line_view
from mudlamp.web.log.views import LogView, log_view, reaction_view, session_page_view
from mudlamp.web.times import zone

PAGE, TRIPS = 25, 12
router = APIRouter(include_in_schema=False)


@router.get("/log")
def log(request: Request, house: At, who: Who, demo: bool = False, before: dt.datetime | None = None) -> HTMLResponse:
    """Show one's own sessions, newest first; the demo where it is asked for, and where there is nothing of one's own yet."""
    view = _log_view(house, who, demo=demo, before=before)
    return render(request, "log/_sessions.html" if is_part(request) else "log/page.html", view)


def _log_view(
    house: House, who: Visitor, *, demo: bool = False, before: dt.datetime | None = None, name: str | None = None, problem: str = ""
) -> LogView:
    sessions = house.log.sessions(who.owner, with_demo=demo, limit=PAGE, before=before)
    shown_instead = not sessions and before is None
    return log_view(
        house.log.demo_trips() if shown_instead else sessions,
        with_demo=demo or shown_instead,
        demo_alone=shown_instead,
        page=PAGE,
        name=(who.angler or "") if name is None else name,
        launch=launch_view(launch_of(house, who)),
        trips=[trip_line_view(one) for one in house.trips.all(who.owner, limit=TRIPS)] if before is None else (),
        last_time=last_time_words(house.review.last_time(who.owner, now=house.now()), zone()) if before is None else (),
        told=house.boat.told(who.owner) if before is None else (),
        problem=problem,
    )


@router.get("/log/{session_id}")
def session(
    request: Request,
    house: At,
    who: Who,
    session_id: uuid.UUID,
    demo: bool = False,
    seen: bool | None = None,
    trophy: bool = False,
    shots: int = Query(default=0, ge=0, le=100_000),
) -> HTMLResponse:
    """Show one session; `seen` and `trophy` are the angler's word on whether to stay."""
    detail = house.log.session(who.owner, session_id, with_demo=demo)
    recordings = house.log.recordings(who.owner, session_id, now=house.now())
    word = Word(sees_fish=seen, is_trophy=trophy)
    view = session_page_view(detail, house.log.review(who.owner, detail, word), word, recordings, with_demo=demo, page=shots)
    return render(request, "log/_move.html" if is_part(request) else "log/session.html", view)


@router.post("/log/reactions/{reaction_id}")
def correct(request: Request, house: At, who: Who, reaction_id: uuid.UUID, given: Form) -> HTMLResponse:
    """Take the angler's word for a reaction; the machine's is kept beside it."""
    return render(request, "log/_reaction.html", reaction_view(house.log.correct(who.owner, reaction_id, given.get("token", ""))))


@router.post("/angler")
def angler(request: Request, house: At, who: Who, given: Form) -> Response:
    """Remember who fishes on this device; where the name cannot be, the page comes back with it and says why."""
    name, code = given.get("name", ""), given.get("code", "")
    try:
        found = house.log.remember_angler(name, device=who.device, known=who.angler_id, code=code, now=house.now())
    except DomainError as error:
        return render(request, "log/page.html", _log_view(house, who, name=name, problem=str(error)), status=422)
    answer = RedirectResponse("/log", status_code=303)
    answer.headers.append("set-cookie", set_cookie(ANGLER, request.app.state.seal.signed(ANGLER, found.id)))
    return answer
