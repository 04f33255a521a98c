"""`python -m launcher`: what the `lamp` script runs."""

import errno
import sys

from launcher.places import Trouble
from launcher.verbs import main

FULL = "the disk is full: free some space, then run this again"


def run(arguments: list[str]) -> int:
    """Run a command; return its exit status. What the user can put right is one line."""
    try:
        return main(arguments)
    except Trouble as trouble:
        return _say(str(trouble))
    except OSError as error:
        if error.errno == errno.ENOSPC:
            return _say(FULL)
        if error.errno in (errno.EPERM, errno.EACCES, errno.EROFS):
            return _say(
                f"{error.filename or 'this folder'} cannot be written: make it writable for you, or use a copy that is, then run this again"
            )
        raise
    except KeyboardInterrupt:
        return 130


def _say(line: str) -> int:
    print(f"lamp: {line}", file=sys.stderr)
    return 2


if __name__ == "__main__":
    sys.exit(run(sys.argv[1:]))
