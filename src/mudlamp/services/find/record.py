"""A search along a path, from its first ping to its last, without a page: into a recording, and what it found by the truth."""

import contextlib
import itertools
import math
from collections.abc import Callable, Sequence
from dataclasses import dataclass
from pathlib import Path
from typing import Any

import orjson

from mudlamp.core.chance import stream
from mudlamp.core.errors import DomainError
from mudlamp.core.scene.reach import Reach
from mudlamp.core.searching.boat import IdlingBoat
from mudlamp.core.searching.measure import Watch
from mudlamp.core.searching.search import Search, ViewSetting
from mudlamp.core.setup import ReceiverSetup
from mudlamp.core.sonar.console import VIEWS, ViewKind
from mudlamp.core.units import FOOT_M
from mudlamp.formats.columns_file import ColumnsFileWriter
from mudlamp.services.find.waters import from_earth

MOST_SECONDS = 4.0 * 3600.0
MOST_BYTES, MOST_PLACES = 4_000_000, 5000
# A straight side beam looks so far for schools that count as found [m].
NEAR_M = 40.0


@dataclass(frozen=True, slots=True, kw_only=True)
class Searched:
    """A search that was run: pings, seconds, length [ft], share of schools that any view showed, and by view."""

    pings: int
    seconds: float
    length_ft: float
    schools: int
    found: int
    found_by: dict[str, int]


def read_path(path: Path, reach: Reach) -> list[tuple[float, float]]:
    """Return the places [m] of a GeoJSON file's first line; raise DomainError naming the file and what is wrong."""
    try:
        if path.stat().st_size > MOST_BYTES:
            raise DomainError(f"path {path} has {path.stat().st_size} bytes: it may have {MOST_BYTES} at most")
        found = orjson.loads(path.read_bytes())
    except OSError:
        raise DomainError(f"path {path} cannot be read: it must be a GeoJSON file") from None
    except orjson.JSONDecodeError:
        raise DomainError(f"path {path} is no JSON: it must be a GeoJSON file") from None
    line = _first_line(found)
    if line is None:
        raise DomainError(f"path {path} has no line: it must hold a GeoJSON LineString of 2 to {MOST_PLACES} places")
    xs, ys = from_earth([place[0] for place in line], [place[1] for place in line])
    places = [(float(x), float(y)) for x, y in zip(xs, ys, strict=True)]
    for i, (x, y) in enumerate(places):
        if not reach.is_afloat(x, y):
            raise DomainError(f"path {path}: place {i} ({line[i][0]:g}, {line[i][1]:g}) is where no boat floats on this water")
    return places


def _first_line(found: Any) -> list[list[float]] | None:
    if not isinstance(found, dict):
        return None
    if found.get("type") == "FeatureCollection" and isinstance(found.get("features"), list):
        return next((line for one in found["features"] if (line := _first_line(one)) is not None), None)
    geometry = found.get("geometry") if found.get("type") == "Feature" else found
    if not isinstance(geometry, dict) or geometry.get("type") != "LineString" or not isinstance(geometry.get("coordinates"), list):
        return None
    line = geometry["coordinates"]
    good = 2 <= len(line) <= MOST_PLACES and all(
        isinstance(place, list)
        and len(place) >= 2
        and all(isinstance(one, int | float) and not isinstance(one, bool) and math.isfinite(one) for one in place[:2])
        and abs(place[0]) <= 180.0
        and abs(place[1]) <= 90.0
        for place in line
    )
    return line if good else None


def search_along(
    reach: Reach,
    places: Sequence[tuple[float, float]],
    views: Sequence[ViewSetting],
    *,
    speed_m_s: float,
    seed: int,
    out: Path | None,
    progress: Callable[[float], None],
    most_s: float = MOST_SECONDS,
) -> Searched:
    """Search along a path [m] at a speed [m/s], into a recording where one is wanted; return what came of it.

    Raises DomainError where the path takes longer than four hours.
    """
    length = sum(math.dist(a, b) for a, b in itertools.pairwise(places))
    if length / speed_m_s > MOST_SECONDS:
        raise DomainError(f"path is {length / FOOT_M:.0f} ft long and takes {length / speed_m_s / 3600.0:.1f} h: it may take 4 h at most")
    heading = math.atan2(places[1][0] - places[0][0], places[1][1] - places[0][1])
    boat = IdlingBoat(places[0], heading, rng=stream(seed, "fix"))
    boat.speed_m_s = speed_m_s
    boat.follow(places[1:])
    search = Search(reach, views, boat=boat, seed=seed)
    schools = [one for one in search.water.roaming.schools if one.plan.is_school]
    watch = Watch(schools, search.views, ReceiverSetup(), near_m=NEAR_M)
    writer = None if out is None else ColumnsFileWriter(out, search.views)
    pings = 0
    with contextlib.nullcontext() if writer is None else writer:
        while boat.path and boat.time_s < most_s:
            ping = search.ping()
            watch.look(ping)
            if writer is not None:
                writer.write(ping)
            pings += 1
            if pings % 150 == 0:
                progress(min(1.0 - boat.left_m / max(length, 1.0), 1.0))
    progress(1.0)
    by_view = {kind.value: sum(watch.found(one, kind) for one in schools) for kind in search.views}
    found = sum(any(watch.found(one, kind) for kind in search.views) for one in schools)
    return Searched(
        pings=pings, seconds=boat.time_s, length_ft=round(length / FOOT_M, 1), schools=len(schools), found=found, found_by=by_view
    )


def default_views(names: Sequence[str], *, side_reach_m: float, down_reach_m: float) -> list[ViewSetting]:
    """Return views by name at their lower side and higher down carriers; raise DomainError for a name that is none or stands twice."""
    known = {kind.value: kind for kind in ViewKind}
    for name in names:
        if name not in known or names.count(name) > 1:
            raise DomainError(f"--views is {','.join(names)[:60]}: it must be some of {', '.join(known)}, each once")
    return [
        ViewSetting(
            kind=known[name],
            carrier_hz=VIEWS[known[name]].carriers_hz[0 if known[name] is ViewKind.SIDE else -1],
            reach_m=side_reach_m if known[name] is ViewKind.SIDE else down_reach_m,
        )
        for name in names
    ]
