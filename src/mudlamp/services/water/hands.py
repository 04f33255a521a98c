"""What an angler's hand does on simulated water."""

from dataclasses import dataclass
from typing import Annotated, Literal

from mudlamp.formats.fields import Within


@dataclass(frozen=True, slots=True, kw_only=True)
class ThrowAt:
    """Throw so far ahead and to the right [m]."""

    type: Literal["throw"] = "throw"
    ahead_m: Annotated[float, Within(0.5, 40.0, "m")]
    across_m: Annotated[float, Within(-20.0, 20.0, "m")] = 0.0


@dataclass(frozen=True, slots=True, kw_only=True)
class Bail:
    """Open the bail: the lure sinks."""

    type: Literal["bail"] = "bail"


@dataclass(frozen=True, slots=True, kw_only=True)
class Reel:
    """Reel from now on, or stop."""

    type: Literal["reel"] = "reel"
    on: bool


@dataclass(frozen=True, slots=True, kw_only=True)
class Lift:
    """Lift the rod tip by so much [m]; lower it by less than nothing."""

    type: Literal["lift"] = "lift"
    by_m: Annotated[float, Within(-3.0, 3.0, "m")] = 0.0


@dataclass(frozen=True, slots=True, kw_only=True)
class ShowMe:
    """Let the scripted angler fish."""

    type: Literal["show_me"] = "show_me"


@dataclass(frozen=True, slots=True, kw_only=True)
class Tie:
    """Tie the lure on with another head [oz]."""

    type: Literal["tie"] = "tie"
    head_oz: Annotated[float, Within(0.008, 2.0, "oz")]


Hand = ThrowAt | Bail | Reel | Lift | ShowMe | Tie
