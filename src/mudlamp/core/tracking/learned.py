"""All that the tracker learned: what tells kinds, classes and lengths. Without a part of it the tracker does without, and worse."""

from dataclasses import dataclass

from mudlamp.core.tracking.classes import ClassForest
from mudlamp.core.tracking.forest import Forest


@dataclass(frozen=True, slots=True, kw_only=True)
class Learned:
    """Learned trees: `kinds` tell fish from lure, bait and cover by a track's own traits, `among` again with the tracks about it in mind,

    `classes` tell fish from each other, `lengths` how long they are.
    """

    kinds: Forest | None = None
    among: Forest | None = None
    classes: ClassForest | None = None
    lengths: Forest | None = None

    @property
    def tells_kinds(self) -> bool:
        """Whether kinds are told by all that can be learned of them."""
        return self.kinds is not None and self.among is not None


NOTHING = Learned()
