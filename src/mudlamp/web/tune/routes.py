"""The Tune page: ask, the card, its costs, auto-tune, moves, symptoms, baselines, print, and trying it on the Lamp."""

import datetime as dt
import uuid
from collections.abc import Mapping
from typing import Annotated, Any

from fastapi import APIRouter, Depends, HTTPException, Request
from fastapi.responses import HTMLResponse, RedirectResponse, Response

from mudlamp.core.advice.retune import Value
from mudlamp.core.advice.styles import Style
from mudlamp.core.advice.symptoms import Cause, Symptom
from mudlamp.core.errors import DomainError
from mudlamp.core.receiver.setup import checked_setup
from mudlamp.services.cards import questions as asking
from mudlamp.services.cards.advising import scene_keys
from mudlamp.services.cards.desk import OpenCard
from mudlamp.services.cards.questions import Asked
from mudlamp.services.edge import forms
from mudlamp.services.edge.controls import apply_receiver, receiver_values
from mudlamp.services.jobs import Job, JobState
from mudlamp.services.water.from_answers import scene_text
from mudlamp.services.water.plans import Plan
from mudlamp.services.words import card as card_words
from mudlamp.services.words.symptoms import SEEN, SHOWS, shown_controls, shown_scene, suspect_words
from mudlamp.store import cards as store
from mudlamp.store import rigs as rig_store
from mudlamp.web.context import Context, angler_of, context_of, device_of, in_place, owner_of, render
from mudlamp.web.tune.paper import card_pdf
from mudlamp.web.tune.views import (
    NOW_FIELDS,
    Named,
    SuspectsView,
    ask_view,
    card_view,
    compare_view,
    job_view,
    tune_view,
)

router = APIRouter(prefix="/tune", include_in_schema=False)
Own = Annotated[Context, Depends(context_of)]
NO_CARD = "There is no card of that key of yours."


async def form_of(request: Request) -> Mapping[str, str]:
    """Return the texts of a posted form (a FastAPI dependency)."""
    return {name: str(value) for name, value in (await request.form()).items()}


Form = Annotated[Mapping[str, str], Depends(form_of)]


def _open(request: Request, context: Context, key: uuid.UUID) -> OpenCard:
    found = context.cards.open(owner_of(request, context), key)
    if found is None:
        raise HTTPException(404, NO_CARD)
    return found


def _style(text: str) -> Style:
    if text not in list(Style):
        raise DomainError(f"style is {text[:20]}: it must be one of {', '.join(Style)}")
    return Style(text)


@router.get("")
def tune(request: Request, context: Own, card: uuid.UUID | None = None) -> HTMLResponse:
    """Show the Tune page with the card that is set, or another of the owner's."""
    owner = owner_of(request, context)
    one = context.cards.newest(owner) if card is None else _open(request, context, card)
    texts = {} if one is None else dict(one.kept.answers["texts"])
    asked = Asked(answers=None, problems={}, texts=texts)
    style = Style.BALANCED.value if one is None else one.kept.style
    has_rig = rig_store.active_rig(context.engine, owner) is not None
    view = tune_view(asked, style, one, _move_to(context, one), store.baselines(context.engine, owner), has_rig=has_rig)
    return render(request, "tune/page.html", view)


def _move_to(context: Context, one: OpenCard | None) -> Any:
    """Return the move that led to a card, or None where none did."""
    if one is None or one.kept.parent_id is None:
        return None
    before = context.cards.open(one.kept.owner, one.kept.parent_id)
    return None if before is None else context.cards.move(one, before)


@router.post("")
def ask(request: Request, context: Own, given: Form) -> HTMLResponse:
    """Answer with a card; where something is wrong the form comes back with it, and nothing of it is lost."""
    owner = owner_of(request, context)
    style = _style(given.get("style", "balanced"))
    one, asked = context.cards.ask(owner, given, style=style, now=context.now())
    if one is None:
        return in_place(render(request, "tune/_ask.html", ask_view(asked.texts, asked.problems, style.value), status=422), "#_ask")
    return _page_at(one)


def _page_at(one: OpenCard) -> HTMLResponse:
    """Answer htmx with another page."""
    return HTMLResponse("", headers={"HX-Redirect": f"/tune?card={one.kept.id}"})


@router.get("/cards/{key}")
def card(request: Request, context: Own, key: uuid.UUID) -> HTMLResponse:
    """Show a card alone."""
    one = _open(request, context, key)
    return render(request, "tune/_card.html", card_view(one, _move_to(context, one)))


@router.get("/cards/{key}/costs")
def costs(request: Request, context: Own, key: uuid.UUID, job: uuid.UUID | None = None) -> HTMLResponse:
    """Show how far the measuring is; the whole card, once it is done."""
    return _follow(request, context, key, "costs", job)


@router.post("/cards/{key}/auto")
def start_tuning(request: Request, context: Own, key: uuid.UUID) -> HTMLResponse:
    """Start the search."""
    return _follow(request, context, key, "tuned", None)


@router.get("/cards/{key}/tuned")
def tuned(request: Request, context: Own, key: uuid.UUID, job: uuid.UUID | None = None) -> HTMLResponse:
    """Show how far the search is; the whole card, once it is done."""
    return _follow(request, context, key, "tuned", job)


def _follow(request: Request, context: Context, key: uuid.UUID, kind: str, job_key: uuid.UUID | None) -> HTMLResponse:
    one, device = _open(request, context, key), device_of(request)
    found: Job | None = None if job_key is None else context.jobs.find(device, job_key)
    if found is None:
        found = context.cards.measuring(device, one) if kind == "costs" else context.cards.tuning(device, one)
    if found.view().state is JobState.DONE:
        again = _open(request, context, key)
        return in_place(render(request, "tune/_card.html", card_view(again, _move_to(context, again))), "#card")
    return render(request, "tune/_card_job.html", job_view(one, kind, found))


@router.post("/cards/{key}/take")
def take(request: Request, context: Own, key: uuid.UUID, what: str = "tuned") -> HTMLResponse:
    """Set the card as auto-tune found it, or as a style would."""
    one = _open(request, context, key)
    changed = context.cards.take_tuned(one) if what == "tuned" else context.cards.take_style(one, _style(what))
    return render(request, "tune/_card.html", card_view(changed, _move_to(context, changed)))


@router.post("/cards/{key}/move")
def move(request: Request, context: Own, key: uuid.UUID, given: Form) -> HTMLResponse:
    """After a move: a new card from what changed, and only the differences said."""
    before = _open(request, context, key)
    texts = dict(before.kept.answers["texts"])
    for name in asking.MOVE:
        if name in given:
            texts[name] = given[name]
    # Another clarity word counts before the jig's depth of the place before.
    if given.get("clarity") != before.kept.answers["texts"].get("clarity") and given.get("jig_gone_ft") == before.kept.answers["texts"].get(
        "jig_gone_ft"
    ):
        texts["jig_gone_ft"] = ""
    texts["at"] = ""
    one, asked = context.cards.ask(owner_of(request, context), texts, style=before.card.style, now=context.now(), before=before)
    if one is None:
        name, message = next(iter(asked.problems.items()))
        raise DomainError(message if name in asking.MOVE else f"{message} (ask again to correct it)")
    return _page_at(one)


@router.get("/cards/{key}/symptoms")
def symptoms(request: Request, context: Own, key: uuid.UUID, symptom: str = "") -> HTMLResponse:
    """Rank the causes of a symptom for this card, with the controls as they stand."""
    one = _open(request, context, key)
    if symptom not in list(Symptom):
        raise DomainError(f"symptom is {symptom[:30] or 'empty'}: it must be one of those in the list")
    found = forms.read(NOW_FIELDS, request.query_params)
    if found.problems:
        raise DomainError(next(iter(found.problems.values())))
    given: dict[str, Value] = {name: value for name, value in found.values.items() if value is not None}
    checked_setup(apply_receiver(one.setup, given))
    suspects = context.cards.suspects(one, Symptom(symptom), given)
    view = SuspectsView(
        card=str(key),
        symptom=symptom,
        seen=SEEN[Symptom(symptom)],
        suspects=[suspect_words(suspect, one.card) for suspect in suspects],
        none=all(suspect.share == 0.0 for suspect in suspects),
    )
    return render(request, "tune/_suspects.html", view)


# On the Lamp.


def _to_lamp(request: Request, context: Context, plan: Plan, a: Mapping[str, Any], b: Mapping[str, Any] | None) -> Response:
    """Open a water with set-up A, and B beside it on the twin picture; then go to the Lamp."""
    angler = angler_of(request, context)
    session = context.sessions.open(device_of(request), plan, angler_id=None if angler is None else angler.id, anew=True)
    session.command({"type": "set", "side": "a", "seq": 0, "values": dict(a)})
    if b is not None:
        session.command({"type": "twin", "do": "on"})
        session.command({"type": "set", "side": "b", "seq": 0, "values": dict(b)})
    return (
        HTMLResponse("", headers={"HX-Redirect": "/"})
        if request.headers.get("HX-Request") == "true"
        else RedirectResponse("/", status_code=303)
    )


@router.post("/cards/{key}/try")
def try_it(request: Request, context: Own, key: uuid.UUID) -> Response:
    """Open the Lamp on this card's water with its set-up, beside the former one: the card before a move, else the planner's own start."""
    one = _open(request, context, key)
    before = None if one.kept.parent_id is None else context.cards.open(one.kept.owner, one.kept.parent_id)
    former = before.setup if before is not None else one.card.setup
    if former == one.setup:
        former = next((setup for style, setup in one.card.setups.items() if style is not one.card.style and setup != one.setup), former)
    card_now = one.card
    keys = scene_keys(card_now, one.aboard, title=f"{card_words.headline(card_now)}"[:120])
    keys["transducer"] |= {"down_to_m": one.window.down_to_m, "reach_m": one.window.reach_m}
    return _to_lamp(request, context, context.waters.scene_file(scene_text(keys)), receiver_values(one.setup), receiver_values(former))


@router.post("/cards/{key}/show")
def show(request: Request, context: Own, key: uuid.UUID, cause: str) -> Response:
    """Open the bench with a fault, the cure beside it as far as controls can."""
    one = _open(request, context, key)
    if cause not in list(Cause) or Cause(cause) not in SHOWS:
        raise DomainError(f"cause is {cause[:30]}: it must be one that the bench can show")
    keys = scene_keys(one.card, one.aboard, title="")
    text = scene_text(shown_scene(Cause(cause), keys))
    a, b = shown_controls(Cause(cause), one.setup)
    return _to_lamp(request, context, context.waters.scene_file(text), a, b)


# Baselines.


@router.post("/cards/{key}/name")
def name(request: Request, context: Own, key: uuid.UUID, given: Form) -> HTMLResponse:
    """Name a card: a baseline."""
    _open(request, context, key)
    store.set_name(context.engine, owner_of(request, context), key, _name(given))
    return _list(request, context)


def _name(given: Mapping[str, str]) -> str:
    cleaned = " ".join(given.get("name", "").split())
    if not 1 <= len(cleaned) <= 60:
        raise DomainError(f"name is {len(cleaned)} characters long: it must be 1 to 60 characters")
    return cleaned


@router.post("/cards/{key}/copy")
def copy(request: Request, context: Own, key: uuid.UUID, given: Form) -> HTMLResponse:
    """Copy a baseline under another name."""
    if store.copy_card(context.engine, owner_of(request, context), key, _name(given)) is None:
        raise HTTPException(404, NO_CARD)
    return _list(request, context)


@router.delete("/cards/{key}")
def delete(request: Request, context: Own, key: uuid.UUID) -> HTMLResponse:
    """Delete a baseline."""
    if not store.remove_card(context.engine, owner_of(request, context), key):
        raise HTTPException(404, NO_CARD)
    return _list(request, context)


def _list(request: Request, context: Context) -> HTMLResponse:
    owner = owner_of(request, context)
    asked = Asked(answers=None, problems={}, texts={})
    view = tune_view(asked, "balanced", None, None, store.baselines(context.engine, owner), has_rig=True)
    return render(request, "tune/_baselines.html", view)


@router.get("/compare")
def compare(request: Request, context: Own, a: uuid.UUID | None = None, b: uuid.UUID | None = None) -> HTMLResponse:
    """Show two cards side by side."""
    if a is None or b is None:
        raise DomainError("two baselines must be chosen: one for each side")
    first, second = _open(request, context, a), _open(request, context, b)
    return render(request, "tune/_compare.html", compare_view(first, second, context.cards.move(second, first)))


# On paper.


@router.get("/cards/{key}/print")
def print_page(request: Request, context: Own, key: uuid.UUID) -> HTMLResponse:
    """Show a card as a page to be printed."""
    return render(request, "tune/print.html", card_view(_open(request, context, key)))


@router.get("/cards/{key}/card.pdf")
def pdf(request: Request, context: Own, key: uuid.UUID) -> Response:
    """Return a card as a PDF of one page."""
    content = card_pdf(card_view(_open(request, context, key)))
    return Response(content, media_type="application/pdf", headers={"Content-Disposition": 'attachment; filename="set-up-card.pdf"'})


@router.get("/stale")
def stale(request: Request, context: Own) -> Response:
    """Say why the card that is set has grown stale; nothing while it holds, while a shot is out, or soon after it was said."""
    one = context.cards.newest(owner_of(request, context))
    if one is None:
        return Response(status_code=204)
    session = context.sessions.of_device(device_of(request))
    cause = context.cards.stale(one, now=dt.datetime.now(dt.UTC), shot_out=session is not None and session.shot_out)
    if cause is None:
        return Response(status_code=204)
    return render(request, "tune/_stale.html", Named(value=str(one.kept.id), label=card_words.STALE_WORDS[cause]))
