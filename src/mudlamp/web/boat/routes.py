"""Boat mode's page, what makes it an app, the pack, the sheet to laminate, and clashes settled."""

import uuid
from collections.abc import Sequence
from dataclasses import dataclass

from fastapi import APIRouter, Request, UploadFile
from fastapi.responses import HTMLResponse, RedirectResponse, Response

from mudlamp.core.errors import MissingError, require_choice
from mudlamp.services.boat.given import batch_of
from mudlamp.services.boat.pack import pack_of
from mudlamp.services.boat.sheet import Sheet, sheet_of
from mudlamp.web.context import HERE, At, Form, Who, go_to, render, templates
from mudlamp.web.times import when

router = APIRouter(prefix="/boat", include_in_schema=False)
NO_PACK = "You have no trip pack yet: press Take it along on a card, or here."
# What the page is made of besides itself: kept on the phone when it is opened with a link.
SCRIPTS = (
    "boat/page.js",
    "boat/keep.js",
    "boat/queue.js",
    "boat/cast.js",
    "boat/count.js",
    "boat/setup.js",
    "boat/log.js",
    "boat/keys.js",
    "boat/thumb.js",
)


@dataclass(frozen=True, slots=True, kw_only=True)
class BoatView:
    """What the page is made of."""

    build: str


@dataclass(frozen=True, slots=True, kw_only=True)
class WorkerView:
    """What a phone keeps to open the page without a link."""

    build: str
    files: Sequence[str]


@dataclass(frozen=True, slots=True, kw_only=True)
class SheetView:
    """The sheet to laminate, and when its pack was made."""

    sheet: Sheet
    at: str


@router.get("")
def boat(request: Request) -> HTMLResponse:
    """Show boat mode: Cast, Set-up and Log, on one page that opens without a link, too."""
    return render(request, "boat/page.html", BoatView(build=request.app.state.build))


@router.get("/worker.js")
def worker(request: Request) -> Response:
    """Return the script that keeps the page on the phone."""
    files = [
        "/boat",
        "/boat/app.webmanifest",
        f"/static/built/app.css?{request.app.state.build}",
        f"/static/lamp.svg?{request.app.state.build}",
        "/static/vendor/atkinson-hyperlegible-next-latin-wght-normal.woff2",
        "/static/js/shared/speak.js",
        "/static/js/shared/jobs.js",
        *(f"/static/js/{name}" for name in SCRIPTS[1:]),
        f"/static/js/{SCRIPTS[0]}?{request.app.state.build}",
    ]
    text = templates.get_template("boat/worker.js").render(view=WorkerView(build=request.app.state.build, files=files))
    return Response(text, media_type="text/javascript", headers={"Cache-Control": "no-cache", "Service-Worker-Allowed": "/boat"})


@router.get("/app.webmanifest")
def manifest() -> Response:
    """Return what a phone needs to install the page as an app."""
    return Response((HERE / "static" / "boat.webmanifest").read_bytes(), media_type="application/manifest+json")


@router.get("/print")
def print_page(request: Request, house: At, who: Who) -> HTMLResponse:
    """Show the sheet to laminate: counts for every rod, what to set at each depth."""
    kept = house.boat.pack(who.owner)
    pack = None if kept is None else pack_of(kept.content)
    if kept is None or pack is None:
        raise MissingError(NO_PACK)
    return render(request, "boat/print.html", SheetView(sheet=sheet_of(pack), at=when(kept.made_at)))


@router.post("/file")
def bring_file(house: At, who: Who, queue: UploadFile) -> Response:
    """Take in a queue that left the phone as a file: what came by itself before is not taken twice."""
    text = queue.file.read().decode("utf-8", errors="replace")
    house.boat.take_in(who.owner, who.device, batch_of(text))
    return RedirectResponse("/log", status_code=303)


@router.post("/clashes/{key}")
def settle(house: At, who: Who, key: uuid.UUID, given: Form) -> HTMLResponse:
    """Settle two entries that came under one key: keep the first, the second, or both."""
    keep = given.get("keep", "")
    require_choice("keep", keep, ("first", "second", "both"))
    house.boat.settle(who.owner, key, keep=keep)
    return go_to("/log")
