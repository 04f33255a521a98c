"""Which class of fish a track is: learned odds, leaned by what is usual in this water and season, with the words that decided and the look that would settle it."""

from collections.abc import Sequence
from dataclasses import dataclass
from enum import StrEnum

import numpy as np

from mudlamp.core.arrays import FloatArray, IntArray
from mudlamp.core.tracking.forest import Forest, odds_of
from mudlamp.core.tracking.hand_watch import HAND_TRAITS
from mudlamp.core.tracking.track import Kind
from mudlamp.core.tracking.traits import TRAITS


class FishClass(StrEnum):
    """What a track may be, as an angler sorts it."""

    PANFISH = "panfish"
    BASS = "bass"
    ROUGH = "rough fish"
    GAR = "gar"
    CATFISH = "catfish"
    BAIT = "bait"
    LURE = "lure"
    UNKNOWN = "unknown"


# The classes of fish, in the order of the learned trees.
OF_FISH = (FishClass.PANFISH, FishClass.BASS, FishClass.ROUGH, FishClass.GAR, FishClass.CATFISH)
# Where the angler throws says nothing of what fish is there.
CLASS_TRAITS = tuple(trait for trait in TRAITS if trait not in HAND_TRAITS)
_COLUMNS = np.array([TRAITS.index(trait) for trait in CLASS_TRAITS])
# A class is named where it is likelier than this; else the track is unknown.
NAMED = 0.45


class Word(StrEnum):
    """What decided, in pairs: more than usual, less than usual."""

    LONG = "long"
    SHORT = "short"
    DEEP_BODIED = "tall echo"
    FLAT_BODIED = "thin echo"
    BRIGHT = "bright"
    DULL = "dull"
    FLICKERS = "flickers"
    STEADY = "steady glow"
    MOVES = "keeps moving"
    STILL = "holds still"
    SCHOOLED = "among others"
    ALONE = "alone"
    HIGH = "off the bottom"
    LOW = "near bottom"
    DEEP = "deep"
    SHALLOW = "shallow"


@dataclass(frozen=True, slots=True, kw_only=True)
class Sign:
    """What a pair of words stands for: the traits that are weighed together, the first of which says which of the two words it is."""

    more: Word
    less: Word
    traits: tuple[str, ...]


SIGNS = (
    Sign(more=Word.LONG, less=Word.SHORT, traits=("longest_m", "length_m", "wide_m", "log_cells", "spread_beams_m", "about_length_m")),
    Sign(more=Word.DEEP_BODIED, less=Word.FLAT_BODIED, traits=("tall_m", "spread_range_m", "fullness_db")),
    Sign(more=Word.BRIGHT, less=Word.DULL, traits=("level_db", "level_db2", "over_mean_db", "over_loudest_db", "about_level_db")),
    Sign(
        more=Word.FLICKERS,
        less=Word.STEADY,
        traits=(
            "level_step_db",
            "level_swing_db",
            "beat_share",
            "beat_hz",
            "length_step_m",
            "about_level_step_db",
            "changed_power_db_next",
        ),
    ),
    Sign(
        more=Word.MOVES,
        less=Word.STILL,
        traits=("moved_m", "roam_m", "speed_m_s", "long_shift_m", "shift_apart_m", "long_shift_apart_m", "place_step_m", "apart_m_s"),
    ),
    Sign(more=Word.SCHOOLED, less=Word.ALONE, traits=("tracks_near", "company", "crowd", "nearest_m", "nearest_over_level_db")),
    Sign(more=Word.HIGH, less=Word.LOW, traits=("over_bottom_m",)),
    Sign(more=Word.DEEP, less=Word.SHALLOW, traits=("depth_m",)),
)
MOST_WORDS = 3


class Look(StrEnum):
    """The one look that would settle a doubt."""

    LONGER = "watch 3 s more"
    NEARER = "get within 40 ft"
    SIDE_ON = "wait for its side"
    LURE = "drop the jig: does it look?"
    MOVES = "does it move? Wood does not"
    NEIGHBORS = "see what swims with it"
    BOTTOM = "see whether it leaves the bottom"


YOUNG_S = 3.0
FAR_M = 12.2
# An echo much taller than wide, or hardly wider than the beam: an end of the fish, not its side.
END_ON_M = 0.10
# Which look parts which two classes (common practice).
PARTS = {
    frozenset({FishClass.PANFISH, FishClass.BASS}): Look.NEIGHBORS,
    frozenset({FishClass.PANFISH, FishClass.ROUGH}): Look.NEIGHBORS,
    frozenset({FishClass.BASS, FishClass.CATFISH}): Look.BOTTOM,
    frozenset({FishClass.PANFISH, FishClass.CATFISH}): Look.BOTTOM,
}


@dataclass(frozen=True, slots=True, kw_only=True)
class Priors:
    """How much likelier than in the waters that were learned on each class of fish is, here and now, in the order of OF_FISH."""

    factors: tuple[float, ...] = (1.0,) * len(OF_FISH)

    @classmethod
    def of(cls, *, temperature_degc: float | None = None, target: FishClass | None = None) -> "Priors":
        """Return what water, season and target make likelier.

        Source: starting values of our own after common practice: in cold water gar and catfish hardly show and panfish gather; in hot
        water both are about; who fishes for a class has gone where it is.
        """
        factors = dict.fromkeys(OF_FISH, 1.0)
        if temperature_degc is not None and temperature_degc < COLD_DEGC:
            factors |= {FishClass.PANFISH: 1.3, FishClass.GAR: 0.3, FishClass.CATFISH: 0.5}
        if temperature_degc is not None and temperature_degc > HOT_DEGC:
            factors |= {FishClass.GAR: 1.6, FishClass.CATFISH: 1.2}
        if target in factors:
            factors[target] *= 1.5
        return cls(factors=tuple(factors[one] for one in OF_FISH))


COLD_DEGC, HOT_DEGC = 9.0, 25.0


@dataclass(frozen=True, slots=True, kw_only=True)
class Identity:
    """What a track is thought to be: odds of each class, the likeliest (or unknown), the words that decided, the look that would settle it."""

    odds: dict[FishClass, float]
    name: FishClass
    words: tuple[Word, ...]
    look: Look | None


@dataclass(frozen=True, slots=True, kw_only=True)
class ClassForest:
    """Learned trees of OF_FISH over CLASS_TRAITS, and what is typical: the middle (F,) of each trait."""

    forest: Forest
    typical: FloatArray

    def sums(self, traits: FloatArray) -> FloatArray:
        """Return the trees' sums (N, 5) for tracks' traits (N, len(TRAITS))."""
        return self.forest.sums(np.ascontiguousarray(traits[:, _COLUMNS]))

    def odds(self, sums: FloatArray, priors: Priors) -> FloatArray:
        """Return the odds (N, 5) of classes for a fish, by sums (N, 5) and priors."""
        leaned = odds_of(sums, self.forest.warmth) * np.array(priors.factors)
        return np.asarray(leaned / leaned.sum(axis=1, keepdims=True))

    def words(self, traits: FloatArray, number: int) -> tuple[Word, ...]:
        """Return the words that decided for class `number`, of a track's traits (len(TRAITS),): what, were it as usual, would cost most.

        What is not known, as height over the bottom under a flat fan, decides nothing in words.
        """
        own = traits[_COLUMNS]
        rows = np.tile(own, (len(SIGNS) + 1, 1))
        for row, columns in zip(rows[1:], _SIGN_COLUMNS, strict=True):
            row[columns] = self.typical[columns]
        logs = np.log(np.maximum(odds_of(self.forest.sums(rows), self.forest.warmth), 1e-9))
        cost = logs[0, number] - logs[1:, number]
        cost = np.where(np.isfinite(own[_FIRST_COLUMNS]), cost, 0.0)
        best = [int(i) for i in np.argsort(-cost)[:MOST_WORDS] if cost[i] > LEAST_COST]
        return tuple(self._word(own, i) for i in best)

    def _word(self, own: FloatArray, sign: int) -> Word:
        first = _FIRST_COLUMNS[sign]
        return SIGNS[sign].more if own[first] > self.typical[first] else SIGNS[sign].less


LEAST_COST = 0.02
_SIGN_COLUMNS: Sequence[IntArray] = tuple(np.array([CLASS_TRAITS.index(trait) for trait in sign.traits]) for sign in SIGNS)
# A sign's first trait says which of its two words it is.
_FIRST_COLUMNS = np.array([columns[0] for columns in _SIGN_COLUMNS])


def class_odds(kinds: dict[Kind, float], fish: FloatArray) -> dict[FishClass, float]:
    """Return the odds of all classes, of a track's odds of kinds and the odds (5,) of classes if it is a fish; what may be cover is unknown."""
    odds = {one: kinds[Kind.FISH] * float(share) for one, share in zip(OF_FISH, fish, strict=True)}
    return odds | {FishClass.BAIT: kinds[Kind.BAIT], FishClass.LURE: kinds[Kind.LURE], FishClass.UNKNOWN: kinds[Kind.COVER]}


def named(odds: dict[FishClass, float]) -> FishClass:
    """Return the likeliest class, unknown where none is likely."""
    best = max(odds, key=odds.__getitem__)
    return best if odds[best] > NAMED else FishClass.UNKNOWN


def kind_of(said: FishClass) -> Kind:
    """Return the kind of track that a class is of: what is no fish, lure or bait is cover."""
    return {FishClass.LURE: Kind.LURE, FishClass.BAIT: Kind.BAIT, FishClass.UNKNOWN: Kind.COVER}.get(said, Kind.FISH)


def settling_look(odds: dict[FishClass, float], traits: FloatArray) -> Look | None:
    """Return the look that would settle what a track is, of its odds and traits (len(TRAITS),); None where nothing needs settling."""
    if max(odds.values()) > SETTLED:
        return None
    age_s, range_m, wide_m = (float(traits[TRAITS.index(name)]) for name in ("age_s", "range_m", "wide_m"))
    if age_s < YOUNG_S:
        return Look.LONGER
    if range_m > FAR_M:
        return Look.NEARER
    if wide_m < END_ON_M:
        return Look.SIDE_ON
    first, second = sorted(odds, key=lambda one: -odds[one])[:2]
    if FishClass.UNKNOWN in (first, second):
        return Look.MOVES
    return PARTS.get(frozenset({first, second}), Look.LURE)


SETTLED = 0.85
