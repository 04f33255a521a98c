"""How a control looks when it is too low, right and too high on a water: values on each side, and what the picture loses there first."""

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass
from enum import StrEnum

from mudlamp.core.advice.lure_seen import is_hidden
from mudlamp.core.controls import CONTROLS, DOWN_TO, GAIN, GHOST_CUT, HIDE_BELOW, PUNCH, REACH, Control
from mudlamp.core.receiver.readings import Readings
from mudlamp.core.setup import Window

# What is tried to each side of the start, the nearest first: Gain and Punch in steps, Hide below in decibels (ours).
OFFS: Mapping[Control, tuple[float, ...]] = {
    GAIN: (8.0, 14.0, 20.0, 28.0),
    PUNCH: (20.0, 35.0, 50.0),
    HIDE_BELOW: (4.0, 8.0, 12.0, 18.0),
}
# A window is shown so many times too small and too large (ours).
SMALL, LARGE = 0.6, 1.9
# From here on a change is one that an angler sees (ours): share of fish [%], level of the lure [dB], speckle [%], the gap at which two
# fish part [m], full brightness [%], difference in CIE L*, lag [ms].
FISH_PCT, LURE_DB, GRAIN_PCT, PARTING_M, SOLID_PCT, PALE, LAG_MS = 20.0, 4.0, 6.0, 0.1, 8.0, 10.0, 30.0
# A false tree is small, and misleads all the same [%].
GHOST_PCT = 0.7


class Sign(StrEnum):
    """What a picture shows when a control is off, the worst first."""

    NO_LURE = "no_lure"
    FISH_GONE = "fish_gone"
    LURE_FAINT = "lure_faint"
    GRAINY = "grainy"
    SPOKES = "spokes"
    GHOSTS = "ghosts"
    RUN_TOGETHER = "run_together"
    SOLID = "solid"
    PALE = "pale"
    LAGS = "lags"
    BOTTOM_GONE = "bottom_gone"
    FISH_OUT = "fish_out"
    NOTHING_PAST = "nothing_past"
    SMALLER = "smaller"
    ROOM_BELOW = "room_below"
    ROOM_AHEAD = "room_ahead"
    SHOWS = "shows"
    LURE_HIDES = "lure_hides"
    SAME = "same"


# Nobody would fish with a picture that shows one of these.
SPOILED = (Sign.NO_LURE, Sign.FISH_GONE, Sign.GRAINY, Sign.SPOKES, Sign.GHOSTS, Sign.RUN_TOGETHER, Sign.SOLID)


class Side(StrEnum):
    """On which side of right a picture is."""

    LOW = "low"
    RIGHT = "right"
    HIGH = "high"


@dataclass(frozen=True, slots=True, kw_only=True)
class Look:
    """A control at a value, on a side of right, and what is to be seen of that.

    `figure` is how much smaller all gets [%], or past what distance nothing shows [m], else 0.
    """

    side: Side
    value: float
    sign: Sign
    figure: float = 0.0


def sign_of(right: Readings, off: Readings, *, spokes: bool = False, ghosts: bool = False) -> Sign:
    """Return the worst that a picture shows against the right one.

    `spokes` says that another sonar's come through in it alone; `ghosts` that what more there is of clutter is a false tree.
    """
    over, was = off.lure_over_clutter_db, right.lure_over_clutter_db
    grain = off.clutter_fill_pct - right.clutter_fill_pct
    found: tuple[tuple[Sign, bool], ...] = (
        (Sign.NO_LURE, "lure" in (off.erased or ()) and "lure" not in (right.erased or ())),
        (Sign.FISH_GONE, (right.fish_shown_pct or 0.0) - (off.fish_shown_pct or 0.0) >= FISH_PCT),
        (Sign.LURE_FAINT, over is not None and was is not None and was - over >= LURE_DB),
        (Sign.SPOKES, spokes),
        (Sign.GHOSTS, ghosts and grain >= GHOST_PCT),
        (Sign.GRAINY, grain >= GRAIN_PCT),
        (Sign.RUN_TOGETHER, off.parting_m - right.parting_m >= PARTING_M),
        (Sign.SOLID, off.blown_out_pct - right.blown_out_pct >= SOLID_PCT),
        (Sign.PALE, (right.contrast or 0.0) - (off.contrast or 0.0) >= PALE),
        (Sign.LAGS, off.lag_ms - right.lag_ms >= LAG_MS),
    )
    return next((sign for sign, so in found if so), Sign.SAME)


def receiver_looks(control: Control, start: float, seen: Callable[[float], Readings], *, spokes_under: float = 0.0) -> tuple[Look, ...]:
    """Return a receiver's control too low, right and too high.

    To each side it is the first value that spoils the picture, else the first that anybody would notice, else the last tried. `seen` gives
    the readings at a value; under `spokes_under` another sonar's spokes come through.
    """
    right = seen(start)

    def look(side: Side, values: Sequence[float]) -> tuple[Look, ...]:
        tried = []
        for value in values:
            tried.append(
                Look(
                    side=side,
                    value=value,
                    sign=sign_of(right, seen(value), spokes=value < spokes_under <= start, ghosts=control is GHOST_CUT),
                )
            )
            if tried[-1].sign in SPOILED:
                return (tried[-1],)
        return tuple(next(([one] for one in tried if one.sign is not Sign.SAME), tried[-1:]))

    low, high = (look(side, _tried(control, start, way)) for side, way in ((Side.LOW, -1), (Side.HIGH, 1)))
    return (*low, Look(side=Side.RIGHT, value=start, sign=Sign.LURE_HIDES if is_hidden(right) else Sign.SHOWS), *high)


def _tried(control: Control, start: float, way: int) -> Sequence[float]:
    """Return the values on one side of a start, the nearest first."""
    if control.steps:
        at = control.strength(start)
        return tuple(reversed(control.steps[:at])) if way < 0 else control.steps[at + 1 :]
    return tuple(value for off in OFFS[control] if (value := control.held(start + way * off)) != start)


def window_looks(control: Control, window: Window, *, depth_m: float, fish_m: tuple[float, float]) -> tuple[Look, ...]:
    """Return an edge of the window too small, right and too large; `fish_m` is how far ahead and how deep the fish are."""
    start = float(getattr(window, control.name))
    low, high = control.held(SMALL * start), control.held(LARGE * start)
    if control is DOWN_TO:
        lost = Sign.BOTTOM_GONE if low < depth_m <= start else Sign.FISH_OUT if low < fish_m[1] else Sign.NOTHING_PAST
        right = Sign.ROOM_BELOW if start >= depth_m else Sign.ROOM_AHEAD
    else:
        # Where the fish are near the edge, the edge comes in to them.
        low = control.held(min(low, max(fish_m[0], 0.9 * low)))
        lost = Sign.FISH_OUT if low <= fish_m[0] else Sign.NOTHING_PAST
        right = Sign.ROOM_AHEAD
    past = low if lost is Sign.NOTHING_PAST else 0.0
    found = [
        Look(side=Side.LOW, value=low, sign=lost, figure=past),
        Look(side=Side.RIGHT, value=start, sign=right),
        Look(side=Side.HIGH, value=high, sign=Sign.SMALLER, figure=100.0 * (1.0 - start / high)),
    ]
    # What still holds bottom and fish is not too small: nothing smaller can be dialed in.
    harmless = control is DOWN_TO and lost is Sign.NOTHING_PAST and low >= depth_m
    return tuple(one for one in found if one.side is Side.RIGHT or (one.value != start and not (one.side is Side.LOW and harmless)))


def shown_in_pictures(values: Mapping[str, float | str]) -> tuple[Control, ...]:
    """Return the controls that pictures are made for at a start, by core name: both edges of the window, Gain, Punch, and what is not at rest."""
    wanted = (DOWN_TO, REACH, GAIN, PUNCH)
    return tuple(
        control
        for name, control in CONTROLS.items()
        if name in values and (control in wanted or (control.off is not None and values[name] != control.off))
    )
