"""How well reactions are told: on drawn waters until every token has enough cases, and on waters where there is nothing to tell."""

from collections import defaultdict, deque
from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace

import numpy as np

from mudlamp.core.reactions import Reaction, ReactionEvent
from mudlamp.core.scene.draw import draw_water
from mudlamp.core.scene.truth import TruthRow
from mudlamp.core.score.following import NEAR_M
from mudlamp.core.score.labels import polar_places
from mudlamp.core.score.reactions import WITHIN_S, Claim, Happened, TokenScore, macro_f1, score_reactions
from mudlamp.core.tracking.reacting import ReactionWatch, Reported
from mudlamp.core.tracking.track import Kind
from mudlamp.core.tracking.tracker import Tracker
from mudlamp.core.tracking.views import TrackView
from mudlamp.formats.learned import shipped
from mudlamp.heads.simulated import SimulatedHead
from mudlamp.services.bench.following import Job
from mudlamp.services.crew import Crew

SEEN_SHARE = 0.8
ENOUGH = 40
# So few a simulated angler meets that no bench waits for forty.
RARE = (Reaction.HIT_WEIGHT.value, Reaction.LEFT_WITH_SCHOOL.value)
NULL_MINUTES = 30.0
TOKENS = tuple(token.value for token in Reaction)


@dataclass(frozen=True, slots=True, kw_only=True)
class Run:
    """What happened on a water and what was told of it; how long that took [min], and whether there was anything to tell."""

    truth: list[Happened]
    told: list[Claim]
    minutes: float
    null: bool


@dataclass(frozen=True, slots=True, kw_only=True)
class TokenRow:
    """How well one reaction is told."""

    full: int
    visible: int
    tracked: int
    claims: int
    precision: float
    f1_visible: float
    f1_full: float
    f1_tracked: float


@dataclass(frozen=True, slots=True, kw_only=True)
class ReactionBench:
    """Figures over waters: macro F1 over what a perfect picture shows, over all, and over what was followed, `precision` of all claims,

    time errors and delays [s], claims in half an hour of waters without fish or lure, and the tokens that stay short of cases.
    """

    waters: int
    minutes: float
    tokens: dict[str, TokenRow]
    macro_f1_visible: float | None
    macro_f1_full: float | None
    macro_f1_tracked: float | None
    precision: float
    median_error_s: float | None
    told_within_1_s: float | None
    null_claims_in_30_min: float | None
    short: list[str]


class Witness:
    """Gathers truth and claims ping by ping."""

    def __init__(self) -> None:
        self._seen: dict[str, deque[tuple[float, bool]]] = defaultdict(deque)
        self._followed: dict[str, deque[tuple[float, bool]]] = defaultdict(deque)
        self._names: dict[int, list[tuple[float, str]]] = defaultdict(list)
        self._true: list[ReactionEvent] = []
        self._told: list[tuple[Reported, float]] = []

    def add(
        self, time_s: float, views: Sequence[TrackView], told: Sequence[Reported], rows: Sequence[TruthRow], events: Sequence[ReactionEvent]
    ) -> None:
        """Take in one ping."""
        by_kind = {kind: polar_places([view for view in views if view.kind is kind]) for kind in (Kind.FISH, Kind.LURE)}
        there = [row for row in rows if row.kind in ("fish", "lure")]
        for row, place in zip(there, polar_places(there), strict=True):
            self._seen[row.id].append((time_s, row.seen))
            tracks = by_kind[Kind(row.kind)]
            near = bool(len(tracks)) and float(np.linalg.norm(tracks - place, axis=1).min()) < NEAR_M
            self._followed[row.id].append((time_s, near))
        fish = [row for row in there if row.kind == "fish"]
        places = polar_places(fish)
        for view in views:
            if fish and view.kind is Kind.FISH:
                away = np.linalg.norm(places - polar_places([view]), axis=1)
                if away.min() < NEAR_M:
                    self._names[view.number].append((time_s, fish[int(away.argmin())].id))
        self._true += events
        self._told += [(one, time_s) for one in told]

    def truth(self) -> list[Happened]:
        """Return what happened."""
        return [
            Happened(
                time_s=one.time_s,
                fish=one.fish,
                token=one.token.value,
                visible=one.visible,
                fair=self._held(self._seen, one.fish, one.token, one.time_s),
                tracked=self._held(self._followed, one.fish, one.token, one.time_s),
            )
            for one in self._true
        ]

    def told(self) -> list[Claim]:
        """Return what was told."""
        claims = []
        for one, told_s in self._told:
            event = one.event
            name = self._name_of(int(event.fish), event.time_s)
            fair = name is None or self._held(self._seen, name, event.token, event.time_s)
            claims.append(Claim(time_s=event.time_s, fish=name or f"track {event.fish}", token=event.token.value, told_s=told_s, fair=fair))
        return claims

    @staticmethod
    def _held(what: dict[str, deque[tuple[float, bool]]], fish: str, token: Reaction, time_s: float) -> bool:
        """Return whether it held of fish and lure for most of a second before and after; of a bite the fish's counts alone."""
        for name in (fish,) if token is Reaction.BIT else (fish, "lure"):
            near = [held for at, held in what[name] if abs(at - time_s) <= WITHIN_S]
            if not near or sum(near) < SEEN_SHARE * len(near):
                return False
        return True

    def _name_of(self, track: int, time_s: float) -> str | None:
        near = [name for at, name in self._names.get(track, []) if abs(at - time_s) <= WITHIN_S]
        return max(set(near), key=near.count) if near else None


def reaction_jobs(seeds: Sequence[int], *, seconds: float) -> list[Job]:
    """Return the drawn waters of seeds, those where fish and lure meet; every eighth is made one without a lure, or without fish."""
    jobs = []
    for number, seed in enumerate(seeds):
        water = draw_water(seed)
        scene = water.scene
        if number % 16 == 7:
            scene = replace(scene, angler=None)
        elif number % 16 == 15:
            scene = replace(scene, fish=())
        elif scene.angler is None or not scene.fish_count:
            continue
        jobs.append(Job(scene=scene, seed=seed, ping_hz=water.ping_hz, seconds=seconds, kind=str(water.kind), drawn=True))
    return jobs


def watch(job: Job) -> Run:
    """Return what happened on a water and what the tracker told of it, the angler's hand being told."""
    head, tracker = SimulatedHead(job.scene, seed=job.seed), Tracker(shipped())
    watcher, witness = ReactionWatch(), Witness()
    for number in range(int(job.seconds * job.ping_hz)):
        ping = head.listen(number / job.ping_hz)
        rows, events = head.truth()
        views = tracker.update(ping, head.world.hand())
        witness.add(ping.time_s, views, watcher.update(tracker, ping), rows, events)
    witness.add(job.seconds, [], [], [], head.world.last_reactions())
    return Run(
        truth=witness.truth(),
        told=witness.told(),
        minutes=job.seconds / 60.0,
        null=job.scene.angler is None or not job.scene.fish_count,
    )


def bench_reactions(jobs: Sequence[Job], *, cluster: str | None = None, progress: Callable[[float], None] | None = None) -> ReactionBench:
    """Return how well reactions are told, over so many of the waters that each token has enough visible cases, or over all."""
    runs: list[Run] = []
    with Crew(cluster=cluster) as crew:
        for first in range(0, len(jobs), 2 * crew.workers):
            runs += crew.each(watch, jobs[first : first + 2 * crew.workers])
            if progress is not None:
                progress(min(first + 2 * crew.workers, len(jobs)) / len(jobs))
            if not short_of(totals(runs)):
                break
    return figures(runs)


def totals(runs: Sequence[Run]) -> dict[str, TokenScore]:
    """Return the scores of tokens over all waters where there was anything to tell."""
    total: dict[str, TokenScore] = {}
    for run in runs:
        for token, score in ({} if run.null else score_reactions(run.truth, run.told)).items():
            total[token] = total.get(token, TokenScore()) + score
    return total


def short_of(scores: dict[str, TokenScore]) -> list[str]:
    """Return the tokens with too few cases, the rare ones left out."""
    return [token for token in TOKENS if token not in RARE and scores.get(token, TokenScore()).visible < ENOUGH]


def figures(runs: Sequence[Run]) -> ReactionBench:
    """Return the figures of runs."""
    scores = totals(runs)
    claims, right = sum(one.claims for one in scores.values()), sum(one.right for one in scores.values())
    errors = [error for one in scores.values() for error in one.errors_s]
    delays = np.array([delay for one in scores.values() for delay in one.delays_s])
    null_min = sum(run.minutes for run in runs if run.null)
    macros = (_rounded(macro_f1(scores, of)) for of in ("visible", "full", "tracked"))
    return ReactionBench(
        waters=len(runs),
        minutes=round(sum(run.minutes for run in runs), 1),
        tokens={
            token: TokenRow(
                full=one.full,
                visible=one.visible,
                tracked=one.tracked,
                claims=one.claims,
                precision=round(one.precision, 2),
                f1_visible=round(one.f1("visible"), 2),
                f1_full=round(one.f1("full"), 2),
                f1_tracked=round(one.f1("tracked"), 2),
            )
            for token, one in sorted(scores.items())
        },
        **dict(zip(("macro_f1_visible", "macro_f1_full", "macro_f1_tracked"), macros, strict=True)),
        precision=round(right / claims, 3) if claims else 0.0,
        median_error_s=_rounded(float(np.median(errors))) if errors else None,
        told_within_1_s=_rounded(float((delays <= 1.0).mean())) if len(delays) else None,
        null_claims_in_30_min=_rounded(sum(len(run.told) for run in runs if run.null) * NULL_MINUTES / null_min) if null_min else None,
        short=[token for token in TOKENS if scores.get(token, TokenScore()).visible < ENOUGH],
    )


def _rounded(value: float | None) -> float | None:
    return None if value is None else round(value, 3)
