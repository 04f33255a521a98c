"""Long work off the event loop: a bounded pool, each job with its progress, to be cancelled and asked after."""

import threading
import uuid
from collections.abc import Callable
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass
from enum import StrEnum

import structlog

from mudlamp.core.errors import MudLampError, UnavailableError

AT_ONCE = 2
MOST_KEPT = 60


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

    def __init__(self, device: uuid.UUID, title: str) -> None:
        self.id = uuid.uuid4()
        self.device = device
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
    """The jobs of this process."""

    def __init__(self) -> None:
        self._pool = ThreadPoolExecutor(max_workers=AT_ONCE, thread_name_prefix="job")
        self._all: dict[uuid.UUID, Job] = {}
        self._lock = threading.Lock()

    def start(self, device: uuid.UUID, title: str, work: Callable[[Job], str]) -> Job:
        """Queue a piece of work; raise UnavailableError where too many wait already."""
        job = Job(device, title)
        with self._lock:
            for key in [key for key, one in self._all.items() if one.over][: max(0, len(self._all) - MOST_KEPT + 1)]:
                del self._all[key]
            if len(self._all) >= MOST_KEPT:
                raise UnavailableError("too many jobs are waiting: try again in a minute")
            self._all[job.id] = job
        self._pool.submit(job.run, work)
        return job

    def find(self, device: uuid.UUID, key: uuid.UUID) -> Job | None:
        """Return a browser's job by key, or None."""
        with self._lock:
            job = self._all.get(key)
        return job if job is not None and job.device == device else None

    def end_all(self) -> None:
        """Cancel everything and wait."""
        with self._lock:
            jobs = list(self._all.values())
        for job in jobs:
            job.cancel()
        self._pool.shutdown(wait=True, cancel_futures=True)
