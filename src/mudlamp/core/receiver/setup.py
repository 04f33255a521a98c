"""The receiver's controls and the picture's window, in the core's names and units."""

from dataclasses import dataclass

from mudlamp.core.errors import require_choice, require_range
from mudlamp.core.receiver.inks import INKS
from mudlamp.core.sonar.transducer import DOWN_TO_M, LOOK_BACK_M, REACH_M

GAIN = (0.0, 100.0)
PUNCH = (0.0, 100.0)
HIDE_BELOW_DB = (0.0, 60.0)
NEAR_CUT_DB = (0.0, 6.0, 12.0, 18.0)
QUIETING_PINGS = (1, 2, 3, 5)
# Zero is off; else how far under the strongest echo of its range a cell must be to be cut.
GHOST_CUT_DB = (0.0, 34.0, 28.0, 22.0)


@dataclass(frozen=True, slots=True, kw_only=True)
class ReceiverSetup:
    """A set-up of the receiver. `hide_below_db` 0 is off; `ghost_cut_db` 0 is off; `quieting_pings` 1 is off."""

    gain: float = 65.0
    near_cut_db: float = 0.0
    quieting_pings: int = 1
    ghost_cut_db: float = 0.0
    punch: float = 50.0
    hide_below_db: float = 0.0
    ink: str = "soot"


@dataclass(frozen=True, slots=True, kw_only=True)
class Window:
    """What of a ping the picture shows: down to a depth, ahead to a reach, behind the boat by a look-back [m]."""

    down_to_m: float
    reach_m: float
    look_back_m: float


def checked_setup(setup: ReceiverSetup) -> ReceiverSetup:
    """Return `setup` where every control is allowed; raise DomainError naming the first that is not."""
    require_range("gain", setup.gain, *GAIN)
    require_choice("near_cut_db", setup.near_cut_db, NEAR_CUT_DB)
    require_choice("quieting_pings", setup.quieting_pings, QUIETING_PINGS)
    require_choice("ghost_cut_db", setup.ghost_cut_db, GHOST_CUT_DB)
    require_range("punch", setup.punch, *PUNCH)
    require_range("hide_below_db", setup.hide_below_db, *HIDE_BELOW_DB, "dB")
    require_choice("ink", setup.ink, tuple(INKS))
    return setup


def checked_window(window: Window) -> Window:
    """Return `window` where it is allowed; raise DomainError naming the first bound that is not."""
    require_range("down_to_m", window.down_to_m, *DOWN_TO_M, "m")
    require_range("reach_m", window.reach_m, *REACH_M, "m")
    require_range("look_back_m", window.look_back_m, *LOOK_BACK_M, "m")
    return window
