"""A session: head, receiver, tracker and listeners in one thread, off the event loop."""

import datetime as dt
import math
import queue
import threading
import time
import uuid
from collections.abc import Callable, Mapping
from dataclasses import asdict, dataclass, field
from typing import Any

import structlog

from mudlamp.core.errors import DomainError, MudLampError
from mudlamp.core.ping import Ping
from mudlamp.core.receiver.chain import Receiver
from mudlamp.core.receiver.inks import INKS
from mudlamp.core.receiver.readings import ReadingsMeter
from mudlamp.core.receiver.setup import ReceiverSetup
from mudlamp.core.scene.model import Scene
from mudlamp.core.scene.truth import TruthRow
from mudlamp.core.scene.world import Shot
from mudlamp.core.tracking.detect import PlaneGeometry
from mudlamp.core.tracking.reacting import ReactionWatch, Reported
from mudlamp.core.tracking.track import Kind
from mudlamp.core.tracking.tracker import Tracker, TrackView
from mudlamp.core.units import feet
from mudlamp.heads.simulated import SimulatedHead
from mudlamp.services import frames, wording
from mudlamp.services.controls import ACQUISITION, apply_acquisition, apply_receiver, edge_values, window_of
from mudlamp.services.frames import Mailbox
from mudlamp.services.writer import Writer

TRUTH_EVERY = 4
READINGS_EVERY = 10
SLOWEST_HZ = 12.0
THINNED_S = 0.25
FIRST_SETUP = ReceiverSetup()


@dataclass(slots=True, kw_only=True)
class StageTimes:
    """Running means of what a ping costs, by stage [ms], and how many pings came late."""

    mean_ms: dict[str, float] = field(default_factory=dict)
    late: int = 0

    def note(self, stage: str, seconds: float) -> None:
        """Take in one time [s]."""
        before = self.mean_ms.get(stage, seconds * 1000.0)
        self.mean_ms[stage] = before + 0.05 * (seconds * 1000.0 - before)


@dataclass(slots=True, kw_only=True)
class _Path:
    """A track's thinned path for the log: flat (time, ahead, down)."""

    view: TrackView
    first_s: float
    last_s: float
    points: list[float] = field(default_factory=list)


class LampSession:
    """A simulated water that lives while somebody looks. Commands come from any thread; pictures go to mailboxes."""

    def __init__(
        self,
        *,
        session_id: uuid.UUID,
        device: uuid.UUID,
        scene: Scene,
        seed: int,
        writer: Writer,
        angler_id: uuid.UUID | None,
        ping_hz: float,
        idle_end_s: float,
        script_rest_s: float,
        now: Callable[[], dt.datetime],
    ) -> None:
        self.id = session_id
        self.device = device
        self.scene = scene
        self.stages = StageTimes()
        self.ended = False
        self.writer = writer
        self._seed = seed
        self._ping_hz = ping_hz
        self._idle_end_s = idle_end_s
        self._script_rest_s = script_rest_s
        self._now = now
        self._head = SimulatedHead(scene, seed=seed)
        self._receiver = Receiver(FIRST_SETUP)
        self._meter = ReadingsMeter()
        self._tracker = Tracker()
        self._watch = ReactionWatch()
        self._commands: queue.SimpleQueue[Mapping[str, Any]] = queue.SimpleQueue()
        self._mailboxes: list[Mailbox] = []
        self._lock = threading.Lock()
        self._attended = threading.Event()
        self._stop = threading.Event()
        self._revision = 0
        self._time_s = 0.0
        self._shot_keys: dict[int, uuid.UUID] = {}
        self._shot_demo: dict[int, bool] = {}
        self._shots_told: list[Shot] = []
        self._paths: dict[int, _Path] = {}
        self._truth: list[TruthRow] = []
        self._counts = (0, 0)
        self._log = structlog.get_logger().bind(session=str(session_id))
        started = now()
        self._started = started
        writer.session(
            id=session_id,
            source="simulated",
            trip_id=None,
            angler_id=angler_id,
            device=device,
            scene=scene.name,
            title=scene.title,
            seed=seed,
            state="running",
            started_at=started,
            ended_at=None,
        )
        self._note_setup()
        self._thread = threading.Thread(target=self._run, name=f"session-{session_id}", daemon=True)
        self._thread.start()

    # Called from the event loop.

    def attach(self, mailbox: Mailbox) -> None:
        """Let a viewer look on."""
        with self._lock:
            self._mailboxes.append(mailbox)
        mailbox.put_text(self._state_text())
        self._attended.set()

    def detach(self, mailbox: Mailbox) -> None:
        """A viewer left."""
        with self._lock:
            if mailbox in self._mailboxes:
                self._mailboxes.remove(mailbox)

    @property
    def viewers(self) -> int:
        """How many look on."""
        return len(self._mailboxes)

    @property
    def dropped(self) -> int:
        """How many frames the present viewers did not fetch."""
        return sum(mailbox.dropped for mailbox in self._mailboxes)

    def command(self, message: Mapping[str, Any]) -> None:
        """Queue a command; it is carried out before the next ping."""
        self._commands.put(message)

    def stop(self) -> None:
        """End the session and wait for its thread."""
        self._stop.set()
        self._attended.set()
        self._thread.join(5.0)

    # The thread.

    def _run(self) -> None:
        try:
            self._live()
        except Exception:
            self._log.exception("session failed")
            self._finish("interrupted")
            raise
        self._finish("ended")

    def _live(self) -> None:
        due = time.monotonic()
        while not self._stop.is_set():
            if not self._mailboxes:
                self._attended.clear()
                if not self._mailboxes and not self._attended.wait(self._idle_end_s):
                    return
                due = time.monotonic()
                continue
            interval = 1.0 / self._ping_hz
            wait = due - time.monotonic()
            if wait > 0:
                time.sleep(wait)
            elif wait < -interval:
                # Under load the water slows to what can be worked out, never under SLOWEST_HZ of its own time.
                self.stages.late += 1
                interval = min(interval - wait, 1.0 / SLOWEST_HZ)
                due = time.monotonic()
            due += 1.0 / self._ping_hz
            self._one_ping(interval)

    def _one_ping(self, interval_s: float) -> None:
        self._obey()
        self._time_s += interval_s
        if self._head.world.scripted and self._time_s > self._script_rest_s:
            self._head.world.scripted = False
        started = time.perf_counter()
        ping = self._head.listen(self._time_s)
        simulated = time.perf_counter()
        picture = self._receiver.develop(ping)
        received = time.perf_counter()
        tracks = self._tracker.update(ping)
        reported = self._watch.update(self._tracker, ping)
        tracked = time.perf_counter()
        if ping.number % TRUTH_EVERY == 0:
            self._truth = self._head.rows()
            self._meter.add(ping, picture, self._receiver.setup, window_of(self._head.acquisition), self._truth)
        read = time.perf_counter()
        self._tell(ping, tracks, reported)
        self._note_shots()
        self._note_tracks(tracks)
        data = frames.frame(self.id, ping, self._revision, picture)
        with self._lock:
            for mailbox in self._mailboxes:
                mailbox.put_frame(data)
        for stage, seconds in zip(
            ("simulate", "receive", "track", "readings", "tell"),
            (simulated - started, received - simulated, tracked - received, read - tracked, time.perf_counter() - read),
            strict=True,
        ):
            self.stages.note(stage, seconds)

    def _broadcast(self, message: str) -> None:
        with self._lock:
            for mailbox in self._mailboxes:
                mailbox.put_text(message)

    # Commands.

    def _obey(self) -> None:
        """Carry out what was asked since the last ping; of several changes of one control only the last counts."""
        wanted: dict[str, Any] = {}
        acknowledged: list[int] = []
        while True:
            try:
                message = self._commands.get_nowait()
            except queue.Empty:
                break
            try:
                if message.get("type") == "set":
                    wanted.update(_mapping(message.get("values")))
                    acknowledged.append(int(message.get("seq", 0)))
                else:
                    self._hand(message)
            except (MudLampError, KeyError, TypeError, ValueError) as error:
                self._broadcast(frames.text("refused", {"message": _plain(error)}))
        if wanted:
            self._set(wanted, acknowledged)

    def _set(self, values: Mapping[str, Any], acknowledged: list[int]) -> None:
        try:
            transducer = {name: value for name, value in values.items() if name == "fan" or name in ACQUISITION}
            acquisition = apply_acquisition(self._head.acquisition, transducer, self.scene)
            setup = apply_receiver(self._receiver.setup, {name: value for name, value in values.items() if name not in transducer})
            self._head.set_acquisition(acquisition)
            self._receiver.change(setup)
        except DomainError as error:
            self._broadcast(frames.text("refused", {"message": str(error)}))
            self._broadcast(self._state_text(acknowledged))
            return
        self._revision += 1
        self._meter.forget()
        self._note_setup()
        self._broadcast(self._state_text(acknowledged))

    def _hand(self, message: Mapping[str, Any]) -> None:
        world = self._head.world
        kind = message["type"]
        if kind == "show_me":
            world.scripted = True
            self._script_rest_s = self._time_s + 600.0
            self._broadcast(self._state_text())
            return
        if kind not in ("throw", "bail", "reel", "lift"):
            raise DomainError(f"command is {str(kind)[:20]}: it must be one of set, throw, bail, reel, lift, show_me")
        if world.scripted:
            world.scripted = False
            self._broadcast(self._state_text())
        if kind == "throw":
            pose = world.pose(self._head.acquisition)
            ahead, across = _metres(message, "ahead_m", 0.5, 40.0), _metres(message, "across_m", -20.0, 20.0)
            east, north = math.sin(pose.heading_rad), math.cos(pose.heading_rad)
            world.throw(pose.x_m + ahead * east + across * north, pose.y_m + ahead * north - across * east)
        elif kind == "bail":
            world.open_bail()
        elif kind == "reel":
            world.reel(bool(message["on"]))
        else:
            world.lift(_metres(message, "by_m", -3.0, 3.0))

    # Telling.

    def _state_text(self, acknowledged: list[int] | None = None) -> str:
        acquisition, setup = self._head.acquisition, self._receiver.setup
        ink = INKS[setup.ink]
        profile = self._head.world.profile
        return frames.text(
            "state",
            {
                "session": str(self.id),
                "revision": self._revision,
                "acknowledged": acknowledged or [],
                "controls": edge_values(acquisition, setup),
                "scripted": self._head.world.scripted,
                "scene": self.scene.name,
                "source": "simulated",
                "fan": acquisition.fan.value,
                "tilt_rad": acquisition.tilt_rad,
                "fan_rad": profile.fan_rad,
                "thickness_rad": profile.thickness_rad,
                "depth_m": self.scene.transducer.depth_m,
                "window": asdict(window_of(acquisition)),
                "farthest_m": max(acquisition.reach_m, acquisition.down_to_m - self.scene.transducer.depth_m),
                "ink": ink.table.tolist(),
            },
        )

    def _tell(self, ping: Ping, tracks: list[TrackView], reported: list[Reported]) -> None:
        lure = self._head.world.lure
        plane = PlaneGeometry(ping)
        message = frames.text(
            "tracks",
            {
                "ping": ping.number,
                "time_s": ping.time_s,
                "tracks": [_track_values(track, plane) for track in tracks if track.kind in (Kind.FISH, Kind.LURE)],
                "bait": [_track_values(track, plane) for track in tracks if track.kind is Kind.BAIT],
                "lure": "stowed" if lure is None else lure.state.value,
                "truth": [_truth_values(row) for row in self._truth],
                "shot": self._head.world.shot,
            },
        )
        with self._lock:
            for mailbox in self._mailboxes:
                mailbox.put_latest("tracks", message)
        if ping.number % READINGS_EVERY == 0:
            self._tell_readings()
        for one in reported:
            self._note_reaction(one)

    def _tell_readings(self) -> None:
        setup = self._receiver.setup
        readings = self._meter.readings(setup)
        rows = wording.worded(readings, self._meter.counts())
        message = frames.text(
            "readings",
            {
                "readings": [asdict(row) for row in rows],
                "erased": wording.erased_line(readings),
                "waiting": self.writer.waiting,
                "away": self.writer.away,
                "ping_hz": round(1000.0 / max(sum(self.stages.mean_ms.values()), 1000.0 / self._ping_hz), 1),
            },
        )
        with self._lock:
            for mailbox in self._mailboxes:
                mailbox.put_latest("readings", message)

    # The log.

    def _at(self, session_s: float) -> dt.datetime:
        return self._started + dt.timedelta(seconds=session_s)

    def _note_setup(self) -> None:
        self.writer.setup(
            id=uuid.uuid4(), session_id=self.id, session_s=self._time_s, values=edge_values(self._head.acquisition, self._receiver.setup)
        )

    def _note_shots(self) -> None:
        world = self._head.world
        for i, shot in enumerate(world.shots):
            if i < len(self._shots_told) and self._shots_told[i] == shot:
                continue
            if i >= len(self._shots_told):
                self._shots_told.append(shot)
                self._shot_keys[shot.number] = uuid.uuid4()
                self._shot_demo[shot.number] = world.scripted
            self._shots_told[i] = shot
            pose = world.pose(self._head.acquisition)
            key, number = self._shot_keys[shot.number], shot.number
            self.writer.shot(
                id=key,
                session_id=self.id,
                source="demo" if self._shot_demo[number] else "simulated",
                number=number,
                start_s=shot.start_s,
                end_s=shot.end_s,
                at=self._at(shot.start_s),
                ahead_m=math.hypot(shot.x_m - pose.x_m, shot.y_m - pose.y_m),
                head_kg=0.0 if world.lure is None else world.lure.head_kg,
                outcome=None if shot.outcome is None else shot.outcome.value,
            )

    def _note_reaction(self, one: Reported) -> None:
        event = one.event
        shot = next((shot for shot in reversed(self._shots_told) if shot.start_s <= event.time_s), None)
        if shot is not None and shot.end_s is not None and event.time_s > shot.end_s + 2.0:
            shot = None
        demo = self._shot_demo.get(shot.number, False) if shot is not None else self._head.world.scripted
        key = uuid.uuid4()
        self.writer.reaction(
            id=key,
            session_id=self.id,
            shot_id=None if shot is None else self._shot_keys[shot.number],
            source="demo" if demo else "simulated",
            track=event.fish,
            session_s=event.time_s,
            token=event.reaction.value,
            corrected=None,
            cause=event.cause.value,
            confidence=one.confidence,
        )
        self._broadcast(
            frames.text(
                "reaction",
                {
                    "id": str(key),
                    "time_s": event.time_s,
                    "track": int(event.fish),
                    "token": event.reaction.value,
                    "cause": event.cause.value,
                    "confidence": round(one.confidence, 2),
                    "shot": None if shot is None else shot.number,
                },
            )
        )

    def _note_tracks(self, tracks: list[TrackView]) -> None:
        present = set()
        for track in tracks:
            if track.kind not in (Kind.FISH, Kind.LURE):
                continue
            present.add(track.number)
            path = self._paths.setdefault(track.number, _Path(view=track, first_s=self._time_s, last_s=self._time_s))
            path.view = track
            if not path.points or self._time_s - path.points[-3] >= THINNED_S:
                path.points += [round(self._time_s, 2), round(track.place[0], 3), round(track.place[1], 3)]
            path.last_s = self._time_s
        for number in [number for number in self._paths if number not in present]:
            self._write_track(number, self._paths.pop(number))

    def _write_track(self, number: int, path: _Path) -> None:
        if path.last_s - path.first_s < 1.0:
            return
        self.writer.track(
            id=uuid.uuid4(),
            session_id=self.id,
            source="simulated",
            number=number,
            first_s=path.first_s,
            last_s=path.last_s,
            kind=path.view.kind.value,
            odds={kind.value: round(value, 3) for kind, value in path.view.odds.items()},
            length_m=path.view.length_m,
            path=path.points,
        )

    def _finish(self, state: str) -> None:
        self.ended = True
        self._note_shots()
        for number, path in self._paths.items():
            self._write_track(number, path)
        self.writer.session(
            id=self.id,
            source="simulated",
            trip_id=None,
            angler_id=None,
            device=self.device,
            scene=self.scene.name,
            title=self.scene.title,
            seed=self._seed,
            state=state,
            started_at=self._started,
            ended_at=self._now(),
        )
        self._broadcast(frames.text("ended", {"state": state}))
        self.writer.close()


def _mapping(values: object) -> Mapping[str, Any]:
    if not isinstance(values, Mapping):
        raise DomainError("values is not a set of controls: it must be an object of names and values")
    return values


def _metres(message: Mapping[str, Any], name: str, low: float, high: float) -> float:
    try:
        value = float(message.get(name, 0.0))
    except (TypeError, ValueError):
        raise DomainError(f"{name} is {str(message.get(name))[:30]}: it must be {low:g} to {high:g} m") from None
    if not low <= value <= high:
        raise DomainError(f"{name} is {value:g} m: it must be {low:g} to {high:g} m")
    return value


def _plain(error: Exception) -> str:
    return str(error) if isinstance(error, MudLampError) else "a command was not understood"


def _track_values(track: TrackView, plane: PlaneGeometry) -> dict[str, Any]:
    return {
        "id": track.number,
        "kind": track.kind.value,
        "odds": round(track.odds[track.kind], 2),
        "ahead_m": round(track.place[0] - plane.origin[0], 3),
        "down_m": round(track.place[1], 3),
        "range_m": round(track.range_m, 3),
        "angle_rad": round(track.angle_rad, 4),
        "length_in": round(feet(track.length_m) * 12.0 * 4.0) / 4.0,
        "speed_ft_s": round(feet(math.hypot(*track.velocity_m_s)), 2),
        "toward": [round(track.velocity_m_s[0], 2), round(track.velocity_m_s[1], 2)],
        "coasting": track.coasting,
    }


def _truth_values(row: TruthRow) -> dict[str, Any]:
    return {
        "id": row.id,
        "kind": row.kind,
        "across_m": round(row.range_m * math.sin(row.across_rad), 3),
        "range_m": round(row.range_m, 3),
        "angle_rad": round(row.angle_rad, 4),
        "radius_m": row.radius_m,
    }
