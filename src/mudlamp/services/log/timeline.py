"""A session as a picture: a lane for each kind of thing that happened, along its minutes."""

from collections.abc import Sequence
from dataclasses import dataclass

from mudlamp.core.reactions import Reaction
from mudlamp.core.records.log import LoggedReaction, SessionDetail
from mudlamp.services.words.log import TOKEN_WORDS, clock

# What fish did, gathered into lanes from interest to refusal; a lane that stays empty is left out.
LANES = (
    ("looked", (Reaction.LOOKED,)),
    ("followed", (Reaction.FOLLOWED,)),
    ("bit", (Reaction.BIT, Reaction.HIT_WEIGHT)),
    ("backed off, refused", (Reaction.BACKED_OFF, Reaction.REFUSED)),
    ("spooked", (Reaction.SPOOKED, Reaction.LEFT_WITH_SCHOOL)),
)
LANDED = "landed"
LEAST_S = 60.0
TICKS = 6
STEPS_S = (10.0, 20.0, 30.0, 60.0, 120.0, 300.0, 600.0, 1200.0, 1800.0, 3600.0, 7200.0)
# A mark is so wide at least [% of the picture].
LEAST_PCT = 0.35


@dataclass(frozen=True, slots=True, kw_only=True)
class Mark:
    """Something that happened: where it begins and how wide it is [%], what to read about it, which shot it belongs to (None: none)."""

    at_pct: float
    wide_pct: float
    said: str
    shot: int | None


@dataclass(frozen=True, slots=True, kw_only=True)
class Lane:
    """A lane: its word, how many, its marks; `tone` is plain, good or bad; a mark that `leads` brings to its shot."""

    word: str
    count: int
    tone: str
    marks: Sequence[Mark]
    leads: bool = False


@dataclass(frozen=True, slots=True, kw_only=True)
class Timeline:
    """A session's lanes from top to bottom, and its ticks: place [%] and time."""

    lanes: Sequence[Lane]
    ticks: Sequence[tuple[float, str]]


def timeline_of(detail: SessionDetail) -> Timeline:
    """Return a session's timeline: shots as long as they lasted, what fish did, what was landed, where the set-up changed."""
    length = _length_s(detail)

    def pct(seconds: float) -> float:
        return round(100.0 * min(max(seconds / length, 0.0), 1.0), 3)

    def mark(start_s: float, end_s: float | None, said: str, shot: int | None) -> Mark:
        wide = 0.0 if end_s is None else pct(end_s) - pct(start_s)
        return Mark(at_pct=pct(start_s), wide_pct=round(max(wide, LEAST_PCT), 3), said=said, shot=shot)

    shots = [
        mark(one.start_s, one.end_s, f"shot {one.number}, {clock(one.start_s)}{f', {one.outcome}' if one.outcome else ''}", one.number)
        for one in detail.shots
    ]
    reactions = [(one, shot.number) for shot in detail.shots for one in shot.reactions] + [(one, None) for one in detail.loose]
    lanes = [Lane(word="shots", count=len(shots), tone="plain", marks=shots, leads=True)]
    for word, tokens in LANES:
        own = [(one, number) for one, number in reactions if _token(one) in tokens]
        marks = [
            mark(one.session_s, None, f"{clock(one.session_s)} {one.track}: {TOKEN_WORDS.get(_token(one), _token(one))}", number)
            for one, number in own
        ]
        lanes.append(
            Lane(word=word, count=len(marks), tone="good" if word == "bit" else "bad" if word == "spooked" else "plain", marks=marks)
        )
    landed = [one for one in detail.shots if one.outcome == LANDED]
    marks = [mark(one.end_s or one.start_s, None, f"landed, shot {one.number}", one.number) for one in landed]
    lanes.append(Lane(word="landed", count=len(marks), tone="good", marks=marks))
    changes = [mark(one.session_s, None, f"{clock(one.session_s)} set-up", None) for one in detail.setups[1:]]
    lanes.append(Lane(word="set-up changed", count=len(changes), tone="plain", marks=changes))
    return Timeline(lanes=[lane for lane in lanes if lane.marks], ticks=[(pct(at), clock(at)) for at in _ticks(length)])


def _token(one: LoggedReaction) -> str:
    return one.corrected or one.token


def _length_s(detail: SessionDetail) -> float:
    """Return how long the session took [s]: to its end, or to the last thing that happened."""
    summary = detail.summary
    ended = 0.0 if summary.ended_at is None else (summary.ended_at - summary.started_at).total_seconds()
    last = [one.end_s or one.start_s for one in detail.shots]
    last += [one.session_s for shot in detail.shots for one in shot.reactions] + [one.session_s for one in detail.loose]
    last += [one.session_s for one in detail.setups]
    return max([ended, *last, LEAST_S])


def _ticks(length_s: float) -> list[float]:
    """Return round times along a session [s], some six of them."""
    step = next((step for step in STEPS_S if length_s / step <= TICKS), STEPS_S[-1])
    return [step * i for i in range(int(length_s // step) + 1)]
