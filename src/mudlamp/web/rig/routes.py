"""The Rig page: profiles, their sections, the aim check, the angler's own words with the Gain procedure, lure box and rods."""

import math
import uuid
from collections.abc import Mapping
from dataclasses import replace
from typing import Annotated, Any

from fastapi import APIRouter, Depends, HTTPException, Request
from fastapi.responses import HTMLResponse, RedirectResponse, Response

from mudlamp.core.advice.answers import Answers
from mudlamp.core.errors import DomainError, UnavailableError
from mudlamp.core.rig.mount import aim_correction_rad
from mudlamp.core.rig.profile import RigProfile
from mudlamp.services.cards.desk import rig_of
from mudlamp.services.demo import DEMO_RIG
from mudlamp.services.edge import forms
from mudlamp.services.jobs import Job, JobState
from mudlamp.services.rig.answers import OUR_STEPS, our_points
from mudlamp.services.rig.form import LURE_FIELDS, ROD_FIELDS, SECTIONS, read_section, read_words, stored
from mudlamp.services.words.card import LABELS
from mudlamp.store import rigs as store
from mudlamp.store.rigs import KeptRig
from mudlamp.web.context import Context, context_of, device_of, in_place, owner_of, render
from mudlamp.web.rig.views import WordsView, box_view, rig_view, section_view, words_view
from mudlamp.web.tune.routes import Form
from mudlamp.web.tune.views import JobPartView

router = APIRouter(prefix="/rig", include_in_schema=False)
Own = Annotated[Context, Depends(context_of)]
NO_RIG = "There is no rig of that key of yours."
BEARINGS = (
    forms.number("bearing_deg", "Bearing of the object", -360.0, 360.0, "deg", required=True, to_core=math.radians),
    forms.number("shown_deg", "Where the picture shows it", -360.0, 360.0, "deg", required=True, to_core=math.radians),
)
THEIRS = (
    forms.number("speckle", "Speckle shows at", -1000.0, 1000.0, required=True),
    forms.number("jig", "The jig vanishes at", -1000.0, 1000.0, required=True),
)


def _own(request: Request, context: Context, key: uuid.UUID) -> KeptRig:
    found = store.rig(context.engine, owner_of(request, context), key)
    if found is None:
        raise HTTPException(404, NO_RIG)
    return found


def _answers(request: Request, context: Context) -> Answers:
    """Return the answers of the card that is set: the water that a rig is judged in; none while there is no card."""
    one = context.cards.newest(owner_of(request, context))
    return Answers() if one is None else one.answers


def _save(request: Request, context: Context, kept: KeptRig, rig: RigProfile, given: Mapping[str, str]) -> KeptRig:
    """Save a rig's parts, unless another hand changed them since the page was loaded."""
    text = given.get("version", "")
    version = int(text) if text.isdigit() else None
    found = store.change_rig(context.engine, kept.owner, kept.id, stored(rig), version=version, now=context.now())
    if found is None:
        raise HTTPException(404, NO_RIG)
    return found


@router.get("")
def rig(request: Request, context: Own) -> HTMLResponse:
    """Show the active rig."""
    owner = owner_of(request, context)
    rigs = store.rigs(context.engine, owner)
    chosen = next((one for one in rigs if one.active), None)
    lures = [] if chosen is None else store.lures(context.engine, chosen.id)
    rods = [] if chosen is None else store.rods(context.engine, chosen.id)
    return render(request, "rig/page.html", rig_view(rigs, chosen, lures, rods, _answers(request, context)))


@router.post("")
def add(request: Request, context: Own, given: Form) -> Response:
    """Make a rig of a name: usual values, nothing of the angler's own words; or a copy, box and rods too, of the active one or the demo's."""
    name = " ".join(given.get("name", "").split())
    if not 1 <= len(name) <= 60:
        raise DomainError(f"name is {len(name)} characters long: it must be 1 to 60 characters")
    owner = owner_of(request, context)
    active = store.active_rig(context.engine, owner)
    source = DEMO_RIG if given.get("copy") == "demo" else active.id if given.get("copy") and active is not None else None
    if source is None:
        store.add_rig(context.engine, owner, name, stored(RigProfile()), now=context.now())
    elif store.copy_rig(context.engine, owner, source, name, now=context.now()) is None:
        raise UnavailableError("the demo is still being loaded: try again in a few seconds")
    return RedirectResponse("/rig", status_code=303)


@router.post("/{key}/active")
def activate(request: Request, context: Own, key: uuid.UUID) -> Response:
    """Make a rig the active one."""
    if store.activate(context.engine, owner_of(request, context), key) is None:
        raise HTTPException(404, NO_RIG)
    return RedirectResponse("/rig", status_code=303)


@router.post("/{key}/delete")
def delete(request: Request, context: Own, key: uuid.UUID) -> Response:
    """Delete a rig with its box and rods."""
    if not store.remove_rig(context.engine, owner_of(request, context), key):
        raise HTTPException(404, NO_RIG)
    return RedirectResponse("/rig", status_code=303)


@router.post("/{key}/aim")
def aim(request: Request, context: Own, key: uuid.UUID, given: Form) -> HTMLResponse:
    """Work out the aim check's correction and keep it."""
    kept = _own(request, context, key)
    found = forms.read(BEARINGS, given)
    if found.problems:
        raise DomainError(next(iter(found.problems.values())))
    old = rig_of(kept)
    turn = aim_correction_rad(bearing_rad=found.values["bearing_deg"], shown_rad=found.values["shown_deg"])
    saved = _save(request, context, kept, replace(old, mount=replace(old.mount, aim_rad=turn)), given)
    return render(request, "rig/_rig_section.html", section_view(SECTIONS["mount"], saved, _answers(request, context)))


@router.post("/{key}/words/{control}")
def words(request: Request, context: Own, key: uuid.UUID, control: str, given: Form) -> HTMLResponse:
    """Keep what the angler's unit calls a control; an empty name forgets it."""
    if control not in LABELS:
        raise DomainError(f"control is {control[:30]}: it must be one of {', '.join(LABELS)}")
    kept = _own(request, context, key)
    own, problems = read_words(control, given, our_steps=len(OUR_STEPS.get(control, ())))
    if problems:
        texts = {name: str(value) for name, value in given.items()}
        return _words(request, words_view(kept, control=control, texts=texts, problems=problems), status=422)
    old = rig_of(kept)
    changed = {name: one for name, one in old.words.items() if name != control} | ({} if own is None else {control: own})
    return _words(request, words_view(_save(request, context, kept, replace(old, words=changed), given)))


def _words(request: Request, view: WordsView, *, status: int = 200) -> HTMLResponse:
    return in_place(render(request, "rig/_words.html", view, status=status), "#_words")


@router.post("/{key}/match")
def match(request: Request, context: Own, key: uuid.UUID, job: uuid.UUID | None = None) -> HTMLResponse:
    """Compute our two points in the water of the card that is set; progress while it lasts, the words when it is done."""
    kept, device = _own(request, context, key), device_of(request)
    found: Job | None = None if job is None else context.jobs.find(device, job)
    if found is None:
        found = _start_match(request, context, kept, device)
    view = found.view()
    if view.state is JobState.DONE:
        answer = _words(request, words_view(_own(request, context, key)))
    elif view.state is JobState.FAILED:
        answer = _words(request, words_view(kept, problem=view.error or ""))
    else:
        part = JobPartView(
            card=str(key), kind="match", job=str(view.id), share=round(100 * view.share), text="Pinging this water", failed=""
        )
        return render(request, "rig/_match_job.html", part)
    return answer


def _start_match(request: Request, context: Context, kept: KeptRig, device: uuid.UUID) -> Job:
    answers, engine, now = _answers(request, context), context.engine, context.now()

    def work(running: Job) -> str:
        points = our_points(answers, rig_of(kept), progress=running.progress)
        newest = store.rig(engine, kept.owner, kept.id)
        if newest is not None:
            store.change_rig(engine, kept.owner, kept.id, stored(replace(rig_of(newest), match=points)), version=newest.version, now=now)
        return str(kept.id)

    return context.jobs.start(device, "match Gain", work)


@router.post("/{key}/match/theirs")
def match_theirs(request: Request, context: Own, key: uuid.UUID, given: Form) -> HTMLResponse:
    """Keep the angler's two numbers; the line through both points is drawn where they make one."""
    kept = _own(request, context, key)
    rig_now = rig_of(kept)
    if rig_now.match is None:
        raise DomainError("our two points are not computed yet: compute them first, for the water you are on")
    found = forms.read(THEIRS, given)
    if found.problems:
        return _words(request, words_view(kept, problem=next(iter(found.problems.values()))), status=422)
    pair: dict[str, Any] = {"speckle_theirs": found.values["speckle"], "jig_theirs": found.values["jig"]}
    return _words(request, words_view(_save(request, context, kept, replace(rig_now, match=replace(rig_now.match, **pair)), given)))


@router.post("/{key}/lures")
def add_lure(request: Request, context: Own, key: uuid.UUID, given: Form) -> HTMLResponse:
    """Put a lure into the box."""
    kept = _own(request, context, key)
    found = forms.read(LURE_FIELDS, given)
    if not found.problems:
        values = found.values
        row = {
            "kind": values["kind"].value,
            "head_kg": values["head_oz"],
            "material": values["material"].value,
            "weight_kg": values["weight_oz"] or 0.0,
            **{name: values[name] or "" for name in ("color", "finish", "trailer", "recipe")},
        }
        store.add_lure(context.engine, kept.id, row, now=context.now())
    return _box(request, context, kept, lure=found)


@router.delete("/{key}/lures/{lure}")
def remove_lure(request: Request, context: Own, key: uuid.UUID, lure: uuid.UUID) -> HTMLResponse:
    """Take a lure out of the box."""
    kept = _own(request, context, key)
    if not store.remove_lure(context.engine, kept.id, lure):
        raise HTTPException(404, "There is no lure of that key in this box.")
    return _box(request, context, kept)


@router.post("/{key}/rods")
def add_rod(request: Request, context: Own, key: uuid.UUID, given: Form) -> HTMLResponse:
    """Put a rod aboard."""
    kept = _own(request, context, key)
    found = forms.read(ROD_FIELDS, given)
    if not found.problems:
        values = found.values
        row = {"name": values["name"], "length_m": values["length_ft"], "line": values["line"].value, "line_n": values["line_lb"]}
        store.add_rod(context.engine, kept.id, row, now=context.now())
    return _box(request, context, kept, rod=found)


@router.post("/{key}/rods/{rod}/lure")
def tie(request: Request, context: Own, key: uuid.UUID, rod: uuid.UUID, given: Form) -> HTMLResponse:
    """Tie a lure on a rod (or none) and take it in hand."""
    kept = _own(request, context, key)
    text = given.get("lure", "")
    try:
        wanted = uuid.UUID(text) if text else None
    except ValueError:
        raise DomainError(f"lure is {text[:40]}: it must be one of the box") from None
    if not store.tie(context.engine, kept.id, rod, wanted, now=context.now()):
        raise HTTPException(404, "There is no such rod or lure on this rig.")
    return _box(request, context, kept)


@router.delete("/{key}/rods/{rod}")
def remove_rod(request: Request, context: Own, key: uuid.UUID, rod: uuid.UUID) -> HTMLResponse:
    """Take a rod off the boat."""
    kept = _own(request, context, key)
    if not store.remove_rod(context.engine, kept.id, rod):
        raise HTTPException(404, "There is no rod of that key on this rig.")
    return _box(request, context, kept)


def _box(
    request: Request, context: Context, kept: KeptRig, *, lure: forms.Read | None = None, rod: forms.Read | None = None
) -> HTMLResponse:
    view = box_view(kept, store.lures(context.engine, kept.id), store.rods(context.engine, kept.id), lure, rod)
    wrong = any(found is not None and found.problems for found in (lure, rod))
    return in_place(render(request, "rig/_box.html", view, status=422 if wrong else 200), "#_box")


# Last, so that no other path is taken for a section's name.
@router.post("/{key}/{section}")
def save_section(request: Request, context: Own, key: uuid.UUID, section: str, given: Form) -> HTMLResponse:
    """Save a section; where something is wrong it comes back with it, and nothing is lost."""
    if section not in SECTIONS:
        raise HTTPException(404, "There is no section of that name.")
    kept = _own(request, context, key)
    changed, found = read_section(SECTIONS[section], rig_of(kept), given)
    if not found.problems:
        kept = _save(request, context, kept, changed, given)
    view = section_view(SECTIONS[section], kept, _answers(request, context), found)
    return in_place(render(request, "rig/_rig_section.html", view, status=422 if found.problems else 200), f"#rig-{section}")
