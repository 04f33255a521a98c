"""The Tune page's views: the questions, moves, symptoms, baselines."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from mudlamp.core.advice.retune import Move
from mudlamp.core.advice.styles import Style
from mudlamp.core.advice.symptoms import Suspect, Symptom
from mudlamp.core.controls import DOWN_TO, GAIN, GHOST_CUT, NEAR_CUT, ON_CARD, PUNCH, QUIETING, REACH, SOUND_SPEED, Value
from mudlamp.core.records.cards import KeptCard
from mudlamp.services.cards import questions
from mudlamp.services.cards.desk import OpenCard
from mudlamp.services.cards.shows import SHOWS
from mudlamp.services.edge.controls import EDGE, EdgeControl
from mudlamp.services.edge.forms import Field, Unit, number
from mudlamp.services.words import card as words
from mudlamp.services.words.symptoms import SEEN, SuspectWords, suspect_words
from mudlamp.web.form_views import FieldView, field_views
from mudlamp.web.times import when
from mudlamp.web.tune.card_view import CardView, Named, card_view


@dataclass(frozen=True, slots=True, kw_only=True)
class AskView:
    """The questions: five that are enough, the rest, and the style."""

    main: Sequence[FieldView]
    more: Sequence[FieldView]
    more_wrong: bool
    styles: Sequence[Named]


@dataclass(frozen=True, slots=True, kw_only=True)
class BaselineView:
    """A baseline: the newest of its name, and how many stood under it before."""

    id: str
    name: str
    facts: str
    at: str
    history: Sequence[tuple[str, str]]


@dataclass(frozen=True, slots=True, kw_only=True)
class BaselinesView:
    """The baselines."""

    baselines: Sequence[BaselineView]


@dataclass(frozen=True, slots=True, kw_only=True)
class TuneView:
    """The Tune page."""

    ask: AskView
    card: CardView
    move_fields: Sequence[FieldView]
    symptoms: Sequence[Named]
    now_fields: Sequence[FieldView]
    baselines: Sequence[BaselineView]
    has_rig: bool
    is_demo: bool


@dataclass(frozen=True, slots=True, kw_only=True)
class SuspectView:
    """A cause of a symptom, and whether the bench can show it."""

    words: SuspectWords
    can_show: bool


@dataclass(frozen=True, slots=True, kw_only=True)
class SuspectsView:
    """The causes of a symptom, ranked."""

    card: str
    seen: str
    suspects: Sequence[SuspectView]
    none: bool


@dataclass(frozen=True, slots=True, kw_only=True)
class CompareView:
    """Two baselines side by side."""

    names: tuple[str, str]
    rows: Sequence[tuple[str, str, str, bool]]
    spoken: str


@dataclass(frozen=True, slots=True, kw_only=True)
class StaleView:
    """That a card has grown stale, and why."""

    card: str
    why: str


@dataclass(frozen=True, slots=True, kw_only=True)
class EndedView:
    """What was noted of an angler's hand on a control, and whether it can be forgotten."""

    card: str
    control: str
    said: str
    forgettable: bool


def _now_field(edge: EdgeControl) -> Field:
    low, high = edge.bounds
    return number(edge.name, edge.label, low, high, Unit(name=edge.unit))


# What may be said of the controls as they stand, for a symptom.
NOW_CONTROLS = (DOWN_TO, REACH, GAIN, NEAR_CUT, QUIETING, GHOST_CUT, PUNCH)
NOW_FIELDS: tuple[Field, ...] = tuple(_now_field(EDGE[control]) for control in (*NOW_CONTROLS, SOUND_SPEED))


def ask_view(texts: Mapping[str, str], problems: Mapping[str, str], style: Style) -> AskView:
    """Return the questions with what was answered."""
    fields = {one.name: one for one in field_views(questions.FIELDS, texts, problems)}
    more = [fields[one.name] for one in questions.FIELDS if one.name not in questions.MAIN]
    return AskView(
        main=[fields[name] for name in questions.MAIN],
        more=more,
        more_wrong=any(one.problem for one in more),
        styles=[Named(value=one.value, label=words.STYLE_WORDS[one], chosen=one is style) for one in Style],
    )


def baselines_view(kept: Sequence[KeptCard]) -> BaselinesView:
    """Return baselines, one a name, each with its history."""
    by_name: dict[str, list[KeptCard]] = {}
    for one in kept:
        by_name.setdefault(one.name or "", []).append(one)
    return BaselinesView(baselines=tuple(_baseline(name, cards) for name, cards in by_name.items()))


def _baseline(name: str, cards: Sequence[KeptCard]) -> BaselineView:
    return BaselineView(
        id=str(cards[0].id),
        name=name,
        facts=words.values_line(cards[0].values),
        at=when(cards[0].created_at),
        history=tuple((str(one.id), f"{when(one.created_at)}: {words.values_line(one.values)}") for one in cards[1:]),
    )


def tune_view(one: OpenCard, move: Move | None, baselines: Sequence[KeptCard], *, has_rig: bool, is_demo: bool) -> TuneView:
    """Return the Tune page's view; of the demo's card only the card itself is shown, and its main answers are what the form starts from."""
    # What is folded away under the main questions must be the angler's own.
    start = {name: one.texts.get(name, "") for name in questions.MAIN} if is_demo else one.texts
    move_texts = {name: one.texts.get(name, "") for name in questions.MOVE}
    move_fields = [questions.BY_NAME[name] for name in questions.MOVE]
    now_texts = {EDGE[control].name: f"{EDGE[control].value(one.setup.value(control)):g}" for control in NOW_CONTROLS}
    return TuneView(
        ask=ask_view(start, {}, one.plan.card.style),
        card=card_view(one, move, is_demo=is_demo),
        move_fields=field_views(move_fields, move_texts, prefix="m"),
        symptoms=[Named(value=symptom.value, label=SEEN[symptom]) for symptom in Symptom],
        now_fields=field_views(NOW_FIELDS, now_texts, prefix="n"),
        baselines=baselines_view(baselines).baselines,
        has_rig=has_rig,
        is_demo=is_demo,
    )


def suspects_view(one: OpenCard, symptom: Symptom, suspects: Sequence[Suspect]) -> SuspectsView:
    """Return the causes of a symptom."""
    return SuspectsView(
        card=str(one.kept.id),
        seen=SEEN[symptom],
        suspects=[
            SuspectView(words=suspect_words(suspect, one.plan.card, one.labels), can_show=suspect.cause in SHOWS) for suspect in suspects
        ],
        none=all(suspect.share == 0.0 for suspect in suspects),
    )


def compare_view(first: OpenCard, second: OpenCard, move: Move) -> CompareView:
    """Return two cards side by side."""
    changed = {change.control for change in move.changes}
    rows = [
        (EDGE[control].label, _shown(first, control.name), _shown(second, control.name), control.name in changed) for control in ON_CARD
    ]
    first_name, second_name = (one.kept.name or f"card of {when(one.kept.created_at)}" for one in (first, second))
    return CompareView(names=(first_name, second_name), rows=rows, spoken=words.spoken(move, second.labels))


def _shown(one: OpenCard, control: str) -> str:
    value: Value = one.kept.values[control]
    return words.shown(control, value)
