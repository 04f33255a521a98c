"""Samples to learn from: traits of tracks on drawn waters, with what each track really is. Kept by seed and by the code that made them."""

import hashlib
import math
from collections.abc import Iterator
from dataclasses import asdict, dataclass
from pathlib import Path

import numpy as np

import mudlamp.core
from mudlamp.core.arrays import BoolArray, Float32Array, FloatArray, IntArray
from mudlamp.core.scene.draw import draw_water
from mudlamp.core.scene.species import Species
from mudlamp.core.scene.truth import TruthRow
from mudlamp.core.score.labels import labels_of
from mudlamp.core.tracking.cuts import REACHES
from mudlamp.core.tracking.track import KINDS, Kind
from mudlamp.core.tracking.tracker import Tracker
from mudlamp.core.tracking.views import TrackView
from mudlamp.heads.simulated import SimulatedHead
from mudlamp.services.training.waters import Water

# Of so many pings one is sampled: tracks change slowly.
EVERY = 5
# One learned water in so many is kept aside to set the odds' temperature on.
ASIDE = 16
# Of a water's cover no more samples than this: a weed bed must not outvote all fish.
MOST_COVER = 800
SPECIES = tuple(species.value for species in Species)
# Traits, kind, species, whether its side was seen, length [m], what that is told by beside the traits.
Labelled = tuple[FloatArray, int, int, bool, float, FloatArray]


@dataclass(frozen=True, slots=True, kw_only=True)
class Samples:
    """N samples: traits (N, F), kinds (N,) numbered as in KINDS, of fish the species (N,) numbered as in Species, whether its

    side was seen (N,), and how long it is (N,) [m], not a number of what is none; `reaches` (N, len(REACHES)) is how far a fish's echoes reach.
    """

    traits: Float32Array
    kinds: IntArray
    species: IntArray
    side_on: BoolArray
    length_m: FloatArray
    reaches: Float32Array

    def __len__(self) -> int:
        return len(self.kinds)

    def chosen(self, which: BoolArray | IntArray) -> "Samples":
        """Return some of them: those that are true of (N,), or those of the numbers (M,)."""
        return Samples(**{name: getattr(self, name)[which] for name in self.__dataclass_fields__})


def code_digest() -> str:
    """Return a digest of all the code that samples hang on."""
    found = hashlib.sha256()
    root = Path(mudlamp.core.__file__).parent
    for path in sorted(root.rglob("*.py")):
        found.update(path.read_bytes())
    return found.hexdigest()[:16]


def samples_of(water: Water, *, seconds: float, folder: Path) -> Samples:
    """Return the samples of a drawn water, from the folder where this code has made them before."""
    path = folder / f"{code_digest()}-{water.name}-{seconds:g}.npz"
    if not path.exists():
        made = gather(water, seconds=seconds)
        folder.mkdir(parents=True, exist_ok=True)
        part = path.with_suffix(".part.npz")
        np.savez_compressed(part, **asdict(made))
        part.replace(path)
    with np.load(path, allow_pickle=False) as found:
        return Samples(**{name: found[name] for name in found.files})


def thinned(cover: BoolArray, rng: np.random.Generator) -> tuple[BoolArray, FloatArray]:
    """Return which samples (N,) of a water to keep, of those that are cover (N,) no more than some MOST_COVER, and what each that is kept counts."""
    share = min(MOST_COVER / max(int(cover.sum()), 1), 1.0)
    kept = ~cover | (rng.random(len(cover)) < share)
    return kept, np.where(cover, 1.0 / share, 1.0)[kept]


def gather(water: Water, *, seconds: float) -> Samples:
    """Return the samples of a drawn water, fished for so long [s]; the hand is known throughout."""
    drawn = draw_water(water.seed, water.kind, evenly=water.evenly)
    head, tracker = SimulatedHead(drawn.scene, seed=water.seed), Tracker()
    rows: list[Labelled] = []
    for number in range(int(seconds * drawn.ping_hz)):
        ping = head.listen(water.after_s + number / drawn.ping_hz)
        views = tracker.update(ping, head.world.hand())
        if number % EVERY == 0:
            rows += labelled(tracker, views, head.rows())
    return Samples(
        traits=np.array([traits for traits, *_ in rows], dtype=np.float32).reshape(len(rows), -1),
        kinds=np.array([kind for _, kind, *_ in rows], dtype=np.int64),
        species=np.array([row[2] for row in rows], dtype=np.int64),
        side_on=np.array([row[3] for row in rows], dtype=bool),
        length_m=np.array([row[4] for row in rows], dtype=np.float64),
        reaches=np.array([row[5] for row in rows], dtype=np.float32).reshape(len(rows), len(REACHES)),
    )


def labelled(tracker: Tracker, views: list[TrackView], truth: list[TruthRow]) -> Iterator[Labelled]:
    """Yield traits, kind, species, whether its side was seen and length of each track just heard of which it can be said what it is."""
    tracks = {track.number: track for track in tracker.tracks if track.confirmed}
    for view, label in zip(views, labels_of(views, truth), strict=True):
        traits = tracks[view.number].traits
        if label is None or traits is None or view.coasting:
            continue
        row = label.row
        species = SPECIES.index(row.species) if row is not None and row.kind == "fish" and row.species is not None else -1
        length_m = math.nan if row is None or row.length_m is None else row.length_m
        # Lengths are learned of fish alone.
        cuts = tracks[view.number].cuts if label.kind is Kind.FISH else None
        reaches = np.full(len(REACHES), np.nan) if cuts is None else cuts.reaches()
        yield traits, KINDS.index(label.kind), species, bool(row is not None and row.side_on), length_m, reaches
