"""How verbs answer: JSON alone on standard output, or lines for people."""

import dataclasses
import json
import sys
from collections.abc import Iterable


def plain(answer: object) -> object:
    """Return dataclasses, in whatever holds them, as plain objects."""
    if dataclasses.is_dataclass(answer) and not isinstance(answer, type):
        return {one.name: plain(getattr(answer, one.name)) for one in dataclasses.fields(answer)}
    if isinstance(answer, dict):
        return {str(name): plain(value) for name, value in answer.items()}
    return [plain(one) for one in answer] if isinstance(answer, list | tuple) else answer


def give(answer: object, *, as_json: bool, lines: Iterable[str]) -> None:
    """Print the answer as JSON, or as lines for people."""
    if as_json:
        sys.stdout.write(json.dumps(plain(answer), allow_nan=False) + "\n")
    else:
        for line in lines:
            print(line)
