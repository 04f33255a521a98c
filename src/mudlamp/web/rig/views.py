"""The Rig page's view."""

from collections.abc import Sequence
from dataclasses import dataclass

from mudlamp.core.advice.answers import Answers
from mudlamp.core.records.rigs import KeptRig
from mudlamp.services.jobs import Job
from mudlamp.services.rig.desk import OpenRig
from mudlamp.services.rig.form import SECTIONS
from mudlamp.web.rig.box_view import BoxView, box_view
from mudlamp.web.rig.drawing import DrawingView, drawing_view
from mudlamp.web.rig.section_view import SectionView, section_view
from mudlamp.web.rig.words_view import WordsView, words_view


@dataclass(frozen=True, slots=True, kw_only=True)
class RigChoice:
    """A rig in the list."""

    id: str
    name: str
    active: bool


@dataclass(frozen=True, slots=True, kw_only=True)
class RigView:
    """The Rig page; `is_demo` where what it shows is the demo's, to be looked at."""

    rigs: Sequence[RigChoice]
    name: str
    id: str
    version: int
    sections: Sequence[SectionView]
    box: BoxView | None
    words: WordsView | None
    drawing: DrawingView | None
    is_demo: bool


@dataclass(frozen=True, slots=True, kw_only=True)
class MatchJobView:
    """The Gain procedure's computing, as the page follows it."""

    rig: str
    job: str
    share: int


def rig_view(rigs: Sequence[KeptRig], chosen: OpenRig | None, answers: Answers, *, is_demo: bool) -> RigView:
    """Return the Rig page's view; `answers` are those of the card that is set: the water that a rig is judged in."""
    return RigView(
        rigs=[RigChoice(id=str(one.id), name=one.name, active=one.active) for one in rigs],
        name="" if chosen is None else chosen.kept.name,
        id="" if chosen is None else str(chosen.kept.id),
        version=0 if chosen is None else chosen.kept.version,
        sections=[] if chosen is None else [section_view(section, chosen, answers) for section in SECTIONS.values()],
        box=None if chosen is None else box_view(chosen),
        words=None if chosen is None else words_view(chosen),
        drawing=None if chosen is None else drawing_view(chosen.profile, answers),
        is_demo=is_demo,
    )


def match_job_view(rig: OpenRig, job: Job) -> MatchJobView:
    """Return how far the computing is."""
    view = job.view()
    return MatchJobView(rig=str(rig.kept.id), job=str(view.id), share=round(100 * view.share))
