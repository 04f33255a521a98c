"""Tracks and reactions of a recording, from its pings, and from what the angler's hand did where that is known."""

from collections import deque
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from pathlib import Path

from mudlamp.core.hand import HandEvent
from mudlamp.core.tracking.classes import Priors
from mudlamp.core.tracking.reacting import ReactionWatch, Reported
from mudlamp.core.tracking.tracker import Tracker
from mudlamp.core.tracking.views import TrackView
from mudlamp.formats.learned import shipped
from mudlamp.formats.recording import RecordingReader


@dataclass(slots=True, kw_only=True)
class TrackStory:
    """A track over a whole recording: its last view, and its points (t, x, y, z, range, angle) with what it was called then."""

    view: TrackView
    points: list[tuple[tuple[float, ...], str]] = field(default_factory=list)


def track_recording(path: Path, *, hand: Sequence[HandEvent] = (), priors: Priors | None = None) -> tuple[list[TrackStory], list[Reported]]:
    """Return the tracks and reactions of a recording; `hand` is in the order of time, `priors` what is likelier there. Raises RecordingError for a bad file."""
    reader = RecordingReader(path)
    tracker, watch = Tracker(shipped(), priors), ReactionWatch()
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
    """A track as other scripts get it: its points are (t, x, y, z, range, angle, what it was called then); `fish_class` is None of what was never taken for a fish."""

    id: int
    kind: str
    odds: Mapping[str, float]
    fish_class: str | None
    classes: Mapping[str, float]
    length_m: float | None
    length_low_m: float | None
    length_high_m: float | None
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


def _length(view: TrackView) -> dict[str, float | None]:
    """Return a track's length with the interval that holds it in four cases of five, None each where no end was seen."""
    size = view.size if view.size is not None and view.size.sure else None
    return {
        "length_m": None if size is None else round(size.length_m, 3),
        "length_low_m": None if size is None else round(size.low_m, 3),
        "length_high_m": None if size is None else round(size.high_m, 3),
    }


def as_answer(stories: Sequence[TrackStory], reported: Sequence[Reported]) -> TracksAnswer:
    """Return tracks and reactions in the form that other scripts rely on."""
    return TracksAnswer(
        tracks=[
            TrackAnswer(
                id=story.view.number,
                kind=story.view.kind.value,
                odds={kind.value: round(value, 4) for kind, value in story.view.odds.items()},
                fish_class=None if story.view.identity is None else story.view.identity.name.value,
                classes={}
                if story.view.identity is None
                else {one.value: round(value, 4) for one, value in story.view.identity.odds.items()},
                **_length(story.view),
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
