"""The views of the Log page and of a session's page."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from mudlamp.core.controls import DOWN_TO, GAIN, PUNCH, QUIETING, REACH, Value
from mudlamp.core.fishing.rates import LEAST_TRIPS
from mudlamp.core.records.library import Recording
from mudlamp.core.records.log import LoggedReaction, LoggedSetup, LoggedShot, SessionDetail, SessionSummary
from mudlamp.core.units import feet
from mudlamp.services.boat.desk import Told
from mudlamp.services.edge.controls import of
from mudlamp.services.edge.weights import ounces
from mudlamp.services.log.replays import replay
from mudlamp.services.log.review import Review, StageRow, Word
from mudlamp.services.log.timeline import SHOTS_A_PAGE, Timeline, timeline_of
from mudlamp.services.words.deciding import OF_WORDS, STAGE_WORDS, all_words, custom_words, move_words, rate_words
from mudlamp.services.words.log import SOURCE_WORDS, TOKEN_WORDS, clock
from mudlamp.web.log.boat_days import BoatLogView, boat_log_view
from mudlamp.web.log.launch import LaunchView
from mudlamp.web.recording_views import RecordingView, recordings_view
from mudlamp.web.times import when_with_year

# What is said of the first set-up; of later ones, what changed.
FIRST_SAID = (DOWN_TO, REACH, GAIN, QUIETING, PUNCH)


@dataclass(frozen=True, slots=True, kw_only=True)
class TokenView:
    """A reaction that may be picked."""

    value: str
    label: str


CHOICES = tuple(TokenView(value=name, label=word) for name, word in TOKEN_WORDS.items())


@dataclass(frozen=True, slots=True, kw_only=True)
class ReactionView:
    """A reaction in the log: its word, the machine's word where it was corrected, when, how sure."""

    id: str
    track: str
    at: str
    token: str
    word: str
    machine_word: str | None
    cause: str
    sure: str
    choices: Sequence[TokenView]


@dataclass(frozen=True, slots=True, kw_only=True)
class ShotView:
    """A shot in the log."""

    number: int
    source: str
    at: str
    ahead: str
    head: str
    seconds: str
    outcome: str
    reactions: Sequence[ReactionView]
    replay: str


@dataclass(frozen=True, slots=True, kw_only=True)
class SessionView:
    """A session in the list."""

    id: str
    title: str
    source: str
    state: str
    angler: str
    started_text: str
    length: str
    shots: int
    tally: Sequence[tuple[str, int]]


@dataclass(frozen=True, slots=True, kw_only=True)
class TripLineView:
    """A trip in the list."""

    id: str
    title: str
    water: str
    day: str
    source: str
    state: str


@dataclass(frozen=True, slots=True, kw_only=True)
class LogView:
    """The Log page: who fishes (and what is wrong with that name), sessions; `demo_alone` while there is nothing of one's own."""

    name: str
    problem: str
    sessions: Sequence[SessionView]
    with_demo: bool
    demo_alone: bool
    next_before: str | None
    boat: BoatLogView
    launch: LaunchView
    trips: Sequence[TripLineView]
    last_time: Sequence[str]


@dataclass(frozen=True, slots=True, kw_only=True)
class SetupView:
    """A change of set-up in the log: when, and the differences in words."""

    at: str
    changes: Sequence[str]


@dataclass(frozen=True, slots=True, kw_only=True)
class StageView:
    """A stage of the shots: its words, the rate with its doubt, and where the interval's bar lies [%]."""

    word: str
    of: str
    rate: str
    low_pct: float
    wide_pct: float
    middle_pct: float


@dataclass(frozen=True, slots=True, kw_only=True)
class ReviewView:
    """What the shots show, in words."""

    stages: Sequence[StageView]
    findings: Sequence[str]
    customs: Sequence[str]
    move: str
    leaned: str
    word: Word


@dataclass(frozen=True, slots=True, kw_only=True)
class SessionPageView:
    """One session's page."""

    session: SessionView
    with_demo: bool
    is_own: bool
    trip: str
    setups: Sequence[SetupView]
    review: "ReviewView"
    timeline: Timeline
    shots: Sequence[ShotView]
    earlier: str
    later: str
    of_shots: str
    loose: Sequence[ReactionView]
    recordings: Sequence[RecordingView]


def reaction_view(one: LoggedReaction, *, is_own: bool = True) -> ReactionView:
    """Return a reaction for the log; one of somebody's own can be corrected."""
    token = one.corrected or one.token
    return ReactionView(
        id=str(one.id),
        track=one.track,
        at=clock(one.session_s),
        token=token,
        word=TOKEN_WORDS.get(token, token),
        machine_word=TOKEN_WORDS.get(one.token, one.token) if one.corrected and one.corrected != one.token else None,
        cause=one.cause,
        sure=f"{100 * one.confidence:.0f} %",
        choices=CHOICES if is_own else (),
    )


def session_view(one: SessionSummary) -> SessionView:
    """Return a session for the list."""
    order = {name: i for i, name in enumerate(TOKEN_WORDS)}
    tally = sorted(one.reactions.items(), key=lambda item: order.get(item[0], len(order)))
    seconds = ((one.ended_at or one.started_at) - one.started_at).total_seconds()
    return SessionView(
        id=str(one.id),
        title=one.title,
        source=SOURCE_WORDS[one.source],
        state=one.state,
        angler=one.angler or "",
        started_text=when_with_year(one.started_at),
        length=clock(seconds) if one.ended_at else "running",
        shots=one.shots,
        tally=tuple((TOKEN_WORDS.get(name, name), count) for name, count in tally),
    )


def log_view(
    sessions: Sequence[SessionSummary],
    *,
    with_demo: bool,
    demo_alone: bool,
    page: int,
    name: str,
    launch: LaunchView,
    trips: Sequence[TripLineView] = (),
    last_time: Sequence[str] = (),
    told: Sequence[Told] = (),
    problem: str = "",
) -> LogView:
    """Return the Log page's view; `told` was noted in the boat, `problem` is what is wrong with the name of who fishes."""
    return LogView(
        name=name,
        problem=problem,
        sessions=tuple(session_view(one) for one in sessions),
        with_demo=with_demo,
        demo_alone=demo_alone,
        next_before=sessions[-1].started_at.isoformat() if len(sessions) == page else None,
        boat=boat_log_view(told),
        launch=launch,
        trips=trips,
        last_time=last_time,
    )


def session_page_view(
    detail: SessionDetail, review: Review, word: Word, recordings: Sequence[Recording] = (), *, with_demo: bool, page: int = 0
) -> SessionPageView:
    """Return one session's page, with a page of its shots (from 0)."""
    # The demo's can be looked at, and not changed.
    is_own = detail.summary.source != "demo"
    first = min(page, max(len(detail.shots) - 1, 0) // SHOTS_A_PAGE) * SHOTS_A_PAGE
    return SessionPageView(
        session=session_view(detail.summary),
        with_demo=with_demo,
        is_own=is_own,
        trip=str(detail.trip_id or ""),
        setups=setup_views(detail.setups),
        review=_review(review, word),
        timeline=timeline_of(detail, recordings),
        shots=tuple(_shot(one, detail, recordings, is_own=is_own) for one in detail.shots[first : first + SHOTS_A_PAGE]),
        earlier=_shots_at(first - SHOTS_A_PAGE, with_demo=with_demo) if first else "",
        later=_shots_at(first + SHOTS_A_PAGE, with_demo=with_demo) if first + SHOTS_A_PAGE < len(detail.shots) else "",
        of_shots=f"{first + 1} to {min(first + SHOTS_A_PAGE, len(detail.shots))} of {len(detail.shots)}"
        if len(detail.shots) > SHOTS_A_PAGE
        else "",
        loose=tuple(reaction_view(one, is_own=is_own) for one in detail.loose),
        recordings=recordings_view(recordings).recordings,
    )


def _shots_at(place: int, *, with_demo: bool) -> str:
    return f"?shots={place // SHOTS_A_PAGE}{'&demo=true' if with_demo else ''}"


def _review(one: Review, word: Word) -> ReviewView:
    past = one.past_sessions
    return ReviewView(
        stages=tuple(_stage(row) for row in one.stages if row.count.of),
        findings=tuple(all_words(one.findings, one.shots)),
        customs=tuple(custom_words(each) for each in one.customs),
        move=move_words(one.advice, one.here, one.record),
        leaned=f"Rates lean on {past} earlier session{'s' if past != 1 else ''} on this water." if past >= LEAST_TRIPS else "",
        word=word,
    )


def _stage(row: StageRow) -> StageView:
    rate = row.rate
    return StageView(
        word=STAGE_WORDS[row.stage],
        of=OF_WORDS[row.stage],
        rate=rate_words(rate, row.count),
        low_pct=round(100.0 * rate.low, 1),
        wide_pct=round(100.0 * (rate.high - rate.low), 1),
        middle_pct=round(100.0 * rate.middle, 1),
    )


def _shot(one: LoggedShot, detail: SessionDetail, recordings: Sequence[Recording], *, is_own: bool) -> ShotView:
    return ShotView(
        number=one.number,
        source=SOURCE_WORDS[one.source],
        at=clock(one.start_s),
        ahead=f"{feet(one.ahead_m):.0f} ft out",
        head=ounces(one.head_kg) if one.head_kg > 0.0 else "",
        seconds="" if one.end_s is None else f"{one.end_s - one.start_s:.0f} s",
        outcome=one.outcome or "",
        reactions=tuple(reaction_view(each, is_own=is_own) for each in one.reactions),
        replay=replay(recordings, detail.summary.id, one.start_s) or replay(recordings, detail.summary.id, one.end_s),
    )


def first_said(values: Mapping[str, Value]) -> list[str]:
    """Return what says most of a set-up, in words."""
    return [_said(control.name, values) for control in FIRST_SAID if control.name in values]


def setup_views(setups: Sequence[LoggedSetup]) -> tuple[SetupView, ...]:
    """Return set-ups as what each changed; of the first, what says most."""
    views = []
    before: Mapping[str, Value] = {}
    for one in setups:
        if not before:
            changes = first_said(one.values)
        else:
            changes = [_change(name, before, value) for name, value in one.values.items() if before.get(name) != value]
        before = one.values
        if changes:
            views.append(SetupView(at=clock(one.session_s), changes=tuple(changes)))
    return tuple(views)


def _said(name: str, values: Mapping[str, Value]) -> str:
    return f"{of(name).label} {of(name).shown(values[name])}"


def _change(name: str, before: Mapping[str, Value], value: Value) -> str:
    control = of(name)
    then = control.shown(before[name]) if name in before else "?"
    return f"{control.label} {then} → {control.shown(value)}"
