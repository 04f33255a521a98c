"""The role of a water: something that pings when asked, with its truth and a rod where it is simulated."""

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Protocol

from mudlamp.core.hand import HandEvent
from mudlamp.core.ping import Fan, Ping
from mudlamp.core.scene.shots import Shot
from mudlamp.core.scene.truth import TruthRow
from mudlamp.core.setup import Setting
from mudlamp.core.sonar.transducer import Acquisition
from mudlamp.core.tracking.classes import Priors
from mudlamp.services.water.hands import Hand


@dataclass(frozen=True, slots=True, kw_only=True)
class FanLook:
    """What a page must know to draw: fan, tilt, whole fan and thickness [rad], depth of the transducer [m], the farthest range [m]."""

    fan: Fan
    tilt_rad: float
    fan_rad: float
    thickness_rad: float
    depth_m: float
    farthest_m: float


@dataclass(frozen=True, slots=True, kw_only=True)
class Outline:
    """A piece of cover as the truth overlay draws it: how far ahead in the fan's plane, half its width, top and foot [m]."""

    ahead_m: float
    half_m: float
    top_m: float
    foot_m: float


class LiveWater(Protocol):
    """The role: something that pings when asked."""

    source: str
    name: str
    title: str
    processor_lag_s: float

    @property
    def acquisition(self) -> Acquisition:
        """The controls of the transducer, and the window that the pings cover."""

    @property
    def look(self) -> FanLook:
        """How the fan stands now."""

    def listen(self, time_s: float) -> Ping | None:
        """Return the ping heard at a time [s]; None where none came."""

    def rows(self) -> list[TruthRow] | None:
        """Return what was really there at the last ping; None where nobody knows."""

    def change(self, settings: Sequence[Setting]) -> None:
        """Set controls of the transducer and the window; raise DomainError for one that cannot be, with the reason."""

    def hand(self, hand: Hand, time_s: float) -> None:
        """Do what an angler's hand does; raise DomainError where there is no rod."""

    def done(self) -> list[HandEvent]:
        """Return what the angler's hand did since this was asked last; nothing where nobody knows."""

    def outlines(self) -> list[Outline]:
        """Return the cover that stands in the fan now, where it is known."""

    @property
    def priors(self) -> Priors:
        """What is likelier here and now than elsewhere."""

    @property
    def temperature_degc(self) -> float | None:
        """How warm the water is [deg C]; None where nobody said."""

    @property
    def lure(self) -> str:
        """What the lure is doing, in a word."""

    @property
    def head_kg(self) -> float:
        """The weight of the lure's head [kg]; 0 where there is no rod."""

    @property
    def lure_mark_db(self) -> float | None:
        """The target strength of the strongest part of the lure tied on [dB re 1 m^2]; None where nobody said what is tied on."""

    @property
    def shots(self) -> list[Shot]:
        """All shots so far."""

    def thrown_m(self, shot: Shot) -> float:
        """Return how far from the transducer a shot went [m]."""

    @property
    def scripted(self) -> bool:
        """Whether a scripted angler fishes."""

    def close(self) -> None:
        """Let go of files."""


# A fish that answers so long after a shot's end [s] still answers that shot.
AFTER_SHOT_S = 2.0


def shot_at(shots: Sequence[Shot], time_s: float) -> int | None:
    """Return the number of the shot that was out at a time [s], or had just ended; None where none was."""
    newest = next((shot for shot in reversed(shots) if shot.start_s <= time_s), None)
    if newest is None or (newest.end_s is not None and time_s > newest.end_s + AFTER_SHOT_S):
        return None
    return newest.number
