"""A set-up card's view: its lines, what each style costs, what auto-tune found."""

from collections.abc import Sequence
from dataclasses import asdict, dataclass

from mudlamp.core.advice.looks import Side
from mudlamp.core.advice.retune import Change, Move
from mudlamp.core.advice.sight import farther
from mudlamp.core.advice.styles import Style
from mudlamp.core.controls import CONTROLS, GAIN, INK, ON_CARD, PUNCH, RECEIVER_NUMBERS, Control
from mudlamp.core.setup import Setting
from mudlamp.core.units import feet
from mudlamp.services.cards.desk import OpenCard
from mudlamp.services.cards.stored import StoredTuned
from mudlamp.services.edge.controls import EDGE
from mudlamp.services.jobs import Job, JobState
from mudlamp.services.rig.answers import NOT_MATCHED, in_their_words
from mudlamp.services.words import card as words
from mudlamp.services.words import cues
from mudlamp.services.words.looks import jig_words, look_words
from mudlamp.services.words.readings import FIGURES, PRICED
from mudlamp.web.times import when
from mudlamp.web.tune.sight_view import SightView, sight_view

# Where an angler may have ended, about the start, in steps of the control.
END_STEPS = {GAIN: (-6.0, -3.0, 0.0, 3.0, 6.0), PUNCH: (-20.0, -10.0, 0.0, 10.0, 20.0)}


@dataclass(frozen=True, slots=True, kw_only=True)
class Named:
    """A value with its label."""

    value: str
    label: str
    chosen: bool = False


@dataclass(frozen=True, slots=True, kw_only=True)
class StyleView:
    """How a style would set a control, and what that costs here; `figures` is empty while it is measured."""

    name: str
    label: str
    value: str
    same: bool
    figures: str


@dataclass(frozen=True, slots=True, kw_only=True)
class LookView:
    """A small picture of this water with a control too low, right or too high: where it is, where a large one is, what it shows.

    `setting` is the control at the value it is made with; None is the start as it is.
    """

    setting: Setting | None
    src: str
    large: str
    words: str
    right: bool


@dataclass(frozen=True, slots=True, kw_only=True)
class RowView:
    """A line of the card; `called` is what the angler's unit calls the control, where they typed it.

    `at_rest` rows stand folded: nobody need touch them here.
    """

    step: int
    control: str
    label: str
    called: str
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
    looks: Sequence[LookView]
    at_rest: bool
    own: str
    ends: Sequence[str]


@dataclass(frozen=True, slots=True, kw_only=True)
class PlainStep:
    """A step without a control; `cause` is what it does away with, where the bench can show that."""

    step: int
    label: str
    cue: str
    cause: str = ""


@dataclass(frozen=True, slots=True, kw_only=True)
class TunedRow:
    """A control as auto-tune found it, beside the start and the usual band."""

    label: str
    start: str
    found: str
    band: str
    off: str


@dataclass(frozen=True, slots=True, kw_only=True)
class TunedView:
    """What auto-tune found."""

    rows: Sequence[TunedRow]
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
    lure_hidden: bool
    rig: str
    style: str
    before: Sequence[PlainStep]
    rows: Sequence[RowView]
    after: PlainStep
    leave: str
    good_enough: str
    whole: LookView | None
    sight: SightView | None
    doubts: Sequence[str]
    measured: bool
    tuned: TunedView | None
    move: str
    aloud: str
    moved: Sequence[str]
    caution: str
    at: str
    habit: str
    flat: str
    power: str
    other_styles: Sequence[Named]
    is_demo: bool


@dataclass(frozen=True, slots=True, kw_only=True)
class CardJobView:
    """Long work on a card, as the page follows it; `failed` says why it is over without a result."""

    card: str
    kind: str
    job: str
    share: int
    text: str
    failed: str


def _src(one: OpenCard, query: str) -> str:
    return f"/tune/cards/{one.kept.id}/picture.png?{query}"


def _whole(one: OpenCard) -> LookView:
    return LookView(
        setting=None,
        src=_src(one, "size=medium"),
        large=_src(one, "size=large"),
        words="This water at the start. Ringed: your jig, and a fish.",
        right=True,
    )


def _looks(one: OpenCard, control: Control) -> list[LookView]:
    """Return the small pictures of a control, once they are known."""
    found = one.measured
    if found is None:
        return []
    return [
        LookView(
            setting=Setting(control=control, value=look.value),
            src=_src(one, query := f"control={control.name}&value={look.value:.6g}"),
            large=_src(one, f"{query}&size=large"),
            words=look_words(control, look),
            right=look.side is Side.RIGHT,
        )
        for look in found.looks.get(control.name, ())
    ]


def _at_rest(one: OpenCard, control: Control) -> bool:
    """Return whether a control is set to do nothing, as it was planned: or is the ink."""
    value = one.setup.value(control)
    return control is INK or (control.off is not None and value == control.off == one.plan.card.row(control.name).start)


def _cue(one: OpenCard, control: Control) -> str:
    """Return what to look for; where Gain and Punch stop on this water is said once it is measured."""
    if one.measured is not None:
        return cues.cue(control.name, one.plan.card.row(control.name).start, one.measured.stops, one.labels)
    return cues.stop_cue(control.name, one.labels)


def _ends(control: Control, start: float) -> list[str]:
    """Return where an angler may have ended, as a tap gives it: about the start."""
    return [f"{control.held(start + off):.0f}" for off in END_STEPS[control]]


def _jig(one: OpenCard, name: str, style: Style) -> str:
    """Return how far out the jig shows with one control as a style would set it; nothing where that is as far."""
    measured = one.measured
    seen = None if measured is None else measured.settings.get(name, {}).get(style)
    return "" if measured is None or measured.sights is None or seen is None else jig_words(seen, measured.sights.lure[one.plan.card.style])


def _row(one: OpenCard, step: int, control: Control) -> RowView:
    name, edge, labels = control.name, EDGE[control], one.labels
    row, value = one.plan.card.row(name), one.setup.value(control)
    theirs = "" if one.kept.rig_id is None else in_their_words(one.plan.aboard.rig, name, value)
    costs = None if one.measured is None else one.measured.costs.get(name)
    reasons = cues.reasons_seen(row, None if one.measured is None else one.measured.stops)
    return RowView(
        step=step,
        control=edge.name,
        label=edge.label,
        called=labels[name],
        start=edge.shown(value),
        planned="" if value == row.start else edge.shown(row.start),
        theirs=theirs,
        matched=theirs not in ("", NOT_MATCHED),
        band=words.band_words(name, row.low, row.high),
        cue=_cue(one, control),
        why=words.why_line(reasons, labels),
        more=words.why_more(reasons, labels),
        ink=str(value) if control is INK else "",
        styles=[
            StyleView(
                name=style.value,
                label=words.STYLE_WORDS[style],
                value=edge.shown(row.styles[style]),
                same=row.styles[style] == row.start,
                figures="" if costs is None else words.cost_words(asdict(costs[style]), jig=_jig(one, name, style)),
            )
            for style in Style
        ],
        looks=_looks(one, control),
        at_rest=_at_rest(one, control),
        own=words.own_line(control, one.plan.own[name]) if name in one.plan.own else "",
        ends=_ends(control, float(value)) if control in END_STEPS and not isinstance(value, str) else (),
    )


def change_line(change: Change) -> str:
    """Return one change of a move."""
    edge = EDGE[CONTROLS[change.control]]
    return f"{edge.label} {edge.shown(change.before)} → {edge.shown(change.after)}"


def _tuned(one: OpenCard, found: StoredTuned) -> TunedView:
    card = one.plan.card
    rows = []
    for control in RECEIVER_NUMBERS:
        value, row = getattr(found.values, control.name), card.row(control.name)
        off = found.off_band.get(control.name)
        rows.append(
            TunedRow(
                label=EDGE[control].label,
                start=EDGE[control].shown(row.start),
                found=EDGE[control].shown(float(value)),
                band=words.band_words(control.name, row.low, row.high),
                off="" if off is None else words.off_band_reason(control.name, float(value), off, card),
            )
        )
    taken = all(getattr(one.setup.receiver, control.name) == getattr(found.values, control.name) for control in RECEIVER_NUMBERS)
    return TunedView(rows=rows, verdict=words.better_words(found.score - found.start_score), gains=_gains(found), taken=taken)


def _gains(found: StoredTuned) -> list[str]:
    gains = []
    if found.sight is not None and found.start_sight is not None and farther(found.sight, found.start_sight):
        gains.append(f"jig to {feet(found.sight.farthest_m):.0f} ft instead of {feet(found.start_sight.farthest_m):.0f}")
    for figure in (one for one in FIGURES if one.field in PRICED):
        now, then = getattr(found.readings, figure.field), getattr(found.start_readings, figure.field)
        if now is not None and then is not None and round(now) != round(then):
            gains.append(f"{figure.title} {then:.0f} → {now:.0f} {figure.unit}")
    return gains


def card_view(one: OpenCard, move: Move | None = None, *, is_demo: bool = False) -> CardView:
    """Return a card's view, with the move that led to it; of the demo's nothing can be set."""
    card, rig = one.plan.card, one.plan.aboard.rig
    has_rig = one.kept.rig_id is not None
    frame = words.around(card)
    first = len(frame.before) + 1
    controls = [CONTROLS[row.control] for row in card.rows]
    # Those that are set are numbered; those that are left are not.
    numbers = iter(range(first, first + len(controls)))
    rows = [_row(one, 0 if _at_rest(one, control) else next(numbers), control) for control in controls]
    hidden = one.measured is not None and one.measured.hides_lure
    return CardView(
        id=str(one.kept.id),
        name=one.kept.name or "",
        headline=words.headline(card),
        lure=words.lure_line(card)
        if one.measured is None or one.measured.lure is None
        else words.seen_line(one.measured.lure, card.here.cover),
        lure_hidden=hidden,
        rig="your rig" if has_rig else "",
        style=words.STYLE_WORDS[card.style],
        before=[
            PlainStep(step=at + 1, label=label, cue=cue, cause=words.BEFORE_CAUSES.get(label, ""))
            for at, (label, cue) in enumerate(frame.before)
        ],
        rows=rows,
        after=PlainStep(step=first + sum(not row.at_rest for row in rows), label=frame.after[0], cue=frame.after[1]),
        leave=words.leave_line({control.name: one.setup.value(control) for control in ON_CARD if _at_rest(one, control)}, one.labels),
        good_enough=words.good_enough(card, hidden=hidden),
        whole=None if one.measured is None else _whole(one),
        sight=None if one.measured is None or one.measured.sights is None else sight_view(card, one.measured.sights),
        doubts=() if one.measured is None else one.measured.doubts,
        measured=one.measured is not None,
        tuned=None if one.tuned is None else _tuned(one, one.tuned),
        move="" if move is None else words.spoken(move, one.labels),
        aloud="" if move is None else words.aloud(move, one.labels),
        moved=[] if move is None else [change_line(change) for change in move.changes],
        caution=frame.caution,
        at=when(one.kept.created_at),
        habit=words.habit_line(card, one.labels),
        flat=words.flat_line(card, rig, one.labels),
        power=words.power_line(rig) if has_rig else "",
        other_styles=[
            Named(value=style.value, label=words.STYLE_WORDS[style]) for style in Style if card.setups[style] != one.setup.receiver
        ],
        is_demo=is_demo,
    )


def job_view(one: OpenCard, kind: str, job: Job | None) -> CardJobView:
    """Return long work on a card as the page follows it; None is work that nobody knows any more."""
    view = None if job is None else job.view()
    if view is None:
        failed = words.JOB_GONE
    else:
        failed = view.error or "" if view.state is JobState.FAILED else words.JOB_CANCELED if view.state is JobState.CANCELLED else ""
    return CardJobView(
        card=str(one.kept.id),
        kind=kind,
        job="" if view is None else str(view.id),
        share=0 if view is None else round(100 * view.share),
        text=words.JOB_WORDS[kind],
        failed=failed,
    )
