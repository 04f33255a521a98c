"""The desk of trips: days on the water, made by hand, with their weather, moves, fish and limits."""

import datetime as dt
import uuid
from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, replace

from sqlalchemy import Engine

from mudlamp.core.errors import DomainError, MissingError
from mudlamp.core.fishing.bag import Best, Kept, best_of, kept_of
from mudlamp.core.fishing.day import Day, day_of
from mudlamp.core.records.boat import BoatEntry
from mudlamp.core.records.library import Recording
from mudlamp.core.records.log import SessionDetail, TripRecord
from mudlamp.core.records.spots import Spot
from mudlamp.core.records.trips import BagRule, BoatPoint, Catch, Condition, Move, Photo
from mudlamp.services.boat.desk import BoatDesk
from mudlamp.services.edge import forms
from mudlamp.services.edge.forms import Read
from mudlamp.services.edge.weights import ounces
from mudlamp.services.log.replays import recordings_of
from mudlamp.services.log.timeline import LANDED
from mudlamp.services.trips.fields import (
    CATCH_FIELDS,
    CONDITION_FIELDS,
    HALF_A_PLACE,
    MOVE_FIELDS,
    RULE_FIELDS,
    TRIP_FIELDS,
    catch_of,
    condition_of,
    moment,
    move_of,
    new_catch,
    rule_of,
    trip_of,
)
from mudlamp.services.trips.photos import Photos
from mudlamp.services.trips.track import points_of_gpx, soundings_geojson, track_gpx
from mudlamp.store import catches as catch_store
from mudlamp.store import deleted as deleted_store
from mudlamp.store import log as log_store
from mudlamp.store import rigs as rig_store
from mudlamp.store import trips as store
from mudlamp.store.database import in_one

NO_TRIP = "You have no trip with that key."
NO_CATCH = "You have no catch with that key."
MOST_CATCHES = 500


@dataclass(frozen=True, slots=True, kw_only=True)
class Landed:
    """A fish that was landed by the record and is no catch yet: its key to be, when, what is known of it."""

    caught: Catch
    where: str


@dataclass(frozen=True, slots=True, kw_only=True)
class OpenTrip:
    """A trip with all that belongs to it."""

    trip: TripRecord
    is_own: bool
    rig: str
    conditions: Sequence[Condition]
    moves: Sequence[Move]
    sessions: Sequence[SessionDetail]
    acts: Sequence[BoatEntry]
    recordings: Sequence[Recording]
    points: Sequence[BoatPoint]
    catches: Sequence[Catch]
    photos: Mapping[uuid.UUID, Photo]
    landed: Sequence[Landed]
    rules: Sequence[BagRule]
    day: Day
    kept: Sequence[Kept]
    best: Best


class TripDesk:
    """Trips of all owners."""

    def __init__(self, engine: Engine, boat: BoatDesk, photos: Photos, *, now: Callable[[], dt.datetime]) -> None:
        self._engine, self._boat, self.photos, self._now = engine, boat, photos, now

    def all(self, owner: uuid.UUID, *, limit: int, before: dt.datetime | None = None) -> Sequence[TripRecord]:
        """Return the owner's trips, newest day first."""
        return store.trips(self._engine, owner, limit=limit, before=before)

    def find(self, owner: uuid.UUID, key: uuid.UUID) -> TripRecord:
        """Return one of the owner's trips, or of the demo's; raise MissingError where there is none of that key."""
        found = store.find_trip(self._engine, owner, key)
        if found is None:
            raise MissingError(NO_TRIP)
        return found

    def own(self, owner: uuid.UUID, key: uuid.UUID) -> TripRecord:
        """Return one of the owner's trips; raise MissingError where there is none of that key, or where it is the demo's."""
        found = self.find(owner, key)
        if found.owner is None:
            raise MissingError(NO_TRIP)
        return found

    def under_way(self, owner: uuid.UUID) -> TripRecord | None:
        """Return the owner's trip that is under way, or None."""
        return store.trip_under_way(self._engine, owner)

    # The day.

    def write(
        self, owner: uuid.UUID, given: Mapping[str, object], zone: dt.tzinfo | None, *, key: uuid.UUID | None = None
    ) -> tuple[TripRecord | None, Read]:
        """Plan a trip, or change one; nothing is kept where a field is wrong."""
        found = forms.read(TRIP_FIELDS, given)
        was = None if key is None else self.own(owner, key)
        if found.problems:
            return None, found
        if (found.number("latitude") is None) != (found.number("longitude") is None):
            return None, replace(found, problems={"latitude": HALF_A_PLACE})
        rig = rig_store.active_rig(self._engine, owner)
        rig_id = was.rig_id if was is not None else None if rig is None else rig.id
        try:
            trip = trip_of(found, owner=owner, key=key or uuid.uuid4(), zone=zone, rig_id=rig_id, was=was)
        except DomainError as error:
            return None, replace(found, problems={"people": str(error)})
        store.put_trip(self._engine, trip)
        return trip, found

    def start(self, owner: uuid.UUID, key: uuid.UUID) -> TripRecord:
        """Begin a trip, or go on with one that was ended: what is fished from now on belongs to it. Another that is under way ends."""
        trip, now = self.own(owner, key), self._now()
        store.end_others(self._engine, owner, key, now=now)
        begun = replace(trip, started_at=trip.started_at or now, ended_at=None)
        store.put_trip(self._engine, begun)
        store.claim_running(self._engine, owner, begun)
        return begun

    def end(self, owner: uuid.UUID, key: uuid.UUID) -> TripRecord:
        """End a trip."""
        trip = self.own(owner, key)
        ended = trip if trip.started_at is None else replace(trip, ended_at=self._now())
        store.put_trip(self._engine, ended)
        return ended

    # What happened on it.

    def add_condition(self, owner: uuid.UUID, key: uuid.UUID, given: Mapping[str, object], zone: dt.tzinfo | None) -> Read:
        """Note the weather and the water of a moment; nothing is kept where a field is wrong, or where nothing was said."""
        trip, found = self.own(owner, key), forms.read(CONDITION_FIELDS, given)
        if not found.problems and all(value is None for name, value in found.values.items() if name != "time"):
            return replace(found, problems={"sky": "Nothing was said: give the sky, the wind, a temperature, the clarity or the pressure"})
        if not found.problems:
            store.put_part(self._engine, owner, condition_of(found, trip=key, at=self._at(trip, found, zone)))
        return found

    def add_move(self, owner: uuid.UUID, key: uuid.UUID, given: Mapping[str, object], zone: dt.tzinfo | None) -> Read:
        """Note a move; nothing is kept where a field is wrong."""
        trip, found = self.own(owner, key), forms.read(MOVE_FIELDS, given)
        if not found.problems:
            store.put_part(self._engine, owner, move_of(found, trip=key, at=self._at(trip, found, zone)))
        return found

    def visit(self, owner: uuid.UUID, spot: Spot, *, saw_fish: bool) -> None:
        """Note on the trip under way that one came to a spot; raise DomainError where no trip is."""
        trip = self.under_way(owner)
        if trip is None:
            raise DomainError("no trip is under way: start one first")
        move = Move(
            id=uuid.uuid4(), trip_id=trip.id, at=self._now(), place=f"{spot.kind} {spot.note}".strip()[:80],
            spot_id=spot.id, depth_m=spot.depth_m, saw_fish=saw_fish, note="",
        )  # fmt: skip
        store.put_part(self._engine, owner, move)

    def track_gpx(self, owner: uuid.UUID, key: uuid.UUID) -> bytes:
        """Return where the boat went on a trip of the owner's as GPX; raise MissingError where nobody said."""
        trip, points = self.own(owner, key), store.points(self._engine, owner, key)
        if not points:
            raise MissingError("Nobody said where the boat went on this trip.")
        return track_gpx(trip, points)

    def read_track(self, owner: uuid.UUID, key: uuid.UUID, data: bytes) -> int:
        """Keep where the boat went by a GPX file, in the place of what a file said before; return how many points. All or nothing."""
        points = points_of_gpx(data, self.own(owner, key))
        store.put_points(self._engine, owner, points, instead=True)
        return len(points)

    def soundings(self, owner: uuid.UUID, key: uuid.UUID) -> bytes:
        """Return the depths along a trip's track as GeoJSON; raise DomainError where nobody said any."""
        self.own(owner, key)
        return soundings_geojson(store.points(self._engine, owner, key))

    def remove_part(self, owner: uuid.UUID, key: uuid.UUID) -> None:
        """Delete a condition or a move; raise MissingError where there is none of that key."""
        if not store.delete_part(self._engine, owner, key):
            raise MissingError("You have noted no such thing.")

    def add_catch(self, owner: uuid.UUID, key: uuid.UUID, given: Mapping[str, object], zone: dt.tzinfo | None) -> Read:
        """Keep a fish of a trip; nothing is kept where a field is wrong. Raises DomainError for too many fish."""
        trip, found = self.own(owner, key), forms.read(CATCH_FIELDS, given)
        if found.problems:
            return found
        if len(catch_store.catches_of(self._engine, owner, trip)) >= MOST_CATCHES:
            raise DomainError(f"this trip has {MOST_CATCHES} fish: that is the most")
        at = self._at(trip, found, zone)
        self._put(catch_of(found, was=new_catch(owner, trip, source=trip.source, at=at), at=at))
        return found

    def change_catch(self, owner: uuid.UUID, key: uuid.UUID, given: Mapping[str, object], zone: dt.tzinfo | None) -> tuple[Catch, Read]:
        """Change a fish; nothing is kept where a field is wrong. Raises MissingError where there is none of that key."""
        was, found = self.catch(owner, key), forms.read(CATCH_FIELDS, given)
        if found.problems:
            return was, found
        day = was.at.astimezone(zone).date()
        now = catch_of(found, was=was, at=moment(day, found.values["time"], zone, instead=was.at))
        self._put(now)
        return now, found

    def catch(self, owner: uuid.UUID, key: uuid.UUID) -> Catch:
        """Return one of the owner's catches; raise MissingError where there is none of that key."""
        found = catch_store.find_catch(self._engine, owner, key)
        if found is None:
            raise MissingError(NO_CATCH)
        return found

    def take_landed(self, owner: uuid.UUID, key: uuid.UUID, landed: uuid.UUID) -> Catch:
        """Make a catch of a fish that was landed by the record; once, however often it is asked."""
        opened = self.open(owner, key)
        found = next((one.caught for one in opened.landed if one.caught.id == landed), None)
        if found is None:
            raise MissingError("That fish is a catch already, or was never landed.")
        self._put(found)
        return found

    def _put(self, one: Catch) -> None:
        catch_store.put_catches(self._engine, [one])

    def _at(self, trip: TripRecord, found: Read, zone: dt.tzinfo | None) -> dt.datetime:
        now = self._now()
        day = trip.day.astimezone(zone).date()
        # Noted on the day itself it is now; afterward, the day's beginning.
        instead = now if now.astimezone(zone).date() == day or (trip.started_at is not None and trip.ended_at is None) else trip.day
        return moment(day, found.values["time"], zone, instead=instead)

    # Limits.

    def write_rule(self, owner: uuid.UUID, given: Mapping[str, object]) -> Read:
        """Keep an own limit; nothing is kept where a field is wrong."""
        found = forms.read(RULE_FIELDS, given)
        if not found.problems:
            catch_store.put_rule(self._engine, rule_of(found, owner=owner))
        return found

    def remove_rule(self, owner: uuid.UUID, species: str) -> None:
        """Delete an own limit."""
        catch_store.delete_rule(self._engine, owner, species)

    # Deleting.

    def delete(self, owner: uuid.UUID, kind: str, key: uuid.UUID) -> None:
        """Delete something, for thirty days so that it can be brought back; raise MissingError where there is no such thing of the owner's."""
        if kind not in deleted_store.ROWS or not deleted_store.put_away(self._engine, owner, kind, key, now=self._now()):
            raise MissingError(f"You have no {kind[:20]} with that key.")

    def bring_back(self, owner: uuid.UUID, kind: str, key: uuid.UUID) -> None:
        """Bring something back; raise MissingError where it is not there any more."""
        if kind not in deleted_store.ROWS or not deleted_store.bring_back(self._engine, owner, kind, key):
            raise MissingError("It is not there any more: what is deleted can be brought back for thirty days.")

    def deleted(self, owner: uuid.UUID) -> Sequence[deleted_store.Deleted]:
        """Return what can be brought back, the newest first."""
        return deleted_store.deleted(self._engine, owner)

    # All of it.

    def open(self, owner: uuid.UUID, key: uuid.UUID) -> OpenTrip:
        """Return a trip with all that belongs to it; raise MissingError where there is none of that key."""
        with in_one(self._engine):
            return self._whole(owner, key)

    def _whole(self, owner: uuid.UUID, key: uuid.UUID) -> OpenTrip:
        trip = self.find(owner, key)
        catches = catch_store.catches_of(self._engine, owner, trip)
        found = [
            log_store.session_detail(self._engine, owner, one, with_demo=False) for one in store.sessions_of(self._engine, owner, trip)
        ]
        sessions = [one for one in found if one is not None]
        acts = self._acts(owner, trip)
        rig = None if trip.rig_id is None else rig_store.rig(self._engine, owner, trip.rig_id)
        rules = catch_store.rules(self._engine, owner)
        there = {one.id for one in catches}
        told = (*_landed_in(owner, trip, sessions), *_landed_by(owner, trip, acts)) if trip.owner is not None else ()
        landed = [one for one in told if one.caught.id not in there]
        return OpenTrip(
            trip=trip,
            is_own=trip.owner is not None,
            rig="" if rig is None else rig.name,
            conditions=store.conditions(self._engine, owner, key),
            moves=store.moves(self._engine, owner, key),
            sessions=sessions,
            acts=acts,
            recordings=recordings_of(self._engine, owner, [one.summary.id for one in sessions], now=self._now()),
            points=store.points(self._engine, owner, key),
            catches=catches,
            photos=catch_store.photos_of(self._engine, owner, [one.id for one in catches]),
            landed=landed,
            rules=rules,
            day=day_of(catches),
            kept=kept_of(catches, rules),
            best=best_of(catches),
        )

    def _acts(self, owner: uuid.UUID, trip: TripRecord) -> list[BoatEntry]:
        """Return what was noted in the boat while a trip was under way."""
        if trip.owner is None or trip.source != "real" or trip.started_at is None:
            return []
        end = trip.ended_at or self._now()
        return [one.entry for one in self._boat.told(owner) if trip.started_at <= one.entry.at <= end]


def _landed_in(owner: uuid.UUID, trip: TripRecord, sessions: Sequence[SessionDetail]) -> list[Landed]:
    """Return the fish that sessions' shots landed."""
    found = []
    for session in sessions:
        known = session.known
        for shot in session.shots:
            if shot.outcome != LANDED:
                continue
            at = shot.at if shot.end_s is None else shot.at + dt.timedelta(seconds=shot.end_s - shot.start_s)
            lure = " ".join(
                part
                for part in (ounces(shot.head_kg) if shot.head_kg else "", str(known.get("color", "")), str(known.get("lure", "")))
                if part
            )
            caught = replace(
                new_catch(owner, trip, source=shot.source, at=at),
                id=uuid.uuid5(owner, f"landed:{shot.id}"),
                session_id=session.summary.id,
                species=str(known.get("species", "other")),
                lure=lure,
                rod=str(known.get("rod", "")),
                session_s=shot.end_s,
                track=next((one.track for one in shot.reactions if (one.corrected or one.token) == "bit"), ""),
            )
            found.append(Landed(caught=caught, where=f"shot {shot.number}"))
    return found


def _landed_by(owner: uuid.UUID, trip: TripRecord, acts: Sequence[BoatEntry]) -> list[Landed]:
    """Return the fish that were noted as landed in the boat."""
    found = []
    for act in acts:
        if act.kind != "outcome" or act.values.get("token") != LANDED:
            continue
        deep = act.values.get("depth_ft")
        caught = replace(
            new_catch(owner, trip, source=trip.source, at=act.at),
            id=uuid.uuid5(owner, f"landed:{act.id}"),
            lure=str(act.values.get("lure", "")),
            rod=str(act.values.get("rod_name", "")),
            depth_m=forms.FEET.to_core(deep) if isinstance(deep, int | float) else None,
        )
        found.append(Landed(caught=caught, where="in the boat"))
    return found
