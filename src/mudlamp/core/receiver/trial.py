"""Trials: the same pings under another set-up, to find what a control costs and which least change brings a lost mark back."""

from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass, replace

from mudlamp.core.controls import CONTROLS, GAIN, GHOST_CUT, HIDE_BELOW, NEAR_CUT, PUNCH, QUIETING, Control
from mudlamp.core.ping import Ping
from mudlamp.core.receiver.chain import Receiver
from mudlamp.core.receiver.readings import Cells, Readings, ReadingsMeter
from mudlamp.core.scene.truth import TruthRow
from mudlamp.core.setup import ReceiverSetup, Window, with_control

GAIN_STEPS = (3.0, 6.0, 9.0, 12.0, 16.0, 20.0, 26.0)
PUNCH_STEPS = (10.0, 20.0, 35.0)
# Clutter is paid for in points of fill; a blown-out mark costs a third of that, a changed control half a point (our choice).
BLOWN_PRICE = 0.33
CHANGE_PRICE = 0.5
# What a control is compared with to tell its present cost: off, where it has an off; a step on where it is off; else a nudge lower.
NUDGE = {GAIN.name: 6.0, PUNCH.name: 15.0}
FIRST_STEP = {NEAR_CUT.name: 6.0, QUIETING.name: 2.0, GHOST_CUT.name: 34.0, HIDE_BELOW.name: 8.0}

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
class Hidden:
    """What is erased, and the cheapest single change against it; None where no single change helps."""

    lost: tuple[str, ...]
    remedy: Remedy | None


def readings_under(
    setup: ReceiverSetup, samples: Sequence[Sample], window: Window, *, settling_s: float, cells: Sequence[Cells | None] | None = None
) -> Readings:
    """Return the readings of pings under a set-up; those whose truth is not given only fill Quieting's memory.

    `cells` are those of the samples in this window (`cells_of_samples`), for whoever asks again and again.
    """
    return metered(setup, samples, window, settling_s=settling_s, cells=cells).readings(setup)


def metered(
    setup: ReceiverSetup, samples: Sequence[Sample], window: Window, *, settling_s: float, cells: Sequence[Cells | None] | None = None
) -> ReadingsMeter:
    """Return a meter that was fed pings under a set-up, as for `readings_under`."""
    receiver, meter = Receiver(setup), ReadingsMeter(keep=10_000)
    receiver.settling_s = settling_s
    for (ping, truth), known in zip(samples, cells or [None] * len(samples), strict=True):
        picture = receiver.develop(ping)
        if truth is not None:
            meter.add(ping, picture, setup, window, truth, known)
    return meter


def _less(value: float, control: Control) -> list[float]:
    """Return the steps between a stepped control's value and off, the nearest first."""
    return list(reversed(control.steps[: control.strength(value)]))


def changes(setup: ReceiverSetup) -> Iterator[tuple[str, float, ReceiverSetup]]:
    """Yield every single change that can bring a mark back: control, new value, the set-up with it."""
    for step in GAIN_STEPS:
        if setup.gain + step <= 100.0:
            yield GAIN.name, setup.gain + step, replace(setup, gain=setup.gain + step)
    for step in PUNCH_STEPS:
        if setup.punch + step <= 100.0:
            yield PUNCH.name, setup.punch + step, replace(setup, punch=setup.punch + step)
    for control in (NEAR_CUT, QUIETING, GHOST_CUT):
        for value in _less(float(getattr(setup, control.name)), control):
            yield control.name, value, with_control(setup, control.name, value)
    if setup.hide_below_db > 0.0:
        yield HIDE_BELOW.name, 0.0, replace(setup, hide_below_db=0.0)


def cheapest_remedy(
    setup: ReceiverSetup, samples: Sequence[Sample], window: Window, *, settling_s: float, cancelled: Cancelled = lambda: False
) -> Hidden:
    """Return what `setup` erases of these pings, and the cheapest single change that brings it back.

    Most marks back comes first, then the least added clutter, blown-out marks counted at a third.
    """
    before = readings_under(setup, samples, window, settling_s=settling_s)
    lost = set(before.erased or ())
    if not lost:
        return Hidden(lost=(), remedy=None)
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
    return Hidden(lost=tuple(sorted(lost)), remedy=None if best is None else best[1])


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
    value, off = float(getattr(setup, control)), CONTROLS[control].off
    instead = max(value - NUDGE[control], 0.0) if off is None else FIRST_STEP[control] if value == off else off
    return Price(
        control=control,
        value=value,
        instead=instead,
        now=readings_under(setup, samples, window, settling_s=settling_s),
        then=readings_under(with_control(setup, control, instead), samples, window, settling_s=settling_s),
    )
