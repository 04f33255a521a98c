"""What children of the launcher are given and denied: they end with it, and gain no rights that they do not have."""

import ctypes
import signal

# Of prctl(2).
SET_DEATH_SIGNAL, SET_NO_NEW_PRIVILEGES = 1, 38


def end_with_parent() -> None:
    """Ask the kernel to end this child when the launcher dies by whatever cause. A server of a database ends in good order by this signal, too."""
    ctypes.CDLL(None).prctl(SET_DEATH_SIGNAL, signal.SIGINT)


def serve_without_rights() -> None:
    """As `end_with_parent`, and never gain rights by starting another program."""
    kernel = ctypes.CDLL(None)
    kernel.prctl(SET_DEATH_SIGNAL, signal.SIGTERM)
    kernel.prctl(SET_NO_NEW_PRIVILEGES, 1, 0, 0, 0)
