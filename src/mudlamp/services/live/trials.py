"""Trials beside the pings: the cheapest remedy and present prices are worked out on one thread, which gives way to the pings."""

import os
import threading
from collections.abc import Callable
from concurrent.futures import Future, ThreadPoolExecutor
from dataclasses import dataclass

import structlog

from mudlamp.core.receiver.trial import Price, Remedy, Sample, cheapest_remedy, present_price
from mudlamp.core.setup import ReceiverSetup, Window

# Lower in rank than the threads that ping (Linux ranks threads one by one).
RANK = 10


def _give_way() -> None:
    os.setpriority(os.PRIO_PROCESS, threading.get_native_id(), RANK)


_POOL = ThreadPoolExecutor(max_workers=1, thread_name_prefix="trial", initializer=_give_way)


@dataclass(frozen=True, slots=True, kw_only=True)
class Question:
    """What a trial is about: the set-up, the pings, the window, how fast Quieting settles [s]."""

    setup: ReceiverSetup
    samples: tuple[Sample, ...]
    window: Window
    settling_s: float


class Trials:
    """The trials of one session: one remedy at a time, asked anew only when the last is done; prices as they are asked.

    A trial that fails is written to the log file, and whoever asked gets None.
    """

    def __init__(self) -> None:
        self._remedy: Future[None] | None = None
        self._asked: ReceiverSetup | None = None
        self._stale = False

    def ask_remedy(self, question: Question, tell: Callable[[Remedy | None], None]) -> None:
        """Look for the cheapest change that brings back what is erased, then tell it; ignored while one is being looked for."""
        if self._remedy is not None and not self._remedy.done():
            self._stale = question.setup != self._asked
            return
        self._asked, self._stale = question.setup, False

        def work() -> None:
            found = cheapest_remedy(
                question.setup, question.samples, question.window, settling_s=question.settling_s, cancelled=lambda: self._stale
            )
            if found.lost and not self._stale:
                tell(found.remedy)

        self._remedy = _POOL.submit(_guarded, work, "remedy", lambda: None)

    def ask_price(self, control: str, question: Question, tell: Callable[[Price | None], None]) -> None:
        """Work out what a control costs now, then tell it."""

        def work() -> None:
            tell(present_price(question.setup, control, question.samples, question.window, settling_s=question.settling_s))

        _POOL.submit(_guarded, work, "price", lambda: tell(None))


def _guarded(work: Callable[[], None], name: str, failed: Callable[[], None]) -> None:
    """Do the work; an error goes to the log file, and `failed` says so, for nobody waits for this future."""
    try:
        work()
    except Exception:
        structlog.get_logger().exception("trial failed", trial=name)
        failed()
