"""A pane: one set-up's picture of the pings, with its readings. The twin picture is two panes on the same pings."""

from collections.abc import Iterator, Sequence

from mudlamp.core.arrays import ByteArray
from mudlamp.core.controls import WINDOW, Control, Part
from mudlamp.core.errors import DomainError
from mudlamp.core.ping import Ping
from mudlamp.core.receiver.chain import QUIETING_FAST_S, QUIETING_SETTLING_S, Receiver
from mudlamp.core.receiver.inks import SHOWN_LIGHTNESS
from mudlamp.core.receiver.readings import Readings, ReadingsMeter
from mudlamp.core.receiver.screen import MarkOnScreen, Screen, mark_on_screen
from mudlamp.core.scene.truth import TruthRow
from mudlamp.core.setup import ReceiverSetup, Setting, Setup, Window, with_settings
from mudlamp.services.edge.controls import EDGE


class Pane:
    """A receiver and the meter of its readings; with a crop it shows less than the pings cover."""

    def __init__(self, setup: ReceiverSetup, *, crop: Window | None = None) -> None:
        self.crop = crop
        self.receiver = Receiver(setup)
        self.meter = ReadingsMeter()
        self.picture: ByteArray | None = None
        self.why: dict[Control, str] = {}
        self.auto: set[Control] = set()

    def seen(self, whole: Window) -> Window:
        """Return what this pane shows of the window that the pings cover."""
        return whole if self.crop is None else self.crop.within(whole)

    def as_set(self, whole: Window) -> Setup:
        """Return the set-up of what this pane shows."""
        return Setup(receiver=self.setup, window=self.seen(whole))

    def crop_to(self, settings: Sequence[Setting], whole: Window) -> None:
        """Show less than the pings cover; raise DomainError for more, and for what the pings share."""
        for one in settings:
            if one.control.part is not Part.WINDOW:
                raise DomainError(f"{EDGE[one.control].label} is shared by both pictures, which show the same pings: set it on set-up A")
        wanted = with_settings(self.seen(whole), *settings)
        for control in WINDOW:
            asked, most = (EDGE[control].value(getattr(window, control.name)) for window in (wanted, whole))
            if float(asked) > float(most):
                name, unit = EDGE[control].name, EDGE[control].unit
                raise DomainError(f"{name} is {asked:g} {unit}: it must be at most {most:g} {unit}, what the pings of set-up A cover")
        self.crop = wanted

    @property
    def setup(self) -> ReceiverSetup:
        """The receiver's set-up."""
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
        # A pane that has not received this ping yet starts with it.
        self.picture = self.receiver.develop(ping) if self.picture is None else self.receiver.redevelop(ping)
        return self.picture

    def measure(self, ping: Ping, whole: Window, truth: Sequence[TruthRow] | None) -> None:
        """Take the last picture into the readings."""
        if self.picture is not None:
            self.meter.add(ping, self.picture, self.setup, self.seen(whole), truth)

    def readings(self, *, slower_s: float) -> Readings:
        """Return the readings."""
        return self.meter.readings(self.setup, slower_s=slower_s)

    def on_screen(self, screen: Screen, whole: Window) -> MarkOnScreen | None:
        """Return how the lure looks on the angler's own screen, or None where no lure was to be seen."""
        mark = self.meter.lure_mark()
        if mark is None:
            return None
        return mark_on_screen(
            screen, self.seen(whole), across_m=mark.across_m, down_m=mark.along_m, contrast=mark.contrast, least_contrast=SHOWN_LIGHTNESS
        )


class Panes:
    """The one picture, or the two of the twin; a change of either is a new revision."""

    def __init__(self, setup: ReceiverSetup) -> None:
        self._all = [Pane(setup)]
        self.revision = 0
        self.fast = False

    def __iter__(self) -> Iterator[Pane]:
        return iter(self._all)

    def __len__(self) -> int:
        return len(self._all)

    @property
    def first(self) -> Pane:
        """Set-up A's."""
        return self._all[0]

    def of(self, side: str) -> Pane:
        """Return the pane of a side; raise DomainError for the twin's where it is off."""
        if side == "b" and len(self._all) < 2:
            raise DomainError("side is b: the twin picture is off, it must be a")
        return self._all["ab".index(side)]

    def open_twin(self) -> None:
        """Show a second picture, at first under the set-up of the first."""
        if len(self._all) == 1:
            self._all.append(Pane(self.first.setup, crop=self.first.crop))
            self._all[1].settle_fast(self.fast)

    def close_twin(self) -> None:
        """Show one picture again."""
        del self._all[1:]

    def swap(self) -> None:
        """Let the two pictures change places."""
        self._all.reverse()

    def copy_from(self, side: str) -> None:
        """Give the other picture the set-up of a side."""
        source = self.of(side)
        for other in self._all:
            if other is not source:
                other.change(source.setup)
                other.crop = source.crop

    def settle_fast(self, fast: bool) -> None:
        """Let Quieting settle in seconds, or in its own time."""
        self.fast = fast
        for pane in self._all:
            pane.settle_fast(fast)

    def changed(self) -> None:
        """Note that a set-up changed: readings start afresh."""
        self.revision += 1
        for pane in self._all:
            pane.meter.forget()
