"""Tracks and reactions of a recording, from its pings, and from what the angler's hand did where that is known."""

from collections import deque
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from pathlib import Path

from mudlamp.core.hand import HandEvent
from mudlamp.core.tracking.reacting import ReactionWatch, Reported
from mudlamp.core.tracking.tracker import Tracker, TrackView
from mudlamp.formats.learned import shipped_forest
from mudlamp.formats.recording import RecordingReader


@dataclass(slots=True, kw_only=True)
class TrackStory:
    """A track over a whole recording: its last view, and its points (t, x, y, z, range, angle) with what it was called then."""

    view: TrackView
    points: list[tuple[tuple[float, ...], str]] = field(default_factory=list)


def track_recording(path: Path, *, hand: Sequence[HandEvent] = ()) -> tuple[list[TrackStory], list[Reported]]:
    """Return the tracks and reactions of a recording; `hand` is in the order of time. Raises RecordingError for a bad file."""
    reader = RecordingReader(path)
    tracker, watch = Tracker(shipped_forest()), ReactionWatch()
    left = deque(hand)
    stories: dict[int, TrackStory] = {}
    reported: list[Reported] = []
    try:
        for ping in reader:
            done = []
            while left and left[0].time_s <= ping.time_s:
                done.append(left.popleft())
            for view in tracker.update(ping, done):
                story = stories.setdefault(view.number, TrackStory(view=view))
                story.view = view
                story.points.append(((ping.time_s, *view.world, view.range_m, view.angle_rad), view.kind.value))
            reported += watch.update(tracker, ping)
    finally:
        reader.close()
    return list(stories.values()), reported


@dataclass(frozen=True, slots=True, kw_only=True)
class TrackAnswer:
    """A track as other scripts get it: its points are (t, x, y, z, range, angle, what it was called then)."""

    id: int
    kind: str
    odds: Mapping[str, float]
    length_m: float
    points: Sequence[Sequence[float | str]]


@dataclass(frozen=True, slots=True, kw_only=True)
class ReactionAnswer:
    """A reaction as other scripts get it."""

    t: float
    track: int
    event: str
    cause: str
    confidence: float


@dataclass(frozen=True, slots=True, kw_only=True)
class TracksAnswer:
    """Tracks and reactions of a recording, in the form that other scripts rely on."""

    tracks: Sequence[TrackAnswer]
    reactions: Sequence[ReactionAnswer]


def as_answer(stories: Sequence[TrackStory], reported: Sequence[Reported]) -> TracksAnswer:
    """Return tracks and reactions in the form that other scripts rely on."""
    return TracksAnswer(
        tracks=[
            TrackAnswer(
                id=story.view.number,
                kind=story.view.kind.value,
                odds={kind.value: round(value, 4) for kind, value in story.view.odds.items()},
                length_m=round(story.view.length_m, 3),
                points=[[*(round(value, 4) for value in point), kind] for point, kind in story.points],
            )
            for story in stories
        ],
        reactions=[
            ReactionAnswer(
                t=round(one.event.time_s, 3),
                track=int(one.event.fish),
                event=one.event.token.value,
                cause=one.event.cause.value,
                confidence=round(one.confidence, 3),
            )
            for one in reported
        ],
    )
