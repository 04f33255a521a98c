"""The lure as it was measured on waters like a card's: how far it stands out, on how many it is lost, and the cheapest way out."""

from collections.abc import Sequence
from dataclasses import replace

import numpy as np

from mudlamp.core.advice.autotune import Batch
from mudlamp.core.advice.lure_seen import LureSeen, Way, is_hidden
from mudlamp.core.advice.planner import Card
from mudlamp.core.casting.heads import SOLD_OZ
from mudlamp.core.controls import GAIN
from mudlamp.core.setup import with_control
from mudlamp.core.units import OUNCE_KG
from mudlamp.services.cards.advising import batches_of, readings_of
from mudlamp.services.water.aboard import Aboard

# How many steps hotter is tried, and how many sizes heavier, on how many waters.
HOTTER, HEAVIER, WATERS = (3.0, 6.0, 9.0), 3, 4


def lure_seen(card: Card, aboard: Aboard, batches: Sequence[Batch]) -> LureSeen | None:
    """Return how the lure shows under a card's start on batches of waters like its own; None where none is to be seen."""
    readings = [readings_of(card.setup, card, batch) for batch in batches]
    over = [one.lure_over_clutter_db for one in readings if one.lure_over_clutter_db is not None]
    if not over:
        return None
    found = LureSeen(
        over_db=round(float(np.mean(over)), 1),
        low_db=round(min(over), 1),
        high_db=round(max(over), 1),
        hidden=sum(map(is_hidden, readings)),
        of=len(readings),
        bare_db=round(float(np.mean([max(one.bare_over_clutter_db or 0.0, 0.0) for one in readings])), 1),
    )
    return _with_a_way(found, card, aboard, batches) if found.hidden else found


def _with_a_way(found: LureSeen, card: Card, aboard: Aboard, batches: Sequence[Batch]) -> LureSeen:
    for steps in HOTTER:
        gain = GAIN.held(card.setup.gain + steps)
        if not _hides(card, batches, gain=gain):
            return replace(found, way=Way.GAIN, value=gain)
    heavier = [float(size) * OUNCE_KG for size in SOLD_OZ if float(size) * OUNCE_KG > 1.1 * aboard.lure.head_kg]
    for head_kg in heavier[:HEAVIER]:
        other = replace(aboard, lure=replace(aboard.lure, head_kg=head_kg))
        if not _hides(card, batches_of(card, other, seed=0, count=WATERS), gain=card.setup.gain):
            return replace(found, way=Way.HEAD, value=head_kg)
    return replace(found, way=Way.LINE)


def _hides(card: Card, batches: Sequence[Batch], *, gain: float) -> bool:
    setup = with_control(card.setup, GAIN.name, gain)
    return any(is_hidden(readings_of(setup, card, batch)) for batch in batches)
