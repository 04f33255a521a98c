"""`/healthz` for programs, `/status` for people."""

from collections.abc import Sequence
from dataclasses import dataclass

from fastapi import APIRouter, Request
from fastapi.responses import HTMLResponse, JSONResponse

from mudlamp.services.feed.listener import Listener
from mudlamp.services.live.handle import SessionHandle
from mudlamp.web.context import At, is_part, render

router = APIRouter(include_in_schema=False)


@dataclass(frozen=True, slots=True, kw_only=True)
class SessionStatus:
    """One running session: viewers, what a ping costs by stage [ms], late pings, dropped frames, rows that wait, dropped tracks."""

    id: str
    viewers: int
    stages: Sequence[tuple[str, str]]
    total_ms: str
    late: int
    dropped: int
    waiting: int
    tracks_dropped: int


@dataclass(frozen=True, slots=True, kw_only=True)
class StatusView:
    """The status page."""

    database: bool
    free_gb: str
    sessions: Sequence[SessionStatus]
    most: int
    feed: str


@router.get("/healthz")
async def healthz(house: At) -> JSONResponse:
    """Say whether the application and its database answer; on the event loop itself, which never waits for anything."""
    return JSONResponse({"ok": True, "database": house.database_answers()}, status_code=200)


@router.get("/status")
def status(request: Request, house: At) -> HTMLResponse:
    """Show how the application does."""
    view = StatusView(
        database=house.database_answers(),
        free_gb=f"{house.free_gb():.1f}",
        sessions=[_status(session) for session in house.sessions.running()],
        most=house.settings.sessions,
        feed=_feed(house.feed),
    )
    return render(request, "status/_status.html" if is_part(request) else "status/page.html", view)


def _feed(feed: Listener | None) -> str:
    """Return how the boat's instruments stand, in words; empty where there are none to listen to."""
    if feed is None:
        return ""
    heard = feed.heard()
    counts = f"{heard.good} sentences read, {heard.bad} bad, {heard.other} of no use here"
    return f"{'listening' if heard.connected else 'not reached'}: {counts}{f'; last fault: {heard.fault}' if heard.fault else ''}"


def _status(session: SessionHandle) -> SessionStatus:
    stages = dict(session.stage_ms)
    return SessionStatus(
        # A whole key would let anybody watch.
        id=str(session.id)[:4],
        viewers=session.viewers,
        stages=tuple((name, f"{value:.1f}") for name, value in stages.items()),
        total_ms=f"{sum(stages.values()):.1f}",
        late=session.late,
        dropped=session.dropped,
        waiting=session.writer.waiting,
        tracks_dropped=session.writer.dropped,
    )
