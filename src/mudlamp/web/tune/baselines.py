"""Baselines: cards with a name, their copies, and two side by side."""

import uuid

from fastapi import APIRouter, Request
from fastapi.responses import HTMLResponse

from mudlamp.core.errors import DomainError, MissingError
from mudlamp.services.house import House
from mudlamp.web.context import At, Form, Visitor, Who, render
from mudlamp.web.tune.routes import NO_CARD, open_card
from mudlamp.web.tune.views import baselines_view, compare_view

router = APIRouter(prefix="/tune", include_in_schema=False)


def _list(request: Request, house: House, who: Visitor, *, there: bool) -> HTMLResponse:
    if not there:
        raise MissingError(NO_CARD)
    return render(request, "tune/_baselines.html", baselines_view(house.cards.baselines(who.owner)))


@router.post("/cards/{key}/name")
def name(request: Request, house: At, who: Who, key: uuid.UUID, given: Form) -> HTMLResponse:
    """Name a card: a baseline."""
    return _list(request, house, who, there=house.cards.name(who.owner, key, given.get("name", "")))


@router.post("/cards/{key}/copy")
def copy(request: Request, house: At, who: Who, key: uuid.UUID, given: Form) -> HTMLResponse:
    """Copy a baseline under another name."""
    return _list(request, house, who, there=house.cards.copy(who.owner, key, given.get("name", "")))


@router.delete("/cards/{key}")
def delete(request: Request, house: At, who: Who, key: uuid.UUID) -> HTMLResponse:
    """Delete a baseline."""
    return _list(request, house, who, there=house.cards.remove(who.owner, key))


@router.get("/compare")
def compare(request: Request, house: At, who: Who, a: uuid.UUID | None = None, b: uuid.UUID | None = None) -> HTMLResponse:
    """Show two cards side by side."""
    if a is None or b is None:
        raise DomainError("pick two baselines: one for each side")
    first, second = open_card(house, who, a), open_card(house, who, b)
    return render(request, "tune/_compare.html", compare_view(first, second, house.cards.move(second, first)))
