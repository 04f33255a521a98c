"""Tracks and reactions of a recording, from its pings alone."""

from dataclasses import dataclass, field
from pathlib import Path
from typing import Any

from mudlamp.core.tracking.reacting import ReactionWatch, Reported
from mudlamp.core.tracking.tracker import Tracker, TrackView
from mudlamp.formats.recording import RecordingReader


@dataclass(slots=True, kw_only=True)
class TrackStory:
    """A track over a whole recording: its last view, and its points (t, x, y, z, range, angle)."""

    view: TrackView
    points: list[tuple[float, ...]] = field(default_factory=list)


def track_recording(path: Path) -> tuple[list[TrackStory], list[Reported]]:
    """Return the tracks and reactions of a recording; raise RecordingError for a bad file."""
    reader = RecordingReader(path)
    tracker, watch = Tracker(), ReactionWatch()
    stories: dict[int, TrackStory] = {}
    reported: list[Reported] = []
    try:
        for ping in reader:
            for view in tracker.update(ping):
                story = stories.setdefault(view.number, TrackStory(view=view))
                story.view = view
                story.points.append((ping.time_s, *view.world, view.range_m, view.angle_rad))
            reported += watch.update(tracker, ping)
    finally:
        reader.close()
    return list(stories.values()), reported


def as_answer(stories: list[TrackStory], reported: list[Reported]) -> dict[str, Any]:
    """Return tracks and reactions in the form that other scripts rely on."""
    return {
        "tracks": [
            {
                "id": story.view.number,
                "kind": story.view.kind.value,
                "odds": {kind.value: round(value, 4) for kind, value in story.view.odds.items()},
                "length_m": round(story.view.length_m, 3),
                "points": [[round(value, 4) for value in point] for point in story.points],
            }
            for story in stories
        ],
        "reactions": [
            {
                "t": round(one.event.time_s, 3),
                "track": int(one.event.fish),
                "event": one.event.reaction.value,
                "cause": one.event.cause.value,
                "confidence": round(one.confidence, 3),
            }
            for one in reported
        ],
    }
