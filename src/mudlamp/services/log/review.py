"""What the shots of a session show: how far they got, what may be claimed, which customs hold, whether to stay."""

from collections.abc import Sequence
from dataclasses import dataclass
from itertools import groupby

from mudlamp.core.fishing.answers import Count, Presentation, Stage, count_alike, count_of, presentation
from mudlamp.core.fishing.customs import Custom, customs
from mudlamp.core.fishing.moving import Advice, Spell, stay_or_move
from mudlamp.core.fishing.rates import Finding, Rate, findings, prior_of, rate_of
from mudlamp.core.reactions import Reaction
from mudlamp.core.records.log import LoggedShot, PastShot, SessionDetail
from mudlamp.core.records.shots import with_bite
from mudlamp.services.edge.weights import ounces


@dataclass(frozen=True, slots=True, kw_only=True)
class StageRow:
    """How many shots passed a stage, and the rate that this and earlier sessions on this water stand for."""

    stage: Stage
    count: Count
    rate: Rate


@dataclass(frozen=True, slots=True, kw_only=True)
class Review:
    """What the shots of a session show; `here` and `record` are takes in time, of this session and of the earlier ones on this water."""

    shots: int
    past_sessions: int
    stages: Sequence[StageRow]
    findings: Sequence[Finding]
    customs: Sequence[Custom]
    advice: Advice
    here: Spell
    record: Spell


@dataclass(frozen=True, slots=True, kw_only=True)
class Word:
    """The angler's word on the spot: whether fish are seen there (None: not asked), and whether one big fish is hunted."""

    sees_fish: bool | None = None
    is_trophy: bool = False


def review(detail: SessionDetail, past: Sequence[PastShot], word: Word) -> Review:
    """Return what a session's shots show, leaned on `past` shots of earlier sessions in their order, and on the angler's `word`."""
    shots = [_presented(shot) for shot in detail.shots]
    trips = [
        [(presentation(_factors(shot.head_kg), shot.tokens), shot.count) for shot in trip]
        for _, trip in groupby(past, key=lambda one: one.session_id)
    ]
    minutes = {shot.session_id: shot.minutes for shot in past}
    end = detail.summary.ended_at or detail.summary.started_at
    here = Spell(takes=_takes(shots), minutes=(end - detail.summary.started_at).total_seconds() / 60.0)
    record = Spell(
        takes=sum(count for trip in trips for shot, count in trip if Reaction.BIT in shot.reactions), minutes=sum(minutes.values())
    )
    return Review(
        shots=len(shots),
        past_sessions=len(trips),
        stages=[_row(stage, shots, trips) for stage in Stage],
        findings=findings(shots),
        customs=customs(shots),
        advice=stay_or_move(here, record, sees_fish=word.sees_fish, is_trophy=word.is_trophy),
        here=here,
        record=record,
    )


def _row(stage: Stage, shots: Sequence[Presentation], trips: Sequence[Sequence[tuple[Presentation, int]]]) -> StageRow:
    count = count_of(shots, stage)
    return StageRow(stage=stage, count=count, rate=rate_of(count, prior_of([count_alike(trip, stage) for trip in trips])))


def _presented(shot: LoggedShot) -> Presentation:
    return presentation(_factors(shot.head_kg), with_bite([one.corrected or one.token for one in shot.reactions], shot.outcome))


def _factors(head_kg: float) -> dict[str, str]:
    return {"head": ounces(head_kg)} if head_kg > 0.0 else {}


def _takes(shots: Sequence[Presentation]) -> int:
    return sum(Reaction.BIT in shot.reactions for shot in shots)
