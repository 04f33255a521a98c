"""How verbs answer: JSON alone on standard output, or lines for people."""

import json
import sys
from collections.abc import Iterable, Mapping
from typing import Any


def give(answer: Mapping[str, Any], *, as_json: bool, lines: Iterable[str]) -> None:
    """Print the answer as JSON, or as lines for people."""
    if as_json:
        sys.stdout.write(json.dumps(answer, allow_nan=False) + "\n")
    else:
        for line in lines:
            print(line)
