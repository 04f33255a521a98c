"""The house put together: the database made ready, and all desks on it."""

import datetime as dt
import shutil
import threading
import uuid
from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace

from sqlalchemy import Engine

from mudlamp.core.receiver.screen import Screen
from mudlamp.services.boat.desk import BoatDesk
from mudlamp.services.cards.desk import CardDesk
from mudlamp.services.cast.desk import CastDesk
from mudlamp.services.demo import ensure_demo
from mudlamp.services.doors.pairing import PairingDesk
from mudlamp.services.example import example_card
from mudlamp.services.feed.listener import Listener
from mudlamp.services.find.desk import FindDesk
from mudlamp.services.find.spot_book import SpotBook
from mudlamp.services.find.voyage import Voyages
from mudlamp.services.jobs import Jobs
from mudlamp.services.keep.desk import KeepDesk
from mudlamp.services.live.again import open_again
from mudlamp.services.live.handle import SessionHandle
from mudlamp.services.live.owed import settle_all
from mudlamp.services.live.registry import Sessions
from mudlamp.services.live.setups import SetupShelf
from mudlamp.services.log.desk import LogDesk
from mudlamp.services.log.launch import LaunchDesk
from mudlamp.services.recordings.library import Library
from mudlamp.services.rig.desk import RigDesk
from mudlamp.services.secrets import cookie_secrets
from mudlamp.services.settings import Settings
from mudlamp.services.trips.behind import FishMinutes
from mudlamp.services.trips.desk import TripDesk
from mudlamp.services.trips.photos import Photos
from mudlamp.services.trips.review import ReviewDesk
from mudlamp.services.water.plans import Waters
from mudlamp.store import database
from mudlamp.store import log as store
from mudlamp.store.deleted import purge
from mudlamp.store.pulse import Pulse, is_away

# How long the first page has the processor to itself after the start [s].
FIRST_PAGE_S = 0.5


@dataclass(frozen=True, slots=True, kw_only=True)
class House:
    """All desks, at which the pages and the HTTP API knock."""

    settings: Settings
    sessions: Sessions
    waters: Waters
    library: Library
    setups: SetupShelf
    jobs: Jobs
    rigs: RigDesk
    cards: CardDesk
    casts: CastDesk
    boat: BoatDesk
    find: FindDesk
    spots: SpotBook
    pairing: PairingDesk
    log: LogDesk
    launch: LaunchDesk
    trips: TripDesk
    keep: KeepDesk
    review: ReviewDesk
    # The boat's instruments, where there are any to listen to.
    feed: Listener | None
    engine: Engine
    # What cookies are signed with.
    secrets: Sequence[str]
    # Of a house that serves: whether its database answers is known before anybody asks.
    pulse: Pulse | None = None

    def now(self) -> dt.datetime:
        """Return the present time in UTC."""
        return _now()

    def database_answers(self) -> bool:
        """Return whether the database answers: at once, in a house that serves."""
        return database.is_up(self.engine) if self.pulse is None else not is_away(self.engine)

    def free_gb(self) -> float:
        """Return how much room is left for recordings [GB]."""
        self.settings.run_dir.mkdir(parents=True, exist_ok=True)
        return shutil.disk_usage(self.settings.run_dir).free / 1e9

    def open_again(
        self, session_id: uuid.UUID, *, owner: uuid.UUID, device: uuid.UUID, angler_id: uuid.UUID | None, screen: Screen
    ) -> SessionHandle:
        """Return a browser's session where it runs still, else a new one on its water with its set-up; raise MissingError where it cannot be."""
        running = self.sessions.find(session_id)
        if running is not None and running.device == device:
            return running
        detail = self.log.session(owner, session_id, with_demo=False)
        return open_again(self.sessions, self.waters, detail, device=device, angler_id=angler_id, screen=screen)

    def close(self) -> None:
        """Cancel long work, end all sessions, and wait for both."""
        self.jobs.end_all()
        self.sessions.end_all()
        self.find.voyages.end_all()
        if self.pulse is not None:
            self.pulse.stop()
        if self.feed is not None:
            self.feed.stop()


def _now() -> dt.datetime:
    return dt.datetime.now(dt.UTC)


def house_on(engine: Engine, settings: Settings) -> House:
    """Return the house on a database that is migrated already."""
    jobs, library = Jobs(), Library(engine, settings, now=_now)
    rigs, casts = RigDesk(engine, jobs), CastDesk(engine, now=_now)
    spots = SpotBook(engine, now=_now)
    boat = BoatDesk(engine, jobs, rigs, casts, now=_now)
    trips = TripDesk(engine, boat, Photos(engine, settings), now=_now)
    sessions = Sessions(engine, settings, now=_now)
    sessions.landed = FishMinutes(engine, jobs, library).landed
    return House(
        settings=settings,
        sessions=sessions,
        waters=Waters(library, script_rest_s=settings.script_rest_s),
        library=library,
        setups=SetupShelf(engine),
        jobs=jobs,
        rigs=rigs,
        cards=CardDesk(engine, jobs, rigs),
        casts=casts,
        boat=boat,
        find=FindDesk(Voyages(settings.run_dir), spots, now=_now),
        spots=spots,
        pairing=PairingDesk(engine, now=_now),
        log=LogDesk(engine),
        launch=LaunchDesk(engine, now=_now),
        trips=trips,
        review=ReviewDesk(engine, jobs, boat),
        keep=KeepDesk(engine, jobs, trips, library, settings, now=_now),
        feed=Listener(engine, settings.nmea, now=_now) if settings.nmea else None,
        engine=engine,
        secrets=cookie_secrets(settings.run_dir, now=_now()),
    )


def house_at(settings: Settings) -> House:
    """Return the house on the database of the settings, made and migrated where it is not."""
    database.ensure_database(settings.database_url)
    engine = database.connect(settings.database_url)
    database.migrate(engine)
    return house_on(engine, settings)


def open_house(settings: Settings, *, fresh: bool, prepare: Callable[[], None]) -> House:
    """Make the database ready (emptied first where `fresh`) and return the house.

    The demo is made, where the settings want one, and `prepare` is done beside it, a moment later: neither keeps the first page waiting.
    """
    house = house_at(settings)
    engine = house.engine
    if fresh:
        store.empty(engine)
    settle_all(engine, settings.owed_dir)
    store.mark_interrupted(engine, now=_now())
    house = replace(house, pulse=Pulse(engine, folder=settings.run_dir, least_free_bytes=settings.database_free_bytes))
    if house.feed is not None:
        house.feed.start()
    for work in (prepare, lambda: _tidy(house)):
        beside = threading.Timer(FIRST_PAGE_S, work)
        beside.daemon = True
        beside.start()
    return house


def _tidy(house: House) -> None:
    # Before somebody asks for it.
    example_card()
    if house.settings.demo:
        ensure_demo(house.engine)
    house.library.sweep()
    purge(house.engine, now=_now())
    house.trips.photos.sweep()
    house.keep.sweep()
