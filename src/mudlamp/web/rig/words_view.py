"""The angler's own words for each control, and the Gain procedure, as the Rig page shows them."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from mudlamp.core.controls import GAIN, Control
from mudlamp.core.errors import DomainError
from mudlamp.core.rig.profile import RigProfile
from mudlamp.services.edge.controls import EDGE
from mudlamp.services.rig.answers import gain_line, in_their_words
from mudlamp.services.rig.desk import OpenRig
from mudlamp.services.rig.unit_words import WORDED, word_fields, word_texts
from mudlamp.web.form_views import FieldView, field_views

# Where the line from our Gain to theirs is said.
SAID_AT = (55.0, 65.0, 75.0)


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
class Typed:
    """What was typed last for a control, and what is wrong with it."""

    control: Control
    texts: Mapping[str, str]
    problems: Mapping[str, str]


def words_view(rig: OpenRig, *, typed: Typed | None = None, problem: str = "") -> WordsView:
    """Return the angler's own words; `typed` is what was wrong last."""
    profile, match = rig.profile, rig.profile.match
    line, trouble = _line(profile)
    return WordsView(
        rig=str(rig.kept.id),
        version=rig.kept.version,
        words=[_word(profile, control, typed if typed is not None and typed.control is control else None) for control in WORDED.values()],
        speckle_ours="" if match is None else f"{match.speckle_ours:.0f} ± {match.speckle_error:.0f}",
        jig_ours="" if match is None else f"{match.jig_ours:.0f} ± {match.jig_error:.0f}",
        water="" if match is None else match.water,
        speckle_theirs="" if match is None or match.speckle_theirs is None else f"{match.speckle_theirs:g}",
        jig_theirs="" if match is None or match.jig_theirs is None else f"{match.jig_theirs:g}",
        line=line,
        problem=problem or trouble,
        can_match=GAIN.name in profile.words,
    )


def _word(rig: RigProfile, control: Control, typed: Typed | None) -> WordView:
    own = rig.words.get(control.name)
    texts = word_texts(own, control) if typed is None else typed.texts
    return WordView(
        control=control.name,
        label=EDGE[control].label,
        term=control.term,
        own="" if own is None else own.label,
        fields=field_views(word_fields(control), texts, None if typed is None else typed.problems, prefix=control.name),
        wrong=typed is not None,
    )


def _line(rig: RigProfile) -> tuple[str, str]:
    """Return the line from our Gain to theirs in words, and what keeps it from being one."""
    try:
        found = gain_line(rig)
    except DomainError as error:
        return "", str(error)
    if found is None:
        return "", ""
    at = ", ".join(f"{gain:g} is {in_their_words(rig, GAIN.name, gain)}" for gain in SAID_AT)
    return f"Our {EDGE[GAIN].label} {at}; {found.slope:+.2f} of theirs for one of ours.", ""
