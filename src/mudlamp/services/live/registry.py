"""All sessions of this process: at most so many at once, found again by the browser they belong to."""

import datetime as dt
import secrets
import threading
import uuid
from collections.abc import Callable, Sequence

from sqlalchemy import Engine

from mudlamp.core.errors import UnavailableError
from mudlamp.core.receiver.screen import Screen
from mudlamp.core.records.log import ShotRecord
from mudlamp.core.setup import Setting
from mudlamp.services.jobs import Turnstile
from mudlamp.services.live.handle import SessionHandle
from mudlamp.services.live.known import known_of, spots_on
from mudlamp.services.live.messages import SetControls, SetTwin, UseScreen
from mudlamp.services.live.process import Order
from mudlamp.services.live.writer import Writer
from mudlamp.services.settings import Settings
from mudlamp.services.water.plans import Plan
from mudlamp.store import log as store

# Ended sessions whose water is remembered, so that it can be opened again.
MOST_ENDED = 24


class Sessions:
    """Opens, finds and ends sessions."""

    def __init__(self, engine: Engine, settings: Settings, *, now: Callable[[], dt.datetime]) -> None:
        self._engine = engine
        self._settings = settings
        self._now = now
        self._all: dict[uuid.UUID, SessionHandle] = {}
        self._ended: dict[uuid.UUID, SessionHandle] = {}
        self._lock = threading.Lock()
        self._door = Turnstile("sessions", at_once=1, waiting=5)
        # Told of each fish that an owner's session lands.
        self.landed: Callable[[SessionHandle, uuid.UUID, ShotRecord], None] = lambda session, owner, shot: None

    def _sweep(self) -> None:
        for key in [key for key, session in self._all.items() if session.ended]:
            self._ended[key] = self._all.pop(key)
        for key in list(self._ended)[:-MOST_ENDED]:
            del self._ended[key]

    def plan_of(self, device: uuid.UUID, session_id: uuid.UUID) -> tuple[Plan, int] | None:
        """Return the plan and the seed of a session of a browser that ended a while ago at most, or None."""
        with self._lock:
            self._sweep()
            found = self._ended.get(session_id)
        return None if found is None or found.device != device else (found.plan, found.seed)

    def running(self) -> list[SessionHandle]:
        """Return the sessions that run."""
        with self._lock:
            self._sweep()
            return list(self._all.values())

    def find(self, session_id: uuid.UUID) -> SessionHandle | None:
        """Return a running session by key, or None."""
        with self._lock:
            self._sweep()
            return self._all.get(session_id)

    def of_device(self, device: uuid.UUID) -> SessionHandle | None:
        """Return the running session of a browser, or None."""
        with self._lock:
            self._sweep()
            return next((session for session in self._all.values() if session.device == device), None)

    def open(
        self,
        device: uuid.UUID,
        plan: Plan,
        *,
        angler_id: uuid.UUID | None,
        screen: Screen | None = None,
        seed: int | None = None,
        anew: bool = False,
    ) -> SessionHandle:
        """Return the running session of a browser, or a new one on the water that was planned.

        `screen` is the angler's own, a usual one where nobody said. `anew` ends the running one, once the new one runs. Raises UnavailableError when the house is full; what keeps the water from
        being made goes through, and the running session stays.
        """
        found = self.of_device(device)
        if found is not None and not anew:
            return found
        with self._door.through():
            again = self.of_device(device)
            if again is not None and again is not found:
                return again
            # The one that is ended by the new one makes room for it.
            others = [session for session in self.running() if session is not found]
            if len(others) >= self._settings.sessions and not self._make_room(others):
                raise UnavailableError(
                    f"{len(others)} sessions are running, and {self._settings.sessions} is the most at once: try again when one has ended"
                )
            chosen = secrets.randbelow(2**31) if seed is None else seed
            session = self._started(device, plan, angler_id=angler_id, screen=screen or Screen(), seed=chosen)
            if found is not None:
                self.end(found.id)
            with self._lock:
                self._all[session.id] = session
            return session

    def open_beside(
        self, device: uuid.UUID, plan: Plan, *, a: Sequence[Setting], b: Sequence[Setting], angler_id: uuid.UUID | None, screen: Screen
    ) -> SessionHandle:
        """Open a water anew with set-up A, and set-up B beside it on the twin picture."""
        session = self.open(device, plan, angler_id=angler_id, screen=screen, anew=True)
        session.command(SetControls(values=tuple(a)))
        session.command(SetTwin(do="on"))
        session.command(SetControls(side="b", values=tuple(b)))
        return session

    def use_screen(self, device: uuid.UUID, screen: Screen) -> None:
        """Judge a browser's running session, if there is one, on another screen."""
        session = self.of_device(device)
        if session is not None:
            session.command(UseScreen(screen=screen))

    def _make_room(self, others: Sequence[SessionHandle]) -> bool:
        """End the session that nobody has looked at for the longest; return whether there is one nobody has for a while."""
        longest = max(others, key=lambda session: session.unwatched_s)
        if longest.unwatched_s < self._settings.first_viewer_s:
            return False
        self.end(longest.id)
        return True

    def _started(self, device: uuid.UUID, plan: Plan, *, angler_id: uuid.UUID | None, screen: Screen, seed: int) -> SessionHandle:
        key, owner = uuid.uuid4(), device if angler_id is None else angler_id
        order = Order(
            session_id=key,
            device=device,
            plan=plan,
            seed=seed,
            angler_id=angler_id,
            screen=screen,
            ping_hz=self._settings.ping_hz,
            idle_end_s=self._settings.idle_end_s,
            first_viewer_s=self._settings.first_viewer_s,
            run_dir=self._settings.run_dir,
            known=known_of(self._engine, plan, owner),
            spots=spots_on(self._engine, plan, owner),
        )
        return SessionHandle(
            order,
            Writer(self._engine, key, folder=self._settings.owed_dir),
            now=self._now,
            landed=lambda session, shot: self.landed(session, owner, shot),
        )

    def end(self, session_id: uuid.UUID) -> None:
        """End one session; the demo shots that its scripted angler made are trimmed to the newest."""
        session = self.find(session_id)
        if session is not None:
            session.stop()
            store.trim_demo(self._engine)

    def end_all(self) -> None:
        """End every session."""
        for session in self.running():
            session.stop()
