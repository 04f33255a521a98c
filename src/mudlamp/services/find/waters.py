"""Reaches of water by name: the demo's, and those drawn from a seed; with where on earth their charts say they are."""

from functools import lru_cache

import numpy as np
from pyproj import Geod

from mudlamp.core.errors import DomainError
from mudlamp.core.scene.draw_reach import draw_reach
from mudlamp.core.scene.model import OPEN_SEA, Origin, Water
from mudlamp.core.scene.places import Season, season_of
from mudlamp.core.scene.reach import Reach
from mudlamp.core.units import degc_from_degf

DEMO = "harl-mill"
DEMO_SEED = 45
DRAWN = "drawn-"
MOST_SEED = 2**31 - 1
# The seasons' temperatures where a water is drawn for one [degF] (common practice).
TYPICAL_DEGF = {Season.WINTER: 44.0, Season.SPRING: 60.0, Season.SUMMER: 82.0, Season.FALL: 58.0}
EARTH = Geod(ellps="WGS84")


@lru_cache(maxsize=6)
def reach_named(name: str) -> Reach:
    """Return a reach of water by name: the demo's, or `drawn-SEED` (`drawn-SEED-winter` for a season); raise DomainError for another name."""
    if name == DEMO:
        return _drawn(DEMO_SEED, Season.FALL, name=DEMO, title="Harl Mill Reservoir, creek arm")
    seed, _, season = name.removeprefix(DRAWN).partition("-")
    known = {one.value: one for one in Season}
    if not name.startswith(DRAWN) or not seed.isdecimal() or int(seed) > MOST_SEED or (season and season not in known):
        raise DomainError(f"scene is {name[:40]}: it must be {DEMO} or {DRAWN}SEED, with -{', -'.join(known)} behind it for a season")
    return _drawn(int(seed), known.get(season, Season.FALL), name=name, title=f"Drawn water {seed}")


def _drawn(seed: int, season: Season, *, name: str, title: str) -> Reach:
    water = Water(temperature_degc=degc_from_degf(TYPICAL_DEGF[season]), secchi_m=1.4, wind_m_s=2.0)
    return draw_reach(seed, water=water, season=season, name=name, title=title)


def season_at(temperature_degf: float, *, warming: bool) -> Season:
    """Return the season of a water temperature [degF]."""
    return season_of(degc_from_degf(temperature_degf), warming=warming)


def to_earth(x_m: np.ndarray | list[float], y_m: np.ndarray | list[float], origin: Origin = OPEN_SEA) -> tuple[list[float], list[float]]:
    """Return longitudes and latitudes [deg] of places [m] east and north of an origin, along geodesics."""
    x, y = np.asarray(x_m, dtype=np.float64), np.asarray(y_m, dtype=np.float64)
    there = EARTH.fwd(
        np.full(len(x), origin.longitude_deg), np.full(len(x), origin.latitude_deg), np.degrees(np.arctan2(x, y)), np.hypot(x, y)
    )
    return list(np.asarray(there[0])), list(np.asarray(there[1]))


def from_earth(longitude_deg: list[float], latitude_deg: list[float], origin: Origin = OPEN_SEA) -> tuple[list[float], list[float]]:
    """Return places [m] east and north of an origin, of longitudes and latitudes [deg], along geodesics."""
    n = len(longitude_deg)
    bearing, _, away = EARTH.inv(np.full(n, origin.longitude_deg), np.full(n, origin.latitude_deg), longitude_deg, latitude_deg)
    turn = np.radians(np.asarray(bearing))
    return list(np.asarray(away) * np.sin(turn)), list(np.asarray(away) * np.cos(turn))
