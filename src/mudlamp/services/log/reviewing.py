"""The review of all trips of a source: what was presented in what water, what may be concluded, what the set-up was when fish were seen."""

import bisect
import datetime as dt
import math
import uuid
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from functools import lru_cache

from sqlalchemy import Engine

from mudlamp.core.controls import GAIN, NEAR_CUT, QUIETING, Value
from mudlamp.core.fishing.answers import Presentation, presentation
from mudlamp.core.fishing.guessing import Guessing, guessing
from mudlamp.core.fishing.rates import Finding, findings
from mudlamp.core.fishing.reviewing import (
    Agreement,
    CastError,
    FactorRates,
    InForce,
    agreement,
    binned,
    by_factor,
    cast_errors,
    part_of_day,
    trend,
)
from mudlamp.core.records.trips import Catch, Condition
from mudlamp.core.units import MPH_M_S, degf_from_degc, feet
from mudlamp.services.edge.sun import sun_height_rad
from mudlamp.services.edge.weights import ounces
from mudlamp.store import catches as catch_store
from mudlamp.store import review as store
from mudlamp.store import trips as trip_store
from mudlamp.store.review import ReviewedShot, Watched

MOST_SHOTS, MOST_SESSIONS, MOST_HEIGHTS, MOST_TRIPS = 12_000, 300, 600, 1000
# A condition holds for so long; pressure is compared over three hours.
HOLDS, OVER = dt.timedelta(hours=3), dt.timedelta(hours=3)
# From here on a value is gathered with its neighbors.
LONG_SCALE = 20.0
WATCHED_CONTROLS = (GAIN, QUIETING, NEAR_CUT)
# A fish that is still there this long before the end was not lost [s].
AT_THE_END_S = 3.0


@dataclass(frozen=True, slots=True, kw_only=True)
class LongReview:
    """What all trips of a source show; `lengths` are guessed and measured [m], `by_echo` is how guesses on the picture run against the echo."""

    source: str
    shots: int
    factors: Sequence[FactorRates]
    findings: Sequence[Finding]
    in_force: Sequence[InForce]
    agreement: Agreement
    lengths: Sequence[tuple[float, float]]
    by_echo: Guessing
    casts: Sequence[CastError]


def long_review(engine: Engine, owner: uuid.UUID, source: str, acts: Sequence[Presentation], zone: dt.tzinfo | None) -> LongReview:
    """Return what an owner's trips of a source show; `acts` are presentations noted in the boat, oldest first, of the same source."""
    conditions = store.conditions(engine, owner)
    heights = store.heights(engine, owner, source, most=MOST_HEIGHTS)
    shots = store.shots(engine, owner, source, most=MOST_SHOTS)
    places = {one.id: (one.latitude_deg, one.longitude_deg) for one in trip_store.trips(engine, owner, limit=MOST_TRIPS)}
    shown = [presentation(_factors(one, conditions, heights, zone) | _sun_over(one, places), one.tokens) for one in shots]
    shown += acts
    catches = catch_store.catches(engine, owner, source=source)
    lengths = _lengths(catches)
    return LongReview(
        source=source,
        shots=len(shown),
        factors=by_factor(shown),
        findings=findings(shown),
        in_force=_in_force(store.watched(engine, owner, source, most=MOST_SESSIONS)),
        agreement=agreement([guess for guess, _ in lengths], [measured for _, measured in lengths]),
        lengths=lengths,
        by_echo=guessing(store.guessed(engine, owner, source)),
        casts=cast_errors(store.landings(engine, owner)),
    )


def _lengths(catches: Sequence[Catch]) -> list[tuple[float, float]]:
    return [(one.guess_m, one.length_m) for one in catches if one.guess_m is not None and one.length_m is not None]


def _factors(
    one: ReviewedShot,
    conditions: Mapping[uuid.UUID, Sequence[Condition]],
    heights: Mapping[uuid.UUID, tuple[float, float]],
    zone: dt.tzinfo | None,
) -> dict[str, str]:
    """Return what a shot was presented with and in: texts by name, in the angler's units."""
    known = one.known
    found = {name: str(known[name]) for name in ("lure", "color", "finish", "rod", "clarity") if known.get(name)}
    if one.head_kg > 0.0:
        found["head"] = ounces(one.head_kg)
    found["distance"] = binned(feet(one.ahead_m), (10.0, 20.0, 30.0, 40.0), "ft")
    if one.lasted_s is not None:
        found["time in the water"] = binned(one.lasted_s, (10.0, 20.0, 40.0, 80.0), "s")
    at = one.at.astimezone(zone)
    found["part of day"] = part_of_day(at.hour + at.minute / 60.0)
    if one.id in heights:
        fish, lure = heights[one.id]
        found["lure over the fish"] = binned(feet(fish - lure), (-0.5, 0.5, 1.5, 3.0), "ft")
    warm = known.get("water_degc")
    if isinstance(warm, int | float):
        found["water"] = warmth(warm)
    return found | weather(conditions.get(one.trip_id, ()) if one.trip_id else (), one.at)


def sun(place: tuple[float | None, float | None] | None, at: dt.datetime) -> dict[str, str]:
    """Return how high the sun stood at a place [deg] and a time, in steps; nothing where nobody said the place."""
    if place is None or place[0] is None or place[1] is None:
        return {}
    # To ten minutes: that is two and a half degrees at most.
    height = _sun_deg(place[0], place[1], at.replace(minute=at.minute // 10 * 10, second=0, microsecond=0))
    return {"sun": "down" if height < 0.0 else binned(height, (10.0, 25.0, 45.0), "deg")}


@lru_cache(maxsize=4096)
def _sun_deg(latitude_deg: float, longitude_deg: float, at: dt.datetime) -> float:
    return math.degrees(sun_height_rad(latitude_deg=latitude_deg, longitude_deg=longitude_deg, at=at))


def _sun_over(one: ReviewedShot, places: Mapping[uuid.UUID, tuple[float | None, float | None]]) -> dict[str, str]:
    return {} if one.trip_id is None else sun(places.get(one.trip_id), one.at)


def warmth(water_degc: float) -> str:
    """Return how warm water is, in steps of five degrees."""
    return binned(degf_from_degc(water_degc), (45.0, 50.0, 55.0, 60.0, 65.0, 70.0, 75.0, 80.0), "°F")


def weather(noted: Sequence[Condition], at: dt.datetime) -> dict[str, str]:
    """Return the weather that a trip's conditions, by time, say of a moment: each the newest of the last three hours."""
    held = [one for one in noted if one.at <= at <= one.at + HOLDS]
    found: dict[str, str] = {}
    for one in held:
        found |= {name: text for name, text in (("sky", one.sky), ("clarity", one.clarity)) if text}
        if one.water_degc is not None:
            found["water"] = warmth(one.water_degc)
        if one.wind_m_s is not None:
            found["wind"] = binned(one.wind_m_s / MPH_M_S, (5.0, 10.0, 15.0), "mph")
    pressed = [(one.at, one.pressure_pa) for one in noted if one.pressure_pa is not None and one.at <= at]
    if pressed:
        newest_at, newest = pressed[-1]
        before = [value for when, value in pressed if newest_at - 1.5 * OVER <= when <= newest_at - 0.5 * OVER]
        if before and at - newest_at <= HOLDS:
            found["pressure"] = trend(newest - before[-1])
    return found


def _gathered(value: Value) -> Value:
    """Return a control's value, those of long scales in steps of five."""
    return round(value / 5.0) * 5.0 if isinstance(value, float) and abs(value) >= LONG_SCALE else value


def _in_force(sessions: Sequence[Watched]) -> list[InForce]:
    """Return what was in force when fish came up and were lost, for the controls that took more than one value."""
    tally: dict[tuple[str, float | str], list[float]] = {}
    for session in sessions:
        starts = [at for at, _ in session.setups]
        for i, (at, values) in enumerate(session.setups):
            until = starts[i + 1] if i + 1 < len(starts) else session.length_s
            for control in WATCHED_CONTROLS:
                if control.name in values:
                    tally.setdefault((control.name, _gathered(values[control.name])), [0.0, 0, 0])[0] += max(until - at, 0.0) / 60.0
        lost = [at for at in session.last_s if at < session.length_s - AT_THE_END_S]
        for place, times in ((1, session.first_s), (2, lost)):
            for at in times:
                i = bisect.bisect_right(starts, at) - 1
                for control in WATCHED_CONTROLS if i >= 0 else ():
                    if control.name in session.setups[i][1]:
                        tally[control.name, _gathered(session.setups[i][1][control.name])][place] += 1
    found = [
        InForce(control=name, value=value, minutes=minutes, seen=int(seen), lost=int(gone))
        for (name, value), (minutes, seen, gone) in tally.items()
        if minutes >= 1.0
    ]
    varied = {one.control for one in found if sum(other.control == one.control for other in found) > 1}
    return sorted((one for one in found if one.control in varied), key=lambda one: (one.control, str(one.value)))
