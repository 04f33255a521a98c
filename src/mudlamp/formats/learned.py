"""What is learned, as files: a forest is a zip of plain arrays (numpy's .npz), with the names of its traits and kinds inside."""

from collections.abc import Sequence
from importlib import resources
from io import BytesIO
from pathlib import Path

import numpy as np

from mudlamp.core.errors import DomainError
from mudlamp.core.tracking.classify import KINDS
from mudlamp.core.tracking.forest import Forest
from mudlamp.core.tracking.traits import TRAITS

SHIPPED = "kinds.npz"
_WHOLE = {"trait": np.int8, "left": np.int32, "right": np.int32, "missing_left": np.int8, "first": np.int32, "of_class": np.int8}
# Thresholds whole: a trait often lies on one.
_REAL = {"threshold": np.float64, "value": np.float32, "base": np.float32}


def write_forest(path: Path, forest: Forest, *, traits: Sequence[str], kinds: Sequence[str]) -> None:
    """Write a forest, whole or not at all."""
    part = path.with_name(path.name + ".part")
    whole = {name: getattr(forest, name).astype(dtype) for name, dtype in _WHOLE.items()}
    real = {name: getattr(forest, name).astype(dtype) for name, dtype in _REAL.items()}
    with part.open("wb") as file:
        np.savez_compressed(
            file, **whole, **real, warmth=np.float32(forest.warmth), traits=np.array(list(traits)), kinds=np.array(list(kinds))
        )
    part.replace(path)


def read_forest(data: bytes, *, traits: Sequence[str], kinds: Sequence[str]) -> Forest:
    """Return the forest of a file's bytes; raise DomainError for one that was grown on other traits or kinds."""
    with np.load(BytesIO(data), allow_pickle=False) as found:
        if tuple(found["traits"]) != tuple(traits) or tuple(found["kinds"]) != tuple(kinds):
            raise DomainError("the learned file is of another release: it must be learned anew (./lamp train tracker)")
        whole = {name: found[name].astype(np.int64) for name in _WHOLE}
        real = {name: found[name].astype(np.float64) for name in _REAL}
        return Forest(**whole, **real, warmth=float(found["warmth"]))


def shipped_forest() -> Forest | None:
    """Return the forest that ships, or None where its file is missing or of another release: the tracker then goes by our own weights."""
    file = resources.files("mudlamp.formats").joinpath("learned_files", SHIPPED)
    try:
        return read_forest(file.read_bytes(), traits=TRAITS, kinds=[kind.value for kind in KINDS])
    except (OSError, DomainError):
        return None
