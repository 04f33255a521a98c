"""What to do next, in words: now, after the last shots, and about the spot."""

from collections.abc import Sequence

from mudlamp.core.fishing.answers import Count, Stage
from mudlamp.core.fishing.customs import Custom
from mudlamp.core.fishing.during import Act, Call
from mudlamp.core.fishing.moving import Advice, Spell, Verdict
from mudlamp.core.fishing.rates import Finding, Rate

STAGE_WORDS = {Stage.ARRIVED: "got there", Stage.ANSWERED: "answered", Stage.FOLLOWED: "followed", Stage.TOOK: "took it"}
OF_WORDS = {
    Stage.ARRIVED: "of all shots",
    Stage.ANSWERED: "of those that got there",
    Stage.FOLLOWED: "of those that were answered",
    Stage.TOOK: "of those that got there",
}


def call_words(call: Call) -> str:
    """Return what to do now, with the reason."""
    act = f"{call.act.value} {call.seconds:.0f} s more" if call.act is Act.HOLD and call.seconds is not None else call.act.value
    return f"{act[0].upper()}{act[1:]}: {call.why.value}"


def custom_words(custom: Custom) -> str:
    """Return a custom, called what it is."""
    return f"Custom ({custom.meant_for}): {custom.said}."


def finding_words(one: Finding) -> str:
    """Return a finding with the counts it stands on."""
    return (
        f"The {one.factor} of {one.better} {STAGE_WORDS[one.stage]} more often than {one.worse}: {_of(one.better_count)} against "
        f"{_of(one.worse_count)}; {one.evidence:.0f} times likelier than by chance."
    )


def nothing_words(shots: int) -> str:
    """Return what can be concluded where nothing may be claimed."""
    if shots == 0:
        return "No shots yet."
    return f"Nothing that {shots:,} shot{'s' if shots != 1 else ''} show{'' if shots != 1 else 's'} here is more than chance explains."


def rate_words(rate: Rate, count: Count) -> str:
    """Return a rate with its doubt."""
    return f"{_of(count)}: {100.0 * rate.middle:.0f} % ({100.0 * rate.low:.0f} to {100.0 * rate.high:.0f})"


def move_words(advice: Advice, here: Spell, record: Spell) -> str:
    """Return whether to move, and what that stands on."""
    used = f"your own record: {record.takes} in {record.minutes:.0f} min" if record.minutes > 0.0 else "no record of yours yet"
    start = {Verdict.MOVE: "Move on", Verdict.STAY: "Stay", Verdict.TOO_EARLY: "Too early to tell"}[advice.verdict]
    return f"{start}: {here.takes} take{'s' if here.takes != 1 else ''} in {here.minutes:.0f} min here ({used})."


def _of(count: Count) -> str:
    return f"{count.passed} of {count.of}"


def all_words(found: Sequence[Finding], shots: int) -> list[str]:
    """Return all findings in words, or that there is none."""
    return [finding_words(one) for one in found] or [nothing_words(shots)]
