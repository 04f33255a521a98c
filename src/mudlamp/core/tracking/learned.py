"""All that the tracker learned: what tells kinds, classes and lengths. Without a part of it the tracker does without, and worse."""

from dataclasses import dataclass

from mudlamp.core.tracking.classes import ClassForest
from mudlamp.core.tracking.forest import Forest


@dataclass(frozen=True, slots=True, kw_only=True)
class Learned:
    """Learned trees: `kinds` tell fish from lure, bait and cover, `classes` fish from each other, `lengths` how long they are."""

    kinds: Forest | None = None
    classes: ClassForest | None = None
    lengths: Forest | None = None


NOTHING = Learned()
