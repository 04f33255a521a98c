"""The command line's own parser: a bad argument is one line on standard error and exit status 2."""

import argparse
import sys
from collections.abc import Callable, Sequence
from typing import NoReturn

from mudlamp.core.errors import DomainError

CLUSTER_HELP = "share the waters out over a Dask cluster: its scheduler's address, tcp://HOST:PORT (default: processes on this machine)"


class Parser(argparse.ArgumentParser):
    """An argparse parser without usage boxes in its errors and without abbreviations."""

    def __init__(self, *args: object, **options: object) -> None:
        super().__init__(*args, **{"allow_abbrev": False, **options})  # type: ignore[arg-type]

    def error(self, message: str) -> NoReturn:
        """Say what is wrong in one line, leave with 2."""
        print(f"lamp: {' '.join(message.split())}", file=sys.stderr)
        sys.exit(2)


def ranged(low: float, high: float, unit: str = "", *, whole: bool = False) -> Callable[[str], float]:
    """Return an argparse type: a number from `low` to `high`."""
    shown = f"{low:g} to {high:g}{' ' + unit if unit else ''}"

    def parse(text: str) -> float:
        try:
            value = int(text) if whole else float(text)
        except ValueError:
            raise argparse.ArgumentTypeError(f"is {text[:40]}: it must be a {'whole ' if whole else ''}number, {shown}") from None
        if not low <= value <= high:
            raise argparse.ArgumentTypeError(f"is {text[:40]}: it must be {shown}")
        return value

    return parse


def settings(words: Sequence[str]) -> dict[str, str]:
    """Return KEY=VALUE words as a dictionary; raise DomainError for a word that is none."""
    found: dict[str, str] = {}
    for word in words:
        name, equals, value = word.partition("=")
        if not (name and equals and value):
            raise DomainError(f"--set is {word[:60]}: it must be KEY=VALUE")
        found[name] = value
    return found
