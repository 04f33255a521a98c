"""The one table of controls: core name, engineering term, bounds or steps, in the order of rail and card.

Everything else that knows a control (bounds checks, the rail, cards, the log, the API, the shell, forms, help) reads it here; the edge
adds unit and words (`services/edge/controls.py`).
"""

import math
from collections.abc import Callable, Mapping
from dataclasses import dataclass
from enum import StrEnum

from mudlamp.core.errors import DomainError, require_choice, require_range
from mudlamp.core.ping import Fan
from mudlamp.core.receiver.inks import INKS

Value = float | str


class Part(StrEnum):
    """What a control belongs to: what shapes the ping, what of it the picture shows, what the receiver makes of it."""

    TRANSDUCER = "transducer"
    WINDOW = "window"
    RECEIVER = "receiver"


@dataclass(frozen=True, slots=True, kw_only=True)
class Control:
    """One control: the field it sets (with its unit), the engineering term, and what is allowed: a range, steps, or names.

    `off` is the step at which it does nothing; `whole` values are integers; `on_card` says whether a set-up card has it.
    """

    name: str
    term: str
    part: Part
    unit: str = ""
    low: float = 0.0
    high: float = 0.0
    steps: tuple[float, ...] = ()
    names: tuple[str, ...] = ()
    off: float | None = None
    whole: bool = False
    on_card: bool = False

    def __reduce__(self) -> tuple[Callable[[str], "Control"], tuple[str]]:
        """Travel by name: in another process too, a control is the one of this table, and `is` may ask for it."""
        return _named, (self.name,)

    @property
    def bounds(self) -> tuple[float, float]:
        """The lowest and the highest value."""
        return (min(self.steps), max(self.steps)) if self.steps else (self.low, self.high)

    def held(self, value: float) -> float:
        """Return a number held within the bounds."""
        return min(max(value, self.bounds[0]), self.bounds[1])

    def strength(self, value: float) -> int:
        """Return which of the steps a value is, the weakest being 0; raise DomainError for a value that is no step.

        Ghost cut's decibels fall as it gets stronger: its steps count, not its figures.
        """
        require_choice(self.name, value, self.steps)
        return self.steps.index(value)

    def checked(self, value: Value) -> Value:
        """Return a value that is allowed; raise DomainError naming control, value and what is allowed for one that is not."""
        if self.names:
            return require_choice(self.name, str(value), self.names)
        if isinstance(value, str) or not math.isfinite(value):
            raise DomainError(f"{self.name} is {str(value)[:40]}: it must be a number")
        if self.steps:
            return require_choice(self.name, value, self.steps)
        return require_range(self.name, value, self.low, self.high, self.unit)


def _named(name: str) -> Control:
    return CONTROLS[name]


FAN = Control(name="fan", term="orientation", part=Part.TRANSDUCER, names=tuple(Fan))
DOWN_TO = Control(name="down_to_m", term="depth limit", part=Part.WINDOW, unit="m", low=2.0, high=36.6, on_card=True)
REACH = Control(name="reach_m", term="distance limit", part=Part.WINDOW, unit="m", low=3.0, high=36.6, on_card=True)
GAIN = Control(name="gain", term="gain", part=Part.RECEIVER, high=100.0, on_card=True)
NEAR_CUT = Control(
    name="near_cut_db", term="time-varied gain", part=Part.RECEIVER, unit="dB", steps=(0.0, 6.0, 12.0, 18.0), off=0.0, on_card=True
)
QUIETING = Control(
    name="quieting_pings", term="ping integration", part=Part.RECEIVER, unit="pings", steps=(1, 2, 3, 5), off=1, whole=True, on_card=True
)
# Off, or how far under the strongest echo of its range a cell must be to be cut: the fewer decibels, the more is cut.
GHOST_CUT = Control(
    name="ghost_cut_db", term="side-lobe suppression", part=Part.RECEIVER, unit="dB", steps=(0.0, 34.0, 28.0, 22.0), off=0.0, on_card=True
)
PUNCH = Control(name="punch", term="contrast", part=Part.RECEIVER, high=100.0, on_card=True)
HIDE_BELOW = Control(name="hide_below_db", term="threshold", part=Part.RECEIVER, unit="dB", high=60.0, off=0.0, on_card=True)
INK = Control(name="ink", term="colors", part=Part.RECEIVER, names=tuple(INKS), on_card=True)
AIM = Control(name="aim_rad", term="left or right", part=Part.TRANSDUCER, unit="rad", low=-math.pi, high=math.pi)
TILT = Control(name="tilt_rad", term="from plumb", part=Part.TRANSDUCER, unit="rad", high=math.radians(110.0))
LOOK_BACK = Control(name="look_back_m", term="behind the boat", part=Part.WINDOW, unit="m", high=36.6)
SOUND_SPEED = Control(name="sound_speed_m_s", term="assumed", part=Part.TRANSDUCER, unit="m/s", low=1380.0, high=1560.0)
STEADY = Control(name="steady", term="motion leveling", part=Part.TRANSDUCER, steps=(0, 1), off=0, whole=True)

ORDER = (
    FAN, DOWN_TO, REACH, GAIN, NEAR_CUT, QUIETING, GHOST_CUT, PUNCH, HIDE_BELOW, INK, AIM, TILT, LOOK_BACK, SOUND_SPEED, STEADY,
)  # fmt: skip
CONTROLS: Mapping[str, Control] = {control.name: control for control in ORDER}
ON_CARD = tuple(control for control in ORDER if control.on_card)
RECEIVER = tuple(control for control in ORDER if control.part is Part.RECEIVER)
# The receiver's controls that hold a number: what is searched, priced and forecast.
RECEIVER_NUMBERS = tuple(control for control in RECEIVER if not control.names)
WINDOW = tuple(control for control in ORDER if control.part is Part.WINDOW)
TRANSDUCER = tuple(control for control in ORDER if control.part is Part.TRANSDUCER)
