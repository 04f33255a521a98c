"""The benchmark of stop cues: where somebody ends who sees only the picture, and what that costs against the card's start."""

from collections.abc import Callable, Sequence
from dataclasses import dataclass

from mudlamp.core.advice.answers import clashes
from mudlamp.core.advice.autotune import Batch, measured
from mudlamp.core.advice.planner import Card
from mudlamp.core.advice.styles import Style
from mudlamp.core.controls import CONTROLS, GAIN, PUNCH, Control
from mudlamp.core.setup import with_control
from mudlamp.services.bench.askers import drawn_answers
from mudlamp.services.cards.advising import (
    GRAINY_PCT,
    SOLID_PCT,
    batch_of,
    batches_of,
    card_of,
    objective_for,
    readings_of,
)
from mudlamp.services.cards.measuring import CUE_WATERS, stops_of
from mudlamp.services.water.aboard import Aboard
from mudlamp.services.words.cues import dots_of

# The water that is fished has a seed this far from those that the cue was measured on.
UNSEEN = 5000
# Gain and Punch are begun so far under and over the start, and turned so far at a time.
BEGIN_OFF, TURN = 20.0, 2.0


@dataclass(frozen=True, slots=True, kw_only=True)
class Followed:
    """Who followed a control's cue: whether that ended within the band, how far from the start (steps), and what it cost in points of 100."""

    control: str
    in_band: bool
    off: float
    lost: float


@dataclass(frozen=True, slots=True, kw_only=True)
class _Water:
    """A card on the water that is fished."""

    card: Card
    batch: Batch

    def lost(self, control: Control, value: float) -> float:
        """Return how many points a value of a control is worse than the start."""
        objective = objective_for(self.card)
        there = with_control(self.card.setup, control.name, value)
        return measured(self.card.setup, self.batch, objective)[1] - measured(there, self.batch, objective)[1]

    def shows(self, control: Control, value: float, sign: str) -> float:
        """Return a reading, by name, that an eye can tell of a picture."""
        return float(getattr(readings_of(with_control(self.card.setup, control.name, value), self.card, self.batch), sign))


def followed(seed: int, style: Style = Style.BALANCED) -> list[Followed]:
    """Return how the cues of a seed's card are followed on a water that they were not measured on; nothing for answers that clash."""
    answers = drawn_answers(seed)
    if clashes(answers):
        return []
    card = card_of(answers, Aboard(), style=style)
    stops = stops_of(card, batches_of(card, Aboard(), seed=seed, count=CUE_WATERS))
    water = _Water(card=card, batch=batch_of(card, Aboard(), seed=seed + UNSEEN))
    return [
        *_turned(water, GAIN, stops.speckle_gain, ("clutter_fill_pct", GRAINY_PCT), 1.0),
        *_turned(water, PUNCH, stops.solid_punch, ("blown_out_pct", SOLID_PCT), 5.0),
        *(one for name, limit in stops.lit_limits_pct.items() if limit is not None for one in _stepped(water, CONTROLS[name], limit)),
    ]


def _turned(water: _Water, control: Control, stop: float | None, sign: tuple[str, float], round_to: float) -> list[Followed]:
    """Gain or Punch, begun far under and far over: up until the picture shows that it is too high, then as many steps as the cue says."""
    if stop is None:
        return []
    start = float(getattr(water.card.setup, control.name))
    steps = round_to * round((start - stop) / round_to)
    found = []
    for begin in (start - BEGIN_OFF, start + BEGIN_OFF):
        value = control.held(_turned_until(lambda value: water.shows(control, value, sign[0]) >= sign[1], begin) + steps)
        found.append(_ended(water, control, value, abs(value - start)))
    return found


def _turned_until(is_over: Callable[[float], bool], begin: float) -> float:
    """Return where somebody sees a control become too high who turns it up until it is, and down as long as it is."""
    value = begin
    while not is_over(value) and value < 98.0:
        value += TURN
    while is_over(value) and value > 20.0:
        value -= TURN
    return value + 0.5 * TURN


def _stepped(water: _Water, control: Control, limit_pct: float) -> list[Followed]:
    """A stepped control, begun at its weakest and at its strongest, with the limit as it is printed: one dot in so many."""
    printed, start = 100.0 / dots_of(limit_pct), control.strength(getattr(water.card.setup, control.name))
    found = []
    for begin in (0, len(control.steps) - 1):
        end = _stepped_until(lambda value: water.shows(control, value, "clutter_fill_pct"), control.steps, printed, begin)
        found.append(_ended(water, control, control.steps[end], abs(end - start)))
    return found


def _stepped_until(lit_pct: Callable[[float], float], steps: Sequence[float], limit_pct: float, begin: int) -> int:
    """Return at which step somebody ends who goes up until no more than the limit is lit, and down as long as that holds."""
    at = begin
    while lit_pct(steps[at]) > limit_pct and at < len(steps) - 1:
        at += 1
    while at > 0 and lit_pct(steps[at - 1]) <= limit_pct:
        at -= 1
    return at


def _ended(water: _Water, control: Control, value: float, off: float) -> Followed:
    row = water.card.row(control.name)
    ends = [value if row.low is None else row.low, value if row.high is None else row.high]
    low, high, at = (control.strength(one) if control.steps else one for one in (*ends, value))
    return Followed(control=control.name, in_band=min(low, high) <= at <= max(low, high), off=off, lost=water.lost(control, value))
