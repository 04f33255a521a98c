"""Trials: the same pings under another set-up, to find what a control costs and which least change brings a lost mark back."""

from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass, replace

from mudlamp.core.ping import Ping
from mudlamp.core.receiver.chain import Receiver
from mudlamp.core.receiver.readings import Readings, ReadingsMeter
from mudlamp.core.receiver.setup import GHOST_CUT_DB, NEAR_CUT_DB, QUIETING_PINGS, ReceiverSetup, Window
from mudlamp.core.scene.truth import TruthRow

GAIN_STEPS = (3.0, 6.0, 9.0, 12.0, 16.0, 20.0, 26.0)
PUNCH_STEPS = (10.0, 20.0, 35.0)
# Clutter is paid for in points of fill; a blown-out mark costs a third of that, a changed control half a point (our choice).
BLOWN_PRICE = 0.33
CHANGE_PRICE = 0.5
# What a control is compared with to tell its present cost: the setting at which it takes nothing.
NEUTRAL = {"near_cut_db": 0.0, "quieting_pings": 1, "ghost_cut_db": 0.0, "hide_below_db": 0.0}
NUDGE = {"gain": 6.0, "punch": 15.0}

Sample = tuple[Ping, Sequence[TruthRow] | None]
Cancelled = Callable[[], bool]


@dataclass(frozen=True, slots=True, kw_only=True)
class Remedy:
    """The least change that brings marks back: control, its value then, which marks, and the clutter fill it adds [points]."""

    control: str
    value: float
    brings: tuple[str, ...]
    added_fill_pct: float


@dataclass(frozen=True, slots=True, kw_only=True)
class Verdict:
    """What is erased, and the cheapest single change against it; None where no single change helps."""

    lost: tuple[str, ...]
    remedy: Remedy | None


def readings_under(setup: ReceiverSetup, samples: Sequence[Sample], window: Window, *, settling_s: float) -> Readings:
    """Return the readings of pings under a set-up; those whose truth is not given only fill Quieting's memory."""
    receiver, meter = Receiver(setup), ReadingsMeter(keep=10_000)
    receiver.settling_s = settling_s
    for ping, truth in samples:
        picture = receiver.develop(ping)
        if truth is not None:
            meter.add(ping, picture, setup, window, truth)
    return meter.readings(setup)


def _less(value: float, steps: Sequence[float], *, off: float) -> list[float]:
    """Return the steps between a stepped control's value and off, the nearest first."""
    order = sorted(steps, key=lambda step: abs(step - off))
    return list(reversed(order[: order.index(value)])) if value in order else []


def changes(setup: ReceiverSetup) -> Iterator[tuple[str, float, ReceiverSetup]]:
    """Yield every single change that can bring a mark back: control, new value, the set-up with it."""
    for step in GAIN_STEPS:
        if setup.gain + step <= 100.0:
            yield "gain", setup.gain + step, replace(setup, gain=setup.gain + step)
    for step in PUNCH_STEPS:
        if setup.punch + step <= 100.0:
            yield "punch", setup.punch + step, replace(setup, punch=setup.punch + step)
    for value in _less(setup.near_cut_db, NEAR_CUT_DB, off=0.0):
        yield "near_cut_db", value, replace(setup, near_cut_db=value)
    for count in _less(setup.quieting_pings, QUIETING_PINGS, off=1):
        yield "quieting_pings", count, replace(setup, quieting_pings=int(count))
    if setup.ghost_cut_db > 0.0:
        # More decibels under the strongest cut less; off cuts nothing.
        for value in (*(step for step in sorted(GHOST_CUT_DB) if step > setup.ghost_cut_db), 0.0):
            yield "ghost_cut_db", value, replace(setup, ghost_cut_db=value)
    if setup.hide_below_db > 0.0:
        yield "hide_below_db", 0.0, replace(setup, hide_below_db=0.0)


def cheapest_remedy(
    setup: ReceiverSetup, samples: Sequence[Sample], window: Window, *, settling_s: float, cancelled: Cancelled = lambda: False
) -> Verdict:
    """Return what `setup` erases of these pings, and the cheapest single change that brings it back.

    Most marks back comes first, then the least added clutter, blown-out marks counted at a third.
    """
    before = readings_under(setup, samples, window, settling_s=settling_s)
    lost = set(before.erased or ())
    if not lost:
        return Verdict(lost=(), remedy=None)
    best: tuple[float, Remedy] | None = None
    for control, value, changed in changes(setup):
        if cancelled():
            break
        after = readings_under(changed, samples, window, settling_s=settling_s)
        back = lost - set(after.erased or ())
        if not back:
            continue
        fill = after.clutter_fill_pct - before.clutter_fill_pct
        price = max(fill, 0.0) + BLOWN_PRICE * max(after.blown_out_pct - before.blown_out_pct, 0.0) + CHANGE_PRICE
        worth = price - 1000.0 * len(back)
        if best is None or worth < best[0]:
            best = (worth, Remedy(control=control, value=float(value), brings=tuple(sorted(back)), added_fill_pct=fill))
    return Verdict(lost=tuple(sorted(lost)), remedy=None if best is None else best[1])


def with_control(setup: ReceiverSetup, control: str, value: float) -> ReceiverSetup:
    """Return `setup` with one control, by its core name, at a value."""
    if control == "quieting_pings":
        return replace(setup, quieting_pings=int(value))
    changes: dict[str, float] = {control: value}
    return replace(setup, **changes)  # type: ignore[arg-type]  # every control but this one holds a float


@dataclass(frozen=True, slots=True, kw_only=True)
class Price:
    """What a control costs now: the readings as they are, and with the control at `instead`."""

    control: str
    value: float
    instead: float
    now: Readings
    then: Readings


def present_price(setup: ReceiverSetup, control: str, samples: Sequence[Sample], window: Window, *, settling_s: float) -> Price:
    """Return the readings with a control as it is and as it would be: at rest where it has a rest, else a nudge lower."""
    value = float(getattr(setup, control))
    if control in NEUTRAL:
        instead = float(NEUTRAL[control])
        if value == instead:
            steps = {"near_cut_db": 6.0, "quieting_pings": 2.0, "ghost_cut_db": 34.0, "hide_below_db": 8.0}
            instead = steps[control]
    else:
        instead = max(value - NUDGE[control], 0.0)
    return Price(
        control=control,
        value=value,
        instead=instead,
        now=readings_under(setup, samples, window, settling_s=settling_s),
        then=readings_under(with_control(setup, control, instead), samples, window, settling_s=settling_s),
    )
