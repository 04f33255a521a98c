"""What is learned, as files: a forest, or networks, are a zip of plain arrays (numpy's .npz), with the names of their traits and kinds inside."""

from collections.abc import Mapping, Sequence
from importlib import resources
from io import BytesIO
from pathlib import Path
from typing import Any

import numpy as np
import numpy.typing as npt

from mudlamp.core.arrays import FloatArray
from mudlamp.core.errors import DomainError
from mudlamp.core.tracking.classes import CLASS_TRAITS, OF_FISH, ClassForest
from mudlamp.core.tracking.context import CONTEXT, PARTED
from mudlamp.core.tracking.forest import Forest
from mudlamp.core.tracking.learned import Learned
from mudlamp.core.tracking.lure_context import LURE_CONTEXT, LURE_OR_NOT
from mudlamp.core.tracking.nets import Net, Nets, Panel
from mudlamp.core.tracking.sizing import SIZE_TRAITS, STEPS
from mudlamp.core.tracking.track import KINDS
from mudlamp.core.tracking.traits import TRAITS

KINDS_FILE, NETS_FILE, CONTEXT_FILE, FLAT_FILE = "kinds.npz", "nets.npz", "context.npz", "flat.npz"
LURE_FILE, CLASSES_FILE, LENGTHS_FILE = "lure.npz", "classes.npz", "lengths.npz"
_WHOLE = {"trait": np.int8, "left": np.int32, "right": np.int32, "missing_left": np.int8, "first": np.int32, "of_class": np.int8}
# Thresholds whole: a trait often lies on one.
_REAL = {"threshold": np.float64, "value": np.float32, "base": np.float32}


def write_classes(path: Path, classes: ClassForest) -> None:
    """Write the forest of classes with what is typical, whole or not at all."""
    write_forest(path, classes.forest, traits=CLASS_TRAITS, kinds=OF_FISH, typical=classes.typical)


def write_learned(folder: Path, learned: Learned) -> None:
    """Write all that was learned into a folder, each file whole or not at all."""
    if learned.kinds is not None:
        write_forest(folder / KINDS_FILE, learned.kinds.forest, traits=TRAITS, kinds=[kind.value for kind in KINDS])
        if learned.kinds.nets is not None:
            write_nets(folder / NETS_FILE, learned.kinds.nets)
    for name, forest in ((CONTEXT_FILE, learned.context), (FLAT_FILE, learned.flat)):
        if forest is not None:
            write_forest(folder / name, forest, traits=CONTEXT, kinds=[kind.value for kind in PARTED])
    if learned.lure is not None:
        write_forest(folder / LURE_FILE, learned.lure, traits=LURE_CONTEXT, kinds=LURE_OR_NOT)
    if learned.classes is not None:
        write_classes(folder / CLASSES_FILE, learned.classes)
    if learned.lengths is not None:
        write_forest(folder / LENGTHS_FILE, learned.lengths, traits=SIZE_TRAITS, kinds=STEPS)


def write_forest(path: Path, forest: Forest, *, traits: Sequence[str], kinds: Sequence[str], **more: FloatArray) -> None:
    """Write a forest, and more arrays by name, whole or not at all."""
    whole = {name: getattr(forest, name).astype(dtype) for name, dtype in _WHOLE.items()}
    real = {name: getattr(forest, name).astype(dtype) for name, dtype in _REAL.items()} | more
    _write(path, **whole, **real, warmth=np.float32(forest.warmth), traits=np.array(list(traits)), kinds=np.array(list(kinds)))


def write_nets(path: Path, nets: Nets) -> None:
    """Write networks that tell kinds, whole or not at all: of the n-th its layers' weights and what is added as `net_n_weights_0` and so on."""
    layers = {
        f"net_{number}_{name}_{layer}": values.astype(np.float32)
        for number, net in enumerate(nets.nets)
        for name, many in (("weights", net.weights), ("added", net.added))
        for layer, values in enumerate(many)
    }
    _write(
        path,
        nodes=nets.nodes,
        heights=nets.heights,
        blank=nets.blank,
        layers=np.array([len(net.weights) for net in nets.nets]),
        warmth=np.float32(nets.warmth),
        traits=np.array(TRAITS),
        kinds=np.array([kind.value for kind in KINDS]),
        **layers,
    )


def _write(path: Path, **arrays: Any) -> None:
    part = path.with_name(path.name + ".part")
    with part.open("wb") as file:
        np.savez_compressed(file, **arrays)
    part.replace(path)


def read_nets(data: bytes) -> Nets:
    """Return the networks of a file's bytes; raise DomainError for ones that were learned on other traits or kinds."""
    with np.load(BytesIO(data), allow_pickle=False) as found:
        _check(found, traits=TRAITS, kinds=[kind.value for kind in KINDS])
        nets = tuple(
            Net(
                **{
                    name: tuple(found[f"net_{number}_{name}_{layer}"].astype(np.float64) for layer in range(layers))
                    for name in ("weights", "added")
                }
            )
            for number, layers in enumerate(found["layers"].tolist())
        )
        return Nets(nodes=found["nodes"], heights=found["heights"], blank=found["blank"], nets=nets, warmth=float(found["warmth"]))


def read_forest(data: bytes, *, traits: Sequence[str], kinds: Sequence[str]) -> Forest:
    """Return the forest of a file's bytes; raise DomainError for one that was grown on other traits or kinds."""
    with np.load(BytesIO(data), allow_pickle=False) as found:
        _check(found, traits=traits, kinds=kinds)
        whole = {name: found[name].astype(np.int64) for name in _WHOLE}
        real = {name: found[name].astype(np.float64) for name in _REAL}
        return Forest(**whole, **real, warmth=float(found["warmth"]))


def _check(found: Mapping[str, npt.NDArray[np.generic]], *, traits: Sequence[str], kinds: Sequence[str]) -> None:
    """Raise DomainError for a file that was learned on other traits or kinds."""
    if tuple(found["traits"]) != tuple(traits) or tuple(found["kinds"]) != tuple(kinds):
        raise DomainError("the learned file is of another release: it must be learned anew (./lamp train tracker)")


def shipped() -> Learned:
    """Return all that ships of what was learned."""
    return Learned(
        kinds=shipped_kinds(),
        context=shipped_context(),
        flat=shipped_context(FLAT_FILE),
        lure=shipped_lure(),
        classes=shipped_classes(),
        lengths=shipped_lengths(),
    )


def shipped_kinds() -> Panel | None:
    """Return what ships that tells kinds, or None where its trees are missing or of another release: the tracker then goes by our own weights.

    Without its networks the trees tell alone.
    """
    try:
        forest = read_forest(_shipped(KINDS_FILE), traits=TRAITS, kinds=[kind.value for kind in KINDS])
    except (OSError, DomainError):
        return None
    try:
        return Panel(forest=forest, nets=read_nets(_shipped(NETS_FILE)))
    except (OSError, DomainError):
        return Panel(forest=forest)


def shipped_context(name: str = CONTEXT_FILE) -> Forest | None:
    """Return a forest of context that ships, or None where its file is missing or of another release: kinds then go by each track alone."""
    try:
        return read_forest(_shipped(name), traits=CONTEXT, kinds=[kind.value for kind in PARTED])
    except (OSError, DomainError):
        return None


def shipped_lure() -> Forest | None:
    """Return the forest of the lure's context that ships, or None where its file is missing or of another release: it is then named by its look."""
    try:
        return read_forest(_shipped(LURE_FILE), traits=LURE_CONTEXT, kinds=LURE_OR_NOT)
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
