"""What happened as a picture: a lane for each kind of thing, along a session's or a trip's time."""

from collections.abc import Callable, Sequence
from dataclasses import dataclass

from mudlamp.core.reactions import Reaction
from mudlamp.core.records.log import LoggedReaction, SessionDetail
from mudlamp.services.words.log import TOKEN_WORDS, clock

# What fish did, gathered into lanes from interest to refusal.
REACTION_LANES = (
    ("looked", (Reaction.LOOKED,)),
    ("followed", (Reaction.FOLLOWED,)),
    ("bit", (Reaction.BIT, Reaction.HIT_WEIGHT)),
    ("backed off, refused", (Reaction.BACKED_OFF, Reaction.REFUSED)),
    ("spooked", (Reaction.SPOOKED, Reaction.LEFT_WITH_SCHOOL)),
)
# All lanes from top to bottom; one that stays empty is left out.
LANES = ("shots", *(word for word, _ in REACTION_LANES), "landed", "caught", "moved", "conditions", "set-up changed", "in the boat")
TONES = {"bit": "good", "landed": "good", "caught": "good", "spooked": "bad"}
LANDED = "landed"
LEAST_S = 60.0
TICKS = 6
STEPS_S = (10.0, 20.0, 30.0, 60.0, 120.0, 300.0, 600.0, 1200.0, 1800.0, 3600.0, 7200.0, 14400.0)
# A mark is so wide at least [% of the picture].
LEAST_PCT = 0.35


@dataclass(frozen=True, slots=True, kw_only=True)
class Happened:
    """Something that happened: its lane, from when to when [s], what to read about it, where it leads (empty: nowhere)."""

    lane: str
    start_s: float
    said: str
    end_s: float | None = None
    href: str = ""


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
        return round(100.0 * min(max(seconds / length_s, 0.0), 1.0), 3)

    def mark(one: Happened) -> Mark:
        wide = 0.0 if one.end_s is None else pct(one.end_s) - pct(one.start_s)
        return Mark(at_pct=pct(one.start_s), wide_pct=round(max(wide, LEAST_PCT), 3), said=one.said, href=one.href)

    by_lane: dict[str, list[Mark]] = {}
    for one in sorted(happened, key=lambda each: each.start_s):
        by_lane.setdefault(one.lane, []).append(mark(one))
    lanes = [
        Lane(word=word, count=len(by_lane[word]), tone=TONES.get(word, "plain"), marks=by_lane[word]) for word in LANES if word in by_lane
    ]
    return Timeline(lanes=lanes, ticks=[(pct(at), told(at)) for at in _ticks(length_s)])


def timeline_of(detail: SessionDetail) -> Timeline:
    """Return a session's timeline: shots as long as they lasted, what fish did, what was landed, where the set-up changed."""
    return line_up(happenings(detail), length_s=length_of(detail))


def happenings(detail: SessionDetail, *, offset_s: float = 0.0, told: Callable[[float], str] = clock, page: str = "") -> list[Happened]:
    """Return what happened in a session that begins at `offset_s` of the picture's time; each leads to its shot on the session's `page`."""

    def happened(lane: str, start_s: float, said: str, *, end_s: float | None = None, shot: int | None = None) -> Happened:
        href = page if shot is None else f"{page}#shot-{shot}"
        return Happened(lane=lane, start_s=offset_s + start_s, said=said, end_s=None if end_s is None else offset_s + end_s, href=href)

    found = []
    for shot in detail.shots:
        ending = f", {shot.outcome}" if shot.outcome else ""
        said = f"shot {shot.number}, {told(offset_s + shot.start_s)}{ending}"
        found.append(happened("shots", shot.start_s, said, end_s=shot.end_s, shot=shot.number))
        if shot.outcome == LANDED:
            found.append(happened("landed", shot.end_s or shot.start_s, f"landed, shot {shot.number}", shot=shot.number))
    reactions = [(one, shot.number) for shot in detail.shots for one in shot.reactions] + [(one, None) for one in detail.loose]
    for one, number in reactions:
        lane = next((word for word, tokens in REACTION_LANES if _token(one) in tokens), None)
        if lane is not None:
            said = f"{told(offset_s + one.session_s)} {one.track}: {TOKEN_WORDS.get(_token(one), _token(one))}"
            found.append(happened(lane, one.session_s, said, shot=number))
    found += [happened("set-up changed", one.session_s, f"{told(offset_s + one.session_s)} set-up") for one in detail.setups[1:]]
    return found


def _token(one: LoggedReaction) -> str:
    return one.corrected or one.token


def length_of(detail: SessionDetail) -> float:
    """Return how long the session took [s]: to its end, or to the last thing that happened."""
    summary = detail.summary
    ended = 0.0 if summary.ended_at is None else (summary.ended_at - summary.started_at).total_seconds()
    last = [one.end_s or one.start_s for one in detail.shots]
    last += [one.session_s for shot in detail.shots for one in shot.reactions] + [one.session_s for one in detail.loose]
    last += [one.session_s for one in detail.setups]
    return max([ended, *last, LEAST_S])


def _ticks(length_s: float) -> list[float]:
    """Return round times along a time [s], some six of them."""
    step = next((step for step in STEPS_S if length_s / step <= TICKS), STEPS_S[-1])
    return [step * i for i in range(int(length_s // step) + 1)]
