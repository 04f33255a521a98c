"""The desk of the review: all trips of a source at once, worked out once and remembered until something changes; the last time like this."""

import datetime as dt
import hashlib
import statistics
import uuid
from collections import Counter
from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from sqlalchemy import Engine

from mudlamp.core.fishing.answers import Presentation, presentation
from mudlamp.core.fishing.reviewing import binned, part_of_day
from mudlamp.core.reactions import Reaction
from mudlamp.core.records.boat import BoatEntry
from mudlamp.core.records.log import TripRecord
from mudlamp.core.records.trips import Catch, Condition
from mudlamp.core.units import degf_from_degc, feet
from mudlamp.services.boat.desk import BoatDesk
from mudlamp.services.jobs import Jobs, WorkedOut
from mudlamp.services.log.reviewing import LongReview, long_review, sun, weather
from mudlamp.store import catches as catch_store
from mudlamp.store import review as store
from mudlamp.store import trips as trip_store

MOST_ACTS, MOST_TRIPS = 5000, 400
# Water within this of another is as warm [deg C].
LIKE_DEGC = 3.0
MOST_LIKE = 3
TOKENS = frozenset(Reaction)


@dataclass(frozen=True, slots=True, kw_only=True)
class LastTime:
    """Earlier trips on water like today's: what it was like, how many fish came of it, with which lures, how deep (the middle) [m]."""

    clarity: str
    water_degc: float | None
    trips: Sequence[TripRecord]
    fish: int
    lures: Sequence[str]
    depth_m: float | None


class ReviewDesk:
    """What the trips of all owners show."""

    def __init__(self, engine: Engine, jobs: Jobs, boat: BoatDesk) -> None:
        self._engine, self._jobs, self._boat = engine, jobs, boat
        self._worked_out: WorkedOut[LongReview] = WorkedOut()

    def sources(self, owner: uuid.UUID) -> list[str]:
        """Return the sources that an owner has something of, real days first."""
        found = store.sources(self._engine, owner)
        acts = any(one.entry.kind == "outcome" for one in self._boat.told(owner, limit=1))
        order = ("real", "recorded", "simulated")
        return [name for name in order if found.get(name) or (name == "real" and acts)]

    def review(self, owner: uuid.UUID, device: uuid.UUID, source: str, zone: dt.tzinfo | None) -> LongReview:
        """Return what an owner's trips of a source show; equal questions share one piece of work."""
        told = self._boat.told(owner, limit=MOST_ACTS) if source == "real" else []
        mark = (
            store.mark_of(self._engine, owner, source),
            repr([(one.entry.id, one.entry.values) for one in told]),
            repr(catch_store.catches(self._engine, owner, source=source)),
            repr(store.conditions(self._engine, owner)),
            repr([(one.id, one.latitude_deg, one.longitude_deg) for one in trip_store.trips(self._engine, owner, limit=MOST_TRIPS)]),
            len(store.landings(self._engine, owner)),
        )
        # A review that is under way of what was there a moment ago is another piece of work.
        digest = hashlib.sha256(repr(mark).encode()).hexdigest()

        def work() -> LongReview:
            return long_review(self._engine, owner, source, self._presented(owner, [one.entry for one in told], zone), zone)

        return self._worked_out.of((owner, source, str(zone), digest), lambda act: self._jobs.start(device, "review the log", act), work)

    def _presented(self, owner: uuid.UUID, acts: Sequence[BoatEntry], zone: dt.tzinfo | None) -> list[Presentation]:
        """Return the casts noted in the boat as presentations, oldest first."""
        trips = [one for one in trip_store.trips(self._engine, owner, limit=MOST_TRIPS) if one.started_at is not None]
        conditions = store.conditions(self._engine, owner)
        found, water = [], {}
        for act in acts:
            if act.kind == "move":
                water = {name: str(act.values[name]) for name in ("clarity", "sky") if act.values.get(name)} | {"on": str(act.at.date())}
            token = act.values.get("token")
            if act.kind != "outcome" or token not in TOKENS:
                continue
            here = {name: text for name, text in water.items() if name != "on"} if water.get("on") == str(act.at.date()) else {}
            trip = next((one for one in trips if one.started_at is not None and one.started_at <= act.at <= (one.ended_at or act.at)), None)
            noted: Sequence[Condition] = () if trip is None else conditions.get(trip.id, ())
            place = None if trip is None else (trip.latitude_deg, trip.longitude_deg)
            found.append(presentation(_of_act(act, zone) | here | weather(noted, act.at) | sun(place, act.at), [str(token)]))
        return found

    def last_time(self, owner: uuid.UUID, *, now: dt.datetime) -> LastTime | None:
        """Return what earlier trips on water like the newest conditions of the trip under way brought; None where there is nothing to compare."""
        under_way = trip_store.trip_under_way(self._engine, owner)
        if under_way is None:
            return None
        conditions = store.conditions(self._engine, owner)
        clarity, warm = _state(conditions.get(under_way.id, ()))
        return self.last_time_like(owner, clarity=clarity, water_degc=warm, source=under_way.source, now=now, but=under_way.id)

    def last_time_like(
        self, owner: uuid.UUID, *, clarity: str, water_degc: float | None, source: str, now: dt.datetime, but: uuid.UUID | None = None
    ) -> LastTime | None:
        """Return what an owner's earlier trips of a source on water so clear and so warm brought; None where there is nothing to compare."""
        if not clarity and water_degc is None:
            return None
        conditions = store.conditions(self._engine, owner)
        here = (clarity, water_degc)
        past = [
            one
            for one in trip_store.trips(self._engine, owner, limit=MOST_TRIPS)
            if one.id != but and one.source == source and one.day < now and _is_like(_state(conditions.get(one.id, ())), here)
        ][:MOST_LIKE]
        if not past:
            return None
        keys = {one.id for one in past}
        caught = [one for one in catch_store.catches(self._engine, owner, source=source) if one.trip_id in keys]
        return _told(here, past, caught)


def _of_act(act: BoatEntry, zone: dt.tzinfo | None) -> dict[str, str]:
    values: Mapping[str, object] = act.values
    found = {name: str(values[key]) for name, key in (("lure", "lure"), ("rod", "rod_name")) if values.get(key)}
    out, deep = values.get("out_ft"), values.get("depth_ft")
    if isinstance(out, int | float):
        found["distance"] = binned(out, (10.0, 20.0, 30.0, 40.0), "ft")
    if isinstance(deep, int | float):
        found["lure's depth"] = binned(deep, (5.0, 10.0, 15.0, 20.0, 30.0), "ft")
    at = act.at.astimezone(zone)
    return found | {"part of day": part_of_day(at.hour + at.minute / 60.0)}


def _state(noted: Sequence[Condition]) -> tuple[str, float | None]:
    """Return how clear and how warm the water was: the newest that was said of each."""
    clarity = next((one.clarity for one in reversed(noted) if one.clarity), "") or ""
    return clarity, next((one.water_degc for one in reversed(noted) if one.water_degc is not None), None)


def _is_like(one: tuple[str, float | None], here: tuple[str, float | None]) -> bool:
    """Return whether two waters are alike in all that is known of today's: what is not known of the other is not like it."""
    clear = not here[0] or one[0] == here[0]
    warm = here[1] is None or (one[1] is not None and abs(one[1] - here[1]) <= LIKE_DEGC)
    return clear and warm


def _told(here: tuple[str, float | None], past: Sequence[TripRecord], caught: Sequence[Catch]) -> LastTime:
    depths = [one.depth_m for one in caught if one.depth_m is not None]
    return LastTime(
        clarity=here[0],
        water_degc=here[1],
        trips=past,
        fish=len(caught),
        lures=[name for name, _ in Counter(one.lure for one in caught if one.lure).most_common(2)],
        depth_m=statistics.median(depths) if depths else None,
    )


def last_time_words(one: LastTime | None, zone: dt.tzinfo | None) -> list[str]:
    """Return the last time like this in sentences, its days on the angler's clock; none where there is nothing to compare."""
    if one is None:
        return []
    water = " ".join(
        part for part in (one.clarity, "water", "" if one.water_degc is None else f"at {degf_from_degc(one.water_degc):.0f}°F") if part
    )
    days = ", ".join(f"{trip.day.astimezone(zone):%b %-d} ({trip.title})" for trip in one.trips)
    found = [f"Last {len(one.trips)} {'times' if len(one.trips) != 1 else 'time'} in {water}: {days}; {one.fish} fish."]
    if one.lures or one.depth_m is not None:
        lures = f"Most on {' and '.join(one.lures)}" if one.lures else "They were caught"
        deep = f", {feet(one.depth_m):.0f} ft deep" if one.depth_m is not None else ""
        found.append(f"{lures}{deep}. What happened then, not what will happen today.")
    return found
