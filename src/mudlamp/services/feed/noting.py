"""What the boat's instruments say noted on trips that are under way: the water's temperature, and where the boat went."""

import contextlib
import datetime as dt
import uuid
from collections.abc import Callable

from sqlalchemy import Engine

from mudlamp.core.errors import UnavailableError
from mudlamp.core.records.trips import BoatPoint, Condition
from mudlamp.formats.nmea import Said
from mudlamp.services.find.waters import EARTH
from mudlamp.store import trips as store
from mudlamp.store.scope import EVERYBODY

# How often the water is noted [s]; how often the boat's place, and how far it must have gone for that, or how long stood [m, s].
WATER_S, PLACE_S, MOVED_M, STOOD_S = 600.0, 5.0, 4.0, 300.0
# Without a trip under way it is asked again so often [s].
ASK_S = 30.0
# The sun asks for no better; and a trip's place is not for finding its spots.
ROUGHLY = 1


class TripNotes:
    """Notes; without the database, the next time."""

    def __init__(self, engine: Engine, *, now: Callable[[], dt.datetime]) -> None:
        self._engine, self._now = engine, now
        self._water_at: dt.datetime | None = None
        self._asked_at: dt.datetime | None = None
        self._trips: list[uuid.UUID] = []
        self._last: dict[uuid.UUID, BoatPoint] = {}

    def note(self, said: Said) -> None:
        """Note what is said now."""
        now = self._now()
        with contextlib.suppress(UnavailableError):
            for trip in self._under_way(now):
                self._note_on(trip, said, now)

    def _under_way(self, now: dt.datetime) -> list[uuid.UUID]:
        if self._asked_at is None or (now - self._asked_at).total_seconds() >= ASK_S:
            self._trips, self._asked_at = store.all_under_way(self._engine, "real"), now
        return self._trips

    def _note_on(self, trip: uuid.UUID, said: Said, now: dt.datetime) -> None:
        warm, latitude, longitude = said.water_degc, said.latitude_deg, said.longitude_deg
        if warm is not None and _since(self._water_at, now) >= WATER_S:
            store.put_fed(self._engine, [_condition(one, now, warm) for one in self._trips])
            self._water_at = now
        if latitude is None or longitude is None or not self._is_news(trip, latitude, longitude, now):
            return
        if trip not in self._last:
            store.place_where_none(self._engine, [trip], latitude_deg=round(latitude, ROUGHLY), longitude_deg=round(longitude, ROUGHLY))
        point = BoatPoint(
            id=uuid.uuid4(),
            trip_id=trip,
            at=now,
            latitude_deg=latitude,
            longitude_deg=longitude,
            depth_m=said.depth_m,
            origin="feed",
        )
        store.put_points(self._engine, EVERYBODY, [point])
        self._last[trip] = point

    def _is_news(self, trip: uuid.UUID, latitude_deg: float, longitude_deg: float, now: dt.datetime) -> bool:
        last = self._last.get(trip)
        if last is None:
            return True
        since_s = (now - last.at).total_seconds()
        gone = EARTH.inv(last.longitude_deg, last.latitude_deg, longitude_deg, latitude_deg)[2]
        return since_s >= STOOD_S or (since_s >= PLACE_S and gone >= MOVED_M)


def _since(then: dt.datetime | None, now: dt.datetime) -> float:
    return float("inf") if then is None else (now - then).total_seconds()


def _condition(trip: uuid.UUID, at: dt.datetime, water_degc: float) -> Condition:
    return Condition(
        id=uuid.uuid4(),
        trip_id=trip,
        at=at,
        sky=None,
        wind_m_s=None,
        wind_from_rad=None,
        air_degc=None,
        water_degc=round(water_degc, 1),
        clarity=None,
        pressure_pa=None,
        origin="feed",
    )
