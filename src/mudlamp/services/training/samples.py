"""Samples to learn from: traits of tracks on drawn waters, with what each track really is. Kept by seed and by the code that made them."""

import hashlib
from collections.abc import Iterator
from dataclasses import dataclass
from pathlib import Path

import numpy as np

import mudlamp.core
from mudlamp.core.arrays import Float32Array, FloatArray, IntArray
from mudlamp.core.scene.draw import draw_water
from mudlamp.core.scene.truth import TruthRow
from mudlamp.core.score.labels import labels_of
from mudlamp.core.tracking.classify import KINDS
from mudlamp.core.tracking.tracker import Tracker, TrackView
from mudlamp.heads.simulated import SimulatedHead

# Of so many pings one is sampled: tracks change slowly.
EVERY = 5


@dataclass(frozen=True, slots=True, kw_only=True)
class Samples:
    """N samples: traits (N, F), kinds (N,) numbered as in KINDS."""

    traits: Float32Array
    kinds: IntArray

    def __len__(self) -> int:
        return len(self.kinds)


def code_digest() -> str:
    """Return a digest of all the code that samples hang on."""
    found = hashlib.sha256()
    root = Path(mudlamp.core.__file__).parent
    for path in sorted(root.rglob("*.py")):
        found.update(path.read_bytes())
    return found.hexdigest()[:16]


def samples_of(seed: int, *, seconds: float, folder: Path) -> Samples:
    """Return the samples of a drawn water, from the folder where this code has made them before."""
    path = folder / f"{code_digest()}-{seed}-{seconds:g}.npz"
    if not path.exists():
        made = gather(seed, seconds=seconds)
        folder.mkdir(parents=True, exist_ok=True)
        part = path.with_suffix(".part.npz")
        np.savez_compressed(part, traits=made.traits, kinds=made.kinds)
        part.replace(path)
    with np.load(path, allow_pickle=False) as found:
        return Samples(traits=found["traits"], kinds=found["kinds"])


def gather(seed: int, *, seconds: float) -> Samples:
    """Return the samples of a drawn water, fished for so long [s]; the hand is known throughout."""
    water = draw_water(seed)
    head, tracker = SimulatedHead(water.scene, seed=seed), Tracker()
    traits: list[FloatArray] = []
    kinds: list[int] = []
    for number in range(int(seconds * water.ping_hz)):
        ping = head.listen(number / water.ping_hz)
        views = tracker.update(ping, head.world.hand())
        if number % EVERY == 0:
            for row, kind in labelled(tracker, views, head.rows()):
                traits.append(row)
                kinds.append(kind)
    return Samples(traits=np.array(traits, dtype=np.float32).reshape(len(traits), -1), kinds=np.array(kinds, dtype=np.int64))


def labelled(tracker: Tracker, views: list[TrackView], truth: list[TruthRow]) -> Iterator[tuple[FloatArray, int]]:
    """Yield traits and kind of each track that was just heard and of which it can be said what it is."""
    tracks = {track.number: track for track in tracker.tracks if track.confirmed}
    for view, kind in zip(views, labels_of(views, truth), strict=True):
        traits = tracks[view.number].traits
        if kind is not None and traits is not None and not view.coasting:
            yield traits, KINDS.index(kind)
