"""`./lamp tune`: the set-up card for this water."""

import datetime as dt
from dataclasses import asdict

from mudlamp.cli.answer import give
from mudlamp.cli.arguments import Parser
from mudlamp.core.advice.styles import Style
from mudlamp.core.controls import CONTROLS
from mudlamp.core.errors import DomainError, require_range
from mudlamp.core.rig.profile import BoxedLure
from mudlamp.core.units import OUNCE_KG
from mudlamp.services.cards import questions
from mudlamp.services.cards.measuring import answered, measured
from mudlamp.services.cards.stored import StoredPlan, made_plan
from mudlamp.services.edge.controls import LABELS
from mudlamp.services.edge.forms import FieldKind, allowed
from mudlamp.services.water.aboard import Aboard, usual_lure
from mudlamp.services.words import card as card_words
from mudlamp.services.words import cues
from mudlamp.services.words.looks import look_words, sight_lines

# Flags that other scripts rely on by these names.
FLAGS = {
    "slope_deg": "slope",
    "water_f": "temp_f",
    "at": "at",
}
# What may be said of a slope in words: how the bottom runs, and how steeply [deg] where the word says so.
SLOPES: dict[str | None, tuple[str, float | None]] = {
    "slope": ("slope", None),
    "flat": ("flat", None),
    "gentle": ("slope", 4.0),
    "steep": ("slope", 15.0),
    "broken": ("broken", None),
}


def run(words: list[str]) -> int:
    """Answer with a card."""
    parser = Parser(
        prog="lamp tune", description="The set-up card for this water: start values, bands, reasons, styles and what each costs here."
    )
    for field in questions.FIELDS:
        flag = "--" + FLAGS.get(field.name, field.name).replace("_", "-")
        if field.kind is FieldKind.CHECK:
            parser.add_argument(flag, dest=field.name, action="store_true", help=field.label)
        elif field.name == "slope_deg":
            parser.add_argument(
                flag,
                dest=field.name,
                nargs="?",
                const="slope",
                help="the bottom slopes; in degrees where known, 0 to 45, or flat, gentle, steep, broken",
            )
        else:
            shown = field.label if field.kind is FieldKind.TEXT else f"{field.label}: {allowed(field).removeprefix('one of ')}"
            parser.add_argument(flag, dest=field.name, help=shown)
    parser.add_argument(
        "--style", choices=[style.value for style in Style], default=Style.BALANCED.value, help="the style that the card starts from"
    )
    parser.add_argument(
        "--head-oz", type=float, help="a jig with a head of 0.008 to 2 oz (default: what is usual for the fish and technique)"
    )
    parser.add_argument("--json", action="store_true", help="answer in JSON")
    options = vars(parser.parse_args(words))
    given = {field.name: options[field.name] for field in questions.FIELDS}
    if given["slope_deg"] in SLOPES:
        shape, degrees = SLOPES[given["slope_deg"]]
        given |= {"slope_deg": degrees, "shape": given["shape"] or shape}
    asked = questions.ask(given, now=dt.datetime.now(dt.UTC))
    if asked.answers is None:
        name, message = next(iter(asked.problems.items()))
        raise DomainError(f"--{FLAGS.get(name, name).replace('_', '-')}: {message}")
    aboard = Aboard(lure=usual_lure(asked.answers))
    if options["head_oz"] is not None:
        head = require_range("--head-oz", options["head_oz"], 0.008, 2.0, "oz")
        aboard = Aboard(lure=BoxedLure(head_kg=head * OUNCE_KG))
    plan = made_plan(asked.answers, aboard, style=Style(options["style"]))
    if options["json"]:
        give(answered(plan), as_json=True, lines=())
    else:
        give(None, as_json=False, lines=_lines(plan))
    return 0


def _lines(plan: StoredPlan) -> list[str]:
    """Return a card as the page says it."""
    card, found = plan.card, measured(plan, LABELS)
    lines = [
        card_words.headline(card),
        card_words.lure_line(card) if found.lure is None else card_words.seen_line(found.lure, card.here.cover),
    ]
    if found.sights is not None:
        lines += sight_lines(card, found.sights.lure, found.sights.fish)
    for row in card.rows:
        band = card_words.band_words(row.control, row.low, row.high)
        lines.append(
            f"{LABELS[row.control]}: {card_words.shown(row.control, row.start)}{f' ({band})' if band else ''}. {card_words.why_line(cues.reasons_seen(row, found.stops))}"
        )
        cue = cues.cue(row.control, row.start, found.stops)
        lines.append(f"    Look for: {cue}")
        looks = [
            f"{card_words.shown(row.control, one.value)}: {look_words(CONTROLS[row.control], one)}"
            for one in found.looks.get(row.control, ())
        ]
        lines += [f"    {look}" for look in looks]
        lines += [
            f"    {card_words.STYLE_WORDS[style]} {card_words.shown(row.control, row.styles[style])}: "
            + card_words.cost_words(asdict(found.costs[row.control][style]))
            for style in Style
            if row.styles[style] != row.start
        ]
    return [*lines, *found.doubts, f"Good enough? {card_words.good_enough(card, hidden=found.hides_lure)}", card_words.around(card).caution]
