"""The Cast page: what is asked on one side, what to do on the other."""

import uuid
from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from fastapi import APIRouter, Request
from fastapi.responses import HTMLResponse

from mudlamp.core.errors import DomainError
from mudlamp.services.cast.asked import CastAnswer, CastAsked, answer_of, solved
from mudlamp.services.cast.desk import OwnError
from mudlamp.services.cast.drawing import CastDrawing, drawing_of
from mudlamp.services.cast.form import MAIN, fields, habit_texts, read, texts_of
from mudlamp.services.cast.tackle import RodChoice, chosen_rod, rod_choices, start_of
from mudlamp.services.words.cast import error_words
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
    landed: "LandedView"


@dataclass(frozen=True, slots=True, kw_only=True)
class LandedView:
    """Where the last cast landed, to be tapped, and what was learned; `fields` are the form's own error, to be put there anew."""

    rows: Sequence[tuple[str, float]]
    columns: Sequence[tuple[str, float]]
    said: str
    forgettable: bool
    fields: Sequence[FieldView]


# Where a cast may have landed, as it is tapped: past what was meant, and to its right [ft].
LONG_FT = (("10 long", 10.0), ("5 long", 5.0), ("right on", 0.0), ("5 short", -5.0), ("10 short", -10.0))
RIGHT_FT = (("5 left", -5.0), ("straight", 0.0), ("5 right", 5.0))
OWN_ERROR = ("long_pct", "off_deg")


@router.get("")
def page(request: Request, house: At, who: Who, rod: uuid.UUID | None = None) -> HTMLResponse:
    """Show the page with a usual fish, and the rod in hand."""
    rig = house.rigs.active(who.owner)
    chosen = chosen_rod(rig, rod)
    learned = house.casts.own_error(who.owner)
    start = start_of(rig, chosen) | habit_texts(learned.habit)
    asked, _ = read(start)
    texts = texts_of(asked or CastAsked(range_ft=30.0, depth_ft=12.0))
    every = fields()
    view = CastView(
        main=field_views([every[name] for name in MAIN], texts, prefix="cast"),
        more=field_views([one for name, one in every.items() if name not in MAIN], texts, prefix="cast"),
        rods=rod_choices(rig, chosen),
        answered=answered(start),
        landed=_landed(learned),
    )
    return render(request, "cast/page.html", view)


@router.post("/landed")
def landed(request: Request, house: At, who: Who, given: Form) -> HTMLResponse:
    """Keep where a cast landed, and show what was learned from it."""
    asked, problems = read(given)
    if asked is None:
        raise DomainError("; ".join(problems.values()))
    _, cast = solved(asked)
    long_ft, right_ft = (_number(name, given.get(name, "")) for name in ("landed_long_ft", "landed_right_ft"))
    return _learned(request, house.casts.landed(who.owner, cast, long_ft=long_ft, right_ft=right_ft))


@router.post("/forget")
def forget(request: Request, house: At, who: Who) -> HTMLResponse:
    """Forget where casts landed."""
    return _learned(request, house.casts.forget(who.owner))


def _learned(request: Request, learned: OwnError) -> HTMLResponse:
    """Return what was learned; the form takes it in and the answer is worked out anew."""
    answer = render(request, "cast/_landed.html", _landed(learned, put=True))
    answer.headers["HX-Trigger-After-Swap"] = "cast-learned"
    return answer


def _number(name: str, text: str) -> float:
    try:
        return float(text)
    except ValueError:
        raise DomainError(f"{name} is {text[:20]}: it must be a number of feet") from None


def _landed(learned: OwnError, *, put: bool = False) -> LandedView:
    texts = habit_texts(learned.habit)
    return LandedView(
        rows=LONG_FT,
        columns=RIGHT_FT,
        said=error_words(learned.habit, learned.wanting),
        forgettable=learned.habit.throws > 0,
        fields=field_views([fields()[name] for name in OWN_ERROR], texts, prefix="cast") if put else (),
    )


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
