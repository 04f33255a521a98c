"""The inside of a session's process: the session itself, and the line to the one web process.

Everything that is told goes out on the line as a tuple whose first word is its kind; everything asked for comes in likewise.
"""

import datetime as dt
import signal
import threading
import uuid
from collections.abc import Callable, Mapping
from dataclasses import dataclass
from multiprocessing.connection import Connection
from pathlib import Path
from typing import Any

from mudlamp.core.errors import MudLampError
from mudlamp.services.live.session import LampSession
from mudlamp.services.logs import set_up_logs
from mudlamp.services.warm import warm_up
from mudlamp.services.water.plans import Plan

LOOK_S = 0.25


@dataclass(frozen=True, slots=True, kw_only=True)
class Order:
    """What a session begins with."""

    session_id: uuid.UUID
    device: uuid.UUID
    plan: Plan
    seed: int
    angler_id: uuid.UUID | None
    ping_hz: float
    idle_end_s: float
    run_dir: Path


class Line:
    """Our end of the pipe: one message at a time, from any thread; nothing more once the other end is gone."""

    def __init__(self, connection: Connection) -> None:
        self._connection = connection
        self._lock = threading.Lock()

    def send(self, kind: str, *values: Any) -> None:
        """Send a message."""
        with self._lock:
            try:
                self._connection.send((kind, *values))
            except OSError:
                # The web process is gone: nobody is left to tell; the main loop finds out and ends the session.
                return


class Relay:
    """All viewers of this session, as the session sees them: what it tells them goes down the line."""

    def __init__(self, line: Line) -> None:
        self._line = line
        self.stages: Callable[[], tuple[dict[str, float], int]] | None = None
        self.dropped = 0

    def put_text(self, message: str) -> None:
        """Pass a text on."""
        self._line.send("text", message)

    def put_latest(self, kind: str, message: str) -> None:
        """Pass a text on of which only the newest counts; how the session does goes with the readings."""
        self._line.send("latest", kind, message)
        if kind == "readings" and self.stages is not None:
            self._line.send("stages", *self.stages())

    def put_frame(self, data: bytes, side: int = 0) -> None:
        """Pass a frame on."""
        self._line.send("frame", data, side)


class FarWriter:
    """The session's writer, at the other end of the line: rows go there, and what waits is told from there."""

    def __init__(self, line: Line) -> None:
        self._line = line
        self.waiting = 0
        self.away = False

    def session(self, **values: Any) -> None:
        """Send a session row."""
        self._line.send("row", "session", values)

    def setup(self, **values: Any) -> None:
        """Send a change of set-up."""
        self._line.send("row", "setup", values)

    def shot(self, **values: Any) -> None:
        """Send a shot."""
        self._line.send("row", "shot", values)

    def reaction(self, **values: Any) -> None:
        """Send a reaction."""
        self._line.send("row", "reaction", values)

    def track(self, **values: Any) -> None:
        """Send a track's summary."""
        self._line.send("row", "track", values)

    def close(self) -> None:
        """Nothing to close: the writer closes when the line does."""


def serve(connection: Connection, order: Order) -> None:
    """Run a session until it ends, is told to stop, or the web process is gone."""
    leaving = threading.Event()
    # The web process decides: Ctrl-C reaches the whole group.
    signal.signal(signal.SIGINT, signal.SIG_IGN)
    signal.signal(signal.SIGTERM, lambda _number, _frame: leaving.set())
    set_up_logs(order.run_dir, name="sessions")
    line = Line(connection)
    try:
        water = order.plan.make(order.seed)
    except MudLampError as error:
        line.send("failed", error)
        return
    line.send("ready")
    # Who opened it sees its page meanwhile.
    warm_up()
    relay, writer = Relay(line), FarWriter(line)
    session = LampSession(
        session_id=order.session_id,
        device=order.device,
        water=water,
        seed=order.seed if water.source == "simulated" else None,
        writer=writer,
        angler_id=order.angler_id,
        ping_hz=order.ping_hz,
        idle_end_s=order.idle_end_s,
        now=lambda: dt.datetime.now(dt.UTC),
    )
    relay.stages = lambda: (dict(session.stages.mean_ms), session.stages.late)
    doing = _doings(session, relay, writer, line, leaving)
    try:
        while not session.ended and not leaving.is_set():
            if connection.poll(LOOK_S):
                kind, *values = connection.recv()
                doing[kind](*values)
    except (EOFError, OSError):
        leaving.set()
    session.stop()
    line.send("over")
    connection.close()


def _doings(
    session: LampSession, relay: Relay, writer: FarWriter, line: Line, leaving: threading.Event
) -> Mapping[str, Callable[..., None]]:
    """Return what is done for each kind of message that may come in."""

    def note_writer(waiting: int, away: bool) -> None:
        writer.waiting, writer.away = waiting, away

    return {
        "attach": lambda: session.attach(relay),
        "detach": lambda: session.detach(relay),
        "command": session.command,
        "minute": lambda number: line.send("answer", number, session.last_minute()),
        "picture": lambda number: line.send("answer", number, session.picture()),
        "writer": note_writer,
        "stop": leaving.set,
    }
