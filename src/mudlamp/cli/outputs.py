"""Files that a command writes: what may not be one is said before any work is done, and nothing but a regular file is ever replaced."""

import argparse
import os
from collections.abc import Callable
from pathlib import Path

from mudlamp.core.errors import DomainError

# A file is written beside its place under a longer name first.
WHILE_WRITING = ".part"


def output(*, suffix: str = "") -> Callable[[str], Path]:
    """Return an argparse type: the path of a file to be written, with a suffix where one is asked for."""

    def parse(text: str) -> Path:
        wrong = _wrong_with(text, suffix)
        if wrong:
            raise argparse.ArgumentTypeError(f"is {text[:60] or 'empty'}: {wrong}")
        return Path(text)

    return parse


def _wrong_with(text: str, suffix: str) -> str:
    """Return why a text cannot be the path of a file to be written; empty where it can."""
    path = Path(text)
    if not text or "\0" in text or path.name in ("", ".", ".."):
        return "it must be the path of a file"
    if suffix and path.suffix.lower() != suffix:
        return f"it must end in {suffix}"
    parent = path.absolute().parent
    try:
        longest = os.pathconf(parent, "PC_NAME_MAX") - len(WHILE_WRITING)
        if len(os.fsencode(path.name)) > longest:
            return f"its name must be at most {longest} bytes long"
        if path.exists() and not path.is_file():
            return "it must be a file, or not be there yet"
    except OSError:
        return "it cannot be written: its folder must exist"
    return "" if os.access(parent, os.W_OK) else "it cannot be written: its folder must be one that you may write to"


def require_apart(**paths: Path | None) -> None:
    """Raise DomainError where two files to be written are the same."""
    seen: dict[Path, str] = {}
    for name, path in paths.items():
        if path is None:
            continue
        place = path.resolve()
        if place in seen:
            raise DomainError(f"--{name} is {str(path)[:60]}: it must be another file than --{seen[place]}")
        seen[place] = name
