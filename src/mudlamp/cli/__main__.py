"""`python -m mudlamp.cli VERB ...`: what `./lamp VERB` runs."""

import errno
import gc
import importlib
import signal
import sys
from types import FrameType, ModuleType

from mudlamp.core.errors import MudLampError

# Each verb lives in a module of its own, imported only when it is asked for: heavy libraries stay out of quick answers.
VERBS = {
    "water": "mudlamp.cli.water",
    "scenes": "mudlamp.cli.scenes",
    "sim": "mudlamp.cli.sim",
    "readings": "mudlamp.cli.readings",
    "track": "mudlamp.cli.track",
    "cast": "mudlamp.cli.cast",
    "tune": "mudlamp.cli.tune",
    "find": "mudlamp.cli.find",
    "export": "mudlamp.cli.export",
    "import": "mudlamp.cli.bring",
    "archive": "mudlamp.cli.archive",
    "unarchive": "mudlamp.cli.unarchive",
    "talk": "mudlamp.cli.talk",
    "train": "mudlamp.cli.train",
    "bench": "mudlamp.cli.bench",
    "screens": "mudlamp.cli.screens",
    "serve": "mudlamp.cli.serve",
}


def _leave(number: int, _frame: FrameType | None) -> None:
    raise SystemExit(128 + number)


def _imported(name: str) -> ModuleType:
    """Return a verb's module. While it loads nothing is garbage: looking for it took a third of a start."""
    gc.disable()
    try:
        return importlib.import_module(name)
    finally:
        gc.freeze()
        gc.enable()


def main(words: list[str]) -> int:
    """Run one verb; return the exit status."""
    if not words or words[0] not in VERBS:
        shown = words[0][:40] if words else "missing"
        print(
            f"lamp: the command is {shown}: it must be one of up, test, {', '.join(name for name in VERBS if name != 'serve')}",
            file=sys.stderr,
        )
        return 2
    if words[0] != "serve":
        signal.signal(signal.SIGTERM, _leave)
    try:
        return int(_imported(VERBS[words[0]]).run(words[1:]))
    except MudLampError as error:
        print(f"lamp: {' '.join(str(error).split())}", file=sys.stderr)
        return 2
    except OSError as error:
        # A file that cannot be read or written is the caller's to put right; what is ours has no name of theirs in it.
        if error.filename is None and error.errno != errno.ENOSPC:
            raise
        print(f"lamp: {error.filename or 'a file'}: {error.strerror}", file=sys.stderr)
        return 2
    except KeyboardInterrupt:
        return 130


if __name__ == "__main__":
    sys.exit(main(sys.argv[1:]))
