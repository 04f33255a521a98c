"""What a session writes down: set-ups, shots, reactions, tracks in short."""

import dataclasses
import datetime as dt
import math
import uuid
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field

from mudlamp.core.arrays import FloatArray
from mudlamp.core.controls import Value
from mudlamp.core.plane import Place
from mudlamp.core.records.log import BaitRecord, ReactionRecord, SessionRecord, SetupRecord, ShotRecord, TrackRecord
from mudlamp.core.scene.shots import Shot
from mudlamp.core.tracking.bait_watch import BaitEvent
from mudlamp.core.tracking.reacting import Reported
from mudlamp.core.tracking.track import Kind
from mudlamp.core.tracking.traits import TRAITS
from mudlamp.core.tracking.views import TrackView
from mudlamp.services.live.guesses import Guesses
from mudlamp.services.live.roles import Records
from mudlamp.services.water.role import LiveWater

THINNED_S = 0.25
SHORTEST_TRACK_S = 1.0
# A track that the angler corrected is looked at so often [s], and no more than so many times.
LOOK_S, MOST_LOOKS = 1.0, 20
# A set-up is written when the hand has rested for so long, and not at every step of a drag [s].
REST_S = 0.6


@dataclass(slots=True, kw_only=True)
class _Path:
    """A track's thinned path, flat (time, ahead, down), and what was measured of it from when the angler said what it is."""

    view: TrackView
    first_s: float
    last_s: float
    points: list[float] = field(default_factory=list)
    looks: list[dict[str, float | None]] = field(default_factory=list)
    looked_s: float = -math.inf


@dataclass(frozen=True, slots=True, kw_only=True)
class _Noted:
    """A set-up that waits for the hand to rest: its values, the session's time then [s], and the clock's [s]."""

    values: Mapping[str, Value]
    session_s: float
    at_s: float


class Journal:
    """Turns what happens in a session into records for its writer, each under a key that is made here."""

    def __init__(self, *, opened: SessionRecord, water: LiveWater, writer: Records, guesses: Guesses) -> None:
        self._opened = opened
        self._water = water
        self._writer = writer
        self._guesses = guesses
        self._shot_keys: dict[int, uuid.UUID] = {}
        self._shot_demo: dict[int, bool] = {}
        self._shot_head: dict[int, float] = {}
        self._shots_told: list[Shot] = []
        self._paths: dict[int, _Path] = {}
        self._noted: _Noted | None = None
        self._written: Mapping[str, Value] = {}
        writer.put(opened)

    def note_setup(self, values: Mapping[str, Value], *, session_s: float, now_s: float) -> None:
        """Take in the set-up of a moment: it is written when the hand rests."""
        self._noted = _Noted(values=values, session_s=session_s, at_s=now_s)

    def rest(self, now_s: float) -> None:
        """Write the set-up that waits where the hand has rested long enough by now [s]."""
        if self._noted is not None and now_s - self._noted.at_s >= REST_S:
            self.write_setup()

    def write_setup(self) -> None:
        """Write the set-up that waits, if it differs from the one written last."""
        noted, self._noted = self._noted, None
        if noted is not None and noted.values != self._written:
            self._written = noted.values
            record = SetupRecord(id=uuid.uuid4(), session_id=self._opened.id, session_s=noted.session_s, values=dict(noted.values))
            self._writer.put(record)

    def shots(self) -> None:
        """Write the shots that are new or have changed."""
        for i, shot in enumerate(self._water.shots):
            if i < len(self._shots_told) and self._shots_told[i] == shot:
                continue
            if i >= len(self._shots_told):
                self._shots_told.append(shot)
                self._shot_keys[shot.number] = uuid.uuid4()
                self._shot_demo[shot.number] = self._water.scripted
                self._shot_head[shot.number] = self._water.head_kg
            self._shots_told[i] = shot
            self._shot(shot)

    def _shot(self, shot: Shot) -> None:
        record = ShotRecord(
            id=self._shot_keys[shot.number],
            session_id=self._opened.id,
            source="demo" if self._shot_demo[shot.number] else self._water.source,
            number=shot.number,
            start_s=shot.start_s,
            end_s=shot.end_s,
            at=self._opened.started_at + dt.timedelta(seconds=shot.start_s),
            ahead_m=self._water.thrown_m(shot),
            # What was tied on as it began: another head may be by its end.
            head_kg=self._shot_head[shot.number],
            outcome=None if shot.outcome is None else shot.outcome.value,
        )
        self._writer.put(record)

    def reaction(self, one: Reported) -> uuid.UUID:
        """Write a reaction; return its key."""
        event = one.event
        shot_id = None if event.shot is None else self._shot_keys.get(event.shot)
        demo = self._water.scripted if event.shot is None else self._shot_demo.get(event.shot, False)
        record = ReactionRecord(
            id=uuid.uuid4(),
            session_id=self._opened.id,
            shot_id=shot_id,
            source="demo" if demo else self._water.source,
            track=event.fish,
            session_s=event.time_s,
            token=event.token.value,
            corrected=None,
            cause=event.cause.value,
            confidence=one.confidence,
        )
        self._writer.put(record)
        return record.id

    def bait(self, event: BaitEvent, place: Place) -> None:
        """Write what bait did at a place by the boat: ahead and down, or under a flat fan to the right [m]."""
        ahead_m, other_m = place
        self._writer.put(
            BaitRecord(
                id=uuid.uuid4(),
                session_id=self._opened.id,
                source=self._water.source,
                session_s=event.time_s,
                doing=event.doing.value,
                ahead_m=ahead_m,
                other_m=other_m,
                before_m=event.before_m,
                after_m=event.after_m,
            )
        )

    def tracks(self, tracks: Sequence[TrackView], *, time_s: float) -> None:
        """Lengthen the paths of the tracks that are there; write those that ended."""
        present = set()
        for track in tracks:
            # What the angler calls bait or wood is kept too: it corrects the machine.
            if track.kind not in (Kind.FISH, Kind.LURE) and track.said is None:
                continue
            present.add(track.number)
            path = self._paths.setdefault(track.number, _Path(view=track, first_s=time_s, last_s=time_s))
            path.view = track
            if not path.points or time_s - path.points[-3] >= THINNED_S:
                path.points += [round(time_s, 2), round(track.place[0], 3), round(track.place[1], 3)]
            path.last_s = time_s
            if track.said is not None and time_s - path.looked_s >= LOOK_S and len(path.looks) < MOST_LOOKS and track.traits is not None:
                path.looks.append(_look(track.traits))
                path.looked_s = time_s
        for number in [number for number in self._paths if number not in present]:
            self._track(number, self._paths.pop(number))

    def _track(self, number: int, path: _Path) -> None:
        guess_m = self._guesses.of(number)
        # What the angler said of it is kept however short it was there.
        if path.last_s - path.first_s < SHORTEST_TRACK_S and guess_m is None and path.view.said is None:
            return
        record = TrackRecord(
            id=uuid.uuid4(),
            session_id=self._opened.id,
            source=self._water.source,
            number=number,
            first_s=path.first_s,
            last_s=path.last_s,
            kind=path.view.kind.value,
            odds={kind.value: round(value, 3) for kind, value in path.view.odds.items()},
            length_m=path.view.size.length_m if path.view.size is not None and path.view.size.sure else None,
            said=None if path.view.said is None else path.view.said.value,
            path=path.points,
            guess_m=guess_m,
            looks=() if path.view.said is None else path.looks,
        )
        self._writer.put(record)

    def finish(self, *, state: str, now: dt.datetime) -> None:
        """Write what is still open, and the session's end."""
        self.write_setup()
        self.shots()
        for number, path in self._paths.items():
            self._track(number, path)
        self._writer.put(ended(self._opened, state=state, now=now))


def _look(traits: FloatArray) -> dict[str, float | None]:
    """Return traits (len(TRAITS),) by name, None for what is not known."""
    return {name: round(value, 4) if math.isfinite(value) else None for name, value in zip(TRAITS, traits.tolist(), strict=True)}


def ended(opened: SessionRecord, *, state: str, now: dt.datetime) -> SessionRecord:
    """Return what a session's end settles of its record."""
    return dataclasses.replace(opened, state=state, ended_at=now)
