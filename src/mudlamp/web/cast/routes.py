"""The Cast page: what is asked on one side, what to do on the other."""

import uuid
from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from fastapi import APIRouter, Request
from fastapi.responses import HTMLResponse

from mudlamp.core.errors import DomainError
from mudlamp.services.cast.asked import CastAnswer, CastAsked, answer_of, solved
from mudlamp.services.cast.drawing import CastDrawing, drawing_of
from mudlamp.services.cast.form import MAIN, fields, read, texts_of
from mudlamp.services.cast.tackle import RodChoice, chosen_rod, rod_choices, start_of
from mudlamp.web.context import At, Form, Who, render
from mudlamp.web.form_views import FieldView, field_views

router = APIRouter(prefix="/cast", include_in_schema=False)


@dataclass(frozen=True, slots=True, kw_only=True)
class AnswerView:
    """The answer with its drawing, or what is wrong with what was asked."""

    answer: CastAnswer | None
    drawing: CastDrawing | None
    problems: Sequence[str]


@dataclass(frozen=True, slots=True, kw_only=True)
class CastView:
    """The Cast page."""

    main: Sequence[FieldView]
    more: Sequence[FieldView]
    rods: Sequence[RodChoice]
    answered: AnswerView


@router.get("")
def page(request: Request, house: At, who: Who, rod: uuid.UUID | None = None) -> HTMLResponse:
    """Show the page with a usual fish, and the rod in hand."""
    rig = house.rigs.active(who.owner)
    chosen = chosen_rod(rig, rod)
    start = start_of(rig, chosen)
    asked, _ = read(start)
    texts = texts_of(asked or CastAsked(range_ft=30.0, depth_ft=12.0))
    every = fields()
    view = CastView(
        main=field_views([every[name] for name in MAIN], texts, prefix="cast"),
        more=field_views([one for name, one in every.items() if name not in MAIN], texts, prefix="cast"),
        rods=rod_choices(rig, chosen),
        answered=answered(start),
    )
    return render(request, "cast/page.html", view)


@router.post("/answer")
def answer(request: Request, given: Form) -> HTMLResponse:
    """Show the answer to what stands in the form now."""
    return render(request, "cast/_answer.html", answered(given))


def answered(given: Mapping[str, str]) -> AnswerView:
    """Return the answer to a form."""
    asked, problems = read(given)
    if asked is None:
        return AnswerView(answer=None, drawing=None, problems=list(problems.values()))
    try:
        query, found = solved(asked)
    except DomainError as error:
        return AnswerView(answer=None, drawing=None, problems=[str(error)])
    return AnswerView(answer=answer_of(found), drawing=drawing_of(query, found), problems=[])
