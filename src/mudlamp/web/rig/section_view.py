"""A section of the Rig page: its fields, and what is computed from them."""

import math
from collections.abc import Sequence
from dataclasses import dataclass

from mudlamp.core.advice.answers import Answers
from mudlamp.core.rig.mount import RIDES_ON_MOTOR, stow_clicks
from mudlamp.core.rig.power import power_budget
from mudlamp.core.rig.profile import RigProfile
from mudlamp.services.edge import forms
from mudlamp.services.edge.forms import Read
from mudlamp.services.rig.answers import FlatAnswer, ScreenRow, flat_answer, screen_rows
from mudlamp.services.rig.desk import OpenRig
from mudlamp.services.rig.form import Section
from mudlamp.services.words import rig as words
from mudlamp.web.form_views import FieldView, field_views

# Farther than this the center of a flat fan never gets to the bottom in any useful way [ft].
NEVER_FT = 400.0
THICK_AT_FT = (25, 60)


@dataclass(frozen=True, slots=True, kw_only=True)
class FlatRowView:
    """A depth: where the center ray meets the bottom, and from where on it is lit."""

    depth: str
    center: str
    lit_from: str


@dataclass(frozen=True, slots=True, kw_only=True)
class FlatView:
    """The tilt for Flat in clicks, and what it lights."""

    line: str
    given: str
    rows: Sequence[FlatRowView]


@dataclass(frozen=True, slots=True, kw_only=True)
class AnswersView:
    """What is computed from a section: lines, a verdict with its mood, a caution."""

    lines: Sequence[str] = ()
    verdict: str = ""
    mood: str = ""
    caution: str = ""


@dataclass(frozen=True, slots=True, kw_only=True)
class SectionView:
    """A section: its fields, and what is computed from them. Once it was `told`, here or on the demo's rig, its form is folded away."""

    rig: str
    version: int
    name: str
    title: str
    fields: Sequence[FieldView]
    saved: bool
    told: bool
    answers: AnswersView
    flat: FlatView | None
    screen: Sequence[ScreenRow]


def section_view(section: Section, rig: OpenRig, answers: Answers, found: Read | None = None) -> SectionView:
    """Return a section of a rig; `found` is what was typed last, kept where something in it is wrong."""
    profile = rig.profile
    wrong = found if found is not None and found.problems else None
    texts = forms.texts_of(section.fields, section.values(profile)) if wrong is None else wrong.texts
    return SectionView(
        rig=str(rig.kept.id),
        version=rig.kept.version,
        name=section.name,
        title=section.title,
        fields=field_views(section.fields, texts, None if wrong is None else wrong.problems, prefix=section.name),
        saved=found is not None and wrong is None,
        told=wrong is None and (found is not None or rig.kept.version > 1 or rig.owner == rig.kept.id),
        answers=_answers(section.name, profile),
        flat=_flat(flat_answer(profile)) if section.name == "mount" else None,
        screen=screen_rows(profile, answers) if section.name == "screen" else (),
    )


def _flat(answer: FlatAnswer) -> FlatView:
    return FlatView(
        line=f"Flat: {answer.wanted_deg:.0f}° from plumb, {answer.clicks} {'click' if answer.clicks == 1 else 'clicks'}",
        given=f"{answer.given_deg:.0f}°",
        rows=[
            FlatRowView(
                depth=f"{row.depth_ft:.0f} ft",
                center=f"{row.center_ft:.0f} ft" if row.center_ft < NEVER_FT else "never",
                lit_from=f"{row.near_ft:.0f} ft out",
            )
            for row in answer.rows
        ],
    )


def _answers(name: str, rig: RigProfile) -> AnswersView:
    if name == "power":
        return _power(rig)
    if name == "mount":
        return AnswersView(lines=_mount(rig), caution=words.MOUNT_CAUTION)
    if name == "transducer":
        half = math.tan(rig.transducer.thickness_rad / 2.0)
        return AnswersView(lines=[words.thick_line(out, 2.0 * half * out) for out in THICK_AT_FT])
    if name == "others":
        console = [words.CONSOLE] if rig.others.console else []
        return AnswersView(lines=[*console, *([words.other_live()] if rig.others.live else [])])
    return AnswersView()


def _mount(rig: RigProfile) -> list[str]:
    mount = rig.mount
    lines = [words.MOUNT_COSTS[mount.kind]]
    clicks = stow_clicks(mount.stow)
    if clicks:
        lines.append(words.stowed_line(clicks))
    if mount.kind in RIDES_ON_MOTOR:
        lines.append(words.ON_MOTOR)
    if abs(mount.aim_rad) > math.radians(0.5):
        lines.append(words.aim_line(math.degrees(mount.aim_rad)))
    return lines


def _power(rig: RigProfile) -> AnswersView:
    budget = power_budget(rig.power.supply, rig.power.loads)
    verdict, mood = words.VERDICTS[budget.verdict]
    return AnswersView(lines=words.power_lines(budget), verdict=verdict, mood=mood, caution=words.POWER_CAUTION)
