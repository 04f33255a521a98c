"""All sessions of this process: at most so many at once, found again by the browser they belong to."""

import datetime as dt
import secrets
import threading
import uuid
from collections.abc import Callable

from sqlalchemy import Engine

from mudlamp.core.errors import UnavailableError
from mudlamp.formats.scene_file import load_scene
from mudlamp.services.session import LampSession
from mudlamp.services.settings import Settings
from mudlamp.services.writer import Writer
from mudlamp.store import log as store


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

    def open(self, device: uuid.UUID, scene_name: str, *, angler_id: uuid.UUID | None, seed: int | None = None) -> LampSession:
        """Return the running session of a browser, or a new one on a scene; raise UnavailableError when the house is full."""
        scene = load_scene(scene_name)
        with self._lock:
            self._sweep()
            found = next((session for session in self._all.values() if session.device == device), None)
            if found is not None:
                return found
            if len(self._all) >= self._settings.sessions:
                raise UnavailableError(
                    f"{len(self._all)} sessions are running, and {self._settings.sessions} is the most at once: try again when one has ended"
                )
            key = uuid.uuid4()
            session = LampSession(
                session_id=key,
                device=device,
                scene=scene,
                seed=secrets.randbelow(2**31) if seed is None else seed,
                writer=Writer(self._engine, key),
                angler_id=angler_id,
                ping_hz=self._settings.ping_hz,
                idle_end_s=self._settings.idle_end_s,
                script_rest_s=self._settings.script_rest_s,
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
