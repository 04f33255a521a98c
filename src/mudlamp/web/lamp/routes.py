"""The Lamp page, and the list of recordings on it."""

import uuid
from typing import Annotated

from fastapi import APIRouter, Depends, HTTPException, Request
from fastapi.responses import HTMLResponse

from mudlamp.formats.scene.file import load_scene
from mudlamp.services.water.plans import FIRST_SCENE
from mudlamp.services.water.sound import scene_rows
from mudlamp.web.context import Context, context_of, device_of, render
from mudlamp.web.lamp.views import lamp_view, recordings_view

router = APIRouter(include_in_schema=False)
Own = Annotated[Context, Depends(context_of)]
LIST = "lamp/_recordings.html"


@router.get("/")
def lamp(request: Request, context: Own) -> HTMLResponse:
    """Show the Lamp on the water that this browser has open."""
    session = context.sessions.of_device(device_of(request))
    view = lamp_view(None if session is None else session.plan, load_scene(FIRST_SCENE), scene_rows())
    return render(request, "lamp/page.html", view)


@router.get("/recordings")
def recordings(request: Request, context: Own) -> HTMLResponse:
    """Show this browser's recordings."""
    return _list(request, context)


@router.post("/recordings/{key}/kept")
def keep(request: Request, context: Own, key: uuid.UUID, kept: bool) -> HTMLResponse:
    """Keep a recording for good, or let it go."""
    if context.library.set_kept(device_of(request), key, kept) is None:
        raise HTTPException(404, "There is no recording of that key for this browser.")
    return _list(request, context)


@router.delete("/recordings/{key}")
def delete(request: Request, context: Own, key: uuid.UUID) -> HTMLResponse:
    """Delete a recording."""
    if not context.library.remove(device_of(request), key):
        raise HTTPException(404, "There is no recording of that key for this browser.")
    return _list(request, context)


def _list(request: Request, context: Context) -> HTMLResponse:
    return render(request, LIST, recordings_view(context.library.all(device_of(request))))
