"""A session: water, panes, tracker and listeners in one thread; it runs in a process of its own (`session_process.py`)."""

import datetime as dt
import queue
import threading
import time
import uuid
from collections.abc import Callable, Mapping
from dataclasses import asdict, dataclass, field, replace
from enum import StrEnum
from typing import Any

import structlog

from mudlamp.core.errors import DomainError, MudLampError, require_choice
from mudlamp.core.ping import Ping
from mudlamp.core.receiver.auto import AUTO_CONTROLS
from mudlamp.core.receiver.screen import Screen, checked_screen, scales
from mudlamp.core.receiver.setup import ReceiverSetup
from mudlamp.core.scene.truth import TruthRow
from mudlamp.core.tracking.reacting import ReactionWatch, Reported
from mudlamp.core.tracking.tracker import Tracker, TrackView
from mudlamp.core.units import INCH_M, feet
from mudlamp.services.edge.controls import ACQUISITION, RECEIVER, apply_receiver, receiver_values
from mudlamp.services.live import frames, telling
from mudlamp.services.live.audience import Audience
from mudlamp.services.live.journal import SessionLog
from mudlamp.services.live.pane import Pane, Shown
from mudlamp.services.live.remedies import Remedies
from mudlamp.services.live.roles import Listener, Rows
from mudlamp.services.recordings.minute import SECONDS, Minute
from mudlamp.services.water.simulated import HANDS, Water
from mudlamp.services.words import readings as wording

TRUTH_EVERY = 4
READINGS_EVERY = 10
REMEDY_EVERY = 60
AUTO_EVERY = 40
SLOWEST_HZ = 12.0
SLOW_MOTION = 4
FROZEN_POLL_S = 0.02
FIRST_SETUP = ReceiverSetup()
TRANSDUCER = ("fan", "steady", *ACQUISITION)


class Pace(StrEnum):
    """How a session's time goes."""

    RUN = "run"
    SLOW = "slow"
    FROZEN = "frozen"
    REPLAY = "replay"


@dataclass(slots=True, kw_only=True)
class StageTimes:
    """Running means of what a ping costs, by stage [ms], and how many pings came late."""

    mean_ms: dict[str, float] = field(default_factory=dict)
    late: int = 0

    def note(self, stage: str, seconds: float) -> None:
        """Take in one time [s]."""
        before = self.mean_ms.get(stage, seconds * 1000.0)
        self.mean_ms[stage] = before + 0.05 * (seconds * 1000.0 - before)


class LampSession:
    """A water that pings while somebody looks. Commands come from any thread; pictures go to mailboxes."""

    def __init__(
        self,
        *,
        session_id: uuid.UUID,
        device: uuid.UUID,
        water: Water,
        seed: int | None,
        writer: Rows,
        angler_id: uuid.UUID | None,
        ping_hz: float,
        idle_end_s: float,
        now: Callable[[], dt.datetime],
    ) -> None:
        self.id = session_id
        self.device = device
        self.water = water
        self.stages = StageTimes()
        self.ended = False
        self.writer = writer
        self._seed = seed
        self._ping_hz = ping_hz
        self._idle_end_s = idle_end_s
        self._now = now
        self._panes = [Pane(FIRST_SETUP)]
        self._tracker = Tracker()
        self._watch = ReactionWatch()
        self._commands: queue.SimpleQueue[Mapping[str, Any]] = queue.SimpleQueue()
        self._audience = Audience()
        self._remedies = Remedies(self._audience)
        self._keeping = threading.Lock()
        self._attended = threading.Event()
        self._stop = threading.Event()
        self._revision = 0
        self._time_s = 0.0
        self._pace = Pace.RUN
        self._at = 0
        self._step = False
        self._fast = False
        self._screen = Screen()
        self._minute = Minute(most=round(SECONDS * ping_hz))
        self._ping: Ping | None = None
        self._truth: list[TruthRow] | None = None
        self._erased: tuple[str, ...] = ()
        self._estimate = wording.Estimate(sure=0, followed=0, lure=False)
        self._log = structlog.get_logger().bind(session=str(session_id))
        self._record = SessionLog(session_id=session_id, water=water, writer=writer, started=now())
        self._record.session(device=device, angler_id=angler_id, seed=seed, state="running", ended_at=None)
        self._note_setup()
        self._thread = threading.Thread(target=self._run, name=f"session-{session_id}", daemon=True)
        self._thread.start()

    # Called from other threads.

    def attach(self, mailbox: Listener) -> None:
        """Let a viewer look on; one that does already is told again how things stand."""
        self._audience.join(mailbox)
        mailbox.put_text(frames.text("state", self._state()))
        self._attended.set()

    def detach(self, mailbox: Listener) -> None:
        """A viewer left."""
        self._audience.leave(mailbox)

    def command(self, message: Mapping[str, Any]) -> None:
        """Queue a command; it is carried out before the next ping."""
        self._commands.put(message)

    def stop(self) -> None:
        """End the session and wait for its thread."""
        self._stop.set()
        self._attended.set()
        self._thread.join(5.0)

    def last_minute(self) -> Minute:
        """Return a copy of the newest pings that can be kept as one recording."""
        with self._keeping:
            return self._minute.stretch()

    def picture(self) -> Shown | None:
        """Return what is shown now, or None before the first picture."""
        pane = self._panes[0]
        if self._ping is None or pane.picture is None:
            return None
        return Shown(ping=self._ping, picture=pane.picture, setup=pane.setup, window=pane.seen(self.water.window))

    # The thread.

    def _run(self) -> None:
        try:
            self._live()
        except Exception:
            self._log.exception("session failed")
            self._finish("interrupted")
            raise
        self._finish("ended")

    def _live(self) -> None:
        due = time.monotonic()
        while not self._stop.is_set():
            if not len(self._audience):
                self._attended.clear()
                if not len(self._audience) and not self._attended.wait(self._idle_end_s):
                    return
                due = time.monotonic()
                continue
            if self._pace is Pace.FROZEN and not self._step:
                self._stop.wait(FROZEN_POLL_S)
                self._obey()
                due = time.monotonic()
                continue
            interval = (SLOW_MOTION if self._pace is Pace.SLOW else 1) / self._ping_hz
            wait = due - time.monotonic()
            if wait > 0:
                time.sleep(wait)
            elif wait < -interval:
                # Under load the water slows to what can be worked out, never under SLOWEST_HZ of its own time.
                self.stages.late += 1
                interval = min(interval - wait, 1.0 / SLOWEST_HZ)
                due = time.monotonic()
            due += interval
            self._obey()
            if self._pace is Pace.REPLAY:
                self._replay()
            else:
                self._one_ping(min(interval, 1.0 / SLOWEST_HZ) if self._pace is Pace.RUN else 1.0 / self._ping_hz)

    def _one_ping(self, interval_s: float) -> None:
        self._step = False
        self._time_s += interval_s
        started = time.perf_counter()
        ping = self.water.listen(self._time_s)
        if ping is None:
            return
        self._ping = ping
        simulated = time.perf_counter()
        for pane in self._panes:
            pane.develop(ping)
        received = time.perf_counter()
        tracks = self._tracker.update(ping)
        reported = self._watch.update(self._tracker, ping)
        tracked = time.perf_counter()
        self._measure(ping)
        read = time.perf_counter()
        self._tell(ping, tracks, reported)
        self._send_pictures(ping)
        for stage, seconds in zip(
            ("simulate", "receive", "track", "readings", "tell"),
            (simulated - started, received - simulated, tracked - received, read - tracked, time.perf_counter() - read),
            strict=True,
        ):
            self.stages.note(stage, seconds)

    def _measure(self, ping: Ping) -> None:
        """Take readings of every fourth ping, one pane after the other, so that no ping bears the cost of two."""
        truth = None
        if ping.number % TRUTH_EVERY == 0:
            self._truth = truth = self.water.rows()
            self._measure_pane(self._panes[0], ping, truth)
        elif len(self._panes) > 1 and ping.number % TRUTH_EVERY == 2:
            self._measure_pane(self._panes[1], ping, self.water.rows())
        self._remedies.note(ping, truth)
        if ping.number % REMEDY_EVERY == 0:
            pane = self._panes[0]
            self._remedies.seek(pane, pane.seen(self.water.window), is_current=lambda asked: asked == self._panes[0].setup)
        if ping.number % AUTO_EVERY == 0:
            for at, pane in enumerate(self._panes):
                for control in sorted(pane.auto):
                    self._auto(at, control)

    def _measure_pane(self, pane: Pane, ping: Ping, truth: list[TruthRow] | None) -> None:
        pane.measure(ping, pane.seen(self.water.window), truth)

    def _replay(self) -> None:
        """Show the next ping of the last minute, from its oldest on, round and round."""
        if not len(self._minute):
            self._pace = Pace.FROZEN
            return
        self._at %= len(self._minute)
        ping = self._ping = self._minute.ping(self._at)
        for pane in self._panes:
            pane.develop(ping)
        beside = self._minute.beside(self._at)
        share = self._at / max(len(self._minute) - 1, 1)
        self._at += 1
        self._audience.pass_latest("tracks", beside)
        self._audience.pass_latest("place", frames.text("place", {"share": round(share, 3), "seconds": round(self._minute.seconds, 1)}))
        self._send_pictures(ping)

    def _send_pictures(self, ping: Ping) -> None:
        """Give each pane's picture to the viewers; a slow processor shows it later."""
        data = [
            frames.frame(self.id, ping, self._revision, pane.picture, side=side)
            for side, pane in enumerate(self._panes)
            if pane.picture is not None
        ]
        self._audience.show(data, lag_s=self.water.processor_lag_s)

    # Commands.

    def _obey(self) -> None:
        """Carry out what was asked since the last ping; of several changes of one control only the last counts."""
        wanted: dict[int, dict[str, Any]] = {}
        acknowledged: list[int] = []
        while True:
            try:
                message = self._commands.get_nowait()
            except queue.Empty:
                break
            try:
                if message.get("type") == "set":
                    wanted.setdefault(self._side_of(message), {}).update(_mapping(message.get("values")))
                    acknowledged.append(int(message.get("seq", 0)))
                    continue
                # What was set before another command comes before it.
                self._set_all(wanted, acknowledged)
                self._do(message)
            except (MudLampError, KeyError, TypeError, ValueError) as error:
                self._audience.tell("refused", {"message": _plain(error)})
                # A control on the page that was moved for it goes back.
                self._audience.tell("state", self._state())
        self._set_all(wanted, acknowledged)

    def _set_all(self, wanted: dict[int, dict[str, Any]], acknowledged: list[int]) -> None:
        for side, values in wanted.items():
            self._set(side, values, list(acknowledged))
        wanted.clear()
        acknowledged.clear()

    def _side_of(self, message: Mapping[str, Any]) -> int:
        side = require_choice("side", str(message.get("side", "a")), ["a", "b"])
        if side == "b" and len(self._panes) < 2:
            raise DomainError("side is b: the twin picture is off, it must be a")
        return "ab".index(side)

    def _set(self, side: int, values: Mapping[str, Any], acknowledged: list[int]) -> None:
        pane = self._panes[side]
        try:
            transducer = {name: value for name, value in values.items() if name in TRANSDUCER}
            setup = apply_receiver(pane.setup, {name: value for name, value in values.items() if name not in transducer})
            if transducer and side == 1:
                pane.crop_to(transducer, self.water.window)
            elif transducer:
                self.water.change(transducer)
                pane.crop = None
            pane.change(setup)
        except DomainError as error:
            self._audience.tell("refused", {"message": str(error)})
            self._audience.tell("state", self._state(acknowledged))
            return
        # A hand on a control takes it from auto.
        taken = {"gain": "gain", "down_to": "down_to_ft"}
        pane.auto -= {control for control, name in taken.items() if name in values}
        self._changed(acknowledged)

    def _changed(self, acknowledged: list[int] | None = None) -> None:
        """A set-up changed: a new revision, told and written down; a picture that stands still is made anew."""
        self._revision += 1
        for pane in self._panes:
            pane.meter.forget()
        self._note_setup()
        self._audience.tell("state", self._state(acknowledged))
        self._remedies.drop()
        if self._pace is Pace.FROZEN and self._ping is not None:
            for pane in self._panes:
                # A pane that has not received this ping yet starts with it.
                if pane.picture is None:
                    pane.develop(self._ping)
                pane.redevelop(self._ping)
                self._measure_pane(pane, self._ping, self._truth)
            self._tell_readings()
            self._send_pictures(self._ping)

    def _do(self, message: Mapping[str, Any]) -> None:
        kind = str(message["type"])
        if kind in HANDS:
            self.water.hand(message, self._time_s)
            self._audience.tell("state", self._state())
            return
        doing: dict[str, Callable[[Mapping[str, Any]], None]] = {
            "pace": self._set_pace,
            "twin": self._set_twin,
            "auto": self._set_auto,
            "price": self._ask_price,
            "screen": self._set_screen,
            "settle": self._set_settling,
        }
        if kind not in doing:
            raise DomainError(f"command is {kind[:20]}: it must be one of set, {', '.join((*HANDS, *doing))}")
        doing[kind](message)

    def _set_pace(self, message: Mapping[str, Any]) -> None:
        """Run, go slow, freeze, take one ping on, or look at the last minute again (from a share of it on)."""
        wanted = require_choice("pace", str(message.get("pace")), [*Pace, "step"])
        if wanted == "step":
            self._pace, self._step = Pace.FROZEN, True
        else:
            if wanted == Pace.REPLAY:
                if not len(self._minute):
                    raise DomainError("pace is replay: there is nothing yet to look at again")
                self._at = int(min(max(float(message.get("share", 0.0)), 0.0), 1.0) * (len(self._minute) - 1))
            self._pace = Pace(wanted)
        self._audience.tell("state", self._state())

    def _set_twin(self, message: Mapping[str, Any]) -> None:
        """Open or close the second picture, swap the two set-ups, or copy one across."""
        wanted = require_choice("do", str(message.get("do")), ["on", "off", "swap", "copy"])
        if wanted == "on" and len(self._panes) == 1:
            self._panes.append(Pane(self._panes[0].setup, crop=self._panes[0].crop))
            self._panes[1].settle_fast(self._fast)
        elif wanted == "off":
            del self._panes[1:]
        elif len(self._panes) == 2:
            a, b = self._panes
            if wanted == "swap":
                self._panes = [b, a]
            else:
                source = self._side_of(message)
                self._panes[1 - source].change(self._panes[source].setup)
                self._panes[1 - source].crop = self._panes[source].crop
        self._changed()

    def _set_auto(self, message: Mapping[str, Any]) -> None:
        """Let a rule set Gain or Down to from now on, or stop it."""
        control = require_choice("control", str(message.get("control")), AUTO_CONTROLS)
        side = self._side_of(message)
        if side == 1 and control == "down_to":
            raise DomainError("auto Down to is one for both pictures, which show the same pings: switch it on for set-up A")
        if message.get("on", True):
            self._panes[side].auto.add(control)
            self._auto(side, control)
        else:
            self._panes[side].auto.discard(control)
        self._audience.tell("state", self._state())

    def _auto(self, side: int, control: str) -> None:
        """Choose anew by the rule, from the newest pings, and say why."""
        pane = self._panes[side]
        choice = self._remedies.choice(control, pane.setup)
        before = pane.why.get(control)
        pane.why[control] = wording.auto_words(control, choice)
        if choice is None:
            return
        if control == "gain" and abs(choice.value - pane.setup.gain) >= 1.0:
            pane.change(replace(pane.setup, gain=choice.value))
        elif control == "down_to" and abs(choice.value - self.water.window.down_to_m) >= 0.15:
            self.water.change({"down_to_ft": round(feet(choice.value))})
        elif pane.why[control] == before:
            return
        self._changed()

    def _set_screen(self, message: Mapping[str, Any]) -> None:
        """Take the angler's own screen: diagonal and viewing distance [in], pixels across and down."""
        screen = Screen(
            diagonal_m=_float(message, "diagonal_in") * INCH_M,
            width_px=int(_float(message, "width_px")),
            height_px=int(_float(message, "height_px")),
            distance_m=_float(message, "distance_in") * INCH_M,
        )
        self._screen = checked_screen(screen)
        self._tell_readings()

    def _set_settling(self, message: Mapping[str, Any]) -> None:
        """Let Quieting settle in seconds, or in its own time."""
        self._fast = bool(message.get("fast"))
        for pane in self._panes:
            pane.settle_fast(self._fast)
        self._audience.tell("state", self._state())

    def _ask_price(self, message: Mapping[str, Any]) -> None:
        control = require_choice("control", str(message.get("control")), list(RECEIVER))
        pane = self._panes[self._side_of(message)]
        self._remedies.ask_price(control, pane, pane.seen(self.water.window))

    # Telling.

    def _state(self, acknowledged: list[int] | None = None) -> dict[str, Any]:
        return {
            "session": str(self.id),
            "revision": self._revision,
            "acknowledged": acknowledged or [],
            **telling.water_values(self.water),
            "controls": {**self.water.values(), **receiver_values(self._panes[0].setup)},
            "panes": [telling.pane_values(pane, self.water.window) for pane in self._panes],
            "pace": self._pace.value,
            "fast": self._fast,
            "minute_s": round(self._minute.seconds),
        }

    def _tell(self, ping: Ping, tracks: list[TrackView], reported: list[Reported]) -> None:
        if ping.number % TRUTH_EVERY == 0:
            self._erased = self._panes[0].meter.erased()
            self._remedies.check(self._erased)
        message = telling.tracks_text(ping, self.water, tracks, self._truth, self._erased)
        with self._keeping:
            self._minute.keep(ping, message)
        self._audience.pass_latest("tracks", message)
        if ping.number % READINGS_EVERY == 0:
            self._estimate = telling.estimate_of(tracks)
            self._tell_readings()
        self._record.shots()
        for one in reported:
            self._tell_reaction(one)
        self._record.tracks(tracks, time_s=self._time_s)

    def _tell_reaction(self, one: Reported) -> None:
        key, shot = self._record.reaction(one)
        event = one.event
        self._audience.tell(
            "reaction",
            {
                "id": str(key),
                "time_s": event.time_s,
                "track": int(event.fish),
                "token": event.reaction.value,
                "cause": event.cause.value,
                "confidence": round(one.confidence, 2),
                "shot": shot,
            },
        )

    def _tell_readings(self) -> None:
        pane, window = self._panes[0], self._panes[0].seen(self.water.window)
        slower = self.water.processor_lag_s
        readings = [one.readings(slower_s=slower) for one in self._panes]
        scale = scales(self._screen, window)
        message = frames.text(
            "readings",
            {
                "readings": [asdict(row) for row in wording.worded(readings[0], pane.meter.counts(), self._estimate)],
                "erased": wording.erased_line(readings[0]),
                "anything_erased": bool(readings[0].erased),
                "twin": wording.difference_rows(*readings) if len(readings) == 2 else [],
                "screen": telling.screen_values(scale, pane.on_screen(self._screen, window)),
                "settled_pct": [round(one.receiver.settled_pct) for one in self._panes],
                "waiting": self.writer.waiting,
                "away": self.writer.away,
                "minute_s": round(self._minute.seconds),
                "ping_hz": round(1000.0 / max(sum(self.stages.mean_ms.values()), 1000.0 / self._ping_hz), 1),
            },
        )
        self._audience.pass_latest("readings", message)

    def _note_setup(self) -> None:
        self._record.setup({**self.water.values(), **receiver_values(self._panes[0].setup)}, session_s=self._time_s)

    def _finish(self, state: str) -> None:
        self.ended = True
        self._record.finish()
        self._record.session(device=self.device, angler_id=None, seed=self._seed, state=state, ended_at=self._now())
        self._audience.tell("ended", {"state": state})
        self.writer.close()
        self.water.close()


def _mapping(values: object) -> Mapping[str, Any]:
    if not isinstance(values, Mapping):
        raise DomainError("values is not a set of controls: it must be an object of names and values")
    return values


def _float(message: Mapping[str, Any], name: str) -> float:
    try:
        return float(message[name])
    except (KeyError, TypeError, ValueError):
        raise DomainError(f"{name} is {str(message.get(name))[:30]}: it must be a number") from None


def _plain(error: Exception) -> str:
    return str(error) if isinstance(error, MudLampError) else "a command was not understood"
