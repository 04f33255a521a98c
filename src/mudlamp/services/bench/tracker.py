"""The tracker against the truth of simulated water: GOSPA, and F1 of reactions."""

from collections import defaultdict, deque
from collections.abc import Mapping
from dataclasses import dataclass

import numpy as np

from mudlamp.core.ping import Ping
from mudlamp.core.reactions import ReactionEvent
from mudlamp.core.scene.model import Scene
from mudlamp.core.scene.truth import TruthRow
from mudlamp.core.score.following import CUT_M, free_tracks
from mudlamp.core.score.gospa import gospa
from mudlamp.core.score.labels import polar_places
from mudlamp.core.score.reactions import Reacted, TokenScore, macro_f1, score_reactions
from mudlamp.core.tracking.reacting import ReactionWatch, Reported
from mudlamp.core.tracking.track import Kind
from mudlamp.core.tracking.tracker import Tracker, TrackView
from mudlamp.formats.learned import shipped_forest
from mudlamp.heads.simulated import SimulatedHead

MATCH_M = 0.6
SEEN_SHARE = 0.8


@dataclass(frozen=True, slots=True, kw_only=True)
class Evaluation:
    """Mean GOSPA over pings [m] with mean missed and false fish, and the reaction scores of one run."""

    seed: int
    gospa_m: float
    missed: float
    false: float
    reactions: dict[str, TokenScore]


class Evaluator:
    """Gathers truth and tracks ping by ping, then scores them."""

    def __init__(self) -> None:
        self._gospa: list[tuple[float, float, float]] = []
        self._seen: dict[str, deque[tuple[float, bool]]] = defaultdict(deque)
        self._names: dict[int, list[tuple[float, str]]] = defaultdict(list)
        self._true: list[ReactionEvent] = []
        self._told: list[Reported] = []

    def add(self, ping: Ping, tracks: list[TrackView], told: list[Reported], rows: list[TruthRow], events: list[ReactionEvent]) -> None:
        """Take in one ping."""
        fish = [row for row in rows if row.kind == "fish"]
        for row in rows:
            if row.kind in ("fish", "lure"):
                self._seen[row.id].append((ping.time_s, row.seen))
        views = [track for track in tracks if track.kind is Kind.FISH]
        places, shown = polar_places(fish), np.array([row.seen for row in fish], dtype=bool)
        at = polar_places(views)
        # A track on a fish that is there but not counted as seen is neither right nor false.
        result = gospa(places[shown], free_tracks(at, places[~shown], places[shown]), cutoff_m=CUT_M)
        half = CUT_M**2 / 2.0
        self._gospa.append((result.distance_m, result.missed / half, result.false / half))
        for track, place in zip(views, at, strict=True):
            away = np.linalg.norm(places - place, axis=1)
            if len(away) and away.min() < MATCH_M:
                self._names[track.number].append((ping.time_s, fish[int(away.argmin())].id))
        self._true += events
        self._told += told

    def evaluation(self, seed: int) -> Evaluation:
        """Return the scores of all pings taken in."""
        mean = np.mean(self._gospa, axis=0)
        truth = [Reacted(time_s=one.time_s, fish=one.fish, token=one.token.value) for one in self._true if self._fair(one.fish, one.time_s)]
        told = []
        for one in self._told:
            name = self._name_of(int(one.event.fish), one.event.time_s)
            if name is None or self._fair(name, one.event.time_s):
                told.append(Reacted(time_s=one.event.time_s, fish=name or f"track {one.event.fish}", token=one.event.token.value))
        return Evaluation(
            seed=seed, gospa_m=float(mean[0]), missed=float(mean[1]), false=float(mean[2]), reactions=dict(score_reactions(truth, told))
        )

    def _fair(self, fish: str, time_s: float) -> bool:
        """Return whether fish and lure were to be seen for most of a second before and after: only such reactions count."""
        for name in (fish, "lure"):
            near = [seen for at, seen in self._seen[name] if abs(at - time_s) <= 1.0]
            if not near or sum(near) < SEEN_SHARE * len(near):
                return False
        return True

    def _name_of(self, track: int, time_s: float) -> str | None:
        near = [name for at, name in self._names.get(track, []) if abs(at - time_s) <= 1.0]
        return max(set(near), key=near.count) if near else None


def evaluate(scene: Scene, *, seed: int, seconds: float, ping_hz: float = 15.0) -> Evaluation:
    """Return the scores of the tracker on a scene, simulated for so long [s] at so many pings a second."""
    head, tracker, watch, evaluator = SimulatedHead(scene, seed=seed), Tracker(shipped_forest()), ReactionWatch(), Evaluator()
    for number in range(round(seconds * ping_hz)):
        ping = head.listen(number / ping_hz)
        rows, events = head.truth()
        tracks = tracker.update(ping, head.world.hand())
        evaluator.add(ping, tracks, watch.update(tracker, ping), rows, events)
    return evaluator.evaluation(seed)


@dataclass(frozen=True, slots=True, kw_only=True)
class TrackerRow:
    """How the tracker did on one seed: GOSPA [m], and mean missed and false fish."""

    scene: str
    seed: int
    gospa_m: float
    missed: float
    false: float


@dataclass(frozen=True, slots=True, kw_only=True)
class TokenRow:
    """How well one reaction is judged."""

    right: int
    false: int
    missed: int
    f1: float


@dataclass(frozen=True, slots=True, kw_only=True)
class TrackerBench:
    """GOSPA by seed, and the reaction scores of all seeds together."""

    tracker: list[TrackerRow]
    reactions: Mapping[str, TokenRow]
    macro_f1: float | None


def bench_tracker(scene: Scene, *, seeds: tuple[int, ...], seconds: float) -> TrackerBench:
    """Return GOSPA by seed, and the reaction scores of all seeds together."""
    runs = [evaluate(scene, seed=seed, seconds=seconds) for seed in seeds]
    tokens = _together(runs)
    return TrackerBench(
        tracker=[
            TrackerRow(
                scene=scene.name, seed=run.seed, gospa_m=round(run.gospa_m, 3), missed=round(run.missed, 2), false=round(run.false, 2)
            )
            for run in runs
        ],
        reactions={
            name: TokenRow(right=score.right, false=score.false, missed=score.missed, f1=round(score.f1, 2))
            for name, score in tokens.items()
        },
        macro_f1=macro_f1(tokens),
    )


def _together(runs: list[Evaluation]) -> dict[str, TokenScore]:
    total: dict[str, TokenScore] = {}
    for run in runs:
        for name, score in run.reactions.items():
            before = total.get(name, TokenScore(right=0, false=0, missed=0))
            total[name] = TokenScore(
                right=before.right + score.right, false=before.false + score.false, missed=before.missed + score.missed
            )
    return total
