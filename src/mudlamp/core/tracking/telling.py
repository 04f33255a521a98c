"""Telling kinds: the odds of what each track is, gathered over time, and weighed in its context. Nothing learned: by weights of our own."""

from collections.abc import Sequence

import numpy as np

from mudlamp.core.arrays import FloatArray
from mudlamp.core.plane import GroundPlane
from mudlamp.core.tracking.classify import KINDS, odds
from mudlamp.core.tracking.context import context_of, leads_of, remember, weighed
from mudlamp.core.tracking.forest import Forest, odds_of
from mudlamp.core.tracking.learned import Learned
from mudlamp.core.tracking.lure_context import lure_context_of, with_lure
from mudlamp.core.tracking.nets import Panel
from mudlamp.core.tracking.track import Track, gathered

# How much the newest of what the learned panel says counts.
EVIDENCE = 0.05
# And how much the newest of what context says counts. It goes by gathered evidence already; this only keeps names from flickering.
STEADIED = 0.12


class KindTeller:
    """Tells what tracks are, by what was `learned`: a panel for kinds, by traits, and forests that weigh what the panel says: of context, of

    context under a flat fan, and of the lure's own.
    """

    def __init__(self, learned: Learned) -> None:
        self._learned = learned

    def tell(
        self, due: Sequence[Track], everyone: Sequence[Track], gap: FloatArray, *, plane: GroundPlane, beam_width_rad: float, time_s: float
    ) -> None:
        """Bring the odds of tracks that are `due`, and have their traits, up to date, by how far each lies from everyone (N, M) [m].

        Under a flat fan the lure is told by its look alone.
        """
        for track in due:
            track.told += 1
        kinds, flat = self._learned.kinds, plane.plane.is_flat
        if kinds is None:
            told = odds(due)
        else:
            own, newest = self._by_look(kinds, due)
            remember(due, leads_of(np.array([track.sums for track in due]) / kinds.warmth), newest)
            context = context_of(due, everyone, gap, odds=own, newest=newest, plane=plane, beam_width_rad=beam_width_rad, time_s=time_s)
            in_context = self._in_context(self._learned.flat if flat else self._learned.context, due, own, context)
            if not flat:
                beside = lure_context_of(due, everyone, gap, odds=own, plane=plane, time_s=time_s)
                in_context = self._lured(due, in_context, beside)
            told = [dict(zip(KINDS, row, strict=True)) for row in in_context.tolist()]
        for track, row in zip(due, told, strict=True):
            track.odds = row

    @staticmethod
    def _by_look(kinds: Panel, due: Sequence[Track]) -> tuple[FloatArray, FloatArray]:
        """Return each track's odds (N, K) by all that was said of it, and the leads (N,) of the newest look alone."""
        newest = kinds.sums(np.array([track.traits for track in due]))
        for track, row in zip(due, newest, strict=True):
            # Evidence gathers: the mean of what was said lately, young tracks by all that was said.
            track.sums = gathered(track.sums, row, told=track.told, share=EVIDENCE)
        return odds_of(np.array([track.sums for track in due]), kinds.warmth), leads_of(newest / kinds.warmth)

    @staticmethod
    def _in_context(forest: Forest | None, due: Sequence[Track], own: FloatArray, context: FloatArray) -> FloatArray:
        """Return odds (N, K) weighed by contexts (N, F), which the tracks keep: it is what context is learned from."""
        for track, row in zip(due, context, strict=True):
            track.context = row
        return own if forest is None else weighed(own, _steadied(forest, due, context))

    def _lured(self, due: Sequence[Track], own: FloatArray, context: FloatArray) -> FloatArray:
        """Return odds (N, K) with the lure's told by its contexts (N, F), which the tracks keep as well."""
        for track, row in zip(due, context, strict=True):
            track.lure_context = row
        lure = self._learned.lure
        return own if lure is None else with_lure(own, lure.odds(context)[:, 1])


def _steadied(forest: Forest, due: Sequence[Track], context: FloatArray) -> FloatArray:
    """Return the odds (N, K) by contexts (N, F), leaned on what they were."""
    for track, row in zip(due, forest.sums(context), strict=True):
        track.context_sums = gathered(track.context_sums, row, told=track.told, share=STEADIED)
    return odds_of(np.array([track.context_sums for track in due]), forest.warmth)
