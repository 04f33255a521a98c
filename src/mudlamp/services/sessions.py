"""All sessions of this process: at most so many at once, found again by the browser they belong to."""

import datetime as dt
import secrets
import threading
import uuid
from collections.abc import Callable

from sqlalchemy import Engine

from mudlamp.core.errors import UnavailableError
from mudlamp.services.session import LampSession
from mudlamp.services.settings import Settings
from mudlamp.services.waters import Water
from mudlamp.services.writer import Writer
from mudlamp.store import log as store

WaterMaker = Callable[[int], Water]


class Sessions:
    """Opens, finds and ends sessions."""

    def __init__(self, engine: Engine, settings: Settings, *, now: Callable[[], dt.datetime]) -> None:
        self._engine = engine
        self._settings = settings
        self._now = now
        self._all: dict[uuid.UUID, LampSession] = {}
        self._lock = threading.Lock()

    def _sweep(self) -> None:
        for key in [key for key, session in self._all.items() if session.ended]:
            del self._all[key]

    def running(self) -> list[LampSession]:
        """Return the sessions that run."""
        with self._lock:
            self._sweep()
            return list(self._all.values())

    def find(self, session_id: uuid.UUID) -> LampSession | None:
        """Return a running session by key, or None."""
        with self._lock:
            self._sweep()
            return self._all.get(session_id)

    def of_device(self, device: uuid.UUID) -> LampSession | None:
        """Return the running session of a browser, or None."""
        with self._lock:
            self._sweep()
            return next((session for session in self._all.values() if session.device == device), None)

    def open(
        self, device: uuid.UUID, water: WaterMaker, *, angler_id: uuid.UUID | None, seed: int | None = None, anew: bool = False
    ) -> LampSession:
        """Return the running session of a browser, or a new one on the water that `water` makes of a seed.

        `anew` ends the running one first. Raises UnavailableError when the house is full; what `water` raises goes through.
        """
        found = self.of_device(device)
        if found is not None and not anew:
            return found
        picked = secrets.randbelow(2**31) if seed is None else seed
        made = water(picked)
        if found is not None:
            self.end(found.id)
        with self._lock:
            self._sweep()
            if len(self._all) >= self._settings.sessions:
                made.close()
                raise UnavailableError(
                    f"{len(self._all)} sessions are running, and {self._settings.sessions} is the most at once: try again when one has ended"
                )
            again = next((session for session in self._all.values() if session.device == device), None)
            if again is not None:
                made.close()
                return again
            key = uuid.uuid4()
            session = LampSession(
                session_id=key,
                device=device,
                water=made,
                seed=picked if made.source == "simulated" else None,
                writer=Writer(self._engine, key),
                angler_id=angler_id,
                ping_hz=self._settings.ping_hz,
                idle_end_s=self._settings.idle_end_s,
                now=self._now,
            )
            self._all[key] = session
            return session

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
