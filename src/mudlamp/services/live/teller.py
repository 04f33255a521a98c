"""Tells a session's viewers how it stands and what happens, and keeps the last minute of it."""

import threading
import uuid
from collections import deque
from collections.abc import Sequence

from mudlamp.core.casting.drops import Drops
from mudlamp.core.casting.lure_on_line import LureState
from mudlamp.core.casting.solve import SPARE_DB
from mudlamp.core.ping import Ping
from mudlamp.core.plane import GroundPlane, Place
from mudlamp.core.reactions import Reaction
from mudlamp.core.receiver.screen import Screen, scales
from mudlamp.core.records.spots import Spot
from mudlamp.core.scene.truth import TruthRow
from mudlamp.core.tracking.bait_watch import BaitDoing, BaitEvent
from mudlamp.core.tracking.groups import Cloud
from mudlamp.core.tracking.reacting import Reported
from mudlamp.core.tracking.track import Kind
from mudlamp.core.tracking.views import TrackView
from mudlamp.services.edge.weights import ounces
from mudlamp.services.live import frames, telling
from mudlamp.services.live.audience import Audience
from mudlamp.services.live.casting import casts_told
from mudlamp.services.live.deciding import Decider
from mudlamp.services.live.guesses import Guesses
from mudlamp.services.live.pacing import Pacing
from mudlamp.services.live.pane import Panes
from mudlamp.services.live.roles import Records
from mudlamp.services.live.told import (
    BaitTold,
    CallTold,
    CastTold,
    PlaceTold,
    ReactionTold,
    ReadingsTold,
    RefusedTold,
    RodTold,
    ScreenTold,
    StateTold,
    text_of,
)
from mudlamp.services.recordings.minute import SECONDS, Minute
from mudlamp.services.water.role import LiveWater
from mudlamp.services.words import readings as words
from mudlamp.services.words.bait import bait_words

# What says only that nothing happened; and so many other reactions are marked on the tape.
QUIET = (Reaction.NOT_SHOWN, Reaction.NO_ANSWER)
MOST_TICKS = 60


class Teller:
    """What a session says. `truth` and `erased` are of the newest ping whose truth was looked up."""

    def __init__(
        self,
        *,
        session_id: uuid.UUID,
        water: LiveWater,
        panes: Panes,
        pacing: Pacing,
        audience: Audience,
        writer: Records,
        screen: Screen,
        guesses: Guesses,
    ) -> None:
        self.audience = audience
        self.screen = screen
        self.minute = Minute(most=round(SECONDS * pacing.ping_hz))
        self.truth: list[TruthRow] | None = None
        self.erased: tuple[str, ...] = ()
        self.spots: tuple[Spot, ...] = ()
        self._id = session_id
        self._water = water
        self._panes = panes
        self._pacing = pacing
        self._writer = writer
        self._guesses = guesses
        self._keeping = threading.Lock()
        self._trouble = ""
        self._casts: list[CastTold] = []
        self._decider = Decider(water.temperature_degc)
        self._drops = Drops()
        self._head_kg = water.head_kg
        # How the lure stood over what hides it when it was last in the picture [dB].
        self._spare_db: float | None = None
        self._call: tuple[int, str] | None = None
        # When fish last did something: where to look in the last minute.
        self._acted_s: deque[float] = deque(maxlen=MOST_TICKS)
        self._estimate = words.Estimate(sure=0, followed=0, lure=False)

    def tell_trouble(self, said: str) -> None:
        """Tell at once what is wrong with the pings, where that changed."""
        if said != self._trouble:
            self._trouble = said
            self.tell_readings()

    def last_minute(self) -> Minute:
        """Return a copy of the newest pings that can be kept as one recording; from any thread."""
        with self._keeping:
            return self.minute.stretch()

    def state(self, acknowledged: Sequence[int] = ()) -> StateTold:
        """Return how the session stands; `acknowledged` are the commands that this settles."""
        water, look, whole = self._water, self._water.look, self._water.acquisition.window
        return StateTold(
            session=str(self._id),
            revision=self._panes.revision,
            acknowledged=list(acknowledged),
            scene=water.name,
            title=water.title,
            source=water.source,
            fan=look.fan.value,
            tilt_rad=look.tilt_rad,
            fan_rad=look.fan_rad,
            thickness_rad=look.thickness_rad,
            depth_m=look.depth_m,
            farthest_m=look.farthest_m,
            window=whole,
            scripted=water.scripted,
            head=ounces(water.head_kg).removesuffix(" oz") if water.head_kg > 0.0 else "",
            controls=telling.transducer_values(water),
            panes=[telling.pane_told(pane, whole) for pane in self._panes],
            pace=self._pacing.pace.value,
            fast=self._panes.fast,
            screen=ScreenTold(width_px=self.screen.width_px, height_px=self.screen.height_px),
        )

    def tell_state(self, acknowledged: Sequence[int] = ()) -> None:
        """Tell all viewers how the session stands."""
        self.audience.tell(self.state(acknowledged))

    def refuse(self, message: str) -> None:
        """Tell why a command was refused."""
        self.audience.tell(RefusedTold(message=message))

    def tell_tracks(self, ping: Ping, tracks: Sequence[TrackView], bait: Sequence[tuple[Cloud, BaitDoing | None]]) -> None:
        """Tell what is followed, also as clouds of bait with what they have just done, and what is really there; keep it with the ping."""
        message = text_of(telling.tracks_told(ping, self._water, tracks, bait, self.truth, self.erased, self.spots, self._guesses))
        with self._keeping:
            self.minute.keep(ping, message)
        self.audience.pass_latest("tracks", message)

    def tell_reaction(self, key: uuid.UUID, one: Reported) -> None:
        """Tell what a fish did."""
        event = one.event
        message = ReactionTold(
            id=str(key),
            time_s=event.time_s,
            track=int(event.fish),
            token=event.token.value,
            cause=event.cause.value,
            confidence=round(one.confidence, 2),
            shot=event.shot,
        )
        self._decider.note(one)
        if event.token not in QUIET:
            self._acted_s.append(event.time_s)
        self.audience.tell(message)

    def tell_bait(self, event: BaitEvent, place: Place, *, flat: bool) -> None:
        """Tell what bait did at a place by the boat: ahead and down, or under a flat fan to the right [m]."""
        said = bait_words(event.doing, place, flat=flat)
        self._acted_s.append(event.time_s)
        self.audience.tell(BaitTold(time_s=event.time_s, doing=event.doing.value, said=said))

    def note_tracks(self, ping: Ping, tracks: Sequence[TrackView], *, sink_m_s: float) -> None:
        """Take in what is followed: for readings where no truth is known, for the casts, and for what to do now."""
        rod, plane = RodTold(), GroundPlane.of(ping)
        if self._water.head_kg != self._head_kg:
            # Another head falls at another speed: what was learned of the last one's drops is not this one's.
            self._head_kg, self._drops = self._water.head_kg, Drops()
        lure = next((track for track in tracks if track.kind is Kind.LURE and not track.coasting), None)
        falls = lure is not None and self._water.lure == LureState.SINKING.value and not plane.plane.is_flat
        self._drops.note(ping.time_s, lure.place[1] if lure is not None and falls else None, expected_m_s=sink_m_s)
        self._call = self._decider.call(tracks, plane, ping.time_s)
        self._casts = casts_told(
            tracks,
            plane,
            self._water.look,
            sink_m_s=self._drops.sink_m_s(sink_m_s),
            drops=self._drops.count,
            rod_ahead_m=rod.ahead_m,
            rod_up_m=rod.up_m,
            spare_db=self._spare_db,
            temperature_degc=self._water.temperature_degc,
            head_kg=self._head_kg,
        )
        self._estimate = telling.estimate_of(tracks)

    def tell_readings(self) -> None:
        """Tell the readings in words."""
        first, whole = self._panes.first, self._water.acquisition.window
        readings = [one.readings(slower_s=self._water.processor_lag_s) for one in self._panes]
        if (over_db := readings[0].lure_stands_out_db) is not None:
            self._spare_db = min(max(over_db, SPARE_DB[0]), SPARE_DB[1])
        costs = self._pacing.stages.mean_ms
        message = ReadingsTold(
            readings=words.worded(readings[0], first.meter.counts(), self._estimate),
            trouble=self._trouble,
            casts=self._casts,
            call=None if self._call is None else CallTold(id=self._call[0], said=self._call[1]),
            erased=words.erased_line(readings[0]),
            anything_erased=bool(readings[0].erased),
            twin=words.differences(*readings) if len(readings) == 2 else [],
            screen=telling.screen_answer(scales(self.screen, first.seen(whole)), first.on_screen(self.screen, whole)),
            settled_pct=[round(one.receiver.settled_pct) for one in self._panes],
            waiting=self._writer.waiting,
            away=self._writer.away,
            ping_hz=round(1000.0 / max(sum(costs.values()), 1000.0 / self._pacing.ping_hz), 1),
        )
        self.audience.tell_latest(message)

    def replay(self) -> Ping:
        """Return the next ping of the last minute, from its oldest on, in a loop, and tell what was told beside it."""
        self._pacing.at %= len(self.minute)
        at = self._pacing.at
        self._pacing.at += 1
        share = at / max(len(self.minute) - 1, 1)
        self.audience.pass_latest("tracks", self.minute.beside(at))
        self.audience.tell_latest(PlaceTold(share=round(share, 3), seconds=round(self.minute.seconds, 1), acted=self._ticks()))
        return self.minute.ping(at)

    def _ticks(self) -> list[float]:
        shares = [self.minute.share_of(at) for at in self._acted_s]
        return [round(one, 3) for one in shares if one is not None]

    def show(self, ping: Ping) -> None:
        """Give each picture to the viewers; a slow processor shows it later."""
        data = [
            frames.frame(self._id, ping, self._panes.revision, pane.picture, side=side)
            for side, pane in enumerate(self._panes)
            if pane.picture is not None
        ]
        self.audience.show(data, lag_s=self._water.processor_lag_s)
