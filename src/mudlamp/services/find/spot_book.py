"""The book of spots: kept, read from files, brought back; on our waters and on those that somebody brought a chart of."""

import contextlib
import datetime as dt
import uuid
from collections.abc import Callable, Mapping, Sequence
from dataclasses import asdict, replace

from sqlalchemy import Engine

from mudlamp.core.errors import DomainError, MissingError, require_choice
from mudlamp.core.records.spots import MOST_SPOTS, SPOT_KINDS, OwnChart, Spot
from mudlamp.core.records.trips import BoatPoint
from mudlamp.core.scene.model import OPEN_SEA, Origin
from mudlamp.core.searching.boat import FIX_SIGMA_M
from mudlamp.core.searching.pictured import Pictured
from mudlamp.services.find.gpx_file import geojson_of_gpx
from mudlamp.services.find.own_charts import OWN, origin_of, read_chart
from mudlamp.services.find.spots_file import FARTHEST_M, read_spots
from mudlamp.services.find.waters import from_earth, reach_named
from mudlamp.services.water.plans import SCENE, origin_of_scene
from mudlamp.store import spots as store
from mudlamp.store.deleted import put_away
from mudlamp.store.trips import newest_points

MOST_CHARTS = 40
# The newest places of the boat that a map shows.
MOST_TRACKED = 6000


class SpotBook:
    """Spots and charts of all owners."""

    def __init__(self, engine: Engine, *, now: Callable[[], dt.datetime]) -> None:
        self._engine, self._now = engine, now

    def require_room(self, owner: uuid.UUID) -> None:
        """Raise DomainError where an owner has as many spots as they may."""
        if store.count_spots(self._engine, owner) >= MOST_SPOTS:
            raise DomainError(f"{MOST_SPOTS} spots are kept already: delete some first")

    def put(self, spots: Sequence[Spot]) -> None:
        """Keep spots."""
        store.put_spots(self._engine, spots)

    def origin_on(self, owner: uuid.UUID, water: str) -> Origin:
        """Return where the middle of a water lies: one of ours, or one's own; raise DomainError for a name that is neither."""
        if water.startswith(SCENE):
            return origin_of_scene(water)
        if not water.startswith(OWN):
            reach_named(water)
            return OPEN_SEA
        return origin_of(self.own_chart(owner, water))

    def own_chart(self, owner: uuid.UUID, water: str) -> OwnChart:
        """Return one's own chart of a water by name; raise DomainError where there is none."""
        found = next((one for one in store.charts(self._engine, owner) if water == f"{OWN}{one.id}"), None)
        if found is None:
            raise DomainError(f"water is {water[:60]}: it must be one of ours, or one that you brought a chart of")
        return found

    def own_charts(self, owner: uuid.UUID) -> list[OwnChart]:
        """Return one's own charts by name."""
        return store.charts(self._engine, owner)

    def read_chart(self, owner: uuid.UUID, data: bytes, name: str) -> str:
        """Keep a chart of a GeoJSON file's contours or soundings as one's own; return its water's name.

        Raises DomainError naming the first thing wrong, or where there would be too many.
        """
        there = store.charts(self._engine, owner)
        chart = read_chart(data, owner=owner, name=name, now=self._now())
        same = next((one for one in there if one.name == chart.name), None)
        if same is None and len(there) >= MOST_CHARTS:
            raise DomainError(f"{MOST_CHARTS} charts are kept already: delete one first")
        kept = replace(chart, id=same.id) if same is not None else chart
        if same is not None:
            # Its spots stand by their distance from the middle: that stays.
            kept = replace(kept, latitude_deg=same.latitude_deg, longitude_deg=same.longitude_deg)
        store.put_chart(self._engine, kept)
        return f"{OWN}{kept.id}"

    def delete_chart(self, owner: uuid.UUID, key: uuid.UUID) -> None:
        """Delete one's own chart; raise MissingError where there is none of that key."""
        if not store.delete_chart(self._engine, owner, key):
            raise MissingError("there is no such chart")

    def put_spot(self, owner: uuid.UUID, water: str, *, kind: str, note: str, place_m: tuple[float, float], depth_m: float | None) -> Spot:
        """Keep a spot at a place on a water [m east, north of its middle]; raise DomainError for a kind that is none or too many spots."""
        x, y, fix = *place_m, FIX_SIGMA_M**2
        return self._put(owner, water, kind, note, {"x_m": x, "y_m": y, "depth_m": depth_m, "xx_m2": fix, "xy_m2": 0.0, "yy_m2": fix})

    def put_pictured(self, owner: uuid.UUID, water: str, place: Pictured, *, kind: str, note: str, depth_m: float | None) -> Spot:
        """Keep a spot that was tapped on a live picture; raise DomainError for a kind that is none or too many spots."""
        return self._put(owner, water, kind, note, asdict(place) | {"depth_m": depth_m})

    def _put(self, owner: uuid.UUID, water: str, kind: str, note: str, place: Mapping[str, float | None]) -> Spot:
        require_choice("kind", kind, SPOT_KINDS)
        self.origin_on(owner, water)
        self.require_room(owner)
        spot = Spot(
            id=uuid.uuid4(), owner=owner, water=water, kind=kind, note=note[:400], looks=1, source=_source_of(water), created_at=self._now(),
            **place,  # type: ignore[arg-type]
        )  # fmt: skip
        store.put_spots(self._engine, [spot])
        return spot

    def rename(self, owner: uuid.UUID, key: uuid.UUID, kind: str) -> Spot:
        """Say what a spot of one's own is; raise DomainError for a kind that is none, MissingError where there is no such spot."""
        require_choice("kind", kind, SPOT_KINDS)
        spot = replace(self.own_spot(owner, key), kind=kind)
        store.put_spots(self._engine, [spot])
        return spot

    def spots(self, owner: uuid.UUID, water: str) -> list[Spot]:
        """Return the spots on a water, one of ours or one's own."""
        self.origin_on(owner, water)
        return store.spots_on(self._engine, owner, water)

    def origins(self, owner: uuid.UUID, spots: Sequence[Spot]) -> dict[str, Origin]:
        """Return where the middles of spots' waters lie, by the waters' names, as far as that is not where ours do."""
        return origins_of(self._engine, owner, spots)

    def waters_with_spots(self, owner: uuid.UUID) -> list[str]:
        """Return the waters that one has spots on."""
        return store.waters_of(self._engine, owner)

    def tracks(self, owner: uuid.UUID, water: str) -> list[list[tuple[float, float]]]:
        """Return where one's boat went on a water lately: a line of places a trip [m east, north of the water's middle]."""
        origin, by_trip = self.origin_on(owner, water), dict[uuid.UUID, list[BoatPoint]]()
        for one in newest_points(self._engine, owner, most=MOST_TRACKED):
            by_trip.setdefault(one.trip_id, []).append(one)
        found = []
        for points in by_trip.values():
            x, y = from_earth([one.longitude_deg for one in points], [one.latitude_deg for one in points], origin)
            line = [(a, b) for a, b in zip(x, y, strict=True) if max(abs(a), abs(b)) <= FARTHEST_M]
            if len(line) > 1:
                found.append(line)
        return found

    def visits(self, owner: uuid.UUID) -> dict[uuid.UUID, tuple[int, int]]:
        """Return how often one came to a spot, and how often fish were there, by its key."""
        return store.visits(self._engine, owner)

    def read_spots(self, owner: uuid.UUID, data: bytes, water: str) -> list[Spot]:
        """Keep the spots of a GeoJSON or GPX file on a water, all or none; one that came from here before is written anew.

        Raises DomainError naming the first thing wrong, or where there would be too many.
        """
        origin = self.origin_on(owner, water)
        if data.lstrip()[:1] == b"<":
            data = geojson_of_gpx(data)
        found = read_spots(
            data,
            owner=owner,
            water=water,
            now=self._now(),
            key_of=lambda given: self._key_of(owner, given),
            origin=origin,
            source=_source_of(water),
        )
        if store.count_spots(self._engine, owner) + len(found) > MOST_SPOTS:
            raise DomainError(f"the file has {len(found)} spots: with those that are kept already that is over {MOST_SPOTS}")
        store.put_spots(self._engine, found)
        return found

    def _key_of(self, owner: uuid.UUID, given: uuid.UUID | None) -> uuid.UUID:
        """Return the key that a file's spot is kept under: its own where that is one's own spot, else one made of it and the owner."""
        if given is None:
            return uuid.uuid4()
        own = store.find_spot(self._engine, owner, given, with_demo=False)
        return given if own is not None else uuid.uuid5(owner, str(given))

    def own_spot(self, owner: uuid.UUID, key: uuid.UUID) -> Spot:
        """Return a spot of one's own; raise MissingError where there is none of that key."""
        found = store.find_spot(self._engine, owner, key, with_demo=False)
        if found is None:
            raise MissingError("there is no such spot")
        return found

    def any_spot(self, owner: uuid.UUID, key: uuid.UUID) -> Spot:
        """Return a spot of one's own or the demo's; raise MissingError where there is none of that key."""
        found = store.find_spot(self._engine, owner, key)
        if found is None:
            raise MissingError("there is no such spot")
        return found

    def delete_spot(self, owner: uuid.UUID, key: uuid.UUID) -> None:
        """Delete a spot of one's own, for thirty days so that it can be brought back; raise MissingError where there is none of that key."""
        if not put_away(self._engine, owner, "spot", key, now=self._now()):
            raise MissingError("there is no such spot")


def _source_of(water: str) -> str:
    """Return where what is kept on a water comes from: a chart that one brought is of real water."""
    return "real" if water.startswith(OWN) else "simulated"


def origins_of(engine: Engine, owner: uuid.UUID, spots: Sequence[Spot]) -> dict[str, Origin]:
    """Return where the middles of spots' waters lie, by the waters' names: of one's own and of scenes; the others lie where ours do."""
    found = {f"{OWN}{one.id}": origin_of(one) for one in store.charts(engine, owner)}
    for water in {one.water for one in spots if one.water.startswith(SCENE)}:
        # A stranger's archive may name a water as it likes: one odd name must not keep all other spots in.
        with contextlib.suppress(DomainError):
            found[water] = origin_of_scene(water)
    return found
