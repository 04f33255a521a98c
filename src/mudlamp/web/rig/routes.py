"""The Rig page: profiles, their sections, the aim check, the unit's own words with the Gain procedure."""

import uuid
from typing import Annotated

from fastapi import APIRouter, Depends, Request
from fastapi.responses import HTMLResponse, RedirectResponse, Response

from mudlamp.core.advice.answers import Answers
from mudlamp.core.errors import DomainError, MissingError
from mudlamp.services.demo import DEMO_RIG
from mudlamp.services.house import House
from mudlamp.services.jobs import JobState
from mudlamp.services.rig.desk import OpenRig
from mudlamp.services.rig.form import SECTIONS
from mudlamp.services.rig.unit_words import WORDED
from mudlamp.web.context import At, Form, Visitor, Who, in_place, render, whole_number
from mudlamp.web.rig.section_view import section_view
from mudlamp.web.rig.views import match_job_view, rig_view
from mudlamp.web.rig.words_view import Typed, WordsView, words_view

router = APIRouter(prefix="/rig", include_in_schema=False)


def open_rig(house: At, who: Who, key: uuid.UUID) -> OpenRig:
    """Return the rig of the path's key (a FastAPI dependency)."""
    return house.rigs.open(who.owner, key)


def water_of(house: At, who: Who) -> Answers:
    """Return the answers of the card that is set (a FastAPI dependency); none while there is no card."""
    one = house.cards.newest(who.owner)
    return Answers() if one is None else one.plan.answers


def version_of(given: Form) -> int | None:
    """Return the version of the rig that the page was loaded with (a FastAPI dependency)."""
    return whole_number(given.get("version", ""))


Own = Annotated[OpenRig, Depends(open_rig)]
InWater = Annotated[Answers, Depends(water_of)]
Version = Annotated[int | None, Depends(version_of)]


@router.get("")
def rig(request: Request, house: At, who: Who, answers: InWater) -> HTMLResponse:
    """Show the active rig; the demo's where there is none of one's own yet."""
    active = house.rigs.active(who.owner)
    shown = house.rigs.demo(DEMO_RIG) if active is None else active
    return render(request, "rig/page.html", rig_view(house.rigs.all(who.owner), shown, answers, is_demo=active is None))


@router.post("")
def add(house: At, who: Who, given: Form) -> Response:
    """Make a rig of a name, or a copy of the active one or of the demo's."""
    active = house.rigs.active(who.owner)
    own = active.kept.id if given.get("copy") and active is not None else None
    source = DEMO_RIG if given.get("copy") == "demo" else own
    house.rigs.add(who.owner, given.get("name", ""), copy_of=source, now=house.now())
    return _another(house, who)


@router.post("/{key}/active")
def activate(house: At, who: Who, key: uuid.UUID) -> Response:
    """Make a rig the active one."""
    house.rigs.activate(who.owner, key)
    return _another(house, who)


@router.post("/{key}/delete")
def delete(house: At, who: Who, key: uuid.UUID) -> Response:
    """Delete a rig with its box and rods."""
    house.rigs.remove(who.owner, key)
    return _another(house, who)


def _another(house: House, who: Visitor) -> Response:
    """Another rig may be the active one now: the Lamp is judged on its screen."""
    house.sessions.use_screen(who.device, house.rigs.screen_of(house.rigs.active(who.owner)))
    return RedirectResponse("/rig", status_code=303)


@router.post("/{key}/aim")
def aim(request: Request, house: At, own: Own, given: Form, version: Version, answers: InWater) -> HTMLResponse:
    """Work out the aim check's correction and keep it."""
    saved = house.rigs.check_aim(own, given, version=version, now=house.now())
    return render(request, "rig/_rig_section.html", section_view(SECTIONS["mount"], saved, answers))


@router.post("/{key}/words/{control}")
def words(request: Request, house: At, own: Own, control: str, given: Form, version: Version) -> HTMLResponse:
    """Keep what the angler's unit calls a control; an empty name forgets it."""
    if control not in WORDED:
        raise DomainError(f"control is {control[:30]}: it must be one of {', '.join(WORDED)}")
    saved, problems = house.rigs.save_words(own, WORDED[control], given, version=version, now=house.now())
    if problems:
        return _words(request, words_view(own, typed=Typed(control=WORDED[control], texts=given, problems=problems)), status=422)
    return _words(request, words_view(saved))


def _words(request: Request, view: WordsView, *, status: int = 200) -> HTMLResponse:
    return in_place(render(request, "rig/_words.html", view, status=status), "#_words")


@router.post("/{key}/match")
def match(request: Request, house: At, who: Who, own: Own, answers: InWater, job: uuid.UUID | None = None) -> HTMLResponse:
    """Compute our two points in the water of the card that is set; progress while it lasts, the words when it is done."""
    found = None if job is None else house.jobs.find(who.device, job)
    if found is None:
        found = house.rigs.match(who.device, own, answers, now=house.now())
    view = found.view()
    if view.state is JobState.DONE:
        return _words(request, words_view(house.rigs.open(who.owner, own.kept.id)))
    if view.state is JobState.FAILED:
        return _words(request, words_view(own, problem=view.error or ""))
    return render(request, "rig/_match_job.html", match_job_view(own, found))


@router.post("/{key}/match/theirs")
def match_theirs(request: Request, house: At, own: Own, given: Form, version: Version) -> HTMLResponse:
    """Keep the angler's two numbers; the line through both points is drawn where they make one."""
    try:
        saved = house.rigs.match_theirs(own, given, version=version, now=house.now())
    except DomainError as error:
        return _words(request, words_view(own, problem=str(error)), status=422)
    return _words(request, words_view(saved))


# Last, so that no other path is taken for a section's name.
@router.post("/{key}/{section}")
def save_section(
    request: Request, house: At, who: Who, own: Own, section: str, given: Form, version: Version, answers: InWater
) -> HTMLResponse:
    """Save a section; where something is wrong it comes back with it, and nothing is lost."""
    if section not in SECTIONS:
        raise MissingError("There is no section of that name.")
    saved, found = house.rigs.save_section(own, SECTIONS[section], given, version=version, now=house.now())
    if saved.kept.active and saved.profile.screen != own.profile.screen:
        house.sessions.use_screen(who.device, saved.profile.screen)
    view = section_view(SECTIONS[section], saved, answers, found)
    return in_place(render(request, "rig/_rig_section.html", view, status=422 if found.problems else 200), f"#rig-{section}")
