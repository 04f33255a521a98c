"""How long tests wait for what must come: other tests and other work may be beside them, and only what fails waits so long."""

import time

PATIENCE_S = 600.0


def until(true, what="it did not come in time", seconds=PATIENCE_S, every_s=0.02):
    """Wait until `true()` is; return what it gave."""
    deadline = time.monotonic() + seconds
    while not (found := true()):
        assert time.monotonic() < deadline, what() if callable(what) else what
        time.sleep(every_s)
    return found
