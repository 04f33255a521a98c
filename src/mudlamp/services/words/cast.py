"""A cast in an angler's words: relative to the fish, in steps of five feet, with the count."""

import math

from mudlamp.core.casting.fall import REEL_TURN_M
from mudlamp.core.casting.habit import Habit
from mudlamp.core.casting.solve import DROP_M, Cast, Technique
from mudlamp.core.units import FOOT_M, INCH_M, feet
from mudlamp.services.edge.weights import ounces

STEP_FT = 5
NUMBERS = [
    "zero",
    "one",
    "two",
    "three",
    "four",
    "five",
    "six",
    "seven",
    "eight",
    "nine",
    "ten",
    "eleven",
    "twelve",
    "thirteen",
    "fourteen",
    "fifteen",
    "sixteen",
    "seventeen",
    "eighteen",
    "nineteen",
    "twenty",
]
# Less than this to a side is not worth a word [ft].
LEAST_SIDE_FT = 1.0


def number(count: int) -> str:
    """Return a whole number as it is spoken, in figures beyond twenty."""
    return NUMBERS[count] if 0 <= count < len(NUMBERS) else str(count)


def said(cast: Cast) -> str:
    """Return what to do, in one breath."""
    count = f"count {number(max(round(cast.fall.seconds), 1))}"
    if not cast.within_reach:
        return f"Too far to cast: {_feet(cast.cast_m)} ft. Come nearer, no nearer than {_feet(cast.stand_off_m)} ft."
    if cast.lead is not None and not cast.lead.in_time:
        return "He comes under the boat: let him, and drop straight down."
    if cast.technique is Technique.DROP:
        return f"Drop it {_beside(cast)}, {count}{_draw(cast)}."
    return f"Throw {_where(cast)}{_aside(cast)}, {count}{_draw(cast)}."


def error_words(habit: Habit, wanting: int) -> str:
    """Return what an angler's casts show, or what is still wanting."""
    if wanting:
        return f"Say where {number(wanting)} more cast{'s' if wanting > 1 else ''} landed, and your own error is taken in."
    found = []
    if habit.long:
        found.append(f"{abs(100.0 * habit.long):.0f} % {'long' if habit.long > 0.0 else 'short'}")
    if habit.right_rad:
        found.append(f"{abs(math.degrees(habit.right_rad)):.0f}° {'right' if habit.right_rad > 0.0 else 'left'}")
    if not found:
        return f"Your last {habit.throws} casts show no error of one kind."
    return f"By your last {habit.throws} casts you throw {' and '.join(found)}: taken in."


def _beside(cast: Cast) -> str:
    """Where a lure is lowered, in feet: it is placed by the rod tip, not by the arm."""
    past, aside = round(feet(cast.aim_m - cast.horizontal_m)), _aside(cast)
    return ("straight down" if past == 0 else f"{number(abs(past))} {'past' if past > 0 else 'short of'} him") + aside


def _draw(cast: Cast) -> str:
    """A lure that comes down only a little past the fish is drawn over it; that a cast is drawn goes without saying."""
    return ", draw it over him" if cast.run_m and cast.technique in (Technique.DROP, Technique.PITCH) else ""


def drops_words(drops: int) -> str:
    """Return what a count stands on besides physics, where that is so."""
    return f"(By your last {drops} drops.)" if drops else ""


def _where(cast: Cast) -> str:
    if cast.lead is not None:
        return f"{number(STEP_FT * max(round(feet(cast.lead.ahead_m) / STEP_FT), 1))} ahead of him"
    past = STEP_FT * round(feet(cast.aim_m - cast.horizontal_m) / STEP_FT)
    return "right at him" if past == 0 else f"{number(past)} past him" if past > 0 else f"{number(-past)} short of him"


def _aside(cast: Cast) -> str:
    # What is ahead of him is said; only the drift is left.
    right_m = cast.aim_right_m - (0.0 if cast.lead is None else cast.lead.right_m)
    aside = round(feet(abs(right_m)))
    if aside < LEAST_SIDE_FT:
        return ""
    return f", {number(aside)} to his {'right' if right_m > 0.0 else 'left'}"


def reasons(cast: Cast) -> list[str]:
    """Return why: a sentence each."""
    found = [
        f"He is {_feet(cast.horizontal_m)} ft out along the water; the lure holds {_down(cast.hold_m)}, over him.",
        f"It sinks {feet(cast.sink_m_s):.1f} ft/s: {cast.fall.seconds:.0f} s from the splash.",
    ]
    if cast.lead is not None and not cast.lead.in_time:
        # Nothing is thrown: what a throw would do is left out.
        return [*found, f"It would be {cast.lead.meet_s:.0f} s until a lure is down: by then he is under the boat."]
    if cast.fall.toward_rod_m > 0.15:
        found.append(f"On a tight line it swings {_feet(cast.fall.toward_rod_m)} ft toward you on the way down.")
    elif cast.technique is not Technique.DROP:
        found.append("On a slack line it falls straight.")
    if cast.heavier_kg is not None:
        found.append(f"That is a long count, and you drift meanwhile: {ounces(cast.heavier_kg)} is down in 20 s.")
    if (off_ft := feet(cast.aim_m - cast.cast_m)) and abs(off_ft) >= 1.0:
        found.append(f"Aim for {_feet(cast.aim_m)} ft: thrown as you throw, it lands at {_feet(cast.cast_m)}.")
    found += _retrieve(cast) + _special(cast) + _lead(cast)
    spare = f"{cast.spare_db:.0f} dB" + (" (assumed)" if cast.assumed_spare else "")
    aim = "The rod tip may stand" if cast.horizontal_m <= DROP_M else "It may land"
    found.append(f"{aim} {_short(cast.tolerance_m)} to either side and still be seen, with {spare} to spare.")
    if cast.too_close:
        found.append(f"You are too close: stay {_feet(cast.stand_off_m)} ft off.")
    return found


def _down(depth_m: float) -> str:
    deep = _feet(depth_m)
    return "just under the surface" if deep == "0" else f"{deep} ft down"


def _retrieve(cast: Cast) -> list[str]:
    if cast.retrieve is None:
        return []
    turns = cast.retrieve.reel_m_s / REEL_TURN_M
    near = "it is up by the time it reaches" if cast.retrieve.near_depth_m < 0.3 else f"it is {_down(cast.retrieve.near_depth_m)} near"
    keep = f"to keep it level over him; at that speed {near} the rod."
    if cast.down_m < cast.hold_m:
        keep = f"from {_down(cast.down_m)}: it sinks on the way all the same, and is {_down(cast.hold_m)} over him."
    return [f"Reel {turns:.1f} turns a second {keep}"]


def _special(cast: Cast) -> list[str]:
    found = []
    if cast.pause_s is not None:
        found.append(f"Pause {cast.pause_s:.0f} s.")
    if cast.stop_knot_m is not None:
        found.append(f"Stop knot {_short(cast.stop_knot_m)} over the lure.")
    if cast.free_line_m is not None:
        found.append(f"Leave {_short(cast.free_line_m)} free under the tip.")
    return found


def _lead(cast: Cast) -> list[str]:
    lead = cast.lead
    if lead is None:
        return []
    side = (
        ""
        if math.isclose(lead.right_m, 0.0, abs_tol=0.3)
        else f", {_feet(abs(lead.right_m))} ft to the {'right' if lead.right_m > 0 else 'left'}"
    )
    assumed = ["Which way he swims is not given: taken as straight away."] if lead.assumed_course else []
    return [
        *assumed,
        f"He meets it in {lead.meet_s:.0f} s, {_feet(lead.ahead_m)} ft ahead of where he is{side}, give or take {_feet(lead.ring_m)} ft.",
        f"You can wait {lead.wait_s:.0f} s." if lead.wait_s >= 1.0 else "Throw now: later he is out of reach or under the boat.",
    ]


def _short(length_m: float) -> str:
    """Return a length in whole feet, one under a foot in inches."""
    return f"{length_m / INCH_M:.0f} in" if length_m < FOOT_M else f"{_feet(length_m)} ft"


def _feet(length_m: float) -> str:
    return f"{feet(length_m):.0f}"
