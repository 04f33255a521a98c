"""Who is who: classes of the fish that are followed, gathered over time, with words and the look that would settle it."""

import numpy as np

from mudlamp.core.tracking.classes import OF_FISH, ClassForest, FishClass, Identity, Priors, class_odds, named, settling_look
from mudlamp.core.tracking.track import FISH, Track, Tracks

# Of a track that may be a fish with such odds it is asked which.
MAY_BE_FISH = 0.3
# How much the newest of what the learned trees say counts.
EVIDENCE = 0.06
# Words are chosen anew after so long [s]: they must be readable.
SAID_S = 1.0


class Identifier:
    """Keeps the identity of tracks up to date; without a learned forest none has one."""

    def __init__(self, forest: ClassForest | None, priors: Priors | None = None) -> None:
        self._forest = forest
        self.priors = priors or Priors()

    def look_at(self, due: Tracks, *, time_s: float) -> None:
        """Take in what is known of some tracks now; what the angler said of one stands."""
        roster, rows = due.roster, due.rows
        for track in due.those(roster.is_said[rows]):
            said = track.said
            track.identity = Identity(odds={said: 1.0}, name=said, words=(), look=None) if said in OF_FISH else None
        may_be = due.those(~roster.is_said[rows] & (roster.odds[rows, FISH] > MAY_BE_FISH))
        if self._forest is None or not len(may_be):
            return
        newest = self._forest.sums(np.array([track.traits for track in may_be]))
        sums = roster.class_sums.with_newest(may_be.rows, newest, share=EVIDENCE)
        shares = self._forest.odds(sums, self.priors)
        for track, share in zip(may_be, shares, strict=True):
            track.identity = _identity(self._forest, track, class_odds(track.odds, share), int(share.argmax()), time_s)


def _identity(forest: ClassForest, track: Track, odds: dict[FishClass, float], number: int, time_s: float) -> Identity:
    """Return a track's identity; its words stay for a while, as long as its name does."""
    name, before = named(odds), track.identity
    if track.traits is None or (before is not None and before.name is name and time_s - track.said_s < SAID_S):
        return Identity(odds=odds, name=name, words=before.words if before else (), look=before.look if before else None)
    track.said_s = time_s
    words = forest.words(track.traits, number) if name in OF_FISH else ()
    return Identity(odds=odds, name=name, words=words, look=settling_look(odds, track.traits))
