"""The application, put together."""

import contextlib
import hashlib
from collections.abc import AsyncIterator, Awaitable, Callable

from fastapi import FastAPI, Request
from fastapi.responses import Response
from fastapi.staticfiles import StaticFiles
from starlette.concurrency import run_in_threadpool
from starlette.exceptions import HTTPException

from mudlamp.services.doors.names import Doors
from mudlamp.services.house import House
from mudlamp.services.trips.track import MOST_BYTES as MOST_TRACK_BYTES
from mudlamp.web.api import advice, boat, cast, library, marks, sessions
from mudlamp.web.api import find as find_api
from mudlamp.web.boat import routes as boat_page
from mudlamp.web.cast import routes as cast_page
from mudlamp.web.context import HERE
from mudlamp.web.cookies import Seal
from mudlamp.web.door import routes as door
from mudlamp.web.errors import add_error_answers
from mudlamp.web.find import routes as find_page
from mudlamp.web.guard import Guard
from mudlamp.web.lamp import routes as lamp
from mudlamp.web.lamp import socket
from mudlamp.web.log import keep, launch, review, shots, spots, trips
from mudlamp.web.log import routes as log
from mudlamp.web.rig import box as rig_box
from mudlamp.web.rig import routes as rig
from mudlamp.web.status import routes as status
from mudlamp.web.tune import baselines
from mudlamp.web.tune import routes as tune

# In this order: a path that takes any word stands behind those that name theirs.
ROUTERS = (
    lamp,
    socket,
    launch,
    trips,
    shots,
    keep,
    review,
    spots,
    log,
    status,
    tune,
    baselines,
    rig_box,
    rig,
    cast_page,
    boat_page,
    find_page,
    door,
    find_api,
    marks,
    advice,
    cast,
    boat,
    sessions,
    library,
)


def _build() -> str:
    """Return a short digest of all static files: it stands in their addresses, so that browsers never keep an old one."""
    digest = hashlib.sha256()
    for path in sorted((HERE / "static").rglob("*")):
        if path.is_file():
            digest.update(path.read_bytes())
    return digest.hexdigest()[:10]


def make_app(house: House, doors: Doors | None = None) -> FastAPI:
    """Return the application of a house; `doors` are how other machines reach it, where they do."""

    @contextlib.asynccontextmanager
    async def lifespan(_app: FastAPI) -> AsyncIterator[None]:
        yield
        await run_in_threadpool(house.close)

    app = FastAPI(title="Mud Lamp", docs_url=None, redoc_url=None, openapi_url="/api/v1/openapi.json", lifespan=lifespan)
    app.state.house, app.state.build, app.state.doors = house, _build(), doors
    seal = app.state.seal = Seal(house.secrets)

    @app.middleware("http")
    async def turn_away(request: Request, go_on: Callable[[Request], Awaitable[Response]]) -> Response:
        state = request.scope.get("state", {})
        if "refused" in state:
            return await _handled(app, request, HTTPException(403, state["refused"]))
        if "too_large" in state:
            return await _handled(app, request, HTTPException(413, f"The request is larger than {state['too_large']} bytes."))
        return await go_on(request)

    add_error_answers(app)
    for module in ROUTERS:
        app.include_router(module.router)
    app.mount("/static", StaticFiles(directory=HERE / "static"), name="static")
    settings = house.settings
    app.add_middleware(
        Guard,
        seal=seal,
        hosts=settings.hosts if doors is None else (*settings.hosts, *doors.hosts),
        most_bytes=settings.upload_bytes,
        larger=dict.fromkeys((library.UPLOAD_PATH, trips.PHOTOS_PATH, keep.ARCHIVE_PATH), settings.recording_bytes)
        | {trips.TRACK_PATH: MOST_TRACK_BYTES},
        acts_as=house.pairing.angler_of,
    )
    return app


async def _handled(app: FastAPI, request: Request, error: HTTPException) -> Response:
    answer: Response = await app.exception_handlers[HTTPException](request, error)  # type: ignore[misc]  # registered above, as a coroutine
    return answer
