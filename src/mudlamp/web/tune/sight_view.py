"""How far out the lure and the fish sought show, as curves over distance."""

from collections.abc import Sequence
from dataclasses import dataclass

from mudlamp.core.advice.lure_seen import CLEAR_DB
from mudlamp.core.advice.planner import Card
from mudlamp.core.advice.sight import Sight, farther
from mudlamp.core.units import FOOT_M, feet
from mudlamp.services.cards.stored import Sights
from mudlamp.services.words.card import STYLE_WORDS, fish_word
from mudlamp.services.words.looks import sight_lines

# The drawing, in its own units: the curves' box, and where its figures stand.
LEFT, RIGHT, TOP, FLOOR = 8.0, 300.0, 8.0, 92.0
# A curve's box goes up to so far over clutter [dB]; brighter is drawn at its top.
TOP_DB = 26.0
EVERY_FT = (10, 20, 25, 50)
MOST_TICKS = 6


@dataclass(frozen=True, slots=True, kw_only=True)
class Curve:
    """A curve as SVG points, what it is of, and how it is drawn."""

    points: str
    name: str
    kind: str


@dataclass(frozen=True, slots=True, kw_only=True)
class Tick:
    """A figure under the curves, at so much from the left."""

    at: float
    text: str


@dataclass(frozen=True, slots=True, kw_only=True)
class SightView:
    """How far things show: in lines, and as curves."""

    lines: Sequence[str]
    curves: Sequence[Curve]
    ticks: Sequence[Tick]
    reach: Tick
    clear: float


def sight_view(card: Card, sights: Sights) -> SightView:
    """Return how far the lure and a fish show; of other styles only what ends elsewhere is drawn."""
    own = sights.lure[card.style]
    end = max(own.distance_m[-1], sights.fish.distance_m[-1])
    curves = [_curve(sights.fish, end, f"a {fish_word(card.here)}", "fish"), _curve(own, end, "your jig", "own")]
    curves += [
        _curve(one, end, STYLE_WORDS[style], "other") for style, one in sights.lure.items() if style is not card.style and farther(one, own)
    ]
    every = next((step for step in EVERY_FT if feet(end) / step <= MOST_TICKS), EVERY_FT[-1])
    return SightView(
        lines=sight_lines(card, sights.lure, sights.fish),
        curves=curves,
        ticks=[Tick(at=_across(at * FOOT_M, end), text=str(at)) for at in range(every, int(feet(end)), every)],
        reach=Tick(at=_across(min(card.window.reach_m, end), end), text=f"{feet(card.window.reach_m):.0f} ft: the edge of your picture"),
        clear=_up(CLEAR_DB),
    )


def _across(distance_m: float, end_m: float) -> float:
    return LEFT + (RIGHT - LEFT) * distance_m / end_m


def _up(over_db: float) -> float:
    return FLOOR - (FLOOR - TOP) * min(over_db, TOP_DB) / TOP_DB


def _curve(sight: Sight, end_m: float, name: str, kind: str) -> Curve:
    points = [f"{_across(at, end_m):.1f},{_up(over):.1f}" for at, over in zip(sight.distance_m, sight.over_db, strict=True)]
    return Curve(points=" ".join(points), name=name, kind=kind)
