"""The Lamp page."""

from fastapi import APIRouter, Request
from fastapi.responses import HTMLResponse

from mudlamp.formats.scene_file import load_scene
from mudlamp.web.context import render
from mudlamp.web.views import lamp_view

FIRST_SCENE = "pear-tree"
router = APIRouter(include_in_schema=False)


@router.get("/")
def lamp(request: Request) -> HTMLResponse:
    """Show the Lamp."""
    return render(request, "pages/lamp.html", lamp_view(load_scene(FIRST_SCENE)))
