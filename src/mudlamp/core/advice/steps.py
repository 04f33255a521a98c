"""Where a stepped control is to stop, by what an eye can tell of a picture: how much of mid-water is lit."""

# A step shows where mid-water without it is lit so many times as much, and so much of it at all [%] (ours, chosen on waters from low seeds).
SHOWS_TIMES, SHOWS_PCT = 1.25, 1.0
# What is off stays off until mid-water is lit so many times as much as it should be, and by so much more [%] (ours).
OFF_TIMES, OFF_MORE_PCT = 1.6, 2.0
# Less than this is nothing [%].
LEAST_PCT = 0.01


def limit_of_step(at_start_pct: float, a_step_less_pct: float) -> float | None:
    """Return the share of mid-water [%] that is still lit a step before the start, and no more at it; None where nobody could tell them apart.

    `at_start_pct` and `a_step_less_pct` are what is lit at the start, and with one step less.
    """
    start, less = max(at_start_pct, LEAST_PCT), max(a_step_less_pct, LEAST_PCT)
    return (start * less) ** 0.5 if less >= max(SHOWS_TIMES * start, SHOWS_PCT) else None


def limit_of_off(at_off_pct: float) -> float:
    """Return the share of mid-water [%] up to which a control that starts off stays off; `at_off_pct` is what is lit there."""
    return max(OFF_TIMES * at_off_pct, at_off_pct + OFF_MORE_PCT)
