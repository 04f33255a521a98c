"""What an angler's own hand says: where they ended beside where a card started, pooled over days like this one and all the others."""

import datetime as dt
import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace

import numpy as np
from scipy.linalg import cho_factor, cho_solve

from mudlamp.core.advice.answers import Situation, Sky
from mudlamp.core.advice.planner import LOW_SUN_RAD, Card, Row, Start
from mudlamp.core.advice.styles import Style
from mudlamp.core.arrays import FloatArray
from mudlamp.core.controls import CONTROLS, GAIN, PUNCH, Control
from mudlamp.core.setup import ReceiverSetup, with_control
from mudlamp.core.water.clarity import clarity_of

# No hand moves a start farther than this.
MOST_STEPS = {GAIN: 12.0, PUNCH: 25.0}


@dataclass(frozen=True, slots=True, kw_only=True)
class Spread:
    """Standard deviations in steps of a control: between anglers, of one between waters of a kind, between days, between taps of a day."""

    angler: float
    kind: float
    day: float
    tap: float


# What taste moves, and by how much (ours).
SPREADS = {GAIN: Spread(angler=5.0, kind=2.5, day=2.5, tap=2.0), PUNCH: Spread(angler=10.0, kind=5.0, day=5.0, tap=4.0)}


@dataclass(frozen=True, slots=True, kw_only=True)
class Kind:
    """The kind of water and day that a hand may differ on: clarity, technique, light."""

    clarity: str
    technique: str
    light: str

    @classmethod
    def of(cls, here: Situation) -> "Kind":
        """Return the kind of a situation."""
        low = here.sky is not Sky.DARK and 0.0 <= here.sun_rad < LOW_SUN_RAD
        light = "low sun" if low else here.sky.value
        return cls(clarity=clarity_of(secchi_m=here.secchi_m).value, technique=here.technique.value, light=light)


@dataclass(frozen=True, slots=True, kw_only=True)
class Ended:
    """Where an angler ended with a control: so many steps over our start, on a day of a kind."""

    control: Control
    over: float
    kind: Kind
    day: dt.date


@dataclass(frozen=True, slots=True, kw_only=True)
class Shift:
    """How many steps an angler's start lies over ours here, give or take `doubt`, from so many days."""

    steps: float
    doubt: float
    days: int


def shift_of(ends: Sequence[Ended], here: Kind, control: Control) -> Shift | None:
    """Return how far a control's start is shifted for an angler here; None where nothing is known of their hand.

    The mean and standard deviation of a hierarchical normal model: angler, kind of clarity, technique and light, day, tap. Source: partial
    pooling, the posterior of normal effects with known variances (Lindley and Smith 1972); the variances are ours.
    """
    known = [one for one in ends if one.control is control]
    if not known:
        return None
    spread = SPREADS[control]
    covered = _covariance([(one.kind, one.day) for one in known], spread)
    noisy = cho_factor(covered + spread.tap**2 * np.eye(len(known)))
    beside = np.array([_shared(one.kind, here, spread) for one in known])
    mean = float(beside @ cho_solve(noisy, np.array([one.over for one in known])))
    rest = _shared(here, here, spread) - float(beside @ cho_solve(noisy, beside))
    most = MOST_STEPS[control]
    return Shift(steps=float(np.clip(mean, -most, most)), doubt=math.sqrt(max(rest, 0.0)), days=len({one.day for one in known}))


def _shared(one: Kind, other: Kind, spread: Spread) -> float:
    """Return what two days have in common: the variance that they share."""
    alike = (one.clarity == other.clarity) + (one.technique == other.technique) + (one.light == other.light)
    return spread.angler**2 + alike * spread.kind**2


def _covariance(days: Sequence[tuple[Kind, dt.date]], spread: Spread) -> FloatArray:
    return np.array([[_shared(a, b, spread) + (spread.day**2 if on == at else 0.0) for b, at in days] for a, on in days])


def shifted(card: Card, shifts: Mapping[str, Shift]) -> Card:
    """Return a card whose starts are shifted by whole steps, in every style."""
    setups = {style: _moved(setup, shifts) for style, setup in card.setups.items()}
    return replace(card, setups=setups, rows=tuple(_row(row, card.style, setups) if row.control in shifts else row for row in card.rows))


def shifted_start(start: Start, shifts: Mapping[str, Shift]) -> Start:
    """Return what a card would start with for this angler: the receiver shifted by whole steps, its bands with it."""
    setup = replace(start.setup, receiver=_moved(start.setup.receiver, shifts))
    return replace(start, setup=setup, off={name: float(round(shift.steps)) for name, shift in shifts.items()})


def _moved(setup: ReceiverSetup, shifts: Mapping[str, Shift]) -> ReceiverSetup:
    for name, shift in shifts.items():
        control = CONTROLS[name]
        setup = with_control(setup, name, control.held(float(getattr(setup, name)) + round(shift.steps)))
    return setup


def _row(row: Row, style: Style, setups: Mapping[Style, ReceiverSetup]) -> Row:
    values = {one: float(getattr(setup, row.control)) for one, setup in setups.items()}
    return replace(row, start=values[style], styles=values)
