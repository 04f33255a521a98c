"""The log in words: reactions, sources, how long things took."""

from mudlamp.core.reactions import Reaction

TOKEN_WORDS = {
    Reaction.NOT_SHOWN.value: "not shown",
    Reaction.NO_ANSWER.value: "no answer",
    Reaction.LOOKED.value: "looked",
    Reaction.FOLLOWED.value: "followed",
    Reaction.BIT.value: "bit",
    Reaction.HIT_WEIGHT.value: "hit the weight",
    Reaction.BACKED_OFF.value: "backed off",
    Reaction.REFUSED.value: "refused",
    Reaction.SPOOKED.value: "spooked",
    Reaction.LEFT_WITH_SCHOOL.value: "left with school",
}
SOURCE_WORDS = {"demo": "demo", "simulated": "simulated", "recorded": "recording", "real": "on the water"}


def clock(seconds: float) -> str:
    """Return seconds as minutes and seconds."""
    return f"{int(seconds // 60)}:{int(seconds % 60):02d}"
