"""What is wrong with the pings, in words an angler can act on."""

from collections.abc import Sequence

from mudlamp.core.tracking.health import Trouble

WORDS = {
    Trouble.LOST_PINGS: "Pings were lost: the picture skipped, and fish may carry new letters. Check cable and voltage.",
    Trouble.SILENT: "The sonar is silent: no picture since then. Check that it transmits, its cable, and the voltage.",
    Trouble.FROZEN: "The picture hangs: the same ping again and again. Restart the sonar if it stays.",
    Trouble.HEADING: "The heading jumped: fish carry new letters. Keep metal and magnets off the compass.",
    Trouble.SNAGGED: "The jig has not moved for 6 s: on the bottom, or snagged.",
}
NOTHING_LEARNED = "What the tracker learned is missing: fish and cover are told apart worse. ./lamp train tracker makes it anew."


def trouble_words(troubles: Sequence[Trouble], *, learned: bool) -> str:
    """Return the newest trouble in words; where nothing is wrong, whether something learned is missing; else nothing."""
    if troubles:
        return WORDS[troubles[0]]
    return "" if learned else NOTHING_LEARNED
