"""What a session writes down: set-ups, shots, reactions, tracks in short."""

import datetime as dt
import math
import uuid
from collections.abc import Mapping
from dataclasses import dataclass, field
from typing import Any

from mudlamp.core.scene.world import Shot
from mudlamp.core.tracking.reacting import Reported
from mudlamp.core.tracking.track import Kind
from mudlamp.core.tracking.tracker import TrackView
from mudlamp.services.live.roles import Rows
from mudlamp.services.water.simulated import SimulatedWater, Water

THINNED_S = 0.25
SHORTEST_TRACK_S = 1.0
AFTER_SHOT_S = 2.0


@dataclass(slots=True, kw_only=True)
class _Path:
    """A track's thinned path: flat (time, ahead, down)."""

    view: TrackView
    first_s: float
    last_s: float
    points: list[float] = field(default_factory=list)


class SessionLog:
    """Turns what happens in a session into rows for its writer, each under a key that is made here."""

    def __init__(self, *, session_id: uuid.UUID, water: Water, writer: Rows, started: dt.datetime) -> None:
        self._id = session_id
        self._water = water
        self._writer = writer
        self._started = started
        self._shot_keys: dict[int, uuid.UUID] = {}
        self._shot_demo: dict[int, bool] = {}
        self._shots_told: list[Shot] = []
        self._paths: dict[int, _Path] = {}

    def session(
        self, *, device: uuid.UUID, angler_id: uuid.UUID | None, seed: int | None, state: str, ended_at: dt.datetime | None
    ) -> None:
        """Write the session's own row, or what its end settles."""
        self._writer.session(
            id=self._id,
            source=self._water.source,
            trip_id=None,
            angler_id=angler_id,
            device=device,
            scene=self._water.name,
            title=self._water.title,
            seed=seed,
            state=state,
            started_at=self._started,
            ended_at=ended_at,
        )

    def setup(self, values: Mapping[str, Any], *, session_s: float) -> None:
        """Write the set-up of a moment [s]."""
        self._writer.setup(id=uuid.uuid4(), session_id=self._id, session_s=session_s, values=dict(values))

    def shots(self) -> None:
        """Write the shots that are new or have changed."""
        for i, shot in enumerate(self._water.shots):
            if i < len(self._shots_told) and self._shots_told[i] == shot:
                continue
            if i >= len(self._shots_told):
                self._shots_told.append(shot)
                self._shot_keys[shot.number] = uuid.uuid4()
                self._shot_demo[shot.number] = self._water.scripted
            self._shots_told[i] = shot
            self._shot(shot)

    def _shot(self, shot: Shot) -> None:
        if not isinstance(self._water, SimulatedWater):
            return
        world = self._water.head.world
        pose = world.pose(self._water.head.acquisition)
        self._writer.shot(
            id=self._shot_keys[shot.number],
            session_id=self._id,
            source="demo" if self._shot_demo[shot.number] else "simulated",
            number=shot.number,
            start_s=shot.start_s,
            end_s=shot.end_s,
            at=self._started + dt.timedelta(seconds=shot.start_s),
            ahead_m=math.hypot(shot.x_m - pose.x_m, shot.y_m - pose.y_m),
            head_kg=0.0 if world.lure is None else world.lure.head_kg,
            outcome=None if shot.outcome is None else shot.outcome.value,
        )

    def reaction(self, one: Reported) -> tuple[uuid.UUID, int | None]:
        """Write a reaction; return its key and the number of the shot it belongs to, if any."""
        event = one.event
        shot = next((shot for shot in reversed(self._shots_told) if shot.start_s <= event.time_s), None)
        if shot is not None and shot.end_s is not None and event.time_s > shot.end_s + AFTER_SHOT_S:
            shot = None
        demo = self._shot_demo.get(shot.number, False) if shot is not None else self._water.scripted
        key = uuid.uuid4()
        self._writer.reaction(
            id=key,
            session_id=self._id,
            shot_id=None if shot is None else self._shot_keys[shot.number],
            source="demo" if demo else self._water.source,
            track=event.fish,
            session_s=event.time_s,
            token=event.reaction.value,
            corrected=None,
            cause=event.cause.value,
            confidence=one.confidence,
        )
        return key, None if shot is None else shot.number

    def tracks(self, tracks: list[TrackView], *, time_s: float) -> None:
        """Lengthen the paths of the tracks that are there; write those that ended."""
        present = set()
        for track in tracks:
            if track.kind not in (Kind.FISH, Kind.LURE):
                continue
            present.add(track.number)
            path = self._paths.setdefault(track.number, _Path(view=track, first_s=time_s, last_s=time_s))
            path.view = track
            if not path.points or time_s - path.points[-3] >= THINNED_S:
                path.points += [round(time_s, 2), round(track.place[0], 3), round(track.place[1], 3)]
            path.last_s = time_s
        for number in [number for number in self._paths if number not in present]:
            self._track(number, self._paths.pop(number))

    def _track(self, number: int, path: _Path) -> None:
        if path.last_s - path.first_s < SHORTEST_TRACK_S:
            return
        self._writer.track(
            id=uuid.uuid4(),
            session_id=self._id,
            source=self._water.source,
            number=number,
            first_s=path.first_s,
            last_s=path.last_s,
            kind=path.view.kind.value,
            odds={kind.value: round(value, 3) for kind, value in path.view.odds.items()},
            length_m=path.view.length_m,
            path=path.points,
        )

    def finish(self) -> None:
        """Write what is still open."""
        self.shots()
        for number, path in self._paths.items():
            self._track(number, path)
