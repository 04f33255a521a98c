"""The day's photos dropped in: each becomes a catch at its own time, with the rod and the lure that were in force then."""

import datetime as dt
import uuid
from collections import Counter
from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace

from mudlamp.core.errors import DomainError
from mudlamp.services.trips.desk import MOST_CATCHES, OpenTrip
from mudlamp.services.trips.fields import new_catch
from mudlamp.services.trips.photos import Photos, pictured

MOST_AT_ONCE = 60


@dataclass(frozen=True, slots=True, kw_only=True)
class Dropped:
    """What became of photos: how many were kept, how many were there already, what is wrong with the others."""

    kept: int
    same: int
    problems: Sequence[str]


@dataclass(frozen=True, slots=True, kw_only=True)
class InForce:
    """What was fished with at a moment, as far as it was noted."""

    rod: str = ""
    lure: str = ""


def in_force(one: OpenTrip, at: dt.datetime) -> InForce:
    """Return the rod and the lure in force at a moment of a trip: the newest that were noted by then."""
    noted: list[tuple[dt.datetime, InForce]] = [
        (act.at, InForce(rod=str(act.values.get("rod_name", "")), lure=str(act.values.get("lure", ""))))
        for act in one.acts
        if act.kind in ("outcome", "tied")
    ]
    noted += [
        (session.summary.started_at, InForce(rod=str(session.known.get("rod", "")), lure=str(session.known.get("lure", ""))))
        for session in one.sessions
    ]
    before = [pair for pair in noted if pair[0] <= at and (pair[1].rod or pair[1].lure)]
    return max(before, key=lambda pair: pair[0])[1] if before else InForce()


def drop(
    photos: Photos,
    one: OpenTrip,
    files: Sequence[tuple[str, Callable[[], bytes]]],
    *,
    owner: uuid.UUID,
    zone: dt.tzinfo | None,
    now: dt.datetime,
) -> Dropped:
    """Take in photos, each by its name and how to read it: one that is wrong is named and loses no other.

    Raises DomainError for more than MOST_AT_ONCE.
    """
    if len(files) > MOST_AT_ONCE:
        raise DomainError(f"photos are {len(files)}: there may be {MOST_AT_ONCE} at once")
    species = Counter(each.species for each in one.catches).most_common(1)
    kept, same, problems = 0, 0, []
    for name, read in files:
        try:
            if len(one.catches) + kept >= MOST_CATCHES:
                raise DomainError(f"{name[:60]}: this trip has {MOST_CATCHES} fish, that is the most")
            picture = pictured(read(), name=name, zone=zone)
            at = picture.taken_at or one.trip.day
            with_what = in_force(one, at)
            caught = replace(
                new_catch(owner, one.trip, source=one.trip.source, at=at),
                species=species[0][0] if species else "other",
                rod=with_what.rod,
                lure=with_what.lure,
            )
            if photos.add(owner, picture, caught, now=now):
                kept += 1
            else:
                same += 1
        except DomainError as error:
            problems.append(str(error))
    return Dropped(kept=kept, same=same, problems=problems)
