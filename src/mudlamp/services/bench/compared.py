"""Our association against a general-purpose library's, on the same echoes: GOSPA and HOTA by published implementations."""

import datetime as dt
from collections.abc import Callable, Sequence
from dataclasses import dataclass, field
from functools import partial

import numpy as np
from stonesoup.measures import Euclidean
from stonesoup.metricgenerator.ospametric import GOSPAMetric
from stonesoup.types.state import State
from trackeval.metrics.hota import HOTA

from mudlamp.core.arrays import FloatArray
from mudlamp.core.scene.model import Scene
from mudlamp.core.scene.truth import TruthRow
from mudlamp.core.score.following import CUT_M, free_tracks
from mudlamp.core.score.labels import polar_places
from mudlamp.core.tracking.track import Kind
from mudlamp.core.tracking.tracker import Tracker
from mudlamp.core.tracking.views import TrackView
from mudlamp.formats.learned import shipped
from mudlamp.heads.simulated import SimulatedHead
from mudlamp.services.bench.following import STOCK_HZ
from mudlamp.services.bench.libraries import LibraryTracker, Way
from mudlamp.services.crew import Crew

OURS = "ours"
NOW = dt.datetime(2000, 1, 1, tzinfo=dt.UTC)


@dataclass(frozen=True, slots=True, kw_only=True)
class Compared:
    """One tracker on one scene: mean GOSPA (c 1 m, p 2, alpha 2) [m] and HOTA."""

    gospa_m: float
    hota: float


@dataclass(frozen=True, slots=True, kw_only=True)
class Comparison:
    """Figures by scene and by tracker, their means, and in how many scenes ours has the lowest GOSPA."""

    scenes: dict[str, dict[str, Compared]]
    mean: dict[str, Compared]
    won: int


def compare(
    scenes: Sequence[Scene], *, seed: int, seconds: float, cluster: str | None = None, progress: Callable[[float], None] | None = None
) -> Comparison:
    """Return how ours and the library's ways follow the fish of some scenes."""
    rows: dict[str, dict[str, Compared]] = {}
    with Crew(cluster=cluster) as crew:
        for scene, found in zip(scenes, crew.each(partial(_one, seed=seed, seconds=seconds), scenes), strict=True):
            rows[scene.name] = found
            if progress is not None:
                progress(len(rows) / len(scenes))
    names = [OURS, *Way]
    return Comparison(
        scenes=rows,
        mean={
            name: Compared(
                gospa_m=round(float(np.mean([row[name].gospa_m for row in rows.values()])), 3),
                hota=round(float(np.mean([row[name].hota for row in rows.values()])), 3),
            )
            for name in names
        },
        won=sum(row[OURS].gospa_m == min(one.gospa_m for one in row.values()) for row in rows.values()),
    )


def _one(scene: Scene, *, seed: int, seconds: float) -> dict[str, Compared]:
    """Return the figures of one scene: all trackers hear the same pings."""
    head, learned = SimulatedHead(scene, seed=seed), shipped()
    trackers = {OURS: Tracker(learned)} | {way.value: LibraryTracker(learned, way) for way in Way}
    stories = {name: Story() for name in trackers}
    for number in range(int(seconds * STOCK_HZ)):
        ping = head.listen(number / STOCK_HZ)
        truth = head.rows()
        for name, tracker in trackers.items():
            stories[name].add(truth, tracker.update(ping))
    return {name: story.figures() for name, story in stories.items()}


@dataclass(slots=True, kw_only=True)
class Story:
    """What was there and what was followed, ping by ping, as the published implementations want it."""

    gospa_m: list[float] = field(default_factory=list)
    fish: list[list[str]] = field(default_factory=list)
    tracks: list[list[int]] = field(default_factory=list)
    alike: list[FloatArray] = field(default_factory=list)

    def add(self, truth: Sequence[TruthRow], views: Sequence[TrackView]) -> None:
        """Take in a ping."""
        fish = [row for row in truth if row.kind == "fish" and row.in_fan]
        places, seen = polar_places(fish), np.array([row.seen for row in fish], dtype=bool)
        named = [view for view in views if view.kind is Kind.FISH]
        at = polar_places(named)
        free = free_tracks(at, places[~seen], places[seen])
        counted = [view.number for view, place in zip(named, at, strict=True) if (free == place).all(axis=1).any()]
        gap = np.linalg.norm(places[seen][:, None] - free[None], axis=2)
        self.gospa_m.append(published_gospa(places[seen], free))
        self.fish.append([row.id for row in fish if row.seen])
        self.tracks.append(counted)
        self.alike.append(np.maximum(1.0 - gap / CUT_M, 0.0))

    def figures(self) -> Compared:
        """Return the figures so far."""
        return Compared(gospa_m=round(float(np.mean(self.gospa_m)), 3), hota=round(self._hota(), 3))

    def _hota(self) -> float:
        fish, fish_numbers = _numbered(self.fish)
        tracks, track_numbers = _numbered(self.tracks)
        data = {
            "num_gt_dets": sum(map(len, fish)),
            "num_tracker_dets": sum(map(len, tracks)),
            "num_gt_ids": fish_numbers,
            "num_tracker_ids": track_numbers,
            "gt_ids": fish,
            "tracker_ids": tracks,
            "similarity_scores": self.alike,
        }
        return float(np.mean(HOTA().eval_sequence(data)["HOTA"]))


def published_gospa(truth: FloatArray, tracks: FloatArray) -> float:
    """Return the GOSPA [m] between places (N, 2) and (M, 2) by the library."""
    if not len(truth) and not len(tracks):
        return 0.0
    metric = GOSPAMetric(c=CUT_M, p=2, measure=Euclidean())
    states = [[State(place.reshape(2, 1), timestamp=NOW) for place in places] for places in (tracks, truth)]
    found, _ = metric.compute_gospa_metric(*states)
    return float(found.value["distance"])


def _numbered(many: Sequence[Sequence[str | int]]) -> tuple[list[np.ndarray], int]:
    """Return names as whole numbers from 0, and how many there are."""
    numbers = {name: number for number, name in enumerate(dict.fromkeys(name for names in many for name in names))}
    return [np.array([numbers[name] for name in names], dtype=int) for names in many], len(numbers)
