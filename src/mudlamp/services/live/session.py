"""A session: water, pictures, tracker and listeners in one thread; it runs in a process of its own (`process.py`)."""

import datetime as dt
import threading
from collections.abc import Callable

import structlog

from mudlamp.core.receiver.screen import Screen
from mudlamp.core.records.log import SessionRecord
from mudlamp.core.setup import ReceiverSetup
from mudlamp.services.live.audience import Audience
from mudlamp.services.live.commands import Commands
from mudlamp.services.live.guesses import Guesses
from mudlamp.services.live.journal import Journal
from mudlamp.services.live.messages import Command
from mudlamp.services.live.pacing import FROZEN_POLL_S, Pace, Pacing
from mudlamp.services.live.pane import Panes
from mudlamp.services.live.pings import PingWork
from mudlamp.services.live.remedies import Remedies
from mudlamp.services.live.roles import Listener, Records
from mudlamp.services.live.teller import Teller
from mudlamp.services.live.told import EndedTold
from mudlamp.services.recordings.minute import Minute
from mudlamp.services.recordings.picture import Shown
from mudlamp.services.water.role import LiveWater


class LampSession:
    """A water that pings while somebody looks. Commands come from any thread; pictures go to mailboxes."""

    def __init__(
        self,
        *,
        opened: SessionRecord,
        water: LiveWater,
        writer: Records,
        screen: Screen,
        ping_hz: float,
        idle_end_s: float,
        first_viewer_s: float,
        now: Callable[[], dt.datetime],
        prepare: Callable[[], None] = lambda: None,
    ) -> None:
        """Begin; `prepare` is done on the session's own thread before its first ping."""
        self.ended = False
        self.pacing = Pacing(ping_hz)
        self._water = water
        self._writer = writer
        self._idle_end_s = idle_end_s
        # Until somebody came, it may be a browser that never will.
        self._patience_s = first_viewer_s
        self._now = now
        self._prepare = prepare
        self._panes = Panes(ReceiverSetup())
        self._audience = Audience()
        self._remedies = Remedies(self._audience)
        guesses = Guesses()
        self._journal = Journal(opened=opened, water=water, writer=writer, guesses=guesses)
        self._teller = Teller(
            session_id=opened.id,
            water=water,
            panes=self._panes,
            pacing=self.pacing,
            audience=self._audience,
            writer=writer,
            screen=screen,
            guesses=guesses,
        )
        self._pings = PingWork(
            water=water,
            panes=self._panes,
            pacing=self.pacing,
            teller=self._teller,
            remedies=self._remedies,
            journal=self._journal,
            guesses=guesses,
        )
        self._commands = Commands(
            water=water,
            panes=self._panes,
            pacing=self.pacing,
            teller=self._teller,
            remedies=self._remedies,
            journal=self._journal,
            redraw=self._pings.redraw,
        )
        self._pings.auto = self._commands.auto
        self._commands.say_who = self._pings.say_who
        self._commands.guess = self._pings.guess
        self._attended = threading.Event()
        self._stop = threading.Event()
        self._time_s = 0.0
        self._log = structlog.get_logger().bind(session=str(opened.id))
        self._commands.begin()
        self._teller.tell_state()
        self._thread = threading.Thread(target=self._run, name=f"session-{opened.id}", daemon=True)
        self._thread.start()

    # Called from other threads.

    def attach(self, mailbox: Listener) -> None:
        """Let a viewer look on, who is told how the session stands."""
        self._audience.join(mailbox)
        self._attended.set()

    def detach(self, mailbox: Listener) -> None:
        """A viewer left."""
        self._audience.leave(mailbox)

    def command(self, command: Command) -> None:
        """Queue a command; it is carried out before the next ping."""
        self._commands.put(command)

    def stop(self, timeout_s: float = 5.0) -> None:
        """End the session and wait for its thread."""
        self._stop.set()
        self._attended.set()
        self._thread.join(timeout_s)

    def last_minute(self) -> Minute:
        """Return a copy of the newest pings that can be kept as one recording."""
        return self._teller.last_minute()

    def picture(self) -> Shown | None:
        """Return what is shown now, or None before the first picture."""
        pane, ping = self._panes.first, self._pings.newest
        if ping is None or pane.picture is None:
            return None
        return Shown(ping=ping, picture=pane.picture, setup=pane.as_set(self._water.acquisition.window))

    # The thread.

    def _run(self) -> None:
        state = "interrupted"
        try:
            self._prepare()
            self._live()
            state = "ended"
        except Exception:
            self._log.exception("session failed")
        self._finish(state)

    def _live(self) -> None:
        self.pacing.restart()
        while not self._stop.is_set():
            if not len(self._audience):
                if not self._await_viewer():
                    return
            elif self.pacing.is_frozen:
                self._stop.wait(FROZEN_POLL_S)
                self._commands.obey(self._time_s)
                self.pacing.restart()
            else:
                interval_s = self.pacing.wait()
                self._commands.obey(self._time_s)
                if self.pacing.pace is Pace.REPLAY:
                    self._pings.replay()
                else:
                    self.pacing.step = False
                    self._time_s += interval_s
                    self._pings.hear(self._time_s)

    def _await_viewer(self) -> bool:
        """Stand still until somebody looks on; return False where nobody came for too long."""
        self._journal.write_setup()
        self._attended.clear()
        came = bool(len(self._audience)) or self._attended.wait(self._patience_s)
        self._patience_s = self._idle_end_s
        self.pacing.restart()
        return came

    def _finish(self, state: str) -> None:
        self.ended = True
        self._journal.finish(state=state, now=self._now())
        self._audience.tell(EndedTold(state=state))
        self._writer.close()
        self._water.close()
