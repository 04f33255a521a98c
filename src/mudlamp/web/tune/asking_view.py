"""The next question of a card: what is asked, why, and the answers that one tap gives."""

from collections.abc import Sequence
from dataclasses import dataclass

from mudlamp.core.advice.asking import Question
from mudlamp.core.units import feet
from mudlamp.services.cards import questions
from mudlamp.services.cards.desk import OpenCard
from mudlamp.services.edge.forms import FieldKind, Option
from mudlamp.services.words.asking import ENOUGH, QUESTIONS, moves_line

# The field that answers for a gap, where it is not named after it.
FIELD_OF = {"secchi_m": "clarity"}
# Numbers that a tap gives, in the field's unit; whatever else is typed.
TAPS = {
    "other_sonars": (Option(value="0", label="No"), Option(value="1", label="One boat"), Option(value="2", label="Several")),
    "wind_m_s": tuple(Option(value=mph, label=f"{mph} mph") for mph in ("0", "5", "10", "15")),
    "temperature_degc": tuple(Option(value=degrees, label=f"{degrees} °F") for degrees in ("40", "55", "70", "82")),
    "depth_m": tuple(Option(value=ft, label=f"{ft} ft") for ft in ("8", "15", "25", "40")),
}


@dataclass(frozen=True, slots=True, kw_only=True)
class NextView:
    """The next question, or that nothing more matters; `rest` are the ones skipped, this one among them."""

    card: str
    asked: str
    why: str
    field: str
    unit: str
    taps: Sequence[Option]
    typed: bool
    rest: str


def next_view(one: OpenCard, question: Question | None, skipped: Sequence[str]) -> NextView:
    """Return the question that could change a card most."""
    card = str(one.kept.id)
    if question is None:
        return NextView(card=card, asked=ENOUGH, why="", field="", unit="", taps=(), typed=False, rest="")
    name = FIELD_OF.get(question.name)
    field = next(each for each in questions.FIELDS if each.name == name or (name is None and each.core == question.name))
    return NextView(
        card=card,
        asked=QUESTIONS[question.name],
        why=moves_line(question, one.labels),
        field=field.name,
        unit=field.unit.name,
        taps=_fish_taps(one) if question.name == "fish_to_m" else TAPS.get(question.name, field.options),
        typed=field.kind is FieldKind.NUMBER and question.name != "other_sonars",
        rest=",".join([*skipped, question.name]),
    )


def _fish_taps(one: OpenCard) -> list[Option]:
    """Return how deep the deepest fish may be: half way down, three quarters, on the bottom."""
    depth = feet(one.plan.card.here.depth_m)
    halfway, low, floor = (f"{share * depth:.0f}" for share in (0.5, 0.75, 1.0))
    return [Option(value=halfway, label=f"{halfway} ft"), Option(value=low, label=f"{low} ft"), Option(value=floor, label="on the bottom")]
