"""What is done for each command that a session is given."""

import threading
import time
from collections.abc import Callable, Sequence
from dataclasses import replace

from mudlamp.core.controls import DOWN_TO, GAIN, Control, Part
from mudlamp.core.errors import DomainError, MudLampError
from mudlamp.core.setup import Setting, values_of, with_settings
from mudlamp.core.tracking.classes import FishClass
from mudlamp.core.units import FOOT_M, INCH_M, feet
from mudlamp.services.edge.controls import EDGE
from mudlamp.services.live.journal import Journal
from mudlamp.services.live.messages import (
    AskPrice,
    Command,
    GuessLength,
    SayWho,
    SetAuto,
    SetControls,
    SetPace,
    SetSettling,
    SetTwin,
    ShowSpots,
    Side,
    UseScreen,
)
from mudlamp.services.live.pacing import Pace, Pacing
from mudlamp.services.live.pane import Pane, Panes
from mudlamp.services.live.remedies import Remedies
from mudlamp.services.live.teller import Teller
from mudlamp.services.water.role import LiveWater
from mudlamp.services.words.readings import auto_words

# Auto leaves a control alone where it would move it by less.
LEAST_GAIN, LEAST_DOWN_TO_M = 1.0, 0.15
# Between two pings: more than a hand asks for.
MOST_WAITING, MOST_ACKNOWLEDGED = 100, 400


class Commands:
    """Carries out what is asked, between pings, on the session's own thread; anybody may put a command."""

    def __init__(
        self,
        *,
        water: LiveWater,
        panes: Panes,
        pacing: Pacing,
        teller: Teller,
        remedies: Remedies,
        journal: Journal,
        redraw: Callable[[], None],
    ) -> None:
        self._water = water
        self._panes = panes
        self._pacing = pacing
        self._teller = teller
        self._remedies = remedies
        self._journal = journal
        self._redraw = redraw
        self._lock = threading.Lock()
        self._waiting: list[Command] = []
        self._acknowledged: list[int] = []
        self._dropped = 0
        self._stands = True
        self.time_s = 0.0
        self.say_who: Callable[[int, FishClass | None], None] = lambda track, who: None
        self.guess: Callable[[int, float], None] = lambda track, length_m: None

    def put(self, command: Command) -> None:
        """Queue a command; it is carried out before the next ping. Of several changes of one control in a row only the last counts."""
        with self._lock:
            if isinstance(command, SetControls):
                self._acknowledged.append(command.seq)
                del self._acknowledged[:-MOST_ACKNOWLEDGED]
                last = self._waiting[-1] if self._waiting else None
                if isinstance(last, SetControls) and last.side == command.side:
                    values = {one.control: one for one in (*last.values, *command.values)}
                    self._waiting[-1] = replace(command, values=tuple(values.values()))
                    return
            if len(self._waiting) >= MOST_WAITING:
                self._dropped += 1
            else:
                self._waiting.append(command)

    def obey(self, time_s: float) -> None:
        """Carry out what was asked since the last ping, and tell once how the session stands then."""
        self.time_s = time_s
        with self._lock:
            waiting, self._waiting = self._waiting, []
            acknowledged, self._acknowledged = self._acknowledged, []
            dropped, self._dropped = self._dropped, 0
        for command in waiting:
            try:
                self._do(command)
            except MudLampError as error:
                self._teller.refuse(str(error))
        if dropped:
            self._teller.refuse(f"{dropped} commands came too fast and were left out: send fewer")
        if waiting or dropped:
            self._tell(acknowledged)
        self._journal.rest(time.monotonic())

    def _set(self, side: Side, settings: Sequence[Setting]) -> None:
        pane = self._panes.of(side)
        shared = [one for one in settings if one.control.part is not Part.RECEIVER]
        setup = with_settings(pane.setup, *settings)
        if shared and side == "b":
            pane.crop_to(shared, self._water.acquisition.window)
        elif shared:
            self._water.change(shared)
            pane.crop = None
        pane.change(setup)
        # A hand on a control takes it from auto.
        pane.auto -= {one.control for one in settings}
        self._changed()

    def _changed(self) -> None:
        """A set-up changed: a new revision, noted."""
        self._panes.changed()
        self._note_setup()
        self._remedies.drop()
        self._stands = False

    def _tell(self, acknowledged: Sequence[int] = ()) -> None:
        """Tell how the session stands; a picture that stands still is made anew where the set-up changed."""
        self._teller.tell_state(acknowledged)
        if not self._stands and self._pacing.pace is Pace.FROZEN:
            self._redraw()
        self._stands = True

    def _note_setup(self) -> None:
        values = values_of(self._water.acquisition, self._panes.first.setup)
        self._journal.note_setup(values, session_s=self.time_s, now_s=time.monotonic())

    def begin(self) -> None:
        """Write down the set-up that the session begins with."""
        self._note_setup()
        self._journal.write_setup()

    def _do(self, command: Command) -> None:
        match command:
            case SetPace():
                self._set_pace(command)
            case SetTwin():
                self._set_twin(command)
            case SetAuto():
                self._set_auto(command)
            case AskPrice():
                self._remedies.ask_price(command.control, self._panes.of(command.side), self._water.acquisition.window)
            case SetSettling():
                self._panes.settle_fast(command.fast)
            case UseScreen():
                self._teller.screen = command.screen
                self._teller.tell_readings()
            case ShowSpots():
                self._teller.spots = command.spots
            case SayWho():
                self.say_who(command.track, command.who)
            case GuessLength():
                self.guess(command.track, command.length_in * INCH_M)
            case SetControls():
                self._set(command.side, command.values)
            case _:
                self._water.hand(command, self.time_s)

    def _set_pace(self, command: SetPace) -> None:
        pacing, minute = self._pacing, self._teller.minute
        pacing.step = command.pace == "step"
        if command.pace == "replay":
            if not len(minute):
                raise DomainError("pace is replay: there is nothing to replay yet")
            pacing.at = int(command.share * (len(minute) - 1))
        pacing.pace = Pace.FROZEN if pacing.step else Pace(command.pace)

    def _set_twin(self, command: SetTwin) -> None:
        match command.do:
            case "on":
                self._panes.open_twin()
            case "off":
                self._panes.close_twin()
            case "swap":
                self._panes.swap()
            case "copy":
                self._panes.copy_from(command.side)
        self._changed()

    def _set_auto(self, command: SetAuto) -> None:
        control, pane = command.control, self._panes.of(command.side)
        if command.side == "b" and control is DOWN_TO:
            label = EDGE[control].label
            raise DomainError(f"auto {label} is shared by both pictures, which show the same pings: switch it on for set-up A")
        if command.on:
            pane.auto.add(control)
            self._choose(pane, control)
        else:
            pane.auto.discard(control)

    def auto(self, pane: Pane, control: Control) -> None:
        """Choose anew by a control's rule, from the newest pings, and tell it where that changes something."""
        self._choose(pane, control)
        if not self._stands:
            self._tell()

    def _choose(self, pane: Pane, control: Control) -> None:
        """Choose by a control's rule, and say why."""
        choice = self._remedies.choice(control, pane.setup, self._water.lure_mark_db)
        before = pane.why.get(control)
        pane.why[control] = auto_words(control, choice)
        if choice is None:
            return
        if control is GAIN and abs(choice.value - pane.setup.gain) >= LEAST_GAIN:
            pane.change(replace(pane.setup, gain=choice.value))
        elif control is DOWN_TO and abs(choice.value - self._water.acquisition.down_to_m) >= LEAST_DOWN_TO_M:
            # Whole feet, as anglers set it.
            self._water.change([Setting(control=DOWN_TO, value=DOWN_TO.held(round(feet(choice.value)) * FOOT_M))])
        elif pane.why[control] == before:
            return
        self._changed()
