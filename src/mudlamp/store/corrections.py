"""Queries of what anglers corrected: tracks, with what was measured of them."""

import uuid
from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from sqlalchemy import Engine, func, select

from mudlamp.store.database import work
from mudlamp.store.models import TrackRow
from mudlamp.store.scope import EVERYBODY


@dataclass(frozen=True, slots=True, kw_only=True)
class Corrected:
    """A track that an angler said what it is: in which session, what they said, and its looks (traits by name)."""

    session_id: uuid.UUID
    said: str
    looks: Sequence[Mapping[str, float | None]]


def corrected_tracks(engine: Engine) -> list[Corrected]:
    """Return everybody's corrected tracks that have looks, session by session, the demo's left out."""
    with work(engine, EVERYBODY) as session:
        query = select(TrackRow.session_id, TrackRow.said, TrackRow.looks).where(
            TrackRow.said.is_not(None), func.jsonb_array_length(TrackRow.looks) > 0, TrackRow.source != "demo"
        )
        rows = session.execute(query.order_by(TrackRow.session_id, TrackRow.first_s)).all()
        return [Corrected(session_id=key, said=said, looks=looks) for key, said, looks in rows if said is not None]
