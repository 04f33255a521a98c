"""The next question of a card, as an angler would be asked it, and what its answer would move."""

from collections.abc import Mapping

from mudlamp.core.advice.asking import Question
from mudlamp.services.edge.controls import LABELS, of

QUESTIONS = {
    "depth_m": "How deep is it here?",
    "shape": "How does the bottom run?",
    "fish_to_m": "How deep are the deepest fish?",
    "ground": "What is the bottom?",
    "cover": "What stands in the water?",
    "secchi_m": "How clear is the water?",
    "sky": "What is the sky like?",
    "wind_m_s": "How hard does it blow?",
    "temperature_degc": "How warm is the water?",
    "other_sonars": "Anybody else's live sonar close by?",
    "target": "Which fish are you after?",
    "technique": "How do you fish?",
}
WHY_ASKED = "The one answer that could change this card most"
ENOUGH = "That is all that matters here."


def moves_line(question: Question, labels: Mapping[str, str] = LABELS) -> str:
    """Return what the answer could move, in figures; nothing where it only could cost more to be wrong."""
    parts = [f"{labels[name]} {of(name).bare(low)} to {of(name).bare(high)}" for name, (low, high) in question.moves.items()]
    return f"{WHY_ASKED}: {', '.join(parts)}." if parts else f"{WHY_ASKED}."
