"""Long work off the event loop: a bounded pool, each job with its progress, to be cancelled and asked after."""

import contextlib
import threading
import uuid
from collections import Counter
from collections.abc import Callable, Hashable, Iterator
from concurrent.futures import Future, ThreadPoolExecutor
from dataclasses import dataclass
from enum import StrEnum
from typing import Generic, TypeVar

import structlog

from mudlamp.core.errors import MudLampError, UnavailableError

AT_ONCE = 2
# Unfinished jobs of one client, and of all; those that are over are remembered for a while.
MOST_EACH, MOST_UNFINISHED, MOST_KEPT = 2, 16, 60
# Answers that are remembered, and how long one is waited for [s].
MOST_ANSWERS, PATIENCE_S = 24, 60.0


class JobState(StrEnum):
    """How a job stands."""

    WAITING = "waiting"
    RUNNING = "running"
    DONE = "done"
    FAILED = "failed"
    CANCELLED = "cancelled"


class JobCancelledError(Exception):
    """The job was told to stop."""


@dataclass(frozen=True, slots=True, kw_only=True)
class JobView:
    """A job as it stands: what it is, how far (0 to 1), what came of it or why it failed."""

    id: uuid.UUID
    title: str
    state: JobState
    share: float
    result: str | None
    error: str | None


class Job:
    """One piece of work. The work calls `progress` now and then, which raises JobCancelledError when it should stop."""

    def __init__(self, device: uuid.UUID, title: str, *, same: Hashable | None) -> None:
        self.id = uuid.uuid4()
        self.device = device
        self.same = same
        self._title = title
        self._state = JobState.WAITING
        self._share = 0.0
        self._result: str | None = None
        self._error: str | None = None
        self._cancel = threading.Event()

    def progress(self, share: float) -> None:
        """Note how far the work is (0 to 1); raise JobCancelledError where it should stop."""
        if self._cancel.is_set():
            raise JobCancelledError
        self._share = share

    def cancel(self) -> None:
        """Ask the work to stop."""
        self._cancel.set()

    @property
    def over(self) -> bool:
        """Whether nothing more comes of it."""
        return self._state in (JobState.DONE, JobState.FAILED, JobState.CANCELLED)

    def run(self, work: Callable[["Job"], str]) -> None:
        """Do the work; a failure is kept as a message, one that is not ours goes to the log file with its trace."""
        self._state = JobState.RUNNING
        try:
            self.progress(0.0)
            self._result = work(self)
            self._share, self._state = 1.0, JobState.DONE
        except JobCancelledError:
            self._state = JobState.CANCELLED
        except MudLampError as error:
            self._error, self._state = str(error), JobState.FAILED
        except Exception as error:
            structlog.get_logger().error("job failed", job=str(self.id), title=self._title, exc_info=error)
            self._error, self._state = "it failed by a fault of ours; the log says more", JobState.FAILED

    def view(self) -> JobView:
        """Return how it stands."""
        return JobView(id=self.id, title=self._title, state=self._state, share=self._share, result=self._result, error=self._error)


class Jobs:
    """The jobs of this process. Each client has a few at most; a free place goes to whoever has the fewest running, the longest waiting first."""

    def __init__(self) -> None:
        self._pool = ThreadPoolExecutor(max_workers=AT_ONCE, thread_name_prefix="job")
        self._all: dict[uuid.UUID, Job] = {}
        self._waiting: list[tuple[Job, Callable[[Job], str]]] = []
        self._running: list[Job] = []
        self._lock = threading.Lock()
        self._closed = False

    def start(self, device: uuid.UUID, title: str, work: Callable[[Job], str], *, same: Hashable | None = None) -> Job:
        """Queue a piece of work, or return the client's unfinished job of the same work (named by `same`).

        Raises UnavailableError where the client, or everybody together, has too many unfinished.
        """
        with self._lock:
            unfinished = [one for one in self._all.values() if not one.over]
            own = [one for one in unfinished if one.device == device]
            found = next((one for one in own if same is not None and one.same == same), None)
            if found is not None:
                return found
            if len(own) >= MOST_EACH:
                raise UnavailableError(
                    f"{MOST_EACH} pieces of work of yours are under way, and more are not taken: try again when one is done"
                )
            if len(unfinished) >= MOST_UNFINISHED:
                raise UnavailableError("too many jobs are waiting: try again in a minute")
            for key in [key for key, one in self._all.items() if one.over][: max(0, len(self._all) - MOST_KEPT + 1)]:
                del self._all[key]
            job = Job(device, title, same=same)
            self._all[job.id] = job
            self._waiting.append((job, work))
            self._fill()
        return job

    def _fill(self) -> None:
        """Give the free places away; called under the lock."""
        while self._waiting and len(self._running) < AT_ONCE and not self._closed:
            running = Counter(one.device for one in self._running)
            job, work = min(self._waiting, key=lambda pair: running[pair[0].device])
            self._waiting.remove((job, work))
            self._running.append(job)
            self._pool.submit(self._run, job, work)

    def _run(self, job: Job, work: Callable[[Job], str]) -> None:
        job.run(work)
        with self._lock:
            self._running.remove(job)
            self._fill()

    def find(self, device: uuid.UUID, key: uuid.UUID) -> Job | None:
        """Return a browser's job by key, or None."""
        with self._lock:
            job = self._all.get(key)
        return job if job is not None and job.device == device else None

    def end_all(self) -> None:
        """Cancel everything and wait."""
        with self._lock:
            self._closed = True
            jobs = list(self._all.values())
            self._waiting.clear()
        for job in jobs:
            job.cancel()
        self._pool.shutdown(wait=True, cancel_futures=True)


Answer = TypeVar("Answer")


class WorkedOut(Generic[Answer]):
    """Answers that take long to work out: equal questions share one piece of work, and its answer is remembered for a while."""

    def __init__(self) -> None:
        self._known: dict[Hashable, Future[Answer]] = {}
        self._lock = threading.Lock()

    def of(self, question: Hashable, start: Callable[[Callable[[Job], str]], Job], work: Callable[[], Answer]) -> Answer:
        """Return the answer to a question; `start` begins the work as a job where nobody has yet. Raises what the work raises."""
        with self._lock:
            found = self._known.get(question)
            if found is None:
                found = self._known[question] = Future()
                try:
                    start(lambda _job: self._work(question, work))
                except BaseException:
                    del self._known[question]
                    raise
                for oldest in [key for key, one in self._known.items() if one.done()][: max(0, len(self._known) - MOST_ANSWERS)]:
                    del self._known[oldest]
        try:
            return found.result(PATIENCE_S)
        except TimeoutError:
            raise UnavailableError("it takes too long just now: try again in a minute") from None

    def _work(self, question: Hashable, work: Callable[[], Answer]) -> str:
        future = self._known[question]
        try:
            future.set_result(work())
        except BaseException as error:
            with self._lock:
                del self._known[question]
            future.set_exception(error)
            raise
        return "done"


class Turnstile:
    """Lets a few through at a time: for what is heavy and short. A few more wait; the others are told to come back."""

    def __init__(self, what: str, *, at_once: int, waiting: int) -> None:
        self._what = what
        self._most = at_once + waiting
        self._places = threading.Semaphore(at_once)
        self._inside = 0
        self._lock = threading.Lock()

    @contextlib.contextmanager
    def through(self) -> Iterator[None]:
        """Wait for a place and keep it for the block; raise UnavailableError where too many wait, or for too long."""
        with self._lock:
            if self._inside >= self._most:
                raise UnavailableError(f"too many ask for {self._what} at once: try again in a moment")
            self._inside += 1
        try:
            if not self._places.acquire(timeout=PATIENCE_S):
                raise UnavailableError(f"{self._what} take too long just now: try again in a minute")
            try:
                yield
            finally:
                self._places.release()
        finally:
            with self._lock:
                self._inside -= 1
