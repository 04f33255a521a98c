"""Re-tune: after a move only what changes, biggest first; and when a card has grown stale."""

from collections.abc import Mapping
from dataclasses import dataclass, replace
from enum import StrEnum

from mudlamp.core.advice.planner import LOW_SUN_RAD, Card
from mudlamp.core.controls import CONTROLS, DOWN_TO, GAIN, HIDE_BELOW, ON_CARD, PUNCH, REACH, Control, Part, Value
from mudlamp.core.setup import Setting, Setup, with_settings
from mudlamp.core.units import FOOT_M

# Less than this is not worth a hand on the control, and so much counts as one big change (ours).
DEAD = {DOWN_TO: 0.9 * FOOT_M, REACH: 2.0 * FOOT_M, GAIN: 1.5, PUNCH: 4.0, HIDE_BELOW: 0.5}
BIG = {DOWN_TO: 4.0 * FOOT_M, REACH: 8.0 * FOOT_M, GAIN: 6.0, PUNCH: 15.0, HIDE_BELOW: 4.0}
NOTICE_EVERY_S = 20 * 60.0
# So long a wind is taken to hold; then the angler is asked (ours).
WIND_HOLDS_S = 2 * 3600.0


@dataclass(frozen=True, slots=True, kw_only=True)
class Change:
    """A control that moves, from a value to a value in the core's unit, and how big that is."""

    control: str
    before: Value
    after: Value
    size: float


@dataclass(frozen=True, slots=True, kw_only=True)
class Move:
    """What a move changes, biggest first; what is left as it is, in the card's order."""

    changes: tuple[Change, ...]
    left: tuple[str, ...]


def _size(control: Control, before: Value, after: Value) -> float:
    """Return how big a change is: 0 where it is not worth a hand, 1 for a big one."""
    if isinstance(before, str) or isinstance(after, str):
        return 0.0 if before == after else 0.5
    if control.steps:
        return 0.7 * abs(control.strength(after) - control.strength(before))
    return 0.0 if abs(after - before) < DEAD[control] else abs(after - before) / BIG[control]


def moved(before: Setup, after: Setup, bands: Mapping[str, tuple[float, float]] | None = None) -> Move:
    """Return what changes from one set-up to another; what stands within its band of `bands` still is left as it is.

    The windows come first, then the biggest change.
    """
    changes, left = [], []
    for control in ON_CARD:
        then, now = before.value(control), after.value(control)
        size = _size(control, then, now)
        band = None if bands is None else bands.get(control.name)
        if size > 0.0 and not (band is not None and band[0] <= float(then) <= band[1]):
            changes.append(Change(control=control.name, before=then, after=now, size=size))
        else:
            left.append(control.name)
    return Move(
        changes=tuple(sorted(changes, key=lambda one: (CONTROLS[one.control].part is not Part.WINDOW, -one.size))), left=tuple(left)
    )


def bands_of(card: Card) -> dict[str, tuple[float, float]]:
    """Return the working bands of a card's rows by control, of those that have one."""
    return {row.control: (row.low, row.high) for row in card.rows if row.low is not None and row.high is not None}


class StaleCause(StrEnum):
    """Why a card should be looked at again."""

    SUN_UP = "sun_up"
    SUN_LOW = "sun_low"
    DUSK = "dusk"
    WIND = "wind"


@dataclass(frozen=True, slots=True, kw_only=True)
class Watch:
    """What decides over a notice: the sun's height then and now [rad], the card's age and the last notice's [s], whether a shot is out."""

    sun_then_rad: float
    sun_now_rad: float
    age_s: float
    since_notice_s: float | None
    shot_out: bool


def stale(watch: Watch) -> StaleCause | None:
    """Return why a card has grown stale, or None: never while a shot is out, and at most every 20 minutes."""
    if watch.shot_out or (watch.since_notice_s is not None and watch.since_notice_s < NOTICE_EVERY_S):
        return None
    then, now = _light(watch.sun_then_rad), _light(watch.sun_now_rad)
    if then != now:
        return {0: StaleCause.DUSK, 1: StaleCause.SUN_LOW, 2: StaleCause.SUN_UP}[now]
    return StaleCause.WIND if watch.age_s >= WIND_HOLDS_S and (watch.since_notice_s or WIND_HOLDS_S) >= WIND_HOLDS_S else None


def _light(sun_rad: float) -> int:
    """Return 0 for the dark, 1 for a low sun, 2 for day."""
    return 0 if sun_rad < 0.0 else 1 if sun_rad < LOW_SUN_RAD else 2


def kept(card: Card, running: Setup) -> Setup:
    """Return the set-up to run after a move: the card's where it changes, what is running where it is left."""
    return kept_from(card.start, bands_of(card), running)


def kept_from(start: Setup, bands: Mapping[str, tuple[float, float]], running: Setup) -> Setup:
    """Return the set-up to run after a move to where another start and other bands hold: what is in its band still is left."""
    settings = [Setting(control=CONTROLS[change.control], value=change.after) for change in moved(running, start, bands).changes]
    window = replace(start.window, down_to_m=running.window.down_to_m, reach_m=running.window.reach_m)
    return Setup(receiver=with_settings(running.receiver, *settings), window=with_settings(window, *settings))
