"""The lure box and the rods of a rig."""

import uuid

from fastapi import APIRouter, Request
from fastapi.responses import HTMLResponse

from mudlamp.services.edge.forms import Read
from mudlamp.services.rig.desk import OpenRig
from mudlamp.web.context import At, Form, in_place, render
from mudlamp.web.rig.box_view import box_view
from mudlamp.web.rig.routes import Own

router = APIRouter(prefix="/rig", include_in_schema=False)


@router.post("/{key}/lures")
def add_lure(request: Request, house: At, own: Own, given: Form) -> HTMLResponse:
    """Put a lure into the box."""
    rig, found = house.rigs.add_lure(own, given, now=house.now())
    return _box(request, rig, lure=found)


@router.delete("/{key}/lures/{lure}")
def remove_lure(request: Request, house: At, own: Own, lure: uuid.UUID) -> HTMLResponse:
    """Take a lure out of the box."""
    return _box(request, house.rigs.remove_lure(own, lure))


@router.post("/{key}/rods")
def add_rod(request: Request, house: At, own: Own, given: Form) -> HTMLResponse:
    """Put a rod aboard."""
    rig, found = house.rigs.add_rod(own, given, now=house.now())
    return _box(request, rig, rod=found)


@router.post("/{key}/rods/{rod}/lure")
def tie(request: Request, house: At, own: Own, rod: uuid.UUID, given: Form) -> HTMLResponse:
    """Tie a lure on a rod (or none) and take it in hand."""
    return _box(request, house.rigs.tie(own, rod, given.get("lure", "")))


@router.delete("/{key}/rods/{rod}")
def remove_rod(request: Request, house: At, own: Own, rod: uuid.UUID) -> HTMLResponse:
    """Take a rod off the boat."""
    return _box(request, house.rigs.remove_rod(own, rod))


def _box(request: Request, rig: OpenRig, *, lure: Read | None = None, rod: Read | None = None) -> HTMLResponse:
    wrong = any(found is not None and found.problems for found in (lure, rod))
    view = box_view(rig, lure=lure, rod=rod)
    return in_place(render(request, "rig/_box.html", view, status=422 if wrong else 200), "#_box")
