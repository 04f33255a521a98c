"""Telling kinds: the odds of what each track is, gathered over time, and weighed in its context. Nothing learned: by weights of our own."""

from collections.abc import Sequence

import numpy as np

from mudlamp.core.arrays import FloatArray
from mudlamp.core.tracking.classify import KINDS, odds
from mudlamp.core.tracking.context import context_of, leads_of, remember, weighed
from mudlamp.core.tracking.forest import Forest, odds_of
from mudlamp.core.tracking.track import Kind, Track, gathered

# How much the newest of what the learned trees say counts.
EVIDENCE = 0.05
# And how much the newest of what context says counts. It goes by gathered evidence already; this only keeps names from flickering.
STEADIED = 0.12


class KindTeller:
    """Tells what tracks are. Its two forests are learned: one of `kinds`, by traits, and one of `context`, which weighs what the first says."""

    def __init__(self, kinds: Forest | None, context: Forest | None) -> None:
        self._kinds, self._context = kinds, context

    def tell(self, due: Sequence[Track], everyone: Sequence[Track], gap: FloatArray, *, is_flat: bool) -> None:
        """Bring the odds of tracks that are `due`, and have their traits, up to date, by how far each lies from everyone (N, M) [m].

        Under a flat fan context tells nothing more: there each track is told alone.
        """
        for track in due:
            track.told += 1
        rows = odds(due) if self._kinds is None else self._learned(self._kinds, None if is_flat else self._context, due, everyone, gap)
        for track, row in zip(due, rows, strict=True):
            track.odds = row

    @staticmethod
    def _learned(
        forest: Forest, weigh: Forest | None, due: Sequence[Track], everyone: Sequence[Track], gap: FloatArray
    ) -> list[dict[Kind, float]]:
        """Return the odds by one forest, weighed by the other where there is one."""
        newest = forest.sums(np.array([track.traits for track in due]))
        for track, row in zip(due, newest, strict=True):
            # Evidence gathers: the mean of what was said lately, young tracks by all that was said.
            track.sums = gathered(track.sums, row, told=track.told, share=EVIDENCE)
        sums = np.array([track.sums for track in due])
        newest_lead = leads_of(newest / forest.warmth)
        remember(due, leads_of(sums / forest.warmth), newest_lead)
        own = odds_of(sums, forest.warmth)
        context = context_of(due, everyone, gap, odds=own, newest=newest_lead)
        for track, row in zip(due, context, strict=True):
            track.context = row
        told = own if weigh is None else weighed(own, _steadied(weigh, due, context))
        return [dict(zip(KINDS, row, strict=True)) for row in told.tolist()]


def _steadied(forest: Forest, due: Sequence[Track], context: FloatArray) -> FloatArray:
    """Return the odds (N, K) by contexts (N, F), leaned on what they were."""
    for track, row in zip(due, forest.sums(context), strict=True):
        track.context_sums = gathered(track.context_sums, row, told=track.told, share=STEADIED)
    return odds_of(np.array([track.context_sums for track in due]), forest.warmth)
