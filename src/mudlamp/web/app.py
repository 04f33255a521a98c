"""The application, put together."""

import contextlib
import datetime as dt
import hashlib
from collections.abc import AsyncIterator, Awaitable, Callable

from fastapi import FastAPI, Request
from fastapi.responses import Response
from fastapi.staticfiles import StaticFiles
from sqlalchemy import Engine
from starlette.concurrency import run_in_threadpool
from starlette.exceptions import HTTPException

from mudlamp.services.cards.desk import Cards
from mudlamp.services.jobs import Jobs
from mudlamp.services.live.registry import Sessions
from mudlamp.services.recordings.library import Library
from mudlamp.services.settings import Settings
from mudlamp.services.water.plans import Waters
from mudlamp.web.api import advice
from mudlamp.web.api import library as library_api
from mudlamp.web.api import sessions as api
from mudlamp.web.context import HERE, Context
from mudlamp.web.errors import add_error_answers
from mudlamp.web.guard import Guard
from mudlamp.web.lamp import routes as lamp
from mudlamp.web.lamp import socket as live
from mudlamp.web.log import routes as log
from mudlamp.web.rig import routes as rig
from mudlamp.web.status import routes as status
from mudlamp.web.tune import routes as tune


def _build() -> str:
    """Return a short digest of all static files: it stands in their addresses, so that browsers never keep an old one."""
    digest = hashlib.sha256()
    for path in sorted((HERE / "static").rglob("*")):
        if path.is_file():
            digest.update(path.read_bytes())
    return digest.hexdigest()[:10]


def _now() -> dt.datetime:
    return dt.datetime.now(dt.UTC)


def make_app(engine: Engine, settings: Settings) -> FastAPI:
    """Return the application on a database that is migrated already."""
    sessions = Sessions(engine, settings, now=_now)
    library = Library(engine, settings, now=_now)
    jobs = Jobs()

    @contextlib.asynccontextmanager
    async def lifespan(_app: FastAPI) -> AsyncIterator[None]:
        yield
        await run_in_threadpool(jobs.end_all)
        await run_in_threadpool(sessions.end_all)

    app = FastAPI(title="Mud Lamp", docs_url=None, redoc_url=None, openapi_url="/api/v1/openapi.json", lifespan=lifespan)
    app.state.context = Context(
        engine=engine,
        sessions=sessions,
        waters=Waters(library, script_rest_s=settings.script_rest_s),
        library=library,
        jobs=jobs,
        cards=Cards(engine, jobs),
        settings=settings,
        build=_build(),
    )

    @app.middleware("http")
    async def turn_away(request: Request, go_on: Callable[[Request], Awaitable[Response]]) -> Response:
        state = request.scope.get("state", {})
        if "refused" in state:
            return await _handled(app, request, HTTPException(403, state["refused"]))
        if "too_large" in state:
            return await _handled(app, request, HTTPException(413, f"The request is larger than {state['too_large']} bytes."))
        return await go_on(request)

    add_error_answers(app)
    for module in (lamp, live, log, status, tune, rig, advice, api, library_api):
        app.include_router(module.router)
    app.mount("/static", StaticFiles(directory=HERE / "static"), name="static")
    app.add_middleware(
        Guard, hosts=settings.hosts, most_bytes=settings.upload_bytes, larger={library_api.UPLOAD_PATH: settings.recording_bytes}
    )
    return app


async def _handled(app: FastAPI, request: Request, error: HTTPException) -> Response:
    answer: Response = await app.exception_handlers[HTTPException](request, error)  # type: ignore[misc]
    return answer
