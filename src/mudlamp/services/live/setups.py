"""Named set-ups of somebody: the receiver's controls under a name."""

import datetime as dt
import uuid
from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from sqlalchemy import Engine

from mudlamp.core.controls import RECEIVER, Value
from mudlamp.core.errors import DomainError, MissingError
from mudlamp.core.records.library import NamedSetup
from mudlamp.core.setup import ReceiverSetup, values_of, with_settings
from mudlamp.services.edge.controls import read_settings, stored_edge_values
from mudlamp.store import library as store


@dataclass(frozen=True, slots=True, kw_only=True)
class SetupAnswer:
    """A named set-up: its controls by their edge names, in the edge's units."""

    id: uuid.UUID
    name: str
    values: Mapping[str, Value]
    created_at: dt.datetime


def _answer(kept: NamedSetup) -> SetupAnswer:
    return SetupAnswer(id=kept.id, name=kept.name, values=stored_edge_values(kept.values), created_at=kept.created_at)


class SetupShelf:
    """The named set-ups of everybody."""

    def __init__(self, engine: Engine) -> None:
        self._engine = engine

    def all(self, owner: uuid.UUID) -> Sequence[SetupAnswer]:
        """Return somebody's named set-ups by name."""
        return [_answer(one) for one in store.setups(self._engine, owner)]

    def save(self, owner: uuid.UUID, name: str, given: Mapping[str, object], *, now: dt.datetime) -> SetupAnswer:
        """Save a set-up, given by edge names, under a name; the same name again takes the new values. Raises DomainError for a bad one."""
        cleaned = name.strip()
        if not cleaned:
            raise DomainError("name is blank: it must be 1 to 60 characters")
        setup = with_settings(ReceiverSetup(), *read_settings(given, RECEIVER, what="of the receiver"))
        return _answer(store.save_setup(self._engine, owner, cleaned, values_of(setup), now=now))

    def remove(self, owner: uuid.UUID, key: uuid.UUID) -> None:
        """Delete a named set-up; raise MissingError where there is none of that key."""
        if not store.remove_setup(self._engine, owner, key):
            raise MissingError("There is no set-up with that key of yours.")
