"""Telling kinds: the odds of what each track is, gathered over time, and weighed in its context. Nothing learned: by weights of our own."""

import numpy as np

from mudlamp.core.arrays import FloatArray, IntArray
from mudlamp.core.plane import GroundPlane
from mudlamp.core.tracking.classify import odds
from mudlamp.core.tracking.context import context_of, leads_of, remember, weighed
from mudlamp.core.tracking.forest import Forest, odds_of
from mudlamp.core.tracking.ghosts import without_ghosts
from mudlamp.core.tracking.learned import Learned
from mudlamp.core.tracking.lure_context import lure_context_of, with_lure
from mudlamp.core.tracking.nets import Panel
from mudlamp.core.tracking.roster import Roster
from mudlamp.core.tracking.track import Tracks

# How much the newest of what the learned panel says counts (docs/decisions/0052).
EVIDENCE = 0.1
# And how much the newest of what context says counts. It goes by gathered evidence already; this only keeps names from flickering.
STEADIED = 0.3


class KindTeller:
    """Tells what tracks are, by what was `learned`: a panel for kinds, by traits, and forests that weigh what the panel says: of context, of

    context under a flat fan, and of the lure's own.
    """

    def __init__(self, learned: Learned) -> None:
        self._learned = learned

    def tell(self, due: Tracks, everyone: Tracks, gap: FloatArray, *, plane: GroundPlane, beam_width_rad: float, time_s: float) -> None:
        """Bring the odds of tracks that are `due`, and have their traits, up to date, by how far each lies from everyone (N, M) [m].

        Under a flat fan the lure is told by its look alone.
        """
        roster, rows = due.roster, due.rows
        roster.told[rows] += 1
        kinds, flat = self._learned.kinds, plane.plane.is_flat
        if kinds is None:
            told = odds(roster, rows)
        else:
            traits = np.array([track.traits for track in due])
            own, newest = self._by_look(kinds, roster, rows, traits)
            context = context_of(
                due, everyone, gap, traits=traits, odds=own, newest=newest, plane=plane, beam_width_rad=beam_width_rad, time_s=time_s
            )
            told = self._in_context(self._learned.flat if flat else self._learned.context, due, own, context)
            if not flat:
                told = self._lured(due, told, lure_context_of(due, everyone, gap, traits=traits, odds=own, plane=plane, time_s=time_s))
        due.give_odds(without_ghosts(told, roster.ghost[rows]))

    @staticmethod
    def _by_look(kinds: Panel, roster: Roster, rows: IntArray, traits: FloatArray) -> tuple[FloatArray, FloatArray]:
        """Return each track's odds (N, K) by all that was said of it, and the leads (N,) of the newest look alone, at its traits (N, F)."""
        newest = kinds.sums(traits)
        # Evidence gathers: the mean of what was said lately, young tracks by all that was said.
        sums = roster.kind_sums.with_newest(rows, newest, share=EVIDENCE)
        newest_leads = leads_of(newest / kinds.warmth)
        remember(roster, rows, leads_of(sums / kinds.warmth), newest_leads)
        return odds_of(sums, kinds.warmth), newest_leads

    @staticmethod
    def _in_context(forest: Forest | None, due: Tracks, own: FloatArray, context: FloatArray) -> FloatArray:
        """Return odds (N, K) weighed by contexts (N, F), which the tracks keep: it is what context is learned from."""
        for track, row in zip(due, context, strict=True):
            track.context = row
        if forest is None:
            return own
        # Leaned on what they were.
        sums = due.roster.context_sums.with_newest(due.rows, forest.sums(context), share=STEADIED)
        return weighed(own, odds_of(sums, forest.warmth))

    def _lured(self, due: Tracks, own: FloatArray, context: FloatArray) -> FloatArray:
        """Return odds (N, K) with the lure's told by its contexts (N, F), which the tracks keep as well."""
        for track, row in zip(due, context, strict=True):
            track.lure_context = row
        lure = self._learned.lure
        return own if lure is None else with_lure(own, lure.odds(context)[:, 1])
