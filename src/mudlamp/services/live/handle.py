"""A session as the web process sees it: viewers on one side, the session's own process on the other."""

import datetime as dt
import multiprocessing
import queue
import threading
from collections.abc import Callable, Mapping
from typing import Any

import structlog

from mudlamp.core.errors import MudLampError, UnavailableError
from mudlamp.services.live.audience import Audience
from mudlamp.services.live.frames import Mailbox
from mudlamp.services.live.pane import Shown
from mudlamp.services.live.process import Order, serve
from mudlamp.services.live.writer import Writer
from mudlamp.services.recordings.minute import Minute
from mudlamp.services.water.plans import Plan

# A process forked from a small server that has imported everything already starts in a moment.
_CONTEXT = multiprocessing.get_context("forkserver")
_CONTEXT.set_forkserver_preload(["mudlamp.services.live.process", "mudlamp.services.warm", "scipy.optimize"])
START_S = 60.0
ANSWER_S = 20.0
STOP_S = 5.0
# Answers every question there may be.
LAST = 1 << 62


class SessionHandle:
    """Starts a session's process, passes on what it tells to the viewers and the writer, and tells it what they ask."""

    def __init__(self, order: Order, writer: Writer, *, now: Callable[[], dt.datetime]) -> None:
        self.id = order.session_id
        self.device = order.device
        self.plan: Plan = order.plan
        self.writer = writer
        self.ended = False
        self.stage_ms: Mapping[str, float] = {}
        self.late = 0
        self.shot_out = False
        self._now = now
        self._log = structlog.get_logger().bind(session=str(order.session_id))
        self._audience = Audience()
        self._sending = threading.Lock()
        self._asking = threading.Lock()
        self._asked = 0
        self._answers: queue.SimpleQueue[tuple[int, Any]] = queue.SimpleQueue()
        self._row: Mapping[str, Any] | None = None
        self._over = False
        self._told = (0, False)
        self._connection, far = _CONTEXT.Pipe()
        self._process = _CONTEXT.Process(target=serve, args=(far, order), name=f"session-{order.session_id}", daemon=True)
        self._process.start()
        far.close()
        self._await_ready()
        self._thread = threading.Thread(target=self._listen, name=f"line-{order.session_id}", daemon=True)
        self._thread.start()

    def _await_ready(self) -> None:
        """Wait until the session's water is made; raise what kept it from being made."""
        kind, values = self._receive(START_S)
        if kind == "ready":
            return
        self._process.join(STOP_S)
        self.writer.close()
        if kind == "failed" and isinstance(values[0], MudLampError):
            raise values[0]
        raise UnavailableError("the session did not start: try again")

    def _receive(self, seconds: float | None = None) -> tuple[str, list[Any]]:
        """Return the next message's kind and values; "gone" when the line is down, "silent" when none comes in time."""
        try:
            if seconds is not None and not self._connection.poll(seconds):
                self._process.kill()
                return "silent", []
            kind, *values = self._connection.recv()
        except (EOFError, OSError):
            return "gone", []
        return kind, values

    # Called from the event loop and from routes.

    def attach(self, mailbox: Mailbox) -> None:
        """Let a viewer look on."""
        self._audience.join(mailbox)
        self._send("attach")

    def detach(self, mailbox: Mailbox) -> None:
        """A viewer left; without any the session stands still."""
        self._audience.leave(mailbox)
        if not len(self._audience):
            self._send("detach")

    @property
    def viewers(self) -> int:
        """How many look on."""
        return len(self._audience)

    @property
    def dropped(self) -> int:
        """How many frames the present viewers did not fetch."""
        return self._audience.dropped

    def command(self, message: Mapping[str, Any]) -> None:
        """Pass a command on; it is carried out before the next ping."""
        self._send("command", message)

    def last_minute(self) -> Minute:
        """Return a copy of the newest pings that can be kept as one recording."""
        found: Minute = self._ask("minute")
        return found

    def picture(self) -> Shown | None:
        """Return what is shown now, or None before the first picture."""
        found: Shown | None = self._ask("picture")
        return found

    def stop(self) -> None:
        """End the session and wait until what it told is passed on and written."""
        self._send("stop")
        self._thread.join(STOP_S)
        self._process.join(STOP_S)
        if self._process.is_alive():
            self._process.kill()

    def _send(self, *message: Any) -> None:
        with self._sending:
            try:
                self._connection.send(message)
            except OSError:
                # Its process is gone; the listening thread says so to the viewers.
                return

    def _ask(self, what: str) -> Any:
        """Ask the process and wait for its answer; raise UnavailableError where none comes."""
        with self._asking:
            if self.ended:
                raise UnavailableError("the session has ended")
            self._asked += 1
            self._send(what, self._asked)
            number, answer = 0, None
            try:
                # What comes too late for an earlier question is no answer to this one.
                while number < self._asked:
                    number, answer = self._answers.get(timeout=ANSWER_S)
            except queue.Empty:
                raise UnavailableError("the session did not answer: try again") from None
            if isinstance(answer, UnavailableError):
                raise answer
            return answer

    # The listening thread.

    def _listen(self) -> None:
        doing: dict[str, Callable[..., None]] = {
            "text": self._audience.pass_text,
            "latest": self._audience.pass_latest,
            "frame": self._audience.pass_frame,
            "row": self._take_row,
            "stages": self._take_stages,
            "answer": lambda number, answer: self._answers.put((number, answer)),
            "over": self._note_over,
        }
        while True:
            kind, values = self._receive()
            if kind == "gone":
                break
            doing[kind](*values)
            told = (self.writer.waiting, self.writer.away)
            if told != self._told:
                self._told = told
                self._send("writer", *told)
        self._close()

    def _take_row(self, kind: str, values: Mapping[str, Any]) -> None:
        if kind == "session":
            self._row = values
        if kind == "shot":
            # A shot of the scripted angler's is nobody's to disturb.
            self.shot_out = values["end_s"] is None and values["source"] != "demo"
        getattr(self.writer, kind)(**values)

    def _take_stages(self, mean_ms: Mapping[str, float], late: int) -> None:
        self.stage_ms, self.late = mean_ms, late

    def _note_over(self) -> None:
        self._over = True

    def _close(self) -> None:
        """The line is down: orderly after its end, or because the process died, which the log and the viewers must know."""
        self.ended = True
        self._answers.put((LAST, UnavailableError("the session has ended")))
        if not self._over:
            self._log.error("session's process died")
            if self._row is not None:
                self.writer.session(**{**self._row, "state": "interrupted", "ended_at": self._now()})
            self._audience.tell("ended", {"state": "interrupted"})
        self.writer.close()
        self._connection.close()
