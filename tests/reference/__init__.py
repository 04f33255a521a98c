"""Reference values as data, each with its source and tolerance beside it."""

import tomllib
from pathlib import Path
from typing import Any


def load(name: str) -> dict[str, Any]:
    return tomllib.loads(Path(__file__).with_name(f"{name}.toml").read_text())
