"""The Tune page's views."""

import datetime as dt
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Any

from mudlamp.core.advice.retune import Change, Move
from mudlamp.core.advice.styles import Style
from mudlamp.core.advice.symptoms import Symptom
from mudlamp.services.cards import questions as asking
from mudlamp.services.cards.desk import OpenCard
from mudlamp.services.cards.questions import Asked
from mudlamp.services.edge.forms import Field, number
from mudlamp.services.jobs import Job, JobState
from mudlamp.services.rig.answers import in_their_words
from mudlamp.services.words import card as card_words
from mudlamp.services.words.symptoms import SEEN, SuspectWords
from mudlamp.store.cards import KeptCard
from mudlamp.web.form_views import FieldView, field_views


@dataclass(frozen=True, slots=True, kw_only=True)
class Named:
    """A value with its label."""

    value: str
    label: str
    chosen: bool = False


@dataclass(frozen=True, slots=True, kw_only=True)
class AskView:
    """The questions: five that are enough, the rest, and the style."""

    main: Sequence[FieldView]
    more: Sequence[FieldView]
    more_wrong: bool
    styles: Sequence[Named]


@dataclass(frozen=True, slots=True, kw_only=True)
class StyleView:
    """How a style would set a control, and what that costs here; `figures` is empty while it is measured."""

    name: str
    label: str
    value: str
    same: bool
    figures: str


@dataclass(frozen=True, slots=True, kw_only=True)
class RowView:
    """A line of the card."""

    step: int
    control: str
    label: str
    term: str
    start: str
    planned: str
    theirs: str
    matched: bool
    band: str
    cue: str
    why: str
    more: str
    ink: str
    styles: Sequence[StyleView]


@dataclass(frozen=True, slots=True, kw_only=True)
class StepView:
    """A step without a control."""

    step: int
    label: str
    cue: str


@dataclass(frozen=True, slots=True, kw_only=True)
class TunedRow:
    """A control as auto-tune found it, beside the start and the trade's band."""

    label: str
    start: str
    found: str
    band: str
    off: str


@dataclass(frozen=True, slots=True, kw_only=True)
class TunedView:
    """What auto-tune found."""

    rows: Sequence[TunedRow]
    score: str
    verdict: str
    gains: Sequence[str]
    taken: bool


@dataclass(frozen=True, slots=True, kw_only=True)
class CardView:
    """A card."""

    id: str
    name: str
    headline: str
    lure: str
    rig: str
    style: str
    before: Sequence[StepView]
    rows: Sequence[RowView]
    after: StepView
    doubts: Sequence[str]
    measured: bool
    tuned: TunedView | None
    move: str
    moved: Sequence[str]
    caution: str
    at: str
    habit: str
    flat: str
    power: str
    other_styles: Sequence[Named]


@dataclass(frozen=True, slots=True, kw_only=True)
class JobPartView:
    """Long work on a card, as the page follows it."""

    card: str
    kind: str
    job: str
    share: int
    text: str
    failed: str


@dataclass(frozen=True, slots=True, kw_only=True)
class BaselineView:
    """A baseline: the newest of its name, and how many stood under it before."""

    id: str
    name: str
    facts: str
    at: str
    history: Sequence[tuple[str, str]]


@dataclass(frozen=True, slots=True, kw_only=True)
class TuneView:
    """The Tune page."""

    ask: AskView
    card: CardView | None
    move_fields: Sequence[FieldView]
    symptoms: Sequence[Named]
    now_fields: Sequence[FieldView]
    baselines: Sequence[BaselineView]
    has_rig: bool


@dataclass(frozen=True, slots=True, kw_only=True)
class SuspectsView:
    """The causes of a symptom, ranked."""

    card: str
    symptom: str
    seen: str
    suspects: Sequence[SuspectWords]
    none: bool


@dataclass(frozen=True, slots=True, kw_only=True)
class CompareView:
    """Two baselines side by side."""

    names: tuple[str, str]
    rows: Sequence[tuple[str, str, str, bool]]
    spoken: str


# What may be told of the controls as they stand, for a symptom.
NOW_FIELDS: tuple[Field, ...] = (
    number("gain", "Gain", 0.0, 100.0),
    number("near_cut_db", "Near cut", 0.0, 18.0, "dB", step=6.0),
    number("quieting_pings", "Quieting", 1.0, 5.0, "pings"),
    number("ghost_cut_db", "Ghost cut", 0.0, 34.0, "dB"),
    number("punch", "Punch", 0.0, 100.0),
)


def ask_view(texts: Mapping[str, str], problems: Mapping[str, str], style: str) -> AskView:
    """Return the questions with what was answered."""
    fields = {one.name: one for one in field_views(asking.FIELDS, texts, problems)}
    more = [fields[one.name] for one in asking.FIELDS if one.name not in asking.MAIN]
    return AskView(
        main=[fields[name] for name in asking.MAIN],
        more=more,
        more_wrong=any(one.problem for one in more),
        styles=[Named(value=one.value, label=card_words.STYLE_WORDS[one], chosen=one.value == style) for one in Style],
    )


def figures(cost: Mapping[str, Any]) -> str:
    """Return a cost in figures, what is nil left out."""
    parts = []
    for name, label, unit, least in (
        ("lure_over_clutter_db", "jig", "dB", 0.5),
        ("faintest_fish_db", "faintest fish", "dB", 0.5),
        ("clutter_fill_pct", "clutter", "%", 0.3),
        ("lag_ms", "lag", "ms", 1.0),
    ):
        value = cost[name]
        if value is not None and abs(value) >= least:
            parts.append(f"{label} {value:+.0f} {unit}" if abs(value) >= 2.0 else f"{label} {value:+.1f} {unit}")
    return ", ".join(parts) or "nothing to speak of"


def _row(one: OpenCard, number_: int, control: str) -> RowView:
    row = one.card.row(control)
    value = one.values[control]
    theirs = "" if one.kept.rig_id is None else in_their_words(one.aboard.rig, control, value)
    costs = (one.kept.costs or {}).get("costs", {}).get(control)
    styles = [
        StyleView(
            name=style.value,
            label=card_words.STYLE_WORDS[style],
            value=card_words.shown(control, row.styles[style]),
            same=row.styles[style] == row.start,
            figures="" if costs is None else figures(costs[style.value]),
        )
        for style in Style
    ]
    return RowView(
        step=number_,
        control=card_words.EDGE[control],
        label=card_words.LABELS[control],
        term=card_words.TERMS[control],
        start=card_words.shown(control, value),
        planned="" if value == row.start else card_words.shown(control, row.start),
        theirs=theirs,
        matched=theirs not in ("", "not matched yet"),
        band=card_words.band_words(control, row.low, row.high),
        cue=card_words.STOP_CUES[control],
        why=card_words.why_line(row.reasons),
        more=card_words.why_more(row.reasons),
        ink=str(value) if control == "ink" else "",
        styles=styles,
    )


def change_line(change: Change) -> str:
    """Return one change of a move, with where to look."""
    before, after = card_words.shown(change.control, change.before), card_words.shown(change.control, change.after)
    return f"{card_words.LABELS[change.control]} {before} → {after}"


def _tuned(one: OpenCard) -> TunedView | None:
    found = one.kept.tuned
    if found is None:
        return None
    card = one.card
    rows = []
    for control in (name for name in card_words.LABELS if name in found["values"] and name != "ink"):
        value = found["values"][control]
        row, off = card.row(control), found["off_band"].get(control)
        band = card_words.band_words(control, row.low, row.high)
        rows.append(
            TunedRow(
                label=card_words.LABELS[control],
                start=card_words.shown(control, row.start),
                found=card_words.shown(control, value),
                band=band,
                off="" if off is None else card_words.off_band_reason(control, value, (off[0], off[1]), card),
            )
        )
    readings, start = found["readings"], found["start_readings"]
    gains = []
    for name, label, unit in (
        ("lure_over_clutter_db", "Jig over clutter", "dB"),
        ("faintest_fish_db", "Faintest fish", "dB"),
        ("clutter_fill_pct", "Clutter", "%"),
        ("blown_out_pct", "Blown out", "%"),
        ("lag_ms", "Lag", "ms"),
    ):
        if readings[name] is not None and start[name] is not None and round(readings[name]) != round(start[name]):
            gains.append(f"{label} {start[name]:.0f} → {readings[name]:.0f} {unit}")
    better = found["score"] - found["start_score"]
    verdict = (
        f"{better:.0f} points better than the start, on a scale of 100"
        if better >= 0.5
        else "The start is as good as what was found: leave it"
    )
    taken = all(one.values.get(name) == value for name, value in found["values"].items())
    return TunedView(rows=rows, score=f"{found['score']:.0f}", verdict=verdict, gains=gains, taken=taken)


def card_view(one: OpenCard, move: Move | None = None) -> CardView:
    """Return a card's view, with the move that led to it."""
    first = len(card_words.BEFORE) + 1
    last = first + len(one.card.rows)
    return CardView(
        id=str(one.kept.id),
        name=one.kept.name or "",
        headline=card_words.headline(one.card),
        lure=card_words.lure_line(one.card),
        rig="" if one.kept.rig_id is None else "your rig",
        style=card_words.STYLE_WORDS[one.card.style],
        before=[StepView(step=at + 1, label=label, cue=cue) for at, (label, cue) in enumerate(card_words.BEFORE)],
        rows=[_row(one, first + at, row.control) for at, row in enumerate(one.card.rows)],
        after=StepView(step=last, label=card_words.AFTER[0], cue=card_words.AFTER[1]),
        doubts=(one.kept.costs or {}).get("doubts", []),
        measured=one.kept.costs is not None,
        tuned=_tuned(one),
        move="" if move is None else card_words.spoken(move),
        moved=[] if move is None else [change_line(change) for change in move.changes],
        caution=card_words.CAUTION,
        at=one.kept.created_at.strftime("%b %-d, %H:%M UTC"),
        habit=card_words.habit_line(one.card),
        other_styles=[
            Named(value=style.value, label=card_words.STYLE_WORDS[style]) for style in Style if one.card.setups[style] != one.setup
        ],
        flat=card_words.flat_line(one.card, one.aboard.rig),
        power="" if one.kept.rig_id is None else card_words.power_line(one.aboard.rig),
    )


def job_view(one: OpenCard, kind: str, job: Job) -> JobPartView:
    """Return long work on a card as the page follows it."""
    view = job.view()
    text = {"costs": "Measuring what each setting costs on this water", "tuned": "Searching the receiver on this water"}[kind]
    failed = view.error or "" if view.state is JobState.FAILED else "Cancelled." if view.state is JobState.CANCELLED else ""
    return JobPartView(card=str(one.kept.id), kind=kind, job=str(view.id), share=round(100 * view.share), text=text, failed=failed)


def baseline_views(kept: Sequence[KeptCard]) -> tuple[BaselineView, ...]:
    """Return baselines, one a name, each with its history."""
    by_name: dict[str, list[KeptCard]] = {}
    for one in kept:
        by_name.setdefault(one.name or "", []).append(one)
    return tuple(
        BaselineView(
            id=str(cards[0].id),
            name=name,
            facts=values_line(cards[0].values),
            at=_when(cards[0].created_at),
            history=tuple((str(one.id), f"{_when(one.created_at)}: {values_line(one.values)}") for one in cards[1:]),
        )
        for name, cards in by_name.items()
    )


def _when(at: dt.datetime) -> str:
    return at.strftime("%b %-d, %H:%M")


def values_line(values: Mapping[str, Any]) -> str:
    """Return set values in one line."""
    return ", ".join(
        f"{card_words.LABELS[name]} {card_words.shown(name, values[name])}"
        for name in ("down_to_m", "reach_m", "gain", "quieting_pings", "punch")
    )


def move_texts(one: OpenCard) -> dict[str, str]:
    """Return the answers of a card that a move may change."""
    texts = one.kept.answers["texts"]
    return {name: texts.get(name, "") for name in asking.MOVE}


def tune_view(
    asked: Asked, style: str, one: OpenCard | None, move: Move | None, baselines: Sequence[KeptCard], *, has_rig: bool
) -> TuneView:
    """Return the Tune page's view."""
    move_fields = () if one is None else field_views([asking.BY_NAME[name] for name in asking.MOVE], move_texts(one), prefix="m")
    now_texts: dict[str, str] = {} if one is None else {name.name: f"{float(one.values[name.name]):g}" for name in NOW_FIELDS}
    return TuneView(
        ask=ask_view(asked.texts, asked.problems, style),
        card=None if one is None else card_view(one, move),
        move_fields=move_fields,
        symptoms=[Named(value=symptom.value, label=SEEN[symptom]) for symptom in Symptom],
        now_fields=field_views(NOW_FIELDS, now_texts, prefix="n"),
        baselines=baseline_views(baselines),
        has_rig=has_rig,
    )


def compare_view(first: OpenCard, second: OpenCard, move: Move) -> CompareView:
    """Return two cards side by side."""
    changed = {change.control for change in move.changes}
    rows = [
        (
            card_words.LABELS[control],
            card_words.shown(control, first.values[control]),
            card_words.shown(control, second.values[control]),
            control in changed,
        )
        for control in card_words.LABELS
    ]
    names = (first.kept.name or f"card of {_when(first.kept.created_at)}", second.kept.name or f"card of {_when(second.kept.created_at)}")
    return CompareView(names=names, rows=rows, spoken=card_words.spoken(move))
