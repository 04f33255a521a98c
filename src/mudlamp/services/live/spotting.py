"""A mark on the live picture kept as a spot."""

import uuid
from dataclasses import dataclass, replace

from sqlalchemy import Engine

from mudlamp.core.errors import DomainError, require_choice, require_range
from mudlamp.core.plane import FanPlane
from mudlamp.core.records.spots import SPOT_KINDS, Spot
from mudlamp.core.searching.pictured import pictured
from mudlamp.services.find.spot_book import SpotBook
from mudlamp.services.live.handle import SessionHandle
from mudlamp.services.live.known import spots_on
from mudlamp.services.live.messages import ShowSpots

NO_PLACE = "this is a recording: it does not say where the boat was, so no spot can be kept from it"
NO_PICTURE = "there is no picture yet: try again in a moment"
FARTHEST_M = 120.0


@dataclass(frozen=True, slots=True, kw_only=True)
class Tapped:
    """A mark that was tapped: how far ahead and to the right [m], how deep [m] (None: a plan does not say), what it is, a note."""

    ahead_m: float
    across_m: float
    depth_m: float | None
    kind: str
    note: str


def keep_tapped(book: SpotBook, session: SessionHandle, owner: uuid.UUID, tapped: Tapped) -> Spot:
    """Keep a mark on a session's picture as a spot of an owner's; raise DomainError where it cannot be one."""
    require_choice("kind", tapped.kind, SPOT_KINDS)
    require_range("ahead_m", tapped.ahead_m, -FARTHEST_M, FARTHEST_M)
    require_range("across_m", tapped.across_m, -FARTHEST_M, FARTHEST_M)
    where = session.plan.where
    if where is None:
        raise DomainError(NO_PLACE)
    shown = session.picture()
    if shown is None:
        raise DomainError(NO_PICTURE)
    setup = shown.ping.setup
    found = pictured(
        shown.ping.pose,
        ahead_m=tapped.ahead_m,
        across_m=tapped.across_m,
        is_flat=FanPlane.of(shown.ping).is_flat,
        thickness_rad=setup.thickness_rad,
    )
    return book.put_pictured(
        owner,
        where.water,
        replace(found, x_m=found.x_m + where.x_m, y_m=found.y_m + where.y_m),
        kind=tapped.kind,
        note=tapped.note,
        depth_m=tapped.depth_m,
    )


def show_spots(engine: Engine, session: SessionHandle | None, owner: uuid.UUID) -> None:
    """Tell an owner's session, where one runs, which spots there are on its water now."""
    if session is not None:
        session.command(ShowSpots(spots=spots_on(engine, session.plan, owner)))
