"""Trials beside the pings: the cheapest remedy and present prices are worked out on one thread, which gives way to the pings."""

import os
import threading
from collections.abc import Callable
from concurrent.futures import Future, ThreadPoolExecutor
from dataclasses import dataclass
from typing import Any

from mudlamp.core.receiver.setup import ReceiverSetup, Window
from mudlamp.core.receiver.trial import Remedy, Sample, Verdict, cheapest_remedy, present_price
from mudlamp.services.words.readings import price_words, remedy_words

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
    """The trials of one session: one remedy at a time, asked anew only when the last is done; prices as they are asked."""

    def __init__(self) -> None:
        self._remedy: Future[Verdict] | None = None
        self._asked: ReceiverSetup | None = None
        self._stale = False

    def ask_remedy(self, question: Question, tell: Callable[[str, Remedy | None], None]) -> None:
        """Look for the cheapest change that brings back what is erased, then tell it in words; ignored while one is being looked for."""
        if self._remedy is not None and not self._remedy.done():
            self._stale = question.setup != self._asked
            return
        self._asked, self._stale = question.setup, False

        def work() -> Verdict:
            found = cheapest_remedy(
                question.setup, question.samples, question.window, settling_s=question.settling_s, cancelled=lambda: self._stale
            )
            if found.lost and not self._stale:
                tell(remedy_words(found.remedy, question.setup), found.remedy)
            return found

        self._remedy = _POOL.submit(work)

    def ask_price(self, control: str, question: Question, tell: Callable[[dict[str, Any]], None]) -> None:
        """Work out what a control costs now, then tell it in words."""

        def work() -> None:
            price = present_price(question.setup, control, question.samples, question.window, settling_s=question.settling_s)
            tell(price_words(price))

        _POOL.submit(work)
