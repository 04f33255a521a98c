"""The Tune page: ask, the card, its costs, auto-tune, moves, symptoms, staleness, print, and trying it on the Lamp."""

import uuid
from typing import Annotated

from fastapi import APIRouter, Depends, Request
from fastapi.responses import HTMLResponse, Response

from mudlamp.core.advice.retune import Move
from mudlamp.core.advice.styles import Style
from mudlamp.core.advice.symptoms import Cause, Symptom
from mudlamp.core.controls import CONTROLS, ON_CARD
from mudlamp.core.errors import DomainError, MissingError, require_choice
from mudlamp.core.setup import Setting
from mudlamp.services.cards import questions
from mudlamp.services.cards.desk import OnTheLamp, OpenCard
from mudlamp.services.edge import forms
from mudlamp.services.edge.controls import BY_NAME, read_settings
from mudlamp.services.example import EXAMPLE_KEY, example_card
from mudlamp.services.house import House
from mudlamp.services.jobs import Job, JobState
from mudlamp.services.words.card import STALE_WORDS, own_line
from mudlamp.web.context import At, Form, Visitor, Who, go_to, in_place, render
from mudlamp.web.times import local
from mudlamp.web.tune.asking_view import next_view
from mudlamp.web.tune.card_view import card_view, job_view
from mudlamp.web.tune.paper import card_pdf
from mudlamp.web.tune.views import NOW_FIELDS, EndedView, StaleView, ask_view, suspects_view, tune_view

router = APIRouter(prefix="/tune", include_in_schema=False)
NO_CARD = "You have no card with that key."


def open_card(house: At, who: Who, key: uuid.UUID) -> OpenCard:
    """Return the card of the path's key (a FastAPI dependency)."""
    found = house.cards.open(who.owner, key)
    if found is None:
        raise MissingError(NO_CARD)
    return found


Own = Annotated[OpenCard, Depends(open_card)]


def style_of(text: str) -> Style:
    """Return a style by its name; raise DomainError for a name that is none."""
    if text not in list(Style):
        raise DomainError(f"style is {text[:20]}: it must be one of {', '.join(Style)}")
    return Style(text)


def _move_to(house: House, one: OpenCard | None) -> Move | None:
    """Return the move that led to a card, or None where none did."""
    before = None if one is None else house.cards.before(one)
    return None if one is None or before is None else house.cards.move(one, before)


def _card(request: Request, house: House, one: OpenCard) -> HTMLResponse:
    return render(request, "tune/_card.html", card_view(one, _move_to(house, one)))


@router.get("")
def tune(request: Request, house: At, who: Who, card: uuid.UUID | None = None) -> HTMLResponse:
    """Show the Tune page with the card that is set, or another of the owner's; with the demo's while there is none of one's own."""
    one = house.cards.newest(who.owner) if card is None else open_card(house, who, card)
    has_rig, baselines = house.rigs.active(who.owner) is not None, house.cards.baselines(who.owner)
    if one is None:
        return render(request, "tune/page.html", tune_view(example_card(), None, baselines, has_rig=has_rig, is_demo=True))
    return render(request, "tune/page.html", tune_view(one, _move_to(house, one), baselines, has_rig=has_rig, is_demo=False))


@router.post("")
def ask(request: Request, house: At, who: Who, given: Form) -> HTMLResponse:
    """Answer with a card; where something is wrong the form comes back with it, and nothing of it is lost."""
    style = style_of(given.get("style", Style.BALANCED.value))
    one, asked = house.cards.ask(who.owner, given, style=style, now=local(house.now()))
    if one is None:
        return in_place(render(request, "tune/_ask.html", ask_view(asked.texts, asked.problems, style), status=422), "#_ask")
    return go_to(f"/tune?card={one.kept.id}")


@router.get("/cards/{key}")
def card(request: Request, house: At, own: Own) -> HTMLResponse:
    """Show a card alone."""
    return _card(request, house, own)


@router.get("/cards/{key}/picture.png")
def picture(house: At, who: Who, key: uuid.UUID, control: str = "", value: float = 0.0, size: str = "small") -> Response:
    """Return a picture of a card's water, a control set to another value in it, if given; the demo's card is everybody's."""
    one = house.cards.open(who.owner, key)
    if one is None and key == EXAMPLE_KEY:
        one = example_card()
    if one is None:
        raise MissingError(NO_CARD)
    changed = None
    if control:
        require_choice("control", control, tuple(one.name for one in ON_CARD))
        changed = Setting(control=CONTROLS[control], value=CONTROLS[control].checked(value))
    content = house.cards.pictures.png(key, one.plan, one.plan.card.start, changed=changed, size=size)
    return Response(content, media_type="image/png", headers={"Cache-Control": "private, max-age=86400, immutable"})


@router.get("/cards/{key}/next")
def next_question(request: Request, house: At, own: Own, without: str = "") -> HTMLResponse:
    """Show the question whose answer could change a card most; or that there is none."""
    skipped = tuple(name for name in without.split(",") if name)
    return render(request, "tune/_next.html", next_view(own, house.cards.next_question(own, skipped), skipped))


@router.post("/cards/{key}/answer")
def answer_more(house: At, who: Who, own: Own, given: Form) -> HTMLResponse:
    """Build the card of the same answers and one more."""
    one, asked = house.cards.ask_more(who.owner, own, given, now=local(house.now()))
    if one is None:
        raise DomainError(next(iter(asked.problems.values())))
    return go_to(f"/tune?card={one.kept.id}")


@router.post("/cards/{key}/costs")
def measure(request: Request, house: At, who: Who, own: Own) -> HTMLResponse:
    """Start measuring what each setting costs."""
    return _follow(request, house, own, "costs", house.cards.measure(who.device, own))


@router.post("/cards/{key}/tuned")
def auto_tune(request: Request, house: At, who: Who, own: Own) -> HTMLResponse:
    """Start the search."""
    return _follow(request, house, own, "tuned", house.cards.tune(who.device, own))


@router.get("/cards/{key}/costs")
def costs(request: Request, house: At, who: Who, own: Own, job: uuid.UUID) -> HTMLResponse:
    """Show how far the measuring is; the whole card, once it is done."""
    return _follow(request, house, own, "costs", house.jobs.find(who.device, job))


@router.get("/cards/{key}/tuned")
def tuned(request: Request, house: At, who: Who, own: Own, job: uuid.UUID) -> HTMLResponse:
    """Show how far the search is; the whole card, once it is done."""
    return _follow(request, house, own, "tuned", house.jobs.find(who.device, job))


def _follow(request: Request, house: House, one: OpenCard, kind: str, job: Job | None) -> HTMLResponse:
    if job is not None and job.view().state is JobState.DONE:
        again = house.cards.open(one.kept.owner, one.kept.id)
        return in_place(_card(request, house, one if again is None else again), "#card")
    return render(request, "tune/_card_job.html", job_view(one, kind, job))


@router.post("/cards/{key}/take")
def take(request: Request, house: At, own: Own, what: str = "tuned") -> HTMLResponse:
    """Set the card as auto-tune found it, or as a style would."""
    changed = house.cards.take_tuned(own) if what == "tuned" else house.cards.take_style(own, style_of(what))
    return _card(request, house, changed)


@router.post("/cards/{key}/ended")
def ended(request: Request, house: At, who: Who, own: Own, control: str, value: float) -> HTMLResponse:
    """Note where the angler ended with a control; say how far their next card will start from ours."""
    setting = _learned_setting(control, value)
    house.cards.ended(who.owner, own, setting, now=local(house.now()))
    shift = house.cards.own_shift(who.owner, own, setting.control)
    said = "" if shift is None else f"Noted. Next time {own_line(setting.control, shift)}."
    return render(request, "tune/_ended.html", EndedView(card=str(own.kept.id), control=control, said=said, forgettable=True))


@router.post("/cards/{key}/forget")
def forget(request: Request, house: At, who: Who, own: Own, control: str) -> HTMLResponse:
    """Forget where the angler ended with a control."""
    setting = _learned_setting(control, 0.0)
    house.cards.forget_hand(who.owner, setting.control)
    view = EndedView(card=str(own.kept.id), control=control, said="Forgotten. Your next card starts where ours does.", forgettable=False)
    return render(request, "tune/_ended.html", view)


def _learned_setting(control: str, value: float) -> Setting:
    require_choice("control", control, tuple(one.name for one in ON_CARD))
    return Setting(control=CONTROLS[control], value=value)


@router.post("/cards/{key}/move")
def move(house: At, who: Who, own: Own, given: Form) -> HTMLResponse:
    """After a move: a new card from what changed, and only the differences said."""
    one, asked = house.cards.ask_moved(who.owner, own, given, now=local(house.now()))
    if one is None:
        name, message = next(iter(asked.problems.items()))
        raise DomainError(message if name in questions.MOVE else f"{message} (ask again to correct it)")
    return go_to(f"/tune?card={one.kept.id}")


@router.get("/cards/{key}/symptoms")
def symptoms(request: Request, house: At, own: Own, symptom: str = "") -> HTMLResponse:
    """Rank the causes of a symptom for this card, with the controls as they stand."""
    if symptom not in list(Symptom):
        raise DomainError(f"symptom is {symptom[:30] or 'empty'}: it must be one of those in the list")
    found = forms.read(NOW_FIELDS, request.query_params)
    if found.problems:
        raise DomainError(next(iter(found.problems.values())))
    given = {name: value for name, value in found.values.items() if value is not None}
    now_set = read_settings(given, (BY_NAME[one.name].control for one in NOW_FIELDS))
    return render(
        request, "tune/_suspects.html", suspects_view(own, Symptom(symptom), house.cards.suspects(own, Symptom(symptom), now_set))
    )


# On the Lamp.


def _to_lamp(house: House, who: Visitor, wanted: OnTheLamp) -> Response:
    """Open a water with set-up A, and B beside it on the twin picture; then go to the Lamp."""
    screen = house.rigs.screen_of(house.rigs.active(who.owner))
    plan = house.waters.made(wanted.scene)
    house.sessions.open_beside(who.device, plan, a=wanted.a, b=wanted.b, angler_id=who.angler_id, screen=screen)
    return go_to("/")


@router.post("/cards/{key}/try")
def try_it(house: At, who: Who, own: Own) -> Response:
    """Open the Lamp on this card's water with its set-up, beside the former one."""
    return _to_lamp(house, who, house.cards.to_try(own))


@router.post("/cards/{key}/show")
def show(house: At, who: Who, own: Own, cause: str) -> Response:
    """Open the bench with a fault, the cure beside it as far as controls can."""
    if cause not in list(Cause):
        raise DomainError(f"cause is {cause[:30]}: it must be one that the bench can show")
    return _to_lamp(house, who, house.cards.to_show(own, Cause(cause)))


# On paper.


@router.get("/cards/{key}/print")
def print_page(request: Request, own: Own) -> HTMLResponse:
    """Show a card as a page to be printed."""
    return render(request, "tune/print.html", card_view(own))


@router.get("/cards/{key}/card.pdf")
def pdf(house: At, own: Own) -> Response:
    """Return a card as a PDF of one page."""
    start = own.plan.card.start
    content = card_pdf(card_view(own), lambda look: house.cards.pictures.png(own.kept.id, own.plan, start, changed=look.setting))
    return Response(content, media_type="application/pdf", headers={"Content-Disposition": 'attachment; filename="set-up-card.pdf"'})


@router.get("/stale")
def stale(request: Request, house: At, who: Who) -> Response:
    """Say why the card that is set has grown stale; nothing while it holds, while a shot is out, or soon after it was said."""
    one = house.cards.newest(who.owner)
    if one is None:
        return Response(status_code=204)
    session = house.sessions.of_device(who.device)
    cause = house.cards.stale(one, now=house.now(), shot_out=session is not None and session.shot_out)
    if cause is None:
        return Response(status_code=204)
    return render(request, "tune/_stale.html", StaleView(card=str(one.kept.id), why=STALE_WORDS[cause]))


@router.post("/cards/{key}/noticed")
def noticed(house: At, own: Own) -> Response:
    """Note that the angler was shown that a card has grown stale."""
    house.cards.note_stale(own.kept.owner, own.kept.id, now=house.now())
    return Response(status_code=204)
