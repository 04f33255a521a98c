"""Samples to learn from: traits of all tracks at moments on drawn waters, with what each track really is. Kept by seed and by the code that made them."""

import hashlib
import math
from collections.abc import Iterator, Sequence
from dataclasses import asdict, dataclass
from pathlib import Path

import numpy as np

import mudlamp.core
from mudlamp.core.arrays import BoolArray, Float32Array, FloatArray, IntArray
from mudlamp.core.plane import Place
from mudlamp.core.scene.draw import draw_water
from mudlamp.core.scene.kinds_of_water import WaterKind
from mudlamp.core.scene.species import Species
from mudlamp.core.scene.truth import TruthRow
from mudlamp.core.score.labels import labels_of
from mudlamp.core.tracking.classify import KINDS
from mudlamp.core.tracking.cuts import REACHES
from mudlamp.core.tracking.tracker import Tracker, TrackView
from mudlamp.heads.simulated import SimulatedHead

# Of so many pings one is sampled: tracks change slowly.
EVERY = 5
SPECIES = tuple(species.value for species in Species)
# What it is of which nobody can say what it is.
UNSAID = -1


@dataclass(frozen=True, slots=True, kw_only=True)
class Samples:
    """N samples, moment by moment: traits (N, F), kinds (N,) numbered as in KINDS, of fish the species (N,) numbered as in Species, whether its

    side was seen (N,), and how long it is (N,) [m], not a number of what is none; `reaches` (N, len(REACHES)) is how far echoes reach.
    Of which track (N,), where it was (N, 2) [m] and when (N,) [s] say what else was there: tracks of UNSAID kind are there too.
    """

    number: IntArray
    place: FloatArray
    time_s: FloatArray
    traits: Float32Array
    kinds: IntArray
    species: IntArray
    side_on: BoolArray
    length_m: FloatArray
    reaches: Float32Array

    def __len__(self) -> int:
        return len(self.kinds)

    @property
    def said(self) -> BoolArray:
        """Of which it can be said what they are (N,)."""
        return np.asarray(self.kinds != UNSAID)

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


@dataclass(frozen=True, slots=True, kw_only=True)
class Water:
    """A drawn water to learn or judge on: its seed, its kind where it is not the seed's own, whether all species are as often in it."""

    seed: int
    kind: WaterKind | None = None
    evenly: bool = False

    @property
    def name(self) -> str:
        """What its samples are kept by."""
        return "-".join([str(self.seed), *([] if self.kind is None else [str(self.kind)]), *(["evenly"] if self.evenly else [])])


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


def gather(water: Water, *, seconds: float) -> Samples:
    """Return the samples of a drawn water, fished for so long [s]; the hand is known throughout."""
    drawn = draw_water(water.seed, water.kind, evenly=water.evenly)
    head, tracker = SimulatedHead(drawn.scene, seed=water.seed), Tracker()
    rows: list[_Sample] = []
    for number in range(int(seconds * drawn.ping_hz)):
        ping = head.listen(number / drawn.ping_hz)
        views = tracker.update(ping, head.world.hand())
        if number % EVERY == 0:
            rows += _samples(tracker, views, head.rows(), ping.time_s)
    return Samples(
        number=np.array([row.number for row in rows], dtype=np.int64),
        place=np.array([row.place for row in rows], dtype=np.float64).reshape(len(rows), 2),
        time_s=np.array([row.time_s for row in rows], dtype=np.float64),
        traits=np.array([row.traits for row in rows], dtype=np.float32).reshape(len(rows), -1),
        kinds=np.array([row.kind for row in rows], dtype=np.int64),
        species=np.array([row.species for row in rows], dtype=np.int64),
        side_on=np.array([row.side_on for row in rows], dtype=bool),
        length_m=np.array([row.length_m for row in rows], dtype=np.float64),
        reaches=np.array([row.reaches for row in rows], dtype=np.float32).reshape(len(rows), len(REACHES)),
    )


@dataclass(frozen=True, slots=True, kw_only=True)
class _Sample:
    """One track at one moment."""

    number: int
    place: Place
    time_s: float
    traits: FloatArray
    kind: int
    species: int
    side_on: bool
    length_m: float
    reaches: FloatArray


def _samples(tracker: Tracker, views: Sequence[TrackView], truth: Sequence[TruthRow], time_s: float) -> Iterator[_Sample]:
    """Yield each track that was described, and what it is: that cannot be said of one that was not just heard."""
    tracks = {track.number: track for track in tracker.tracks if track.confirmed}
    for view, label in zip(views, labels_of(views, truth), strict=True):
        track = tracks[view.number]
        if track.traits is None:
            continue
        is_said = label is not None and not view.coasting
        row = label.row if label is not None and is_said else None
        yield _Sample(
            number=track.number,
            place=track.place,
            time_s=time_s,
            traits=track.traits,
            kind=KINDS.index(label.kind) if label is not None and is_said else UNSAID,
            species=SPECIES.index(row.species) if row is not None and row.kind == "fish" and row.species is not None else -1,
            side_on=bool(row is not None and row.side_on),
            length_m=math.nan if row is None or row.length_m is None else row.length_m,
            reaches=np.full(len(REACHES), np.nan) if track.cuts is None else track.cuts.reaches(),
        )
