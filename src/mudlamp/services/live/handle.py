"""A session as the web process sees it: viewers on one side, the session's own process on the other."""

import datetime as dt
import multiprocessing
import queue
import threading
from collections.abc import Callable, Mapping

import structlog

from mudlamp.core.errors import UnavailableError
from mudlamp.core.records.log import Record, SessionRecord, ShotRecord
from mudlamp.services.live import line
from mudlamp.services.live.audience import Audience
from mudlamp.services.live.frames import Mailbox
from mudlamp.services.live.journal import ended
from mudlamp.services.live.messages import Command
from mudlamp.services.live.process import Order, serve
from mudlamp.services.live.told import EndedTold
from mudlamp.services.live.writer import Writer
from mudlamp.services.recordings.minute import Minute
from mudlamp.services.recordings.picture import Shown
from mudlamp.services.water.plans import Plan

# A process forked from a small server that has imported everything already starts in a moment.
_CONTEXT = multiprocessing.get_context("forkserver")
_CONTEXT.set_forkserver_preload(["mudlamp.services.live.process", "mudlamp.services.warm", "scipy.optimize"])
START_S = 60.0
ANSWER_S = 20.0
STOP_S = 5.0
# Answers every question there may be.
LAST = 1 << 62
HAS_ENDED = "the session has ended"
NO_ANSWER = "the session did not answer: try again"


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
        self._answers: queue.SimpleQueue[tuple[int, Minute | Shown | UnavailableError | None]] = queue.SimpleQueue()
        self._opened: SessionRecord | None = None
        self._over = False
        self._told = line.WriterState(0, False)
        self._connection, far = _CONTEXT.Pipe()
        self._process = _CONTEXT.Process(target=serve, args=(far, order), name=f"session-{order.session_id}", daemon=True)
        self._process.start()
        far.close()
        self._await_ready()
        self._thread = threading.Thread(target=self._listen, name=f"line-{order.session_id}", daemon=True)
        self._thread.start()

    def _await_ready(self) -> None:
        """Wait until the session's water is made; raise what kept it from being made."""
        message = self._receive(START_S)
        if isinstance(message, line.Ready):
            return
        self._process.join(STOP_S)
        self.writer.close()
        if isinstance(message, line.Failed):
            raise message.error
        raise UnavailableError("the session did not start: try again")

    def _receive(self, seconds: float | None = None) -> line.Told | None:
        """Return the next message; None where the line is down, or none comes in time."""
        try:
            if seconds is not None and not self._connection.poll(seconds):
                self._process.kill()
                return None
            found: line.Told = self._connection.recv()
        except (EOFError, OSError):
            return None
        return found

    # Called from the event loop and from routes.

    def attach(self, mailbox: Mailbox) -> None:
        """Let a viewer look on."""
        self._audience.join(mailbox)
        self._send(line.Attach())

    def detach(self, mailbox: Mailbox) -> None:
        """A viewer left; without any the session stands still."""
        self._audience.leave(mailbox)
        if not len(self._audience):
            self._send(line.Detach())

    @property
    def viewers(self) -> int:
        """How many look on."""
        return len(self._audience)

    @property
    def dropped(self) -> int:
        """How many frames the present viewers did not fetch."""
        return self._audience.dropped

    def command(self, command: Command) -> None:
        """Pass a command on; it is carried out before the next ping."""
        self._send(line.Do(command))

    def say_state(self) -> None:
        """Have all viewers told again how things stand."""
        self._send(line.Attach())

    def last_minute(self) -> Minute:
        """Return a copy of the newest pings that can be kept as one recording."""
        found = self._ask(line.AskMinute)
        if not isinstance(found, Minute):
            raise UnavailableError(NO_ANSWER)
        return found

    def picture(self) -> Shown | None:
        """Return what is shown now, or None before the first picture."""
        found = self._ask(line.AskPicture)
        return found if isinstance(found, Shown) else None

    def stop(self) -> None:
        """End the session and wait until what it told is passed on and written."""
        self._send(line.Stop())
        self._thread.join(STOP_S)
        self._process.join(STOP_S)
        if self._process.is_alive():
            self._process.kill()

    def _send(self, message: line.ToSession) -> None:
        with self._sending:
            try:
                self._connection.send(message)
            except OSError:
                # Its process is gone; the listening thread says so to the viewers.
                return

    def _ask(self, question: type[line.AskMinute] | type[line.AskPicture]) -> Minute | Shown | None:
        """Ask the process and wait for its answer; raise UnavailableError where none comes."""
        with self._asking:
            if self.ended:
                raise UnavailableError(HAS_ENDED)
            self._asked += 1
            self._send(question(self._asked))
            number: int = 0
            answer: Minute | Shown | UnavailableError | None = None
            try:
                # What comes too late for an earlier question is no answer to this one.
                while number < self._asked:
                    number, answer = self._answers.get(timeout=ANSWER_S)
            except queue.Empty:
                raise UnavailableError(NO_ANSWER) from None
            if isinstance(answer, UnavailableError):
                raise answer
            return answer

    # The listening thread.

    def _listen(self) -> None:
        """Pass on what the session tells, until the line is down; whatever goes wrong here ends the session, and nobody waits for it."""
        try:
            while (message := self._receive()) is not None:
                self._take(message)
                told = line.WriterState(self.writer.waiting, self.writer.away)
                if told != self._told:
                    self._told = told
                    self._send(told)
        except Exception:
            self._log.exception("the line to a session broke")
            self._over = False
            self._process.kill()
        self._close()

    def _take(self, message: line.Told) -> None:
        match message:
            case line.Text(message=text):
                self._audience.pass_text(text)
            case line.Latest(kind=kind, message=text):
                self._audience.pass_latest(kind, text)
            case line.FrameOf(data=data, side=side):
                self._audience.pass_frame(data, side)
            case line.RowOut(record=record):
                self._take_record(record)
            case line.Stages(mean_ms=mean_ms, late=late):
                self.stage_ms, self.late = mean_ms, late
            case line.Answer(number=number, answer=answer):
                self._answers.put((number, answer))
            case line.Over():
                self._over = True

    def _take_record(self, record: Record) -> None:
        if isinstance(record, SessionRecord):
            self._opened = record if record.state == "running" else None
        if isinstance(record, ShotRecord):
            # A shot of the scripted angler's is nobody's to disturb.
            self.shot_out = record.end_s is None and record.source != "demo"
        self.writer.put(record)

    def _close(self) -> None:
        """The line is down: orderly after its end, or because the process died, which the log and the viewers must know."""
        self.ended = True
        self._answers.put((LAST, UnavailableError(HAS_ENDED)))
        state = "ended" if self._over else "interrupted"
        if self._opened is not None:
            # It could not say its own end: it died, or was stopped before it had begun.
            self.writer.put(ended(self._opened, state=state, now=self._now()))
        if not self._over:
            self._log.error("session's process died")
            self._audience.tell(EndedTold(state=state))
        self.writer.close()
        self._connection.close()
