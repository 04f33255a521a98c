"""Which kind each track is, by what was learned: first of its own traits, then again among the tracks about it; evidence gathers."""

from collections.abc import Sequence

import numpy as np

from mudlamp.core.arrays import BoolArray, FloatArray
from mudlamp.core.tracking.classify import KINDS, odds
from mudlamp.core.tracking.context import Context, leans
from mudlamp.core.tracking.forest import odds_of
from mudlamp.core.tracking.learned import Learned
from mudlamp.core.tracking.track import Kind, Track, gathered

# How much the newest of what the learned trees say counts: of the first, and of those that weigh it among others.
EVIDENCE, EVIDENCE_AMONG = 0.05, 0.06
# An echo so near to a fish [m] may be the fish's other end: it is a fish only where that is told of it alone.
BESIDE_M = 0.45


class KindTeller:
    """Tells kinds. Without learned trees it goes by weights of our own, which are worse; without the second trees by the first alone."""

    def __init__(self, learned: Learned) -> None:
        self._alone, self._among = learned.kinds, learned.among
        self._context = Context()

    def start_anew(self) -> None:
        """Forget what was where."""
        self._context = Context()

    def odds(self, due: Sequence[Track], everyone: Sequence[Track], traits: FloatArray, *, time_s: float) -> list[dict[Kind, float]]:
        """Return the odds of each kind for the tracks that are `due`, some of `everyone`, by their traits (N, F); each track remembers."""
        for track in due:
            track.told += 1
        if self._alone is None:
            return odds(due)
        for track, row in zip(due, self._alone.sums(traits), strict=True):
            # Evidence gathers: the mean of what was said lately, young tracks by all that was said.
            track.sums = gathered(track.sums, row, told=track.told, share=EVIDENCE)
        alone = odds_of(np.array([track.sums for track in due]), self._alone.warmth)
        if self._among is None:
            return _by_kind(alone)
        context = self._context_of(due, everyone, time_s)
        for track, row, sums in zip(due, context, self._among.sums(np.hstack((traits, context))), strict=True):
            track.context = row
            track.among_sums = gathered(track.among_sums, sums, told=track.told, share=EVIDENCE_AMONG)
        among = odds_of(np.array([track.among_sums for track in due]), self._among.warmth)
        return _by_kind(np.where(_beside_a_fish(due, everyone)[:, None], alone, among))

    def _context_of(self, due: Sequence[Track], everyone: Sequence[Track], time_s: float) -> FloatArray:
        told = [track for track in everyone if track.sums is not None]
        at = {track.number: row for row, track in enumerate(told)}
        return self._context.look_at(
            np.array(list(at)),
            np.array([track.place for track in told]),
            leans(np.array([track.sums for track in told])),
            asked=np.array([at[track.number] for track in due]),
            time_s=time_s,
        )


def _beside_a_fish(due: Sequence[Track], everyone: Sequence[Track]) -> BoolArray:
    """Return which tracks (N,) that are `due` have a fish right beside them that was followed for longer: they may be an end of it."""
    fish = [track for track in everyone if track.kind is Kind.FISH and track.told > 1]
    if not fish:
        return np.zeros(len(due), dtype=bool)
    own, other = np.array([track.place for track in due]), np.array([track.place for track in fish])
    near = np.linalg.norm(own[:, None] - other[None], axis=2) < BESIDE_M
    older = np.array([track.born_s for track in due])[:, None] > np.array([track.born_s for track in fish])[None]
    found: BoolArray = (near & older).any(axis=1)
    return found


def _by_kind(odds: FloatArray) -> list[dict[Kind, float]]:
    return [dict(zip(KINDS, row, strict=True)) for row in odds.tolist()]
