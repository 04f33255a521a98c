"""The desk of the log: sessions, corrections, who fishes."""

import datetime as dt
import uuid
from collections.abc import Mapping, Sequence
from dataclasses import replace

from sqlalchemy import Engine

from mudlamp.core.errors import DomainError, MissingError
from mudlamp.core.reactions import Reaction
from mudlamp.core.records.library import Recording
from mudlamp.core.records.log import Angler, LoggedReaction, SessionDetail, SessionSummary
from mudlamp.core.records.shots import FoundText
from mudlamp.services.edge.controls import stored_edge_values
from mudlamp.services.log.codes import Codes
from mudlamp.services.log.replays import recordings_of
from mudlamp.services.log.review import Review, Word, review
from mudlamp.services.log.shot_list import ShotPage, search, shot_page
from mudlamp.services.words.demo import DEMO_ANGLER
from mudlamp.store import log as store
from mudlamp.store import rigs as rig_store


class LogDesk:
    """What happened, and who was there."""

    def __init__(self, engine: Engine) -> None:
        self._engine = engine
        self._codes = Codes()

    def sessions(self, owner: uuid.UUID, *, with_demo: bool, limit: int, before: dt.datetime | None = None) -> Sequence[SessionSummary]:
        """Return somebody's logged sessions, newest first; the demo only where it is asked for."""
        return store.sessions(self._engine, owner, with_demo=with_demo, limit=limit, before=before)

    def demo_trips(self) -> Sequence[SessionSummary]:
        """Return the demo angler's trips, newest first."""
        return store.demo_trips(self._engine)

    def session(self, owner: uuid.UUID, key: uuid.UUID, *, with_demo: bool) -> SessionDetail:
        """Return one of somebody's logged sessions, or of the demo's; raise MissingError where there is none of that key."""
        found = store.session_detail(self._engine, owner, key, with_demo=with_demo)
        if found is None:
            raise MissingError("You have no session with that key.")
        return found

    def recordings(self, owner: uuid.UUID, session: uuid.UUID, *, now: dt.datetime) -> Sequence[Recording]:
        """Return somebody's recordings of a session, by when they begin."""
        return recordings_of(self._engine, owner, [session], now=now)

    def review(self, owner: uuid.UUID, detail: SessionDetail, word: Word) -> Review:
        """Return what the shots of one of somebody's sessions (or of the demo's) show, leaned on earlier ones on the same water."""
        return review(detail, store.past_shots(self._engine, owner, detail.summary), word)

    def correct(self, owner: uuid.UUID, key: uuid.UUID, token: str) -> LoggedReaction:
        """Take the angler's word for a reaction of theirs (empty: take it back); the machine's is kept beside it.

        Raises DomainError for a word that is none of the list, MissingError where there is no reaction of that key.
        """
        if token and token not in list(Reaction):
            raise DomainError(f"token is {token[:30]}: it must be one of {', '.join(Reaction)}")
        found = store.correct_reaction(self._engine, owner, key, token or None)
        if found is None:
            raise MissingError("You have no reaction with that key.")
        return found

    def shots(self, owner: uuid.UUID, given: Mapping[str, object], *, page: int, zone: dt.tzinfo | None, with_demo: bool) -> ShotPage:
        """Return a page of somebody's shots, narrowed and sorted as a form says."""
        return shot_page(self._engine, owner, given, page=page, zone=zone, with_demo=with_demo)

    def search(self, owner: uuid.UUID, text: str) -> Sequence[FoundText]:
        """Return what of somebody's log holds the words of a text."""
        return search(self._engine, owner, text)

    def angler(self, key: uuid.UUID) -> Angler | None:
        """Return an angler by key, or None."""
        return store.angler(self._engine, key)

    def remember_angler(self, name: str, *, device: uuid.UUID, known: uuid.UUID | None, code: str, now: dt.datetime) -> Angler:
        """Return the angler of a name, made where new; what the browser made before anybody said who fishes is theirs from now on.

        `known` is the angler that the browser acts as. To become another who is there already takes a code, which only the terminal shows
        that the application runs in. Raises DomainError for a name that cannot be, or without the right code.
        """
        if " ".join(name.split()) == DEMO_ANGLER:
            raise DomainError(f"name is {DEMO_ANGLER}: it must be another, this is the demo's")
        found, is_new = store.remember_angler(self._engine, name, now=now)
        if not is_new and found.id != known:
            self._codes.check(found, code)
        store.adopt(self._engine, device, found.id)
        rig_store.adopt(self._engine, device, found.id)
        return found


def edge_detail(detail: SessionDetail) -> SessionDetail:
    """Return a session with its set-ups by their edge names, in the edge's units."""
    return replace(detail, setups=[replace(one, values=stored_edge_values(one.values)) for one in detail.setups])
