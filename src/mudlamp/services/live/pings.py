"""What a session does with each ping: pictures, tracks, readings, and telling of them."""

import time
from collections.abc import Callable, Sequence

from mudlamp.core.controls import Control
from mudlamp.core.ping import Ping
from mudlamp.core.plane import GroundPlane
from mudlamp.core.tracking.bait_watch import BaitWatch
from mudlamp.core.tracking.classes import FishClass
from mudlamp.core.tracking.health import Trouble
from mudlamp.core.tracking.reacting import ReactionWatch, Reported
from mudlamp.core.tracking.tracker import Tracker
from mudlamp.core.tracking.views import TrackView
from mudlamp.formats.learned import shipped
from mudlamp.services.live.guesses import Guesses
from mudlamp.services.live.journal import Journal
from mudlamp.services.live.pacing import Pace, Pacing
from mudlamp.services.live.pane import Pane, Panes
from mudlamp.services.live.remedies import Remedies
from mudlamp.services.live.teller import Teller
from mudlamp.services.water.role import LiveWater, shot_at
from mudlamp.services.words.trouble import trouble_words

TRUTH_EVERY = 4
READINGS_EVERY = 10
# A water that does not ping for so long [s] is silent.
SILENT_S = 1.5
REMEDY_EVERY = 60
AUTO_EVERY = 40


class PingWork:
    """The work on pings; `auto` lets a rule set a control of a picture, `newest` is the ping that is shown."""

    def __init__(
        self,
        *,
        water: LiveWater,
        panes: Panes,
        pacing: Pacing,
        teller: Teller,
        remedies: Remedies,
        journal: Journal,
        guesses: Guesses,
    ) -> None:
        self.auto: Callable[[Pane, Control], None] = lambda pane, control: None
        self.newest: Ping | None = None
        self._water = water
        self._panes = panes
        self._pacing = pacing
        self._teller = teller
        self._remedies = remedies
        self._journal = journal
        self._guesses = guesses
        learned = shipped()
        self._learned = learned.tells_kinds
        self._heard_s: float | None = None
        self._tracker = Tracker(learned, water.priors)
        self._watch, self._bait = ReactionWatch(), BaitWatch()

    def say_who(self, track: int, who: FishClass | None) -> None:
        """Let a track be what the angler says; raise DomainError where it is gone."""
        self._tracker.hold(track, who)

    def guess(self, track: int, length_m: float) -> None:
        """Set a guess of a fish's length [m] beside it; raise DomainError where it is gone."""
        self._guesses.note(self._tracker.followed(track).number, length_m)

    def hear(self, time_s: float) -> None:
        """Hear the ping of a time [s], and do all that is done with it."""
        marks = [time.perf_counter()]
        ping = self._water.listen(time_s)
        if ping is None:
            self._tell_trouble(time_s)
            return
        self._heard_s = time_s
        self.newest = ping
        marks.append(time.perf_counter())
        for pane in self._panes:
            pane.develop(ping)
        marks.append(time.perf_counter())
        tracks = self._tracker.update(ping, self._water.done())
        known = self._water.source == "simulated"
        reported = self._watch.update(self._tracker, ping, shot_at=self._shot_at if known else None)
        self._bait.update(tracks, ping.time_s)
        marks.append(time.perf_counter())
        self._measure(ping)
        marks.append(time.perf_counter())
        self._tell(ping, tracks, reported)
        self._tell_trouble(time_s)
        marks.append(time.perf_counter())
        for stage, start, end in zip(("simulate", "receive", "track", "readings", "tell"), marks, marks[1:], strict=False):
            self._pacing.stages.note(stage, end - start)

    def _shot_at(self, time_s: float) -> int | None:
        return shot_at(self._water.shots, time_s)

    def _tell_trouble(self, time_s: float) -> None:
        """Tell what is wrong with the pings, where that changed; a recording that pauses is not silent."""
        troubles = self._tracker.health.troubles(time_s)
        if self._heard_s is not None and time_s - self._heard_s > SILENT_S:
            troubles = (Trouble.SILENT, *troubles)
        self._teller.tell_trouble(trouble_words(troubles, learned=self._learned))

    def _measure(self, ping: Ping) -> None:
        """Take readings of every fourth ping, one picture after the other, so that no ping bears the cost of two."""
        truth, whole = None, self._water.acquisition.window
        panes = list(self._panes)
        if ping.number % TRUTH_EVERY == 0:
            self._teller.truth = truth = self._water.rows()
            panes[0].measure(ping, whole, truth)
        elif len(panes) > 1 and ping.number % TRUTH_EVERY == TRUTH_EVERY // 2:
            panes[1].measure(ping, whole, self._water.rows())
        self._remedies.note(ping, truth)
        if ping.number % REMEDY_EVERY == 0:
            self._remedies.seek(panes[0], whole, is_current=lambda asked: asked == self._panes.first.setup)
        if ping.number % AUTO_EVERY == 0:
            for pane in panes:
                for control in sorted(pane.auto, key=lambda one: one.name):
                    self.auto(pane, control)

    def _tell(self, ping: Ping, tracks: Sequence[TrackView], reported: Sequence[Reported]) -> None:
        if ping.number % TRUTH_EVERY == 0:
            self._teller.erased = self._panes.first.meter.erased()
            self._remedies.check(self._teller.erased)
        self._guesses.look_at(tracks)
        self._teller.tell_tracks(ping, tracks, self._bait.clouds)
        if ping.number % READINGS_EVERY == 0:
            self._teller.note_tracks(ping, tracks, sink_m_s=self._tracker.hand.sink_m_s)
            self._teller.tell_readings()
        self._journal.shots()
        for one in reported:
            self._teller.tell_reaction(self._journal.reaction(one), one)
        plane = GroundPlane.of(ping)
        for event in self._bait.events:
            place = plane.from_boat(event.place)
            self._journal.bait(event, place)
            self._teller.tell_bait(event, place, flat=plane.plane.is_flat)
        self._journal.tracks(tracks, time_s=ping.time_s)
        self._teller.show(ping)

    def replay(self) -> None:
        """Show the next ping of the last minute; freeze where there is none."""
        if not len(self._teller.minute):
            self._pacing.pace = Pace.FROZEN
            return
        ping = self.newest = self._teller.replay()
        for pane in self._panes:
            pane.develop(ping)
        self._teller.show(ping)

    def redraw(self) -> None:
        """Make the pictures of the newest ping anew: the water stands still and a set-up changed."""
        if self.newest is None:
            return
        for pane in self._panes:
            pane.redevelop(self.newest)
            pane.measure(self.newest, self._water.acquisition.window, self._teller.truth)
        self._teller.tell_readings()
        self._teller.show(self.newest)
