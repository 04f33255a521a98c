"""A pane: one set-up's picture of the pings, with its readings. The twin picture is two panes on the same pings."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Any

from mudlamp.core.arrays import ByteArray
from mudlamp.core.errors import DomainError
from mudlamp.core.ping import Ping
from mudlamp.core.receiver.chain import QUIETING_FAST_S, QUIETING_SETTLING_S, Receiver
from mudlamp.core.receiver.readings import SHOWN_LIGHTNESS, LureMark, Readings, ReadingsMeter
from mudlamp.core.receiver.screen import MarkOnScreen, Screen, mark_on_screen
from mudlamp.core.receiver.setup import ReceiverSetup, Window, checked_window
from mudlamp.core.scene.truth import TruthRow
from mudlamp.services.edge.controls import apply_window, window_values

# What a crop may set, in the order of `window_values`.
WINDOW = ("reach_ft", "down_to_ft", "look_back_ft")


@dataclass(frozen=True, slots=True, kw_only=True)
class Shown:
    """What is shown: the ping, its picture, the set-up that made it, the window it is seen through."""

    ping: Ping
    picture: ByteArray
    setup: ReceiverSetup
    window: Window


class Pane:
    """A receiver and the meter of its readings; with a crop it shows less than the pings cover."""

    def __init__(self, setup: ReceiverSetup, *, crop: Window | None = None) -> None:
        self.crop = crop
        self.receiver = Receiver(setup)
        self.meter = ReadingsMeter()
        self.picture: ByteArray | None = None
        self.why: dict[str, str] = {}
        self.auto: set[str] = set()

    def seen(self, whole: Window) -> Window:
        """Return what this pane shows of the window that the pings cover."""
        crop = self.crop
        if crop is None:
            return whole
        return Window(
            down_to_m=min(crop.down_to_m, whole.down_to_m),
            reach_m=min(crop.reach_m, whole.reach_m),
            look_back_m=min(crop.look_back_m, whole.look_back_m),
        )

    def crop_to(self, values: Mapping[str, Any], whole: Window) -> None:
        """Show less than the pings cover, by edge values; raise DomainError for more, and for what the pings share."""
        for name in values:
            if name not in WINDOW:
                raise DomainError(
                    f"{name.rpartition('_')[0] or name} is one for both pictures, which show the same pings: set it on set-up A"
                )
        wanted = checked_window(apply_window(self.seen(whole), values))
        for name, asked, most in zip(WINDOW, window_values(wanted).values(), window_values(whole).values(), strict=True):
            if asked > most:
                raise DomainError(f"{name} is {asked:g} ft: it must be at most {most:g} ft, what the pings of set-up A cover")
        self.crop = wanted

    @property
    def setup(self) -> ReceiverSetup:
        """The set-up."""
        return self.receiver.setup

    def change(self, setup: ReceiverSetup) -> None:
        """Receive differently from now on; raise DomainError where a control is not allowed."""
        self.receiver.change(setup)
        self.meter.forget()

    def settle_fast(self, fast: bool) -> None:
        """Let Quieting settle in seconds instead of some 20 minutes, or not."""
        self.receiver.settling_s = QUIETING_FAST_S if fast else QUIETING_SETTLING_S

    def develop(self, ping: Ping) -> ByteArray:
        """Return the picture of a new ping."""
        self.picture = self.receiver.develop(ping)
        return self.picture

    def redevelop(self, ping: Ping) -> ByteArray:
        """Return the picture of the newest ping again, under the set-up of now."""
        self.picture = self.receiver.redevelop(ping)
        return self.picture

    def measure(self, ping: Ping, window: Window, truth: Sequence[TruthRow] | None) -> None:
        """Take the last picture into the readings."""
        if self.picture is not None:
            self.meter.add(ping, self.picture, self.setup, window, truth)

    def readings(self, *, slower_s: float) -> Readings:
        """Return the readings."""
        return self.meter.readings(self.setup, slower_s=slower_s)

    def on_screen(self, screen: Screen, window: Window) -> MarkOnScreen | None:
        """Return how the lure looks on the angler's own screen, or None where no lure was to be seen."""
        mark: LureMark | None = self.meter.lure_mark()
        if mark is None:
            return None
        return mark_on_screen(
            screen, window, across_m=mark.across_m, down_m=mark.along_m, contrast=mark.contrast, least_contrast=SHOWN_LIGHTNESS
        )
