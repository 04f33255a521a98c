"""Where processes of this application come from: a small server that has imported everything already, so that each starts in a moment."""

import multiprocessing
import threading
from multiprocessing.context import ForkContext, ForkServerContext

CONTEXT = multiprocessing.get_context("forkserver")
CONTEXT.set_forkserver_preload(
    [
        "mudlamp.services.live.process",
        "mudlamp.services.find.process",
        "mudlamp.services.warm",
        "mudlamp.services.quarantine.inspect",
        "scipy.optimize",
    ]
)


def quickest_context() -> ForkContext | ForkServerContext:
    """Return the quickest safe way to a process: a program of one thread (a command) forks, one of many (the server) has it done."""
    return multiprocessing.get_context("fork") if threading.active_count() == 1 else CONTEXT
