"""`/healthz` for programs, `/status` for people."""

import shutil
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Annotated

from fastapi import APIRouter, Depends, Request
from fastapi.responses import HTMLResponse, JSONResponse

from mudlamp.services.live.handle import SessionHandle
from mudlamp.store.database import is_up
from mudlamp.web.context import Context, context_of, render

router = APIRouter(include_in_schema=False)
Own = Annotated[Context, Depends(context_of)]


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


@router.get("/healthz")
def healthz(context: Own) -> JSONResponse:
    """Say whether the application and its database answer."""
    up = is_up(context.engine)
    return JSONResponse({"ok": True, "database": up}, status_code=200)


@router.get("/status")
def status(request: Request, context: Own) -> HTMLResponse:
    """Show how things stand."""
    sessions = [_status(session) for session in context.sessions.running()]
    context.settings.run_dir.mkdir(parents=True, exist_ok=True)
    free = shutil.disk_usage(context.settings.run_dir).free / 1e9
    view = StatusView(database=is_up(context.engine), free_gb=f"{free:.1f}", sessions=sessions, most=context.settings.sessions)
    is_part = request.headers.get("HX-Request") == "true"
    return render(request, "status/_status.html" if is_part else "status/page.html", view)


def _status(session: SessionHandle) -> SessionStatus:
    stages = dict(session.stage_ms)
    return SessionStatus(
        id=str(session.id),
        viewers=session.viewers,
        stages=tuple((name, f"{value:.1f}") for name, value in stages.items()),
        total_ms=f"{sum(stages.values()):.1f}",
        late=session.late,
        dropped=session.dropped,
        waiting=session.writer.waiting,
        tracks_dropped=session.writer.dropped,
    )
