"""What happened as a picture: a lane for each kind of thing, along a session's or a trip's time."""

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from functools import partial
from operator import attrgetter
from typing import NamedTuple

from mudlamp.core.reactions import Reaction
from mudlamp.core.records.library import Recording
from mudlamp.core.records.log import LoggedReaction, LoggedShot, SessionDetail
from mudlamp.core.units import feet
from mudlamp.services.log.replays import replay
from mudlamp.services.words.bait import DOING_WORDS
from mudlamp.services.words.log import TOKEN_WORDS, clock

# What fish did, gathered into lanes from interest to refusal.
REACTION_LANES = (
    ("looked", (Reaction.LOOKED,)),
    ("followed", (Reaction.FOLLOWED,)),
    ("bit", (Reaction.BIT, Reaction.HIT_WEIGHT)),
    ("backed off, refused", (Reaction.BACKED_OFF, Reaction.REFUSED)),
    ("spooked", (Reaction.SPOOKED, Reaction.LEFT_WITH_SCHOOL)),
)
LANE_OF = {token.value: word for word, tokens in REACTION_LANES for token in tokens}
BAIT_LANE = "bait"
# All lanes from top to bottom; one that stays empty is left out.
LANES = (
    "shots",
    *(word for word, _ in REACTION_LANES),
    BAIT_LANE,
    "landed",
    "caught",
    "moved",
    "conditions",
    "set-up changed",
    "in the boat",
)
TONES = {"bit": "good", "landed": "good", "caught": "good", "spooked": "bad"}
LANDED = "landed"
# How many shots a session's page shows at once.
SHOTS_A_PAGE = 30
LEAST_S = 60.0
TICKS = 6
STEPS_S = (10.0, 20.0, 30.0, 60.0, 120.0, 300.0, 600.0, 1200.0, 1800.0, 3600.0, 7200.0, 14400.0)
# A mark is so wide at least [% of the picture].
LEAST_PCT = 0.35
# From so many marks in a lane on, those that begin closer together than this are drawn as one [%].
MOST_MARKS, CLOSE_PCT = 60, 1.2


class Words(NamedTuple):
    """What to read about something that happened, behind its time, and where it leads (empty: nowhere)."""

    said: str
    href: str = ""


class Happened(NamedTuple):
    """Something that happened: its lane, from when to when [s], and what tells its words, asked only where it is drawn."""

    lane: str
    start_s: float
    tell: Callable[[], Words]
    end_s: float | None = None


@dataclass(frozen=True, slots=True, kw_only=True)
class Mark:
    """Something that happened, as it is drawn: where it begins and how wide it is [%], what to read about it, where it leads."""

    at_pct: float
    wide_pct: float
    said: str
    href: str


@dataclass(frozen=True, slots=True, kw_only=True)
class Lane:
    """A lane: its word, how many, its marks; `tone` is plain, good or bad."""

    word: str
    count: int
    tone: str
    marks: Sequence[Mark]


@dataclass(frozen=True, slots=True, kw_only=True)
class Timeline:
    """Lanes from top to bottom, and ticks: place [%] and time."""

    lanes: Sequence[Lane]
    ticks: Sequence[tuple[float, str]]


def line_up(happened: Sequence[Happened], *, length_s: float, told: Callable[[float], str] = clock) -> Timeline:
    """Return a timeline of what happened along a time [s]; `told` says a time on it in words."""

    def pct(seconds: float) -> float:
        return min(max(100.0 * seconds / length_s, 0.0), 100.0)

    by_lane: dict[str, list[tuple[float, float, Happened]]] = {}
    for one in sorted(happened, key=attrgetter("start_s")):
        at = pct(one.start_s)
        by_lane.setdefault(one.lane, []).append((at, at if one.end_s is None else pct(one.end_s), one))
    lanes = [
        Lane(word=word, count=len(by_lane[word]), tone=TONES.get(word, "plain"), marks=_marks(by_lane[word], told))
        for word in LANES
        if word in by_lane
    ]
    return Timeline(lanes=lanes, ticks=[(round(pct(at), 3), told(at)) for at in _ticks(length_s)])


def _marks(placed: Sequence[tuple[float, float, Happened]], told: Callable[[float], str]) -> list[Mark]:
    """Return a lane's marks. In a full lane those that would lie over one another are one, which leads to the first and says how many it is."""
    close = CLOSE_PCT if len(placed) > MOST_MARKS else 0.0
    found: list[tuple[float, float, Happened, int]] = []
    for at, end, one in placed:
        if found and at - found[-1][0] < close:
            first, last_end, leader, count = found[-1]
            found[-1] = (first, max(last_end, end, at), leader, count + 1)
        else:
            found.append((at, end, one, 1))
    return [_mark(at, end, told(one.start_s), one.tell(), count) for at, end, one, count in found]


def _mark(at: float, end: float, time: str, words: Words, count: int) -> Mark:
    return Mark(
        at_pct=round(at, 3),
        wide_pct=round(max(end - at, LEAST_PCT), 3),
        said=f"{time} {words.said}" + (f" and {count - 1} more" if count > 1 else ""),
        href=words.href,
    )


def timeline_of(detail: SessionDetail, recordings: Sequence[Recording] = ()) -> Timeline:
    """Return a session's timeline: shots as long as they lasted, what fish did, what was landed, where the set-up changed."""
    return line_up(happenings(detail, recordings=recordings), length_s=length_of(detail))


def happenings(
    detail: SessionDetail,
    *,
    offset_s: float = 0.0,
    page: str = "",
    recordings: Sequence[Recording] = (),
) -> list[Happened]:
    """Return what happened in a session that begins at `offset_s` of the picture's time.

    Each leads to its replay where one of the recordings holds it, else to its shot on the session's `page`.
    """
    places = {shot.number: place for place, shot in enumerate(detail.shots)}

    def linked(said: str, start_s: float, shot: int | None) -> Words:
        row = page if shot is None else f"{page}{shots_page(places[shot])}#shot-{shot}"
        return Words(said, replay(recordings, detail.summary.id, start_s) or row)

    def cast(shot: LoggedShot) -> Words:
        return linked(f"shot {shot.number}, {shot.outcome}" if shot.outcome else f"shot {shot.number}", shot.start_s, shot.number)

    def landed(shot: LoggedShot) -> Words:
        return linked(f"landed, shot {shot.number}", shot.end_s or shot.start_s, shot.number)

    def answered(one: LoggedReaction, shot: int | None) -> Words:
        return linked(f"{one.track}: {TOKEN_WORDS.get(_token(one), _token(one))}", one.session_s, shot)

    found = []
    for shot in detail.shots:
        end_s = None if shot.end_s is None else offset_s + shot.end_s
        found.append(Happened("shots", offset_s + shot.start_s, partial(cast, shot), end_s))
        if shot.outcome == LANDED:
            found.append(Happened("landed", offset_s + (shot.end_s or shot.start_s), partial(landed, shot)))
    reactions = [(one, shot.number) for shot in detail.shots for one in shot.reactions] + [(one, None) for one in detail.loose]
    for one, number in reactions:
        lane = LANE_OF.get(_token(one))
        if lane is not None:
            found.append(Happened(lane, offset_s + one.session_s, partial(answered, one, number)))
    for bait in detail.bait:
        said = f"{DOING_WORDS.get(bait.doing, bait.doing)}, {feet(bait.ahead_m):.0f} ft ahead"
        found.append(Happened(BAIT_LANE, offset_s + bait.session_s, partial(linked, said, bait.session_s, None)))
    return found + [
        Happened("set-up changed", offset_s + one.session_s, partial(linked, "set-up", one.session_s, None)) for one in detail.setups[1:]
    ]


def shots_page(place: int) -> str:
    """Return the query of the page of a session's shots that holds the shot at a place (from 0); empty for the first page."""
    return f"?shots={place // SHOTS_A_PAGE}" if place >= SHOTS_A_PAGE else ""


def _token(one: LoggedReaction) -> str:
    return one.corrected or one.token


def length_of(detail: SessionDetail) -> float:
    """Return how long the session took [s]: to its end, or to the last thing that happened."""
    summary = detail.summary
    ended = 0.0 if summary.ended_at is None else (summary.ended_at - summary.started_at).total_seconds()
    last = [one.end_s or one.start_s for one in detail.shots]
    last += [one.session_s for shot in detail.shots for one in shot.reactions] + [one.session_s for one in detail.loose]
    last += [one.session_s for one in detail.setups] + [one.session_s for one in detail.bait]
    return max([ended, *last, LEAST_S])


def _ticks(length_s: float) -> list[float]:
    """Return round times along a time [s], some six of them."""
    step = next((step for step in STEPS_S if length_s / step <= TICKS), STEPS_S[-1])
    return [step * i for i in range(int(length_s // step) + 1)]
