"""What is said under the three small pictures of a control, and how far out things show."""

from collections.abc import Mapping

from mudlamp.core.advice.answers import CoverKind
from mudlamp.core.advice.looks import Look, Side, Sign
from mudlamp.core.advice.planner import Card
from mudlamp.core.advice.sight import Sight, farther
from mudlamp.core.advice.styles import Style
from mudlamp.core.controls import WINDOW, Control
from mudlamp.core.units import feet
from mudlamp.services.words.card import STYLE_WORDS, fish_word

SIGNS = {
    Sign.NO_LURE: "the jig is gone",
    Sign.FISH_GONE: "fish are gone",
    Sign.LURE_FAINT: "the jig is faint",
    Sign.GRAINY: "the water turns grainy",
    Sign.SPOKES: "the other sonar's spokes",
    Sign.GHOSTS: "a false tree",
    Sign.RUN_TOGETHER: "fish run together",
    Sign.SOLID: "it turns solid",
    Sign.PALE: "marks are pale",
    Sign.LAGS: "the jig lags your hand",
    Sign.BOTTOM_GONE: "the bottom is cut off",
    Sign.FISH_OUT: "the fish are cut off",
    Sign.NOTHING_PAST: "nothing past {figure} ft",
    Sign.SMALLER: "all is {figure} % smaller",
    Sign.ROOM_BELOW: "room under the bottom line",
    Sign.ROOM_AHEAD: "fish inside, room past them",
    Sign.SHOWS: "jig and fish show",
    Sign.LURE_HIDES: "fish show, the jig hides",
    Sign.SAME: "hardly differs here",
}
SIDES = {
    False: {Side.LOW: "Too low", Side.RIGHT: "Right", Side.HIGH: "Too high"},
    True: {Side.LOW: "Too small", Side.RIGHT: "Right", Side.HIGH: "Too large"},
}


def look_words(control: Control, look: Look) -> str:
    """Return what stands under a picture."""
    side = SIDES[control in WINDOW][look.side] if look.sign is not Sign.SAME else {Side.LOW: "Lower", Side.HIGH: "Higher"}[look.side]
    figure = feet(look.figure) if look.sign is Sign.NOTHING_PAST else look.figure
    return f"{side}: {SIGNS[look.sign].format(figure=f'{figure:.0f}')}"


def out_to(sight: Sight) -> str:
    """Return how far something shows, in feet: with its doubt where it ends."""
    far = feet(sight.farthest_m)
    if sight.past_end:
        return f"{far:.0f} ft and more"
    doubt = max(feet(sight.doubt_m), 1.0)
    if far > 0.0 and doubt >= far:
        return f"{far:.0f} ft, on some waters like this to {far + doubt:.0f}"
    return "nowhere" if far == 0.0 else f"{far:.0f} ft, give or take {doubt:.0f}"


def jig_words(one: Sight, own: Sight) -> str:
    """Return how far out a jig shows where that differs from how far the card's own set-up shows it; else nothing."""
    if not farther(one, own):
        return ""
    return f"jig to {feet(one.farthest_m):.0f} ft, not {feet(own.farthest_m):.0f}" if one.farthest_m > 0.0 else "jig shows nowhere"


def sight_lines(card: Card, lure: Mapping[Style, Sight], fish: Sight) -> list[str]:
    """Return how far the lure and the fish sought show on a card's water, and where another style would show the lure less or more far.

    That was looked at in open water: with cover about it says so.
    """
    lines, where = [], "You'll" if card.here.cover is CoverKind.OPEN else "Clear of the cover you'll"
    if card.lure_over_db is not None:
        own = lure[card.style]
        lines.append(
            f"{where} see this jig to {out_to(own)}." if own.farthest_m > 0.0 else "This jig does not show clearly at any distance."
        )
        others = [
            f"{STYLE_WORDS[other]} {'loses it at' if one.farthest_m < own.farthest_m else 'shows it to'} {feet(one.farthest_m):.0f} ft"
            for other, one in lure.items()
            if other is not card.style and farther(one, own)
        ]
        lines.append(f"{'; '.join(others)}." if others else "Raw, Balanced and Clean show it as far.")
    lines.append(f"A {fish_word(card.here)} shows to {out_to(fish)}.")
    return lines
