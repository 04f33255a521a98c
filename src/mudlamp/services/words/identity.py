"""What tracks are thought to be, alone and together, in words."""

from mudlamp.core.tracking.classes import OF_FISH, FishClass, Identity
from mudlamp.core.tracking.groups import School

# From these odds on a mark is called by its class.
SURE = 0.6
# What an angler may say that a mark is, in the order of the list.
WHO_CHOICES = (
    *((one.value, one.value) for one in OF_FISH),
    (FishClass.BAIT.value, "bait"),
    (FishClass.LURE.value, "my jig"),
    (FishClass.UNKNOWN.value, "no fish"),
)
# A second class is worth a word from these odds on.
WORTH = 0.1


def called(identity: Identity | None) -> str:
    """Return the word that a fish's mark carries: its class where that is sure enough, else fish."""
    if identity is None or identity.name not in OF_FISH or identity.odds[identity.name] < SURE:
        return "fish"
    return identity.name.value


def who_words(identity: Identity | None) -> str:
    """Return a line on what a track is: the likeliest classes, the words that decided, the look that would settle it."""
    if identity is None:
        return ""
    ranked = sorted(identity.odds, key=lambda one: -identity.odds[one])
    shown = [one for one in ranked[:2] if one is ranked[0] or identity.odds[one] >= WORTH]
    line = ", ".join(f"{_word(one)} {100.0 * identity.odds[one]:.0f} %" for one in shown)
    if identity.words:
        line += ": " + ", ".join(word.value for word in identity.words)
    return line + (f". To be sure: {identity.look.value}" if identity.look is not None else ".")


def _word(one: FishClass) -> str:
    return "no fish" if one is FishClass.UNKNOWN else one.value


def school_words(school: School) -> str:
    """Return the words on a school: about how many, with the doubt, in steps that an angler would say."""
    step = 5 if school.about < 60 else 10
    low, about, high = (max(step, step * round(count / step)) for count in (school.low, school.about, school.high))
    return f"school, about {about}" + (f" ({low} to {high})" if high > low else "")
