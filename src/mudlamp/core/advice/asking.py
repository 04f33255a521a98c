"""What is worth asking next: the answer whose absence costs this card most, by what the forecast says of the plausible others."""

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass

from mudlamp.core.advice.answers import DOUBTED, Answers, clashes, with_guess
from mudlamp.core.advice.planner import Start, trade_bands
from mudlamp.core.advice.retune import moved
from mudlamp.core.advice.windows import Band, down_to, reach
from mudlamp.core.controls import Value
from mudlamp.core.setup import Setup

# What a window that is off costs, in points of 100 (ours): fish or bottom cut off, by the meter short; screen wasted, by its share.
CUT_OFF_M, WASTED = 12.0, 30.0
# Fish that are cut off cost no more than all of it.
MOST_CUT_OFF = 40.0
# Another sonar's spokes all over the picture cost so many (ours).
SPOKES = 3.0
# Under so many points nobody would see the difference (ours).
WORTH_ASKING = 0.5


@dataclass(frozen=True, slots=True, kw_only=True)
class Question:
    """A gap in the answers: its name, what not knowing costs on the mean of its plausible ends [points of 100], and what moves between them."""

    name: str
    worth: float
    moves: Mapping[str, tuple[Value, Value]]


def questions_by_worth(
    answers: Answers, start: Start, planned: Callable[[Answers], Start], *, without: Sequence[str] = ()
) -> list[Question]:
    """Return the gaps that are worth asking about, the dearest first; `planned` plans other answers, `without` names those that were skipped.

    Source: expected value of perfect information over two plausible ends (Raiffa and Schlaifer 1961); ends and prices ours.
    """
    found = []
    for name in start.here.assumed:
        if name not in DOUBTED or name in without:
            continue
        ends = [planned(guess) for end in (0, 1) if not clashes(guess := with_guess(answers, name, end))]
        worth = sum(loss(start.setup, there) for there in ends) / 2.0
        if worth >= WORTH_ASKING and len(ends) == 2:
            changes = moved(ends[0].setup, ends[1].setup).changes
            found.append(Question(name=name, worth=worth, moves={one.control: (one.before, one.after) for one in changes}))
    return sorted(found, key=lambda one: -one.worth)


def loss(setup: Setup, there: Start) -> float:
    """Return what a set-up costs on another water than it was planned for [points of 100], against what is planned for that."""
    receiver = max(there.points(there.setup) - there.points(setup), 0.0)
    if setup.receiver.quieting_pings < trade_bands(there.here)["quieting_pings"].low and there.here.other_sonars:
        receiver += SPOKES
    return receiver + _off(setup.window.down_to_m, down_to(there.here)) + _off(setup.window.reach_m, reach(there.here))


def _off(shown_m: float, band: Band) -> float:
    if shown_m < band.low:
        return min(CUT_OFF_M * (band.low - shown_m), MOST_CUT_OFF)
    return WASTED * (1.0 - band.high / shown_m) if shown_m > band.high else 0.0
