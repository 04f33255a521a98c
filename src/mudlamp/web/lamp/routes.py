"""The Lamp page, and the list of recordings on it."""

import uuid

from fastapi import APIRouter, Request
from fastapi.responses import HTMLResponse

from mudlamp.formats.scene.file import load_scene
from mudlamp.services.water.plans import FIRST_SCENE
from mudlamp.services.water.sound import scene_rows
from mudlamp.web.context import At, Who, render
from mudlamp.web.lamp.views import lamp_view
from mudlamp.web.recording_views import recordings_view

router = APIRouter(include_in_schema=False)
LIST = "lamp/_recordings.html"


@router.get("/")
def lamp(request: Request, house: At, who: Who) -> HTMLResponse:
    """Show the Lamp on the water that this browser has open."""
    session = house.sessions.of_device(who.device)
    rig = house.rigs.try_active(who.owner)
    plan = None if session is None else session.plan
    view = lamp_view(plan, load_scene(FIRST_SCENE), scene_rows(), screen=house.rigs.screen_of(rig), has_rig=rig is not None)
    return render(request, "lamp/page.html", view)


@router.get("/recordings")
def recordings(request: Request, house: At, who: Who) -> HTMLResponse:
    """Show one's own recordings."""
    return render(request, LIST, recordings_view(house.library.all(who.owner)))


@router.post("/recordings/{key}/kept")
def keep(request: Request, house: At, who: Who, key: uuid.UUID, kept: bool) -> HTMLResponse:
    """Keep a recording for good, or let it expire."""
    house.library.set_kept(who.owner, key, kept)
    return recordings(request, house, who)


@router.delete("/recordings/{key}")
def delete(request: Request, house: At, who: Who, key: uuid.UUID) -> HTMLResponse:
    """Delete a recording."""
    house.library.remove(who.owner, key)
    return recordings(request, house, who)
