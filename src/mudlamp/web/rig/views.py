"""The Rig page's views."""

import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from mudlamp.core.advice.answers import Answers
from mudlamp.core.errors import DomainError
from mudlamp.core.rig.mount import RIDES_ON_MOTOR, stow_clicks
from mudlamp.core.rig.power import Verdict, power_budget
from mudlamp.core.rig.profile import RigProfile
from mudlamp.core.units import OUNCE_KG, feet
from mudlamp.services.cards.desk import boxed, rig_of
from mudlamp.services.edge import forms
from mudlamp.services.edge.forms import Read
from mudlamp.services.rig.answers import FlatAnswer, GlassRow, flat_answer, gain_line, glass_rows, in_their_words, lure_answer
from mudlamp.services.rig.form import (
    KINDS,
    LURE_FIELDS,
    MOUNT_COSTS,
    NEWTON_A_POUND,
    ROD_FIELDS,
    SECTIONS,
    Section,
    word_fields,
    word_texts,
)
from mudlamp.services.words.card import LABELS, TERMS
from mudlamp.store.rigs import KeptLure, KeptRig, KeptRod
from mudlamp.web.form_views import FieldView, field_views


@dataclass(frozen=True, slots=True, kw_only=True)
class RigChoice:
    """A rig in the list."""

    id: str
    name: str
    active: bool


@dataclass(frozen=True, slots=True, kw_only=True)
class SectionView:
    """A section: its fields, and what is computed from them."""

    rig: str
    version: int
    name: str
    title: str
    fields: Sequence[FieldView]
    saved: bool
    answers: Sequence[str]
    verdict: str
    mood: str
    caution: str
    flat: FlatAnswer | None
    glass: Sequence[GlassRow]


@dataclass(frozen=True, slots=True, kw_only=True)
class LureView:
    """A lure of the box."""

    id: str
    what: str
    details: str
    echo: str
    sinks: str
    tangles: str


@dataclass(frozen=True, slots=True, kw_only=True)
class RodView:
    """A rod and what is on it."""

    id: str
    name: str
    line: str
    lure: str
    in_hand: bool


@dataclass(frozen=True, slots=True, kw_only=True)
class BoxView:
    """The lure box and the rods."""

    rig: str
    lures: Sequence[LureView]
    rods: Sequence[RodView]
    lure_fields: Sequence[FieldView]
    rod_fields: Sequence[FieldView]
    lure_open: bool
    rod_open: bool


@dataclass(frozen=True, slots=True, kw_only=True)
class WordView:
    """A control in the angler's own words."""

    control: str
    label: str
    term: str
    own: str
    fields: Sequence[FieldView]
    wrong: bool


@dataclass(frozen=True, slots=True, kw_only=True)
class WordsView:
    """The angler's own words, and the Gain procedure."""

    rig: str
    version: int
    words: Sequence[WordView]
    speckle_ours: str
    jig_ours: str
    water: str
    speckle_theirs: str
    jig_theirs: str
    line: str
    problem: str
    can_match: bool


@dataclass(frozen=True, slots=True, kw_only=True)
class RigView:
    """The Rig page."""

    rigs: Sequence[RigChoice]
    name: str
    id: str
    version: int
    sections: Sequence[SectionView]
    box: BoxView | None
    words: WordsView | None


def section_view(section: Section, kept: KeptRig, answers: Answers, found: Read | None = None) -> SectionView:
    """Return a section of a rig; `found` is what was typed last, kept where something in it is wrong."""
    rig = rig_of(kept)
    wrong = found is not None and bool(found.problems)
    texts = found.texts if wrong and found is not None else forms.texts_of(section.fields, section.take(rig))
    lines, verdict, mood, caution = _answers(section.name, rig)
    return SectionView(
        rig=str(kept.id),
        version=kept.version,
        name=section.name,
        title=section.title,
        fields=field_views(section.fields, texts, found.problems if wrong and found is not None else None, prefix=section.name),
        saved=found is not None and not wrong,
        answers=lines,
        verdict=verdict,
        mood=mood,
        caution=caution,
        flat=flat_answer(rig) if section.name == "mount" else None,
        glass=glass_rows(rig, answers) if section.name == "screen" else (),
    )


def _answers(name: str, rig: RigProfile) -> tuple[list[str], str, str, str]:
    """Return what is computed of a section: lines, a verdict with its mood, a caution."""
    if name == "power":
        return _power(rig)
    if name == "mount":
        return _mount(rig), "", "", "Hands off the propeller; clicks and stowing only with the motor off."
    if name == "transducer":
        half = math.tan(rig.transducer.thickness_rad / 2.0)
        lines = [
            f"At {out} ft the fan is {2.0 * half * out:.1f} ft thick: a lure farther aside than half of that is dim or dark."
            for out in (25, 60)
        ]
        return lines, "", "", ""
    if name == "others":
        lines = []
        if rig.others.console:
            lines.append("Silence the console sonar before the first throw: it is step 1 of every card.")
        if rig.others.live:
            lines.append("Another live transducer makes spokes: tell the card of it, and Quieting goes up two steps.")
        return lines, "", "", ""
    return [], "", "", ""


def _mount(rig: RigProfile) -> list[str]:
    mount = rig.mount
    lines = [MOUNT_COSTS[mount.kind]]
    clicks = stow_clicks(mount.stow)
    if clicks:
        way = "clockwise" if clicks > 0 else "anticlockwise"
        lines.append(f"Stowed with the propeller inboard it points wrong: {abs(clicks)} clicks {way}, then the aim check.")
    if mount.kind in RIDES_ON_MOTOR:
        lines.append(
            "It rides on the motor: two slow circles the same way in clear water until the heading settles, then prove it on a post."
        )
    if abs(mount.aim_rad) > math.radians(0.5):
        way = "clockwise" if mount.aim_rad > 0 else "anticlockwise"
        lines.append(f"Aim correction to dial in: {abs(math.degrees(mount.aim_rad)):.0f}° {way}.")
    return lines


def _power(rig: RigProfile) -> tuple[list[str], str, str, str]:
    budget = power_budget(rig.power.supply, rig.power.loads)
    words = {
        Verdict.GOOD: ("Good: 12 V or more at the unit", "good"),
        Verdict.THIN: ("Thin: between 11.5 and 12 V at the unit", "fair"),
        Verdict.LOW: ("Too low: under 11.5 V the live picture degrades for no visible reason", "bad"),
        Verdict.NOT_POSSIBLE: ("Not possible: the cable cannot carry this load", "bad"),
    }
    verdict, mood = words[budget.verdict]
    lines = [
        f"{budget.unit_v:.2f} V at the unit: {budget.battery_v:.2f} V at the battery, {budget.drop_v:.2f} V lost in both conductors at {budget.cable_a:.1f} A",
        f"{_hours(min(budget.hours, budget.good_hours))} left at {budget.battery_a:.1f} A, "
        + ("until the unit falls under 11.5 V" if budget.good_hours < budget.hours else "until the battery is down to what should be kept"),
    ]
    caution = "Fuse at the battery, and wiring by a qualified person to the marine standard that applies; lithium above all."
    return lines, verdict, mood, caution


def _hours(hours: float) -> str:
    return "Days" if hours > 48.0 else f"{hours:.1f} hours"


def ounces(mass_kg: float) -> str:
    """Return a mass as anglers say it: a fraction of an ounce where it is near one."""
    value = mass_kg / OUNCE_KG
    for below in (64, 32, 16, 8):
        for top in range(1, below, 2):
            if abs(value - top / below) < 0.02 * value:
                return f"{top}/{below} oz"
    for text, fraction in (("1/4", 0.25), ("1/2", 0.5), ("3/4", 0.75)):
        if abs(value - fraction) < 0.02 * value:
            return f"{text} oz"
    return f"{value:.2g} oz"


def lure_view(lure: KeptLure) -> LureView:
    """Return a lure of the box."""
    answer = lure_answer(boxed(lure))
    over = f", {ounces(lure.weight_kg)} above it" if lure.weight_kg else ""
    parts = [part for part in (lure.color, lure.finish, lure.trailer and f"with {lure.trailer}", lure.recipe) if part]
    return LureView(
        id=str(lure.id),
        what=f"{ounces(lure.head_kg)} {lure.material} {KINDS[lure.kind]}{over}",
        details=", ".join(parts),
        echo=f"{answer.ts_db:.0f} dB",
        sinks=f"{answer.sink_ft_s:.1f} ft/s ± 30 %",
        tangles="It will tangle: the head must be heavier than the weight above it." if answer.tangles else "",
    )


def box_view(
    kept: KeptRig, lures: Sequence[KeptLure], rods: Sequence[KeptRod], lure: Read | None = None, rod: Read | None = None
) -> BoxView:
    """Return the lure box and the rods, with what was typed last where something in it is wrong."""
    by_id = {one.id: one for one in lures}
    views = []
    for one in rods:
        on = None if one.lure_id is None else by_id.get(one.lure_id)
        strength = "" if one.line_n is None else f"{one.line_n / NEWTON_A_POUND:.0f} lb "
        views.append(
            RodView(
                id=str(one.id),
                name=one.name,
                line=f"{feet(one.length_m):.1f} ft, {strength}{one.line}",
                lure="" if on is None else str(on.id),
                in_hand=one.in_hand,
            )
        )
    lure_texts = lure.texts if lure is not None and lure.problems else {"kind": "jig", "head_oz": "0.0625", "material": "lead"}
    rod_texts = rod.texts if rod is not None and rod.problems else {"length_ft": "7", "line": "fluorocarbon"}
    return BoxView(
        rig=str(kept.id),
        lures=[lure_view(one) for one in lures],
        rods=views,
        lure_fields=field_views(LURE_FIELDS, lure_texts, None if lure is None else lure.problems, prefix="lure"),
        rod_fields=field_views(ROD_FIELDS, rod_texts, None if rod is None else rod.problems, prefix="rod"),
        lure_open=bool(lure is not None and lure.problems) or not lures,
        rod_open=bool(rod is not None and rod.problems) or not rods,
    )


def words_view(
    kept: KeptRig,
    *,
    control: str = "",
    texts: Mapping[str, str] | None = None,
    problems: Mapping[str, str] | None = None,
    problem: str = "",
) -> WordsView:
    """Return the angler's own words; `texts` and `problems` are what was typed last for `control`."""
    rig = rig_of(kept)
    views = []
    for name in LABELS:
        own = rig.words.get(name)
        typed = texts if name == control and problems and texts is not None else word_texts(own, name)
        views.append(
            WordView(
                control=name,
                label=LABELS[name],
                term=TERMS[name],
                own="" if own is None else own.label,
                fields=field_views(word_fields(name), typed, problems if name == control else None, prefix=name),
                wrong=name == control and bool(problems),
            )
        )
    match = rig.match
    line, trouble = _line(rig)
    return WordsView(
        rig=str(kept.id),
        version=kept.version,
        words=views,
        speckle_ours="" if match is None else f"{match.speckle_ours:.0f} ± {match.speckle_error:.0f}",
        jig_ours="" if match is None else f"{match.jig_ours:.0f} ± {match.jig_error:.0f}",
        water="" if match is None else match.water,
        speckle_theirs="" if match is None or match.speckle_theirs is None else f"{match.speckle_theirs:g}",
        jig_theirs="" if match is None or match.jig_theirs is None else f"{match.jig_theirs:g}",
        line=line,
        problem=problem or trouble,
        can_match="gain" in rig.words,
    )


def _line(rig: RigProfile) -> tuple[str, str]:
    """Return the line from our Gain to theirs in words, and what keeps it from being one."""
    try:
        found = gain_line(rig)
    except DomainError as error:
        return "", str(error)
    if found is None:
        return "", ""
    at = ", ".join(f"{gain} is {in_their_words(rig, 'gain', float(gain))}" for gain in (55, 65, 75))
    return f"Our Gain {at}; {found.slope:+.2f} of theirs a step of ours.", ""


def rig_view(
    rigs: Sequence[KeptRig], chosen: KeptRig | None, lures: Sequence[KeptLure], rods: Sequence[KeptRod], answers: Answers
) -> RigView:
    """Return the Rig page's view."""
    return RigView(
        rigs=[RigChoice(id=str(one.id), name=one.name, active=one.active) for one in rigs],
        name="" if chosen is None else chosen.name,
        id="" if chosen is None else str(chosen.id),
        version=0 if chosen is None else chosen.version,
        sections=[] if chosen is None else [section_view(section, chosen, answers) for section in SECTIONS.values()],
        box=None if chosen is None else box_view(chosen, lures, rods),
        words=None if chosen is None else words_view(chosen),
    )
