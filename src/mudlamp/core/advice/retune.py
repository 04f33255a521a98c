"""Re-tune: after a move only what changes, biggest first; and when a card has grown stale."""

from collections.abc import Mapping
from dataclasses import dataclass, replace
from enum import StrEnum

from mudlamp.core.advice.planner import CONTROLS, LOW_SUN_RAD, Card
from mudlamp.core.receiver.setup import GHOST_CUT_DB, NEAR_CUT_DB, QUIETING_PINGS, ReceiverSetup, Window
from mudlamp.core.units import FOOT_M

Value = float | str
# Less than this is not worth a hand on the control, and so much counts as one big change (ours).
DEAD = {"down_to_m": 0.9 * FOOT_M, "reach_m": 2.0 * FOOT_M, "gain": 1.5, "punch": 4.0, "hide_below_db": 0.5}
BIG = {"down_to_m": 4.0 * FOOT_M, "reach_m": 8.0 * FOOT_M, "gain": 6.0, "punch": 15.0, "hide_below_db": 4.0}
STEPS: Mapping[str, tuple[float, ...]] = {
    "near_cut_db": NEAR_CUT_DB,
    "quieting_pings": tuple(float(count) for count in QUIETING_PINGS),
    "ghost_cut_db": GHOST_CUT_DB,
}
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


def values_of(setup: ReceiverSetup, window: Window) -> dict[str, Value]:
    """Return a set-up's controls by name, in the card's order."""
    found: dict[str, Value] = {}
    for name in CONTROLS:
        value = getattr(window if name in ("down_to_m", "reach_m") else setup, name)
        found[name] = value if isinstance(value, str) else float(value)
    return found


def _size(name: str, before: Value, after: Value) -> float:
    """Return how big a change is: 0 where it is not worth a hand, 1 for a big one."""
    if isinstance(before, str) or isinstance(after, str):
        return 0.0 if before == after else 0.5
    if name in STEPS:
        steps = STEPS[name]
        return 0.7 * abs(steps.index(after) - steps.index(before)) if before in steps and after in steps else float(before != after)
    return 0.0 if abs(after - before) < DEAD[name] else abs(after - before) / BIG[name]


def moved(before: Mapping[str, Value], after: Mapping[str, Value]) -> Move:
    """Return what changes from one set of values to another."""
    sizes = {name: _size(name, before[name], after[name]) for name in CONTROLS if name in before and name in after}
    changes = [Change(control=name, before=before[name], after=after[name], size=size) for name, size in sizes.items() if size > 0.0]
    return Move(
        changes=tuple(sorted(changes, key=lambda change: -change.size)), left=tuple(name for name, size in sizes.items() if size == 0.0)
    )


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


def kept(card: Card, running: Mapping[str, Value]) -> tuple[ReceiverSetup, Window]:
    """Return the set-up to run after a move: the card's where it changes, what is running where it is left."""
    move = moved(running, values_of(card.setup, card.window))
    values = dict(running) | {change.control: change.after for change in move.changes}
    window = replace(card.window, down_to_m=float(values["down_to_m"]), reach_m=float(values["reach_m"]))
    changed = {name: values[name] for name in CONTROLS[2:]} | {"quieting_pings": int(float(values["quieting_pings"]))}
    return replace(card.setup, **changed), window  # type: ignore[arg-type]  # the values of a set-up's own fields
