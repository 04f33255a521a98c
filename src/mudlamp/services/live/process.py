"""The inside of a session's process: the session itself, and the line to the one web process (its messages: `line.py`)."""

import datetime as dt
import signal
import threading
import uuid
from collections.abc import Callable, Mapping
from dataclasses import dataclass, field
from multiprocessing.connection import Connection
from pathlib import Path

from mudlamp.core.errors import MudLampError
from mudlamp.core.receiver.screen import Screen
from mudlamp.core.records.log import Record, SessionRecord
from mudlamp.core.records.spots import Spot
from mudlamp.services.live import line
from mudlamp.services.live.affordable import require_affordable
from mudlamp.services.live.known import Known
from mudlamp.services.live.messages import ShowSpots
from mudlamp.services.live.session import LampSession
from mudlamp.services.logs import set_up_logs
from mudlamp.services.outbox import Outbox
from mudlamp.services.quarantine.confine import limit_memory
from mudlamp.services.warm import warm_up
from mudlamp.services.water.plans import Plan
from mudlamp.services.water.role import LiveWater

LOOK_S = 0.25
# How long room on a full line is waited for, and how long the last words may take [s].
ROOM_S = 2.0
MOST_BYTES = 4_000_000_000
END_S = 3.0


@dataclass(frozen=True, slots=True, kw_only=True)
class Order:
    """What a session begins with."""

    session_id: uuid.UUID
    device: uuid.UUID
    plan: Plan
    seed: int
    angler_id: uuid.UUID | None
    screen: Screen
    ping_hz: float
    idle_end_s: float
    first_viewer_s: float
    run_dir: Path
    known: Known = field(default_factory=Known)
    spots: tuple[Spot, ...] = ()

    def opened(self, water: LiveWater, *, now: dt.datetime) -> SessionRecord:
        """Return the record of the session as it begins."""
        return SessionRecord(
            id=self.session_id,
            source=water.source,
            trip_id=self.known.trip_id,
            angler_id=self.angler_id,
            device=self.device,
            owner=self.device if self.angler_id is None else self.angler_id,
            scene=water.name,
            title=water.title,
            seed=self.seed if water.source == "simulated" else None,
            state="running",
            started_at=now,
            ended_at=None,
            known=self.known.facts,
        )


class Relay:
    """All viewers of this session, as the session sees them: what it tells them goes down the line."""

    def __init__(self, out: Outbox[line.Told]) -> None:
        self._line = out
        self.stages: Callable[[], tuple[Mapping[str, float], int]] | None = None
        self.dropped = 0

    def put_text(self, kind: str, message: str) -> None:
        """Pass a text on."""
        self._line.put(line.Text(kind, message))

    def put_latest(self, kind: str, message: str) -> None:
        """Pass a text on of which only the newest counts; how the session does goes with the readings."""
        self._line.put(line.Latest(kind, message))
        if kind == "readings" and self.stages is not None:
            self._line.put(line.Stages(*self.stages()))

    def put_frame(self, data: bytes, side: int = 0) -> None:
        """Pass a frame on."""
        self._line.put(line.FrameOf(data, side))

    def close(self) -> None:
        """Nothing to do: the line closes when the session does."""


class FarWriter:
    """The session's writer, at the other end of the line: records go there, and what waits is reported from there."""

    def __init__(self, out: Outbox[line.Told]) -> None:
        self._line = out
        self.waiting = 0
        self.away = False

    def put(self, record: Record) -> None:
        """Send a record; wait while the line is full: a record is never left out."""
        while not self._line.put(line.RowOut(record), wait_s=ROOM_S):
            continue

    def close(self) -> None:
        """Nothing to close: the writer closes when the line does."""


def serve(connection: Connection, order: Order) -> None:
    """Run a session until it ends, is asked to stop, or the web process is gone."""
    leaving = threading.Event()
    # The web process decides: Ctrl-C reaches the whole group.
    signal.signal(signal.SIGINT, signal.SIG_IGN)
    signal.signal(signal.SIGTERM, lambda _number, _frame: leaving.set())
    set_up_logs(order.run_dir, name="sessions")
    # Several times what the largest water and a minute of the widest pings take.
    limit_memory(MOST_BYTES)
    out: Outbox[line.Told] = Outbox(connection, slot_of=line.slot_of, name="line")
    try:
        water = order.plan.make(order.seed)
        if order.plan.is_strangers:
            require_affordable(water)
    except MudLampError as error:
        out.put(line.Failed(error))
        out.close(END_S)
        return
    out.put(line.Ready())
    relay, writer = Relay(out), FarWriter(out)
    session = LampSession(
        opened=order.opened(water, now=dt.datetime.now(dt.UTC)),
        water=water,
        writer=writer,
        screen=order.screen,
        ping_hz=order.ping_hz,
        idle_end_s=order.idle_end_s,
        first_viewer_s=order.first_viewer_s,
        now=lambda: dt.datetime.now(dt.UTC),
        # Who opened it sees its page meanwhile.
        prepare=warm_up,
    )
    session.command(ShowSpots(spots=order.spots))
    relay.stages = lambda: (dict(session.pacing.stages.mean_ms), session.pacing.stages.late)
    try:
        while not session.ended and not leaving.is_set():
            if connection.poll(LOOK_S):
                _take(connection.recv(), session, relay, writer, out, leaving)
            out.put(line.Alive())
    except (EOFError, OSError):
        leaving.set()
    session.stop()
    out.put(line.Over(), wait_s=ROOM_S)
    out.close(END_S)
    connection.close()


def _take(
    message: line.ToSession, session: LampSession, relay: Relay, writer: FarWriter, out: Outbox[line.Told], leaving: threading.Event
) -> None:
    """Do what a message asks."""
    match message:
        case line.Watched(by_anybody=True):
            session.attach(relay)
        case line.Watched():
            session.detach(relay)
        case line.Do(command=command):
            session.command(command)
        case line.AskMinute(number=number):
            out.put(line.Answer(number, session.last_minute()), wait_s=ROOM_S)
        case line.AskPicture(number=number):
            out.put(line.Answer(number, session.picture()), wait_s=ROOM_S)
        case line.WriterState(waiting=waiting, away=away):
            writer.waiting, writer.away = waiting, away
        case line.Stop():
            leaving.set()
