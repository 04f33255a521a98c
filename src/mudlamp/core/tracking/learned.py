"""All that the tracker learned: what tells kinds, alone and in their context, classes and lengths. Without a part of it the tracker does without, and worse."""

from dataclasses import dataclass

from mudlamp.core.tracking.classes import ClassForest
from mudlamp.core.tracking.forest import Forest
from mudlamp.core.tracking.nets import Panel


@dataclass(frozen=True, slots=True, kw_only=True)
class Learned:
    """Learned trees and networks: `kinds` tell fish from lure, bait and cover, `context` weighs that by what is about a track, `flat` the same under a flat fan, `lure` what of it may be the lure, `classes` fish from each other, `lengths` how long they are."""

    kinds: Panel | None = None
    context: Forest | None = None
    flat: Forest | None = None
    lure: Forest | None = None
    classes: ClassForest | None = None
    lengths: Forest | None = None

    @property
    def tells_kinds(self) -> bool:
        """Whether nothing is missing of what tells fish from cover."""
        return self.kinds is not None and self.kinds.nets is not None and None not in (self.context, self.flat, self.lure)


NOTHING = Learned()
