"""How well fish are told apart: each track of a fish that showed its side within 40 ft for 3 s, by what it was called last."""

from collections.abc import Callable, Sequence
from dataclasses import dataclass

import numpy as np

from mudlamp.core.scene.species import Species
from mudlamp.core.scene.truth import TruthRow
from mudlamp.core.score.labels import labels_of
from mudlamp.core.tracking.classes import FAR_M, OF_FISH, YOUNG_S, Priors
from mudlamp.core.tracking.tracker import Tracker
from mudlamp.core.tracking.views import TrackView
from mudlamp.formats.learned import shipped
from mudlamp.heads.simulated import SimulatedHead
from mudlamp.services.bench.following import Job
from mudlamp.services.crew import Crew
from mudlamp.services.training.classes import CLASS_OF
from mudlamp.services.training.grow import calibration_error


@dataclass(frozen=True, slots=True, kw_only=True)
class Verdict:
    """What a track was called, how sure, and what it was; `called` is None where it was never taken for a fish."""

    true: str
    called: str | None
    sure: float


@dataclass(frozen=True, slots=True, kw_only=True)
class ClassBench:
    """Figures over tracks: F1 by class (unknown counts as wrong), their mean, the calibration error of the odds of the likeliest."""

    tracks: int
    f1: dict[str, float]
    macro_f1: float
    error: float


class Judge:
    """Gathers verdicts ping by ping."""

    def __init__(self) -> None:
        self._since: dict[int, float] = {}
        self.verdicts: dict[int, Verdict] = {}

    def add(self, time_s: float, views: Sequence[TrackView], truth: Sequence[TruthRow]) -> None:
        """Take in a ping's tracks and what was there."""
        fair = set()
        for view, label in zip(views, labels_of(views, truth), strict=True):
            row = None if label is None else label.row
            if row is None or not row.side_on or row.species is None or row.range_m > FAR_M:
                continue
            fair.add(view.number)
            if time_s - self._since.setdefault(view.number, time_s) >= YOUNG_S:
                odds = {} if view.identity is None else view.identity.odds
                self.verdicts[view.number] = Verdict(
                    true=CLASS_OF[Species(row.species)].value,
                    called=None if view.identity is None else view.identity.name.value,
                    sure=max(odds.values(), default=0.0),
                )
        self._since = {number: since for number, since in self._since.items() if number in fair}


def judge(job: Job) -> list[Verdict]:
    """Return the verdicts of a water."""
    head = SimulatedHead(job.scene, seed=job.seed)
    priors = Priors.of(temperature_degc=job.scene.water.temperature_degc)
    tracker, found = Tracker(shipped(), priors), Judge()
    for number in range(int(job.seconds * job.ping_hz)):
        ping = head.listen(number / job.ping_hz)
        found.add(ping.time_s, tracker.update(ping), head.rows())
    return list(found.verdicts.values())


def bench_classes(jobs: Sequence[Job], *, cluster: str | None = None, progress: Callable[[float], None] | None = None) -> ClassBench:
    """Return how well fish are told apart on some waters."""
    verdicts: list[Verdict] = []
    with Crew(cluster=cluster) as crew:
        for done, one in enumerate(crew.each(judge, jobs), 1):
            verdicts += one
            if progress is not None:
                progress(done / len(jobs))
    return scored(verdicts)


def scored(verdicts: Sequence[Verdict]) -> ClassBench:
    """Return the figures of verdicts."""
    f1 = {}
    for one in (token.value for token in OF_FISH):
        true, called = sum(v.true == one for v in verdicts), sum(v.called == one for v in verdicts)
        if true:
            f1[one] = round(2.0 * sum(v.true == v.called == one for v in verdicts) / (true + called), 3)
    named = [v for v in verdicts if v.called is not None]
    return ClassBench(
        tracks=len(verdicts),
        f1=f1,
        macro_f1=round(float(np.mean(list(f1.values()))), 3) if f1 else 0.0,
        error=calibration_error(np.array([v.sure for v in named]), np.array([v.true == v.called for v in named])) if named else 0.0,
    )
