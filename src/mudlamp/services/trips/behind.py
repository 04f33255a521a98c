"""The minute behind a fish: as a fish is landed on a trip, the minute before it is kept as a recording."""

import uuid

import structlog
from sqlalchemy import Engine

from mudlamp.core.errors import MudLampError
from mudlamp.core.records.log import ShotRecord
from mudlamp.services.jobs import Job, Jobs
from mudlamp.services.live.handle import SessionHandle
from mudlamp.services.recordings.library import Library
from mudlamp.store import trips as store

# What is kept by itself leaves the rest of the quota to what the angler saves [share].
MOST_TAKEN = 0.5


class FishMinutes:
    """Keeps the minutes behind fish."""

    def __init__(self, engine: Engine, jobs: Jobs, library: Library) -> None:
        self._engine, self._jobs, self._library = engine, jobs, library

    def landed(self, session: SessionHandle, owner: uuid.UUID, shot: ShotRecord) -> None:
        """Start keeping the minute behind a fish, where a trip of the shot's source is under way and there is room; a fish is never lost by it."""

        def work(job: Job) -> str:
            # Here, not where the session waits for its line to be read.
            trip = store.trip_under_way(self._engine, owner)
            if trip is None or trip.source != shot.source:
                return ""
            kept = self._library.keep_minute(
                owner,
                session.last_minute(),
                name=f"shot {shot.number}, landed",
                source=session.plan.source,
                session_id=session.id,
                most_taken=MOST_TAKEN,
                progress=job.progress,
            )
            return str(kept.id)

        try:
            self._jobs.start(session.device, f"keep the minute behind shot {shot.number}", work)
        except MudLampError as error:
            structlog.get_logger().warning("the minute behind a fish was not kept", why=str(error))
