"""A card measured on waters like its own: costs, the lure, where Gain turns grainy, how far things show, and how each control looks off."""

from collections.abc import Callable, Mapping, Sequence

from mudlamp.core.advice.autotune import Batch
from mudlamp.core.advice.looks import Look, receiver_looks, shown_in_pictures, window_looks
from mudlamp.core.advice.planner import Card
from mudlamp.core.advice.sight import Sight
from mudlamp.core.advice.styles import Style
from mudlamp.core.controls import QUIETING, Part
from mudlamp.core.setup import values_of, with_control
from mudlamp.services.cards import advising
from mudlamp.services.cards.lure import lure_seen
from mudlamp.services.cards.sight import SightWaters, fish_waters, lure_waters, sight
from mudlamp.services.cards.stored import Measured, Sights, StoredPlan
from mudlamp.services.water.from_answers import fish_place
from mudlamp.services.words import card as words
from mudlamp.services.words import cues

# From so many pings on another sonar's spokes are taken out.
SPOKES_GONE = 3.0
# Cues are measured on so many of the waters: they hold on others as well as with all of them.
CUE_WATERS = 3


def measured(
    plan: StoredPlan, labels: Mapping[str, str], *, count: int = advising.WATERS, progress: Callable[[float], None] = lambda share: None
) -> Measured:
    """Return what is measured of a card, on so many waters like its own."""
    card, aboard, seed = plan.card, plan.aboard, advising.seed_of(plan.answers, plan.aboard)
    batches = advising.batches_of(card, aboard, seed=seed, count=count, progress=lambda share: progress(0.3 * share))
    costs = advising.costs_of(card, batches, progress=lambda share: progress(0.3 + 0.3 * share))
    stops = stops_of(card, batches)
    progress(0.7)
    lures = lure_waters(card, aboard, seed=seed)
    sights = sights_of(plan, lures)
    settings = settings_seen(card, costs, lures)
    progress(0.9)
    return Measured(
        costs={control: {style: cost.rounded() for style, cost in of_styles.items()} for control, of_styles in costs.items()},
        lure=lure_seen(card, aboard, batches),
        speckle_gain=stops.speckle_gain,
        solid_punch=stops.solid_punch,
        lit_limits_pct=stops.lit_limits_pct,
        doubts=words.doubt_lines(advising.doubts_of(plan.answers, aboard, card), labels),
        sights=sights,
        looks=looks_of(card, batches[0]),
        settings=settings,
    )


def answered(plan: StoredPlan) -> advising.CardAnswer:
    """Return a card as scripts get it, its costs measured."""
    card, aboard = plan.card, plan.aboard
    batches = advising.batches_of(card, aboard, seed=advising.seed_of(plan.answers, aboard))
    return advising.card_answer(card, advising.costs_of(card, batches), stops_of(card, batches))


def stops_of(card: Card, batches: Sequence[Batch]) -> cues.Stops:
    """Return where Gain and Punch show on the first of the batches that they are too high, and where the stepped controls stop."""
    some = batches[:CUE_WATERS]
    return cues.Stops(
        speckle_gain=advising.speckle_gain(card, some),
        solid_punch=advising.solid_punch(card, some),
        lit_limits_pct=advising.lit_limits(card, some),
    )


def sights_of(plan: StoredPlan, lures: SightWaters) -> Sights:
    """Return how far out the lure shows on its waters under each style's set-up, and a fish of the kind sought under the card's."""
    card, seed = plan.card, advising.seed_of(plan.answers, plan.aboard)
    return Sights(
        lure={style: sight(card.setups[style], lures) for style in Style},
        fish=sight(card.setup, fish_waters(card, plan.aboard, seed=seed)),
    )


def settings_seen(card: Card, costs: advising.Costs, lures: SightWaters) -> Mapping[str, Mapping[Style, Sight]]:
    """Return how far out the lure shows with one control as a style would set it, of those whose cost in level is worth saying."""
    known: dict[tuple[str, float], Sight] = {}
    found: dict[str, dict[Style, Sight]] = {}
    for row in card.rows:
        for style in Style:
            value, level_db = row.styles[style], costs[row.control][style].lure_over_clutter_db
            if isinstance(value, str) or level_db is None or abs(level_db) < words.LEAST_JIG_DB:
                continue
            key = (row.control, float(value))
            if key not in known:
                known[key] = sight(with_control(card.setup, row.control, float(value)), lures)
            found.setdefault(row.control, {})[style] = known[key]
    return found


def looks_of(card: Card, batch: Batch) -> Mapping[str, tuple[Look, ...]]:
    """Return the controls that pictures are made for, by core name, with how each looks too low, right and too high on a batch."""
    found = {}
    for control in shown_in_pictures(values_of(card.window, card.setup)):
        name, start = control.name, float(card.start.value(control))
        if control.part is Part.WINDOW:
            place = fish_place(card.here, card.window)
            found[name] = window_looks(control, card.window, depth_m=card.here.depth_m, fish_m=place)
        else:
            found[name] = receiver_looks(
                control,
                start,
                lambda value, name=name: advising.readings_of(with_control(card.setup, name, value), card, batch),  # type: ignore[misc]
                # Two pings halve them: less than that lets them through whole.
                spokes_under=min(SPOKES_GONE, start) if control is QUIETING and card.here.other_sonars else 0.0,
            )
    return found
