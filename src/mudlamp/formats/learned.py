"""What is learned, as files: a forest is a zip of plain arrays (numpy's .npz), with the names of its traits and kinds inside."""

from collections.abc import Sequence
from importlib import resources
from io import BytesIO
from pathlib import Path

import numpy as np

from mudlamp.core.arrays import FloatArray
from mudlamp.core.errors import DomainError
from mudlamp.core.tracking.classes import CLASS_TRAITS, OF_FISH, ClassForest
from mudlamp.core.tracking.classify import KINDS
from mudlamp.core.tracking.context import CONTEXT, PARTED
from mudlamp.core.tracking.forest import Forest
from mudlamp.core.tracking.learned import Learned
from mudlamp.core.tracking.sizing import SIZE_TRAITS, STEPS
from mudlamp.core.tracking.traits import TRAITS

KINDS_FILE, CONTEXT_FILE, CLASSES_FILE, LENGTHS_FILE = "kinds.npz", "context.npz", "classes.npz", "lengths.npz"
_WHOLE = {"trait": np.int8, "left": np.int32, "right": np.int32, "missing_left": np.int8, "first": np.int32, "of_class": np.int8}
# Thresholds whole: a trait often lies on one.
_REAL = {"threshold": np.float64, "value": np.float32, "base": np.float32}


def write_classes(path: Path, classes: ClassForest) -> None:
    """Write the forest of classes with what is typical, whole or not at all."""
    write_forest(path, classes.forest, traits=CLASS_TRAITS, kinds=OF_FISH, typical=classes.typical)


def write_learned(folder: Path, learned: Learned) -> None:
    """Write all that was learned into a folder, each file whole or not at all."""
    if learned.kinds is not None:
        write_forest(folder / KINDS_FILE, learned.kinds, traits=TRAITS, kinds=[kind.value for kind in KINDS])
    if learned.context is not None:
        write_forest(folder / CONTEXT_FILE, learned.context, traits=CONTEXT, kinds=[kind.value for kind in PARTED])
    if learned.classes is not None:
        write_classes(folder / CLASSES_FILE, learned.classes)
    if learned.lengths is not None:
        write_forest(folder / LENGTHS_FILE, learned.lengths, traits=SIZE_TRAITS, kinds=STEPS)


def write_forest(path: Path, forest: Forest, *, traits: Sequence[str], kinds: Sequence[str], **more: FloatArray) -> None:
    """Write a forest, and more arrays by name, whole or not at all."""
    part = path.with_name(path.name + ".part")
    whole = {name: getattr(forest, name).astype(dtype) for name, dtype in _WHOLE.items()}
    real = {name: getattr(forest, name).astype(dtype) for name, dtype in _REAL.items()} | more
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


def shipped() -> Learned:
    """Return all that ships of what was learned."""
    return Learned(kinds=shipped_forest(), context=shipped_context(), classes=shipped_classes(), lengths=shipped_lengths())


def shipped_forest() -> Forest | None:
    """Return the forest that ships, or None where its file is missing or of another release: the tracker then goes by our own weights."""
    try:
        return read_forest(_shipped(KINDS_FILE), traits=TRAITS, kinds=[kind.value for kind in KINDS])
    except (OSError, DomainError):
        return None


def shipped_context() -> Forest | None:
    """Return the forest of context that ships, or None where its file is missing or of another release: kinds then go by each track alone."""
    try:
        return read_forest(_shipped(CONTEXT_FILE), traits=CONTEXT, kinds=[kind.value for kind in PARTED])
    except (OSError, DomainError):
        return None


def shipped_classes() -> ClassForest | None:
    """Return the forest of classes that ships, or None where its file is missing or of another release: fish are then just fish."""
    try:
        data = _shipped(CLASSES_FILE)
        forest = read_forest(data, traits=CLASS_TRAITS, kinds=OF_FISH)
    except (OSError, DomainError):
        return None
    with np.load(BytesIO(data), allow_pickle=False) as found:
        return ClassForest(forest=forest, typical=found["typical"].astype(np.float64))


def shipped_lengths() -> Forest | None:
    """Return the forest of lengths that ships, or None where its file is missing or of another release: fish then have no length."""
    try:
        return read_forest(_shipped(LENGTHS_FILE), traits=SIZE_TRAITS, kinds=STEPS)
    except (OSError, DomainError):
        return None


def _shipped(name: str) -> bytes:
    return resources.files("mudlamp.formats").joinpath("learned_files", name).read_bytes()
