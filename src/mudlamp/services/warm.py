"""Warming up: every kernel is compiled (or loaded from its cache) before somebody waits for it."""

import contextlib
import fcntl
import os
from collections.abc import Iterator
from pathlib import Path

from mudlamp.core.casting.solve import CastQuery, solve
from mudlamp.core.receiver.chain import Receiver
from mudlamp.core.scene.world import World
from mudlamp.core.setup import ReceiverSetup
from mudlamp.core.tracking.reacting import ReactionWatch
from mudlamp.core.tracking.tracker import Tracker
from mudlamp.formats.learned import shipped
from mudlamp.formats.scene.file import load_scene
from mudlamp.heads.simulated import SimulatedHead

HEAD_KG = 0.00177


@contextlib.contextmanager
def _one_at_a_time() -> Iterator[None]:
    """Let one process compile; the others wait, and then find the kernels in the cache."""
    folder = os.environ.get("NUMBA_CACHE_DIR")
    if not folder:
        yield
        return
    Path(folder).mkdir(parents=True, exist_ok=True)
    with (Path(folder) / "warm.lock").open("w") as lock:
        fcntl.flock(lock, fcntl.LOCK_EX)
        yield


def warm_up() -> None:
    """Run a few pings through everything, with every kind of receiver step on; one process at a time."""
    with _one_at_a_time():
        _ping_a_little()


def _ping_a_little() -> None:
    # A cast is worked out for every fish that is followed.
    solve(CastQuery(range_m=8.0, depth_m=3.0, head_kg=HEAD_KG))
    head, tracker, watch = SimulatedHead(load_scene("pear-tree"), seed=0), Tracker(shipped()), ReactionWatch()
    receiver = Receiver(ReceiverSetup(quieting_pings=2, ghost_cut_db=28.0))
    for number in range(6):
        ping = head.listen(number / 20.0)
        receiver.develop(ping)
        tracker.update(ping)
        watch.update(tracker, ping)
    head.truth()
    # By the pear tree all fish hang; these cruise.
    World(load_scene("clear-deep"), seed=0).advance(0.1)


def warm_planner() -> None:
    """Work out a card and measure it, so that nobody who asks for one waits for libraries and kernels."""
    # Imported here: a session's process needs none of it.
    from mudlamp.core.advice.answers import Answers
    from mudlamp.services.cards.advising import batch_of, card_of, tuned
    from mudlamp.services.water.aboard import Aboard

    with _one_at_a_time():
        card = card_of(Answers(), Aboard())
        tuned(card, [batch_of(card, Aboard(), seed=0)], seed=0)
