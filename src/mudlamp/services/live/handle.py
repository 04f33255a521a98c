"""A session as the web process sees it: viewers on one side, the session's own process on the other."""

import datetime as dt
import itertools
import threading
import time
import uuid
from collections.abc import Callable, Mapping
from concurrent.futures import Future
from dataclasses import dataclass, field

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
from mudlamp.services.log.timeline import LANDED
from mudlamp.services.outbox import Outbox
from mudlamp.services.processes import CONTEXT
from mudlamp.services.recordings.minute import Minute
from mudlamp.services.recordings.picture import Shown
from mudlamp.services.water.plans import Plan

START_S = 60.0
ANSWER_S = 20.0
STOP_S = 5.0
# A session that says nothing for so long hangs: it says several times a second that it is there [s].
SILENT_S = 15.0
# How many may wait for one answer.
MOST_ASKING = 8
HAS_ENDED = "the session has ended"
NO_ANSWER = "the session did not answer: try again"
TOO_MANY_ASK = f"{MOST_ASKING} requests are waiting for this session already: try again in a moment"


@dataclass(slots=True)
class Asked:
    """A question that is under way: its number, the answer to come, how many wait for it."""

    number: int
    answer: Future[Minute | Shown | None] = field(default_factory=Future)
    waiting: int = 0


class SessionHandle:
    """Starts a session's process, passes on what it tells to the viewers and the writer, and tells it what they ask."""

    def __init__(
        self, order: Order, writer: Writer, *, now: Callable[[], dt.datetime], landed: Callable[["SessionHandle", ShotRecord], None]
    ) -> None:
        """Start; `landed` is told of each shot that landed a fish, on a thread that must not wait for the session."""
        self.id = order.session_id
        self.device = order.device
        self.plan: Plan = order.plan
        self.seed = order.seed
        self.writer = writer
        self.ended = False
        self.stage_ms: Mapping[str, float] = {}
        self.late = 0
        self.shot_out = False
        self._now, self._landed = now, landed
        self._told_landed: set[uuid.UUID] = set()
        self._left_at = time.monotonic()
        self._log = structlog.get_logger().bind(session=str(order.session_id))
        self._audience = Audience()
        self._asking = threading.Lock()
        self._asked: dict[type, Asked] = {}
        self._numbers = itertools.count(1)
        self._opened: SessionRecord | None = None
        self._over = False
        self._told = line.WriterState(0, False)
        self._connection, far = CONTEXT.Pipe()
        self._process = CONTEXT.Process(target=serve, args=(far, order), name=f"session-{order.session_id}", daemon=True)
        self._process.start()
        far.close()
        self._await_ready()
        self._outbox: Outbox[line.ToSession] = Outbox(self._connection, slot_of=line.slot_of, name=f"to-{order.session_id}")
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

    def _receive(self, seconds: float) -> line.Told | None:
        """Return the next message; None where the line is down, or none comes in time: then the process hangs, and is ended."""
        try:
            if not self._connection.poll(seconds):
                self._process.kill()
                return None
            found: line.Told = self._connection.recv()
        except (EOFError, OSError):
            return None
        return found

    # Called from the event loop: nothing here waits.

    def attach(self, mailbox: Mailbox) -> None:
        """Let a viewer look on."""
        self._audience.join(mailbox)
        self._outbox.put(line.Watched(by_anybody=True))

    def detach(self, mailbox: Mailbox) -> None:
        """A viewer left; without any the session stands still."""
        self._audience.leave(mailbox)
        self._left_at = time.monotonic()
        self._outbox.put(line.Watched(by_anybody=len(self._audience) > 0))

    def remind(self, mailbox: Mailbox) -> None:
        """Tell one viewer again how things stand."""
        self._audience.remind(mailbox)

    @property
    def viewers(self) -> int:
        """How many look on."""
        return len(self._audience)

    @property
    def unwatched_s(self) -> float:
        """For how long nobody has looked on [s]."""
        return 0.0 if len(self._audience) else time.monotonic() - self._left_at

    @property
    def dropped(self) -> int:
        """How many frames the present viewers did not fetch."""
        return self._audience.dropped

    def command(self, command: Command) -> bool:
        """Pass a command on, to be carried out before the next ping; return False where too many wait: try again in a moment."""
        return self._outbox.put(line.Do(command))

    # Called from routes.

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
        self._outbox.put(line.Stop(), wait_s=STOP_S)
        self._thread.join(STOP_S)
        self._process.join(STOP_S)
        if self._process.is_alive():
            self._process.kill()

    def _ask(self, question: type[line.AskMinute] | type[line.AskPicture]) -> Minute | Shown | None:
        """Ask the process and wait for its answer, together with others who ask the same; raise UnavailableError where none comes."""
        with self._asking:
            if self.ended:
                raise UnavailableError(HAS_ENDED)
            asked = self._asked.get(question)
            if asked is None:
                asked = self._asked[question] = Asked(next(self._numbers))
                self._outbox.put(question(asked.number))
            elif asked.waiting >= MOST_ASKING:
                raise UnavailableError(TOO_MANY_ASK)
            asked.waiting += 1
        try:
            return asked.answer.result(ANSWER_S)
        except TimeoutError:
            self._forget(question, asked)
            raise UnavailableError(NO_ANSWER) from None

    def _forget(self, question: type, asked: Asked) -> None:
        with self._asking:
            if self._asked.get(question) is asked:
                del self._asked[question]

    def _answered(self, number: int, answer: Minute | Shown | None) -> None:
        """Give an answer to all who wait for it."""
        with self._asking:
            question = next((one for one, asked in self._asked.items() if asked.number == number), None)
            if question is not None:
                self._asked.pop(question).answer.set_result(answer)

    # The listening thread.

    def _listen(self) -> None:
        """Pass on what the session tells, until the line is down; whatever goes wrong here ends the session, and nobody waits for it."""
        try:
            while (message := self._receive(SILENT_S)) is not None:
                self._take(message)
                told = line.WriterState(self.writer.waiting, self.writer.away)
                if told != self._told:
                    self._told = told
                    self._outbox.put(told)
        except Exception:
            self._log.exception("the line to a session broke")
            self._over = False
            self._process.kill()
        self._close()

    def _take(self, message: line.Told) -> None:
        match message:
            case line.Text(kind=kind, message=text):
                self._audience.pass_text(kind, text)
            case line.Latest(kind=kind, message=text):
                self._audience.pass_latest(kind, text)
            case line.FrameOf(data=data, side=side):
                self._audience.pass_frame(data, side)
            case line.RowOut(record=record):
                self._take_record(record)
            case line.Stages(mean_ms=mean_ms, late=late):
                self.stage_ms, self.late = mean_ms, late
            case line.Answer(number=number, answer=answer):
                self._answered(number, answer)
            case line.Over():
                self._over = True

    def _take_record(self, record: Record) -> None:
        if isinstance(record, SessionRecord):
            self._opened = record if record.state == "running" else None
        if isinstance(record, ShotRecord):
            # A shot of the scripted angler's is nobody's to disturb.
            self.shot_out = record.end_s is None and record.source != "demo"
            # It is said again when it ends: once is enough.
            if record.outcome == LANDED and record.source != "demo" and record.id not in self._told_landed:
                self._told_landed.add(record.id)
                self._landed(self, record)
        self.writer.put(record)

    def _close(self) -> None:
        """The line is down: orderly after its end, or because the process died, which the log and the viewers must know."""
        with self._asking:
            self.ended = True
            for asked in self._asked.values():
                asked.answer.set_exception(UnavailableError(HAS_ENDED))
            self._asked.clear()
        state = "ended" if self._over else "interrupted"
        if self._opened is not None:
            # It could not say its own end: it died, or was stopped before it had begun.
            self.writer.put(ended(self._opened, state=state, now=self._now()))
        if not self._over:
            self._log.error("session's process died")
            self._audience.tell(EndedTold(state=state))
        self._audience.close()
        self.writer.close()
        self._outbox.close(STOP_S)
        self._connection.close()
